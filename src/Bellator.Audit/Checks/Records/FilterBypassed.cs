using Bellator.Audit.RowSecurity;

namespace Bellator.Audit.Checks.Records;

/// <summary>A way to the rows of a table that its policies do not see.</summary>
public sealed class FilterBypassed : PolicyCheck
{
    private static readonly HashSet<string> Aggregates = new(StringComparer.OrdinalIgnoreCase) { "count", "sum", "avg", "min", "max", "bool_or", "bool_and", "every", "exists" };

    public override string Id => "records/filter-bypassed";

    public override string Title => "Rows are read past row-level security";

    public override IReadOnlyList<int> Cwes => [639, 284, 863];

    public override IReadOnlyList<string> Asvs => ["V8.2.2", "V8.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:N/A:N";

    public override string Why => "A view reads with the rights of its owner, a materialized view was read once with them, and a SECURITY DEFINER function runs with them: policies of the tables behind do not apply to whoever asks.";

    public override string FalsePositiveIf => "Everyone may see these columns of all rows, or the owner is bound by the policies too.";

    public override string HowToFix(string language) => "Create the view WITH (security_invoker = true), from PostgreSQL 15; state the condition in the body of a function that has to be SECURITY DEFINER; grant no role of the application a materialized view with people’s data.";

    protected override IEnumerable<Finding> Run(CheckContext context, RowSecurityModel model, PolicyTerms terms)
    {
        foreach (var view in model.Views.Values.Where(v => v is { IsInvoker: false, Query: not null }))
        {
            var grant = model.Grants.Find(g => g.Object.Equals(view.Name, StringComparison.OrdinalIgnoreCase) && g.Privilege is "SELECT" or "ALL" && !(model.Roles.TryGetValue(g.Role, out var role) && role.BypassesRowSecurity));
            if ((grant is not null || model.Grants.Count == 0) && Exposed(context, model, terms, view.Query!) is { } table)
            {
                yield return view.IsMaterialized
                    ? Found(grant?.At ?? view.At, $"The materialized view {view.Name} holds rows of {table} of all people, and {grant?.Role ?? "every role"} may read it: row security does not apply to it.", view.Name, Certainty.Traced, view.At)
                    : Found(view.At, $"The view {view.Name} reads {table} with the rights of its owner, so the policies of {table} do not limit who asks{(grant is null ? "" : $"; {grant.Role} may read it")}.", view.Name, Certainty.Traced, grant is null ? [] : [grant.At]);
            }
        }

        var used = model.Policies.SelectMany(p => new[] { p.Using, p.Check }).SelectMany(c => c?.All() ?? []).OfType<SqlCall>().Select(c => c.ShortName).ToHashSet(StringComparer.OrdinalIgnoreCase);
        foreach (var function in model.Functions.Values.Where(f => f is { IsDefiner: true, IsTrigger: false, Parameters: > 0 } && !used.Contains(f.Name) && !terms.AsksForPerson(f)))
        {
            foreach (var query in function.Queries)
            {
                if (Exposed(context, model, terms, query) is { } table && !query.Items.SelectMany(i => i.All()).OfType<SqlColumn>().Any(c => context.Words.IsPasswordColumn(c.Name)))
                {
                    yield return Found(function.At, $"{function.Name}() runs as its owner, past the policies of {table}, and asks nothing of the person: whoever may call it gets any row by its argument.", function.Name);
                    break;
                }
            }
        }
    }

    /// <summary>A table with policies of which the query gives columns of single rows, with no condition like those of the policies.</summary>
    private static string? Exposed(CheckContext context, RowSecurityModel model, PolicyTerms terms, SqlQuery query)
    {
        if (terms.KindOf(query.Where) != PersonKind.None || query.Items.Any(i => terms.KindOf(i) != PersonKind.None))
        {
            return null;
        }

        var columns = query.Items.SelectMany(Plain).ToList();
        var tested = (query.Where?.All() ?? []).OfType<SqlColumn>().Select(c => c.Name).ToHashSet(StringComparer.OrdinalIgnoreCase);
        foreach (var (table, alias) in query.From.Where(f => model.IsProtected(f.Table) && !model.Tables[f.Table].IsForced))
        {
            var isOpen = model.Of(table).Where(p => !p.IsRestrictive && p.Covers(PolicyCommand.Select)).SelectMany(p => PolicyTerms.Alternatives(p.Using))
                .Any(a => terms.KindOf(a) == PersonKind.None && (PolicyTerms.IsAlwaysTrue(a) || a.All().OfType<SqlColumn>().Any(c => tested.Contains(c.Name))));
            if (!isOpen && columns.Exists(c => c.Of is { } of ? of.Equals(alias, StringComparison.OrdinalIgnoreCase) : query.From.Count == 1 || context.Schema.Find(table)?.Find(c.Name) is not null))
            {
                return table;
            }
        }

        return null;
    }

    /// <summary>The columns that an item shows as they are: those within a count or a sum are not.</summary>
    private static IEnumerable<SqlColumn> Plain(SqlExpression item) => item switch
    {
        SqlColumn column => [column],
        SqlCall call when Aggregates.Contains(call.ShortName) => [],
        SqlQuery or SqlExists => [],
        _ => item.Parts.SelectMany(Plain),
    };
}
