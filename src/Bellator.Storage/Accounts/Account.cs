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

    public string SecurityStamp { get; set; } = "";

    public int FailedCount { get; set; }

    public DateTimeOffset? LockoutEnd { get; set; }
}
