using Bellator.Analysis.Events;
using Bellator.Audit.RowSecurity;

namespace Bellator.Audit.Checks.Records;

/// <summary>The database's own rules on rows: those of the material's SQL, and of statements that its code runs.</summary>
internal sealed class RowRules
{
    private RowRules(CheckContext context)
    {
        Model = RowSecurityReader.Read(context.Program.Tree, context.Words.Undoes);
        foreach (var statement in context.EventsOf(EventKind.Query))
        {
            if (statement.Role("text").Constant is { Length: > 20 } text)
            {
                RowSecurityReader.Read(Model, text, _ => statement.At);
            }
        }

        Terms = new PolicyTerms(Model, context.Words);
    }

    public RowSecurityModel Model { get; }

    public PolicyTerms Terms { get; }

    public static RowRules Of(CheckContext context) => context.Kept(() => new RowRules(context));

    /// <summary>Row security is on, and none of the policies lets everybody through: what the code leaves out, the database may still ask.</summary>
    public static bool Limit(CheckContext context, string table) =>
        context.Schema.Find(table) is { RowSecurity: true } && !Of(context).Model.Of(table).Any(p => !p.IsRestrictive && p.IsForPeople(context.Words) && PolicyTerms.IsAlwaysTrue(p.Using));
}
