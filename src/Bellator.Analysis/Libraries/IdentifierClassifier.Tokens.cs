namespace Bellator.Analysis.Libraries;

public sealed partial class IdentifierClassifier
{
    private readonly IReadOnlySet<string> _holdsRandom = facts.Words("holds-random");
    private readonly IReadOnlySet<string> _random = facts.Words("makes-random");
    private readonly IReadOnlySet<string> _tellsTime = facts.Words("tells-time");
    private readonly IReadOnlySet<string> _tokenHeader = facts.Words("token-header");
    private readonly IReadOnlySet<string> _loggedHeader = facts.Words("logged-header");
    private readonly IReadOnlySet<string> _resolvesPath = facts.Words("resolves-path");
    private readonly IReadOnlySet<string> _beginsWith = facts.Words("begins-with");
    private readonly IReadOnlySet<string> _replaces = facts.Words("replaces");
    private readonly IReadOnlySet<string> _turnsAway = facts.Words("turns-away");
    private readonly IReadOnlySet<string> _documentModule = facts.Words("document-module");
    private readonly IReadOnlySet<string> _tableModule = facts.Words("table-module");
    private readonly IReadOnlySet<string> _turningAway = facts.Words("turning-away");
    private readonly IReadOnlySet<string> _replacesPattern = facts.Words("replaces-pattern");
    private readonly IReadOnlySet<string> _rounds = facts.Words("rounds");
    private readonly IReadOnlySet<string> _derivationOption = facts.Words("derivation-option");

    /// <summary>True for the name of a step that is there to turn people away, and says so with a verb or a question: <c>checkAccess</c>, <c>requireAdmin</c>.</summary>
    public bool IsToTurnAway(string name) => HasWord(name, _turningAway) && Parts(name) is [var first, .. var others] && (others.Count == 0 || _turnsAway.Contains(first));

    /// <summary>A module by which a program works on a document store, whose filters are objects.</summary>
    public bool IsDocumentModule(string module) => _documentModule.Contains(module);

    /// <summary>A module by which a program works on tables.</summary>
    public bool IsTableModule(string module) => _tableModule.Contains(module);

    /// <summary>True for the name of a call that says where a path leads.</summary>
    public bool ResolvesPath(string name) => _resolvesPath.Contains(Written(name));

    /// <summary>True for the name of a call that asks whether a text begins as another one does.</summary>
    public bool AsksForBeginning(string name) => _beginsWith.Contains(Written(name.TrimEnd('?')));

    /// <summary>True for the name of a call that puts one text in the place of another.</summary>
    public bool Replaces(string name) => _replaces.Contains(Written(name));

    /// <summary>True for the name of a call that replaces what a pattern matches, which it is given as a text between delimiters.</summary>
    public bool ReplacesPattern(string name) => _replacesPattern.Contains(Written(name));

    /// <summary>True for the name of an option that says how often a key derivation goes over its input.</summary>
    public bool NamesRounds(string name) => _rounds.Contains(Written(name));

    /// <summary>True for the name of another option of a key derivation.</summary>
    public bool NamesDerivationOption(string name) => _derivationOption.Contains(Written(name));

    /// <summary>True for the name of a header, as it is sent or as a framework writes it, in which tokens travel: <c>Authorization</c>, <c>HTTP_COOKIE</c>.</summary>
    public bool CarriesToken(string name) => _tokenHeader.Contains(name.Replace('_', '-').ToLowerInvariant() is var dashed && dashed.StartsWith("http-", StringComparison.Ordinal) ? dashed[5..] : dashed);

    /// <summary>True for the name of something that says what time it is: <c>microtime</c>, <c>Date.now</c>.</summary>
    public bool TellsTime(string name) => Parts(name) is { Count: > 0 } parts && parts.TrueForAll(_tellsTime.Contains);

    /// <summary>True for the name of a call that asks for chance.</summary>
    public bool MakesRandom(string name) => HasWord(name, _random);

    /// <summary>True for the name of something that is there because nobody can guess it.</summary>
    public bool HoldsRandom(string name) => HasWord(name, _holdsRandom);

    /// <summary>True where a request logger’s format goes on with the name of a header in brackets: <c>:req</c> of <c>:req[authorization]</c>.</summary>
    public bool NamesLoggedHeader(string before) => _loggedHeader.Any(m => before.EndsWith(m, StringComparison.Ordinal));
}
