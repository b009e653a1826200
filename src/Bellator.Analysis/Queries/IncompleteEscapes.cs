using System.Text;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Queries;

/// <summary>A replacement that was meant to make something harmless and does not.</summary>
/// <param name="Sign">What is looked for.</param>
/// <param name="ChangesNothing">It is put back as it was; else only the first one is replaced.</param>
public sealed record IncompleteEscape(Location At, string Sign, bool ChangesNothing);

/// <summary>Finds replacements of signs that end a text, a name or a tag which put the sign back, or stop after the first.</summary>
public static class IncompleteEscapes
{
    /// <summary>Signs that end a text, an identifier or a piece of markup somewhere.</summary>
    private const string Ending = "'\"`<>&[]\\";

    public static IEnumerable<IncompleteEscape> In(IrFunction function, IdentifierClassifier words)
    {
        foreach (var (call, name) in function.NamedCalls)
        {
            if (!words.Replaces(name) || function.List(function.Instructions[call]).ToArray() is not [var what, var by, ..] || function.Instructions[by.Value] is not { Op: Opcode.Constant, A: (int)LiteralKind.Text, Text: { } put }
                || function.Instructions[what.Value] is not { Op: Opcode.Constant, A: (int)LiteralKind.Text or (int)LiteralKind.Pattern, Text: { } sought } searched)
            {
                continue;
            }

            var isPattern = searched.A == (int)LiteralKind.Pattern || words.ReplacesPattern(name);
            if ((isPattern ? LiteralOf(sought) : (sought, "")) is not var (sign, flags) || sign.Length is 0 or > 2 || !sign.All(c => Ending.Contains(c, StringComparison.Ordinal)))
            {
                continue;
            }

            if (put == sign)
            {
                yield return new IncompleteEscape(function.LocationOf(call), sign, true);
            }
            else if (name == "replace" && function.File.Source.Language is Language.JavaScript or Language.TypeScript or Language.Tsx && !flags.Contains('g', StringComparison.Ordinal) && Escapes(put, sign))
            {
                yield return new IncompleteEscape(function.LocationOf(call), sign, false);
            }
        }
    }

    /// <summary>The sign in another writing: behind a backslash, twice, or as markup has it.</summary>
    private static bool Escapes(string put, string sign) => put == "\\" + sign || put == sign + sign || (put.Length > 2 && put[0] == '&' && put[^1] == ';');

    /// <summary>The text that a pattern stands for where it stands for one only, with the flags behind it; null for all others.</summary>
    private static (string Text, string Flags)? LiteralOf(string pattern)
    {
        var end = pattern.Length > 1 ? pattern.LastIndexOf(pattern[0]) : -1;
        if (end <= 0)
        {
            return null;
        }

        var text = new StringBuilder();
        for (var i = 1; i < end; i++)
        {
            if (pattern[i] == '\\' && i + 1 < end && !char.IsLetterOrDigit(pattern[i + 1]))
            {
                i++;
            }
            else if (pattern[i] is '\\' or '[' or ']' or '(' or ')' or '.' or '*' or '+' or '?' or '{' or '}' or '|' or '^' or '$')
            {
                return null;
            }

            text.Append(pattern[i]);
        }

        return (text.ToString(), pattern[(end + 1)..]);
    }
}
