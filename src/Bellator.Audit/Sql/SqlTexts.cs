using System.Runtime.CompilerServices;
using Bellator.Analysis.Domain;
using Bellator.Text;

namespace Bellator.Audit.Sql;

/// <summary>The statements that a text may be.</summary>
public static class SqlTexts
{
    /// <summary>Many ask for the same texts, and an audit that is repeated mostly meets those of the last one.</summary>
    private static readonly ConditionalWeakTable<AbstractValue, IReadOnlyList<SqlStatement>> Read = [];

    public static IReadOnlyList<SqlStatement> Of(AbstractValue text) => Read.GetValue(text, static t => [.. Parse(t)]);

    private static IEnumerable<SqlStatement> Parse(AbstractValue text)
    {
        if (text.Text is not null)
        {
            return text.Text.Alternatives.Select(SqlStatement.Parse);
        }

        if (text.Constant is not null)
        {
            return [SqlStatement.Parse([Piece.Text(text.Constant)])];
        }

        return text.IsTainted ? [SqlStatement.Parse([Piece.Hole(text.Taints, Location.None)])] : [];
    }
}
