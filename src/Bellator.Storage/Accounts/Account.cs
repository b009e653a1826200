namespace Bellator.Storage.Accounts;

/// <summary>A person who signs in.</summary>
public sealed class Account
{
    public Guid Id { get; set; } = Guid.CreateVersion7();

    public string Email { get; set; } = "";

    /// <summary>The address in the form in which it is unique and looked up.</summary>
    public string EmailKey { get; set; } = "";

    public string Name { get; set; } = "";

    public string PasswordHash { get; set; } = "";

    /// <summary>Changes with the password; sessions of another stamp are over.</summary>
    public string SecurityStamp { get; set; } = "";

    /// <summary>Goes up with each change: what was read of an older one is not written.</summary>
    public int Version { get; set; } = 1;
}
