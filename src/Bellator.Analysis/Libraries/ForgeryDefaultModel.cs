namespace Bellator.Analysis.Libraries;

/// <summary>A framework keeps forged requests out of its own accord, for all of the program's addresses or those that some files declare.</summary>
public sealed class ForgeryDefaultModel
{
    /// <summary>How it is said: "Rails’ own check, on by default".</summary>
    public string By { get; set; } = "";

    /// <summary>Names of settings that switch it on.</summary>
    public List<string> Settings { get; set; } = [];

    /// <summary>Texts in the code that switch it on, such as the name of a middleware in a list.</summary>
    public List<string> Texts { get; set; } = [];

    /// <summary>Calls that switch it on.</summary>
    public List<string> Calls { get; set; } = [];

    /// <summary>The first argument of such a call is a version, and from this one on it does.</summary>
    public double? From { get; set; }

    /// <summary>Ends of the paths of files whose addresses have it without being asked: <c>routes/web.php</c>.</summary>
    public List<string> DeclaredIn { get; set; } = [];
}
