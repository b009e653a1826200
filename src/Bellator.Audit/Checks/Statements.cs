using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Sql;

namespace Bellator.Audit.Checks;

/// <summary>Reads the statements that reach the database.</summary>
internal static class Statements
{
    public static IReadOnlyList<SqlStatement> Of(AbstractValue text) => SqlTexts.Of(text);

    /// <summary>The text begins as a statement does: a password in it was not hashed for its own sake.</summary>
    public static bool IsStatement(AbstractValue text) =>
        text.Text is not null && Of(text).Any(s => s.Verb is "SELECT" or "INSERT" or "UPDATE" or "DELETE" or "SET" or "ALTER" or "CREATE" or "GRANT" or "REPLACE");

    /// <summary>Every value of every statement with what it carries.</summary>
    public static IReadOnlyList<ColumnUse> Uses(CheckContext context) => context.Kept<IReadOnlyList<ColumnUse>>(() => [.. context.EventsOf(EventKind.Query, EventKind.Run).SelectMany(ColumnUses.Of)]);
}
