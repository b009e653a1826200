using System.Text.RegularExpressions;
using Bellator.Analysis.Ir;
using Bellator.Passwords;
using Bellator.Text;

namespace Bellator.Audit.Accounts;

/// <summary>One rule for new passwords.</summary>
/// <param name="Kind">min, max, pattern, digit, lower, upper, other, distinct, common.</param>
/// <param name="Value">A number, or a regular expression; empty for a number that the program reads from somewhere.</param>
/// <param name="Origin">Where it is known from: the code, or what holds by itself.</param>
public sealed record PolicyRule(string Kind, string Value, Location At, string Origin);

/// <summary>Which passwords an application takes, as its code says.</summary>
/// <param name="Name">The journey that it was found for.</param>
public sealed record PasswordPolicy(string Name, IReadOnlyList<PolicyRule> Rules, string? Scheme)
{
    private static readonly TimeSpan PatternLimit = TimeSpan.FromMilliseconds(50);
    private IReadOnlyList<Regex>? _patterns;
    private HashSet<string>? _common;

    /// <summary>The functions in which passwords are taken that it is about.</summary>
    public IReadOnlyList<IrFunction> Within { get; init; } = [];

    public int Minimum { get; } = Rules.Where(r => r.Kind == "min" && r.Value.Length > 0).Select(r => int.Parse(r.Value, System.Globalization.CultureInfo.InvariantCulture)).DefaultIfEmpty(0).Max();

    /// <summary>There is a least length, and the code does not say which.</summary>
    public bool HasUnknownMinimum { get; } = Rules.Any(r => r is { Kind: "min", Value.Length: 0 }) && !Rules.Any(r => r is { Kind: "min", Value.Length: > 0 });

    /// <summary>Null for no upper limit in the code.</summary>
    public int? Maximum { get; } = Rules.Where(r => r.Kind == "max").Select(r => (int?)int.Parse(r.Value, System.Globalization.CultureInfo.InvariantCulture)).DefaultIfEmpty(null).Min();

    public bool Composes => Rules.Any(r => r.Kind is "digit" or "lower" or "upper" or "other" or "distinct" || (r.Kind == "pattern" && IsComposition(r.Value)));

    public bool RefusesCommon => Rules.Any(r => r.Kind == "common");

    /// <summary>Bytes after which the hash sees nothing; null if it sees all. bcrypt reads 72 (its authors' paper, Provos and Mazières 1999).</summary>
    public int? ReadsBytes => Scheme == "bcrypt" ? 72 : null;

    /// <summary>Patterns that the code uses and that could be run here.</summary>
    private IReadOnlyList<Regex> Patterns => _patterns ??= [.. Rules.Where(r => r.Kind == "pattern").Select(r => Compiled(r.Value)).OfType<Regex>()];

    /// <summary>Patterns that could not be run here: the share is then too high.</summary>
    public int UnknownPatterns => Rules.Count(r => r.Kind == "pattern") - Patterns.Count;

    public bool Accepts(string password)
    {
        if (password.Length < Minimum || password.Length > (Maximum ?? int.MaxValue))
        {
            return false;
        }

        foreach (var rule in Rules)
        {
            var holds = rule.Kind switch
            {
                "digit" => password.Any(char.IsAsciiDigit),
                "lower" => password.Any(char.IsLower),
                "upper" => password.Any(char.IsUpper),
                "other" => password.Any(c => !char.IsLetterOrDigit(c)),
                "distinct" => int.TryParse(rule.Value, out var least) && password.Distinct().Count() >= least,
                "common" => !(_common ??= [.. CommonPasswords.All.Take(int.TryParse(rule.Value, out var most) && most > 0 ? most : 20_000)]).Contains(password.ToLowerInvariant()),
                _ => true,
            };
            if (!holds)
            {
                return false;
            }
        }

        try
        {
            return Patterns.All(p => p.IsMatch(password));
        }
        catch (RegexMatchTimeoutException)
        {
            return true;
        }
    }

    /// <summary>How many of the most common passwords are taken, with the commonest of them.</summary>
    /// <param name="most">How many of the list are tried.</param>
    public (int Tried, int Accepted, IReadOnlyList<string> Examples) Try(int most)
    {
        var accepted = 0;
        var examples = new List<string>();
        var tried = 0;
        foreach (var password in CommonPasswords.All.Take(most))
        {
            tried++;
            if (Accepts(password))
            {
                accepted++;
                if (examples.Count < 12)
                {
                    examples.Add(password);
                }
            }
        }

        return (tried, accepted, examples);
    }

    /// <summary>The expression asks for kinds of signs, not only for a length.</summary>
    private static bool IsComposition(string pattern) => pattern.Contains("[A-Z]", StringComparison.Ordinal) || pattern.Contains("[0-9]", StringComparison.Ordinal) || pattern.Contains("\\d", StringComparison.Ordinal) || pattern.Contains("[a-z]", StringComparison.Ordinal);

    /// <summary>An expression as .NET understands it, without the signs that a language puts around it; null where it does not.</summary>
    private static Regex? Compiled(string pattern)
    {
        var options = RegexOptions.CultureInvariant;
        if (pattern.Length > 2 && pattern[0] is '/' or '#' or '~' && pattern.LastIndexOf(pattern[0]) is > 0 and var end)
        {
            options |= pattern[(end + 1)..].Contains('i', StringComparison.Ordinal) ? RegexOptions.IgnoreCase : RegexOptions.None;
            pattern = pattern[1..end];
        }

        pattern = pattern.Replace("\\A", "^", StringComparison.Ordinal).Replace("\\z", "$", StringComparison.Ordinal);
        try
        {
            return new Regex(pattern, options, PatternLimit);
        }
        catch (ArgumentException)
        {
            return null;
        }
    }
}
