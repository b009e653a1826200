namespace Bellator.Analysis.Libraries;

/// <summary>
/// A setting whose default leaves something unprotected: what it means when it is left out. It counts where the feature is used and the program
/// sets the setting nowhere.
/// </summary>
public sealed class UnsetSettingModel
{
    /// <summary>The kind of place, as of sinks: <c>cookie-not-secure</c>.</summary>
    public string Kind { get; set; } = "";

    /// <summary>The feature, at the beginning of a sentence: "Flask’s session cookie".</summary>
    public string Of { get; set; } = "";

    /// <summary>The setting, as it is said.</summary>
    public string Setting { get; set; } = "";

    /// <summary>Names that the feature is imported by: module and name, with a dot between.</summary>
    public List<string> Imports { get; set; } = [];

    /// <summary>Texts in the code that switch the feature on.</summary>
    public List<string> Texts { get; set; } = [];

    /// <summary>Calls that switch it on.</summary>
    public List<string> Calls { get; set; } = [];

    /// <summary>The setting is looked for in what such a call is given only.</summary>
    public bool Within { get; set; }

    /// <summary>The call's first argument is a version, and only before this one is the default so.</summary>
    public double? Below { get; set; }

    /// <summary>Names under which the setting may be set, and others that make it unneeded.</summary>
    public List<string> Settings { get; set; } = [];

    /// <summary>Calls that may set it, from a file or by a package for that.</summary>
    public List<string> SetBy { get; set; } = [];

    /// <summary>Settings beside which it would stand, the nearest first: the place that is shown.</summary>
    public List<string> Near { get; set; } = [];
}
