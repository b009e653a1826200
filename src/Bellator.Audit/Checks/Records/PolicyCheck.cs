using Bellator.Audit.RowSecurity;
using Bellator.Audit.Tables;
using Bellator.Text;

namespace Bellator.Audit.Checks.Records;

/// <summary>A weakness in the database's own rules on rows: PostgreSQL's manual, section 5.9, and its pages on CREATE POLICY, CREATE VIEW and CREATE FUNCTION, from memory.</summary>
public abstract class PolicyCheck : Check
{
    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var rules = RowRules.Of(context);
        return rules.Model.Policies.Count == 0 && rules.Model.Functions.Count == 0 ? [] : Run(context, rules.Model, rules.Terms);
    }

    protected abstract IEnumerable<Finding> Run(CheckContext context, RowSecurityModel model, PolicyTerms terms);

    protected Finding Found(Location at, string message, string subject, Certainty certainty = Certainty.Traced, params IReadOnlyList<Location> related) =>
        new() { Check = this, At = at, Certainty = certainty, Message = message, Subject = subject, Related = related };

    /// <summary>Permissive policies that let ordinary people through, of tables whose row security is on.</summary>
    protected static IEnumerable<RowPolicy> Permissive(CheckContext context, RowSecurityModel model) =>
        model.Policies.Where(p => !p.IsRestrictive && p.IsForPeople(context.Words) && model.IsProtected(p.Table));

    /// <summary>A policy that all rows must pass besides, and that asks who is there.</summary>
    protected static bool IsNarrowed(RowSecurityModel model, PolicyTerms terms, string table, PolicyCommand command) =>
        model.Of(table).Any(p => p.IsRestrictive && p.Covers(command) && (terms.KindOf(p.Using) != PersonKind.None || terms.KindOf(p.Check) != PersonKind.None));

    protected static string Lines(PolicyCommand? command) => command switch
    {
        PolicyCommand.Select => "read",
        PolicyCommand.Insert => "add",
        PolicyCommand.Update => "change",
        PolicyCommand.Delete => "delete",
        _ => "read and change",
    };

    protected static string? MeaningOf(CheckContext context, string table, string column) =>
        context.Schema.Find(table) is { } known && known.Find(column) is { } at ? ColumnMeanings.Of(at, known, context.Words).Meaning : null;
}
