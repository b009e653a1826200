namespace Bellator.Analysis.Libraries;

/// <summary>Names of settings that sign sessions and tokens.</summary>
public sealed partial class IdentifierClassifier
{
    private readonly IReadOnlySet<string> _signingKey = facts.Words("signing-key");
    private readonly IReadOnlySet<string> _keySection = facts.Words("key-section");
    private readonly IReadOnlySet<string> _frameworkSecret = facts.Words("framework-secret");

    /// <summary>True for the keys on the way to a setting that signs sessions or tokens: <c>jwtSecret</c>, or <c>key</c> in a section that is about them.</summary>
    public bool NamesSigningKey(IReadOnlyList<string> keys) =>
        _signingKey.Contains(Written(keys[^1])) || IsFrameworkSecret(keys[^1]) || (keys.Count > 1 && Written(keys[^1]) is "key" or "secret" && Parts(keys[^2]).Exists(_keySection.Contains));

    /// <summary>True for the name under which a framework itself reads the key of the application.</summary>
    public bool IsFrameworkSecret(string key) => _frameworkSecret.Contains(Written(key));
}
