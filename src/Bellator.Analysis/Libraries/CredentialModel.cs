namespace Bellator.Analysis.Libraries;

/// <summary>A way in which a library recognises people from one request to the next, and what its documentation says of when that ends.</summary>
public sealed class CredentialModel
{
    /// <summary>As it is said: "PHP session".</summary>
    public string Name { get; set; } = "";

    /// <summary><c>session</c>, or <c>token</c> for one that carries its own content and signature.</summary>
    public string Kind { get; set; } = "";

    /// <summary>Nothing on the server says whether it is still good: all of it is in the browser.</summary>
    public bool InBrowser { get; set; }

    /// <summary>With <see cref="InBrowser"/>: a setting may keep it on the server instead, found by an id.</summary>
    public bool OrOnServer { get; set; }

    /// <summary>What brings it: "the cookie PHPSESSID".</summary>
    public string Carrier { get; set; } = "";

    /// <summary>Modules, or names of them, whose import shows that it is used.</summary>
    public List<string> Imports { get; set; } = [];

    /// <summary>Calls and names that show it, where nothing is imported.</summary>
    public List<string> Calls { get; set; } = [];

    /// <summary>Calls that make one, in files that show it.</summary>
    public List<string> Issues { get; set; } = [];

    /// <summary>Calls that verify one, in files that show it.</summary>
    public List<string> Verifies { get; set; } = [];

    /// <summary>The calls that make one have places of the kind <c>token-no-expiry</c>: where none is told, it has an expiry time.</summary>
    public bool SaysExpiry { get; set; }

    /// <summary>What ends it when it is not used, by default; empty for nothing.</summary>
    public string Idle { get; set; } = "";

    /// <summary>Names of settings that say it.</summary>
    public List<string> IdleSettings { get; set; } = [];

    /// <summary>What ends it however much it is used, by default; empty for nothing.</summary>
    public string Absolute { get; set; } = "";

    public List<string> AbsoluteSettings { get; set; } = [];

    /// <summary>The documentation that says so, or that it is from memory.</summary>
    public string Source { get; set; } = "";
}
