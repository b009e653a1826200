using System.Text;
using System.Text.RegularExpressions;
using Bellator.Analysis.Domain;
using Bellator.Audit.Sql;

namespace Bellator.Audit.Witnesses;

/// <summary>Builds the statement with an ordinary and a crafted value and compares how they parse: if the crafted one changes the tree beyond its own literal, the weakness is proved.</summary>
public static partial class SqlWitness
{
    /// <summary>What a fragment that is no statement of its own stands in: a condition, an order, a column, the rest of a query.</summary>
    private static readonly string[] Frames = ["", "SELECT * FROM t WHERE ", "SELECT * FROM t ORDER BY ", "SELECT ", "SELECT * FROM t "];

    /// <summary>The witness for one hole of a statement, or null if none can be made: the text is not known well enough, or does not parse.</summary>
    /// <param name="pieces">The statement's text.</param>
    /// <param name="slot">The place of the value.</param>
    /// <param name="quotesEscaped">Quotes in the value are escaped on the way.</param>
    /// <param name="shapes">Shapes of statements that were parsed before: many findings are about one statement.</param>
    public static Witness? For(IReadOnlyList<Piece> pieces, SqlSlot slot, bool quotesEscaped, StatementShapes shapes)
    {
        if (slot.Hole is null || pieces.Count < 2)
        {
            return null;
        }

        var quote = QuoteBefore(pieces, slot.Hole);
        var ordinary = slot.Position == OutputContext.SqlUnquoted ? slot.Clause == SqlClause.OrderOrGroup ? "name" : "1" : "elm";
        foreach (var frame in Frames)
        {
            var plain = frame + Fill(pieces, slot.Hole, ordinary);
            if (shapes.Of(plain) is not { } expected)
            {
                continue;
            }

            foreach (var crafted in Candidates(slot, quote))
            {
                if (quotesEscaped && crafted.AsSpan().IndexOfAny('\'', '"', '`') >= 0)
                {
                    continue;
                }

                var changed = frame + Fill(pieces, slot.Hole, crafted);
                if (shapes.Of(changed) is { } found && !found.SequenceEqual(expected))
                {
                    return new Witness("statement", crafted, plain.Trim(), changed.Trim(), Difference(expected, found, crafted));
                }
            }

            return null;
        }

        return null;
    }

    private static IEnumerable<string> Candidates(SqlSlot slot, char quote) => slot.Position switch
    {
        OutputContext.SqlString => [$"{quote} OR 1=1 -- ", $"{quote}) OR 1=1 -- ", $"{quote} OR {quote}1{quote}={quote}1"],
        OutputContext.SqlIdentifier => [$"name{quote} OR 1=1 -- ", $"name{quote}, 1 -- "],
        _ when slot.Clause == SqlClause.OrderOrGroup => ["(SELECT 1)", "name, (SELECT 1)"],
        _ => ["1 OR 1=1", "(SELECT 1)", "1 UNION SELECT 1", "1; SELECT 2"],
    };

    private static char QuoteBefore(IReadOnlyList<Piece> pieces, Piece hole)
    {
        var quote = '\'';
        foreach (var piece in pieces)
        {
            if (ReferenceEquals(piece, hole))
            {
                break;
            }

            if (!piece.IsHole && piece.Literal!.AsSpan().LastIndexOfAny('\'', '"', '`') is >= 0 and var at)
            {
                quote = piece.Literal![at];
            }
        }

        return quote;
    }

    private static string Fill(IReadOnlyList<Piece> pieces, Piece hole, string value)
    {
        var text = new StringBuilder();
        var plain = new StringBuilder();
        foreach (var piece in pieces)
        {
            // Values beside the one in question, and those that are bound, are ordinary.
            plain.Append(ReferenceEquals(piece, hole) ? "elm" : piece.IsHole ? EndsInQuote(plain) ? "a" : "1" : Placeholder().Replace(piece.Literal!, "1"));
            text.Append(ReferenceEquals(piece, hole) ? value : piece.IsHole ? plain[^1].ToString() : Placeholder().Replace(piece.Literal!, "1"));
        }

        return text.ToString();
    }

    private static bool EndsInQuote(StringBuilder text)
    {
        var open = '\0';
        for (var i = 0; i < text.Length; i++)
        {
            var c = text[i];
            open = open == '\0' ? c is '\'' or '"' or '`' ? c : '\0' : c == open ? '\0' : open;
        }

        return open != '\0';
    }

    /// <summary>Names and positions of bound values in the forms that drivers know.</summary>
    [GeneratedRegex(@"(?<![\w'""%:])(\?|\$[0-9]+|%s|(?<![:\w])[:@][A-Za-z_]\w*)(?!['""%])")]
    private static partial Regex Placeholder();

    private static string Difference(IReadOnlyList<string> expected, IReadOnlyList<string> found, string crafted)
    {
        var more = found.GroupBy(k => k).Where(g => g.Count() > expected.Count(k => k == g.Key)).Select(g => g.Key).ToHashSet(StringComparer.Ordinal);
        var what = more.Any(k => k.Contains("set_operation", StringComparison.Ordinal) || k == "keyword_union") ? "a second query"
            : more.Contains("subquery") || more.Contains("select") ? "a query of its own"
            : more.Contains("binary_expression") ? "a condition of its own" : "parts of its own";
        var rest = crafted.EndsWith("-- ", StringComparison.Ordinal) ? " and turns what follows it into a comment" : "";
        return $"Parsed, the value of the second statement is more than a value: it adds {what}{rest}.";
    }
}
