namespace Bellator.Analysis.Libraries;

/// <summary>Names around conditions that a mapper is given, and around answers that come later.</summary>
public sealed partial class IdentifierClassifier
{
    private readonly IReadOnlySet<string> _laterType = facts.Words("later-type");
    private readonly IReadOnlySet<string> _eachCall = facts.Words("each-call");
    private readonly IReadOnlySet<string> _conditionAny = facts.Words("condition-any");
    private readonly IReadOnlySet<string> _conditionAll = facts.Words("condition-all");
    private readonly IReadOnlySet<string> _conditionNot = facts.Words("condition-not");
    private readonly IReadOnlySet<string> _conditionTest = facts.Words("condition-test");
    private readonly IReadOnlySet<string> _holdsConnection = facts.Words("holds-connection");

    /// <summary>True for the short name of a type whose values come later.</summary>
    public bool IsLaterType(string name) => _laterType.Contains(name);

    /// <summary>True for the name of a call that runs a function for each element, and waits for none of them.</summary>
    public bool RunsForEach(string name) => _eachCall.Contains(name.ToLowerInvariant());

    /// <summary>True for the key under which a condition given as an object lists alternatives.</summary>
    public bool IsConditionAny(string key) => _conditionAny.Contains(key.ToLowerInvariant());

    /// <summary>True for the key under which it lists what must all hold, or tests one column: the column is the one around it.</summary>
    public bool IsConditionPart(string key) => key.StartsWith('$') || _conditionAll.Contains(key.ToLowerInvariant()) || _conditionTest.Contains(key.ToLowerInvariant());

    /// <summary>True for the key under which it says what must not be.</summary>
    public bool IsConditionNot(string key) => _conditionNot.Contains(key.ToLowerInvariant());

    /// <summary>True for the name of a connection that stays open.</summary>
    public bool HoldsConnection(string name) => _holdsConnection.Contains(name.ToLowerInvariant());
}
