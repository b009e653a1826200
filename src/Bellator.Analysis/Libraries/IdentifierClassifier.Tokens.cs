namespace Bellator.Analysis.Libraries;

public sealed partial class IdentifierClassifier
{
    private readonly IReadOnlySet<string> _holdsRandom = facts.Words("holds-random");
    private readonly IReadOnlySet<string> _random = facts.Words("makes-random");
    private readonly IReadOnlySet<string> _tellsTime = facts.Words("tells-time");
    private readonly IReadOnlySet<string> _tokenHeader = facts.Words("token-header");
    private readonly IReadOnlySet<string> _loggedHeader = facts.Words("logged-header");

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
