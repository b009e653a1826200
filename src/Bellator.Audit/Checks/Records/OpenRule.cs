using Bellator.Audit.RowSecurity;
using Bellator.Audit.Tables;

namespace Bellator.Audit.Checks.Records;

/// <summary>A rule of the database that lets everybody through.</summary>
public sealed class OpenRule : PolicyCheck
{
    public override string Id => "records/open-rule";

    public override string Title => "Row-level security policy lets everybody through";

    public override IReadOnlyList<int> Cwes => [284, 732, 863];

    public override IReadOnlyList<string> Asvs => ["V8.2.2", "V8.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "Permissive policies are joined with OR: the widest one decides, and the narrower ones beside it change nothing.";

    public override string FalsePositiveIf => "These rows are public by intention, or only trusted roles may use the table.";

    public override string HowToFix(string language) => "State the condition on the row in the policy, with the table's name before each of its columns; make a policy that is meant to narrow the others AS RESTRICTIVE, and limit reading rules to FOR SELECT.";

    protected override IEnumerable<Finding> Run(CheckContext context, RowSecurityModel model, PolicyTerms terms)
    {
        foreach (var policy in Permissive(context, model))
        {
            if (PolicyTerms.IsAlwaysTrue(policy.Using) && !IsNarrowed(model, terms, policy.Table, policy.For ?? PolicyCommand.Update) && (policy.For != PolicyCommand.Select || HoldsPrivate(context, policy.Table)))
            {
                yield return Found(policy.At, $"Policy “{policy.Name}” lets everyone {Lines(policy.For)} all rows of {policy.Table}: its condition is always true.", policy.Name);
            }
            else if (SelfComparison(context, policy) is { } column)
            {
                yield return Found(policy.At, $"Policy “{policy.Name}” on {policy.Table} compares “{column}” with itself: inside the subquery the bare name means the subquery’s own table, so the condition holds for every row.", policy.Name);
            }
            else if (Widened(model, terms, policy) is { } narrow)
            {
                yield return Found(policy.At, $"Policy “{policy.Name}” lets everyone with the same {terms.TenantColumns(policy.Using).First()} {Lines(policy.For)} rows of {policy.Table} that “{narrow.Name}” keeps to their owner: permissive policies are joined with OR.", policy.Name, Certainty.Traced, narrow.At);
            }
        }
    }

    private static bool HoldsPrivate(CheckContext context, string table) =>
        context.Schema.Find(table) is { } known && known.Columns.Exists(c => ColumnMeanings.Of(c, known, context.Words).Meaning is ColumnMeanings.Password or ColumnMeanings.ResetToken or ColumnMeanings.SessionToken or ColumnMeanings.Contact or ColumnMeanings.Tenant);

    /// <summary>The column that a subquery holds against itself, because its own table has one of the name.</summary>
    private static string? SelfComparison(CheckContext context, RowPolicy policy)
    {
        foreach (var query in new[] { policy.Using, policy.Check }.SelectMany(c => c?.All() ?? []).OfType<SqlQuery>())
        {
            foreach (var comparison in PolicyTerms.Conjuncts(query.Where).OfType<SqlComparison>().Where(c => c.Operator == "="))
            {
                if (comparison is { Left: SqlColumn left, Right: SqlColumn right } && left.Name.Equals(right.Name, StringComparison.OrdinalIgnoreCase) && (left.Of is null) != (right.Of is null)
                    && query.From.Where(f => f.Alias.Equals(left.Of ?? right.Of, StringComparison.OrdinalIgnoreCase)).Select(f => f.Table).FirstOrDefault() is { } inner && context.Schema.Find(inner)?.Find(left.Name) is not null
                    && query.From.Count(f => context.Schema.Find(f.Table)?.Find(left.Name) is not null) == 1)
                {
                    return left.Name;
                }
            }
        }

        return null;
    }

    /// <summary>A policy that keeps rows to their owner, where this one opens them to all of a tenant, for changes too.</summary>
    private static RowPolicy? Widened(RowSecurityModel model, PolicyTerms terms, RowPolicy policy)
    {
        if (policy.For is PolicyCommand.Select or PolicyCommand.Insert || terms.OwnerColumns(policy.Using).Any() || !terms.TenantColumns(policy.Using).Any() || terms.AsksForRole(policy.Using))
        {
            return null;
        }

        var commands = policy.For is { } only ? [only] : new[] { PolicyCommand.Update, PolicyCommand.Delete };
        return model.Of(policy.Table).FirstOrDefault(p => p is { IsRestrictive: false } && p != policy && commands.Any(p.Covers) && terms.OwnerColumns(p.Using).Any() && !commands.Any(c => IsNarrowed(model, terms, policy.Table, c)));
    }
}
