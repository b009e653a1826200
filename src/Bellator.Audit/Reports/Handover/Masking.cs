using System.Text.RegularExpressions;

namespace Bellator.Audit.Reports.Handover;

/// <summary>Hides secrets and hashes in what goes out of the house. What is hidden keeps its first characters, so that a developer finds it again.</summary>
public static partial class Masking
{
    private const int Kept = 4;

    public static string Of(string text) => Assigned().Replace(Hash().Replace(text, m => Cut(m.Value)), m => m.Groups[1].Value + m.Groups[2].Value + Cut(m.Groups[3].Value) + m.Groups[4].Value);

    /// <summary>All texts of a line that is about a secret in the code or in settings, whose values may stand without quotes.</summary>
    public static string Texts(string line) => Setting().Replace(Quoted().Replace(Of(line), m => m.Groups[1].Value + Cut(m.Groups[2].Value) + m.Groups[1].Value), m => m.Groups[1].Value + Cut(m.Groups[2].Value));

    private static string Cut(string value) => value.Length <= Kept || value.EndsWith('…') ? value : value[..Kept] + "…";

    // Modular crypt formats, PBKDF2 and Argon2 strings, and runs of hexadecimal or Base64 of the length of digests.
    [GeneratedRegex(@"\$(?:2[abxy]?|1|5|6|y|argon2\w*|scrypt|pbkdf2[\w-]*)\$[^\s'""`<>]{8,}|(?<![\w/])(?:[0-9a-fA-F]{32,128}|[A-Za-z0-9+/]{43,}={0,2})(?![\w/])", RegexOptions.None, 500)]
    private static partial Regex Hash();

    [GeneratedRegex(@"((?:pass(?:word|wd|phrase)?|secret|api_?key|token|private_?key)\w*['""\]]*\s*(?:=>|=|:)\s*)(['""`])([^'""`\n]+)(['""`])", RegexOptions.IgnoreCase, 500)]
    private static partial Regex Assigned();

    // A line of its own: NAME=value, or name: value.
    [GeneratedRegex(@"^(\s*(?:export\s+)?[\w.-]+\s*[=:]\s*)([^\s'""`(\[{<$][^\s'""`(]{4,})\s*$", RegexOptions.None, 500)]
    private static partial Regex Setting();

    [GeneratedRegex(@"(['""`])([^'""`\n]+)\1", RegexOptions.None, 500)]
    private static partial Regex Quoted();
}
