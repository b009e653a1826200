using Bellator.Analysis.Interpreter;
using Bellator.Audit.Access;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Tables;

namespace Bellator.Audit.Checks.Records;

/// <summary>Everybody belongs to a tenant, by a column of their account; one way to a table of the tenants' records does not limit it to the person's own.</summary>
public sealed class TenantNotLimited : RecordCheck
{
    public override string Id => "records/tenant-not-limited";

    public override string Title => "Missing tenant condition";

    public override IReadOnlyList<int> Cwes => [639, 862, 863];

    public override IReadOnlyList<string> Asvs => ["V8.4.1", "V8.2.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "A user of one tenant gets, or changes, records of every other tenant; being of a role in one’s own tenant says nothing about the others.";

    public override string FalsePositiveIf => "This endpoint is for the operator of all tenants, the records are shared between them, or something outside the audited code limits them.";

    public override string HowToFix(string language) => "Put the tenant of the signed-in user into the condition here too, in one scope that every query of the table goes through, and that raw SQL, exports and counts do not pass by.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var limits = TenantLimits(context);
        foreach (var entry in limits.Count == 0 ? [] : Entries(context).Where(e => e.Entry.SignIn == SignInNeed.Needed))
        {
            var told = NoOwnerCondition.Open(context, entry).Select(o => o.Worst).Concat(ChildNotTied.Pairs(context, entry).Select(p => p.Child)).Select(u => u.Access.Table).ToHashSet(StringComparer.OrdinalIgnoreCase);
            foreach (var uses in entry.Uses.Where(u => !told.Contains(u.Access.Table) && u.Access.Action != RecordAction.Create && !u.Access.IsGuess && !u.IsFetched).GroupBy(u => u.Access.Table, StringComparer.OrdinalIgnoreCase))
            {
                if (context.Schema.Find(uses.Key) is not { } table || RowRules.Limit(context, uses.Key))
                {
                    continue;
                }

                var (column, limited) = limits.FirstOrDefault(l => table.Find(l.Key) is not null);
                var parent = column is null && !context.Accounts.Accounts.Has(table.Name) ? ChildRecords.LimitedParent(context, table) : null;
                if ((column ?? parent?.Column) is not { } tenant || (limited ?? limits.GetValueOrDefault(tenant)) is not { } others)
                {
                    continue;
                }

                var open = uses.Where(u => IsOpen(context, entry, u, tenant) && (parent is not { } of || !NamesParent(u, of.Key, of.Parent))).ToList();

                // An object that is changed is one that was found before: where that look-up is limited, so is the change.
                open.RemoveAll(u => u.Terms.IsBare && u.Access.Action is RecordAction.Edit or RecordAction.Delete && uses.Any(IsFinding) && !open.Exists(IsFinding));
                if (open.Count == 0 || Shown(others, entry, parent?.Parent ?? table.Name, open.Exists(u => context.Access.ReachOf(entry, u) == RowReach.Role)) is not { } shown)
                {
                    continue;
                }

                var worst = open.MaxBy(u => u.Access.Action)!;
                yield return new Finding
                {
                    Check = this,
                    At = worst.Access.At,
                    Certainty = Certainty.Traced,
                    Message = parent is { } above
                        ? $"{Address(entry.Entry)} lets {WhoOf(entry)} {Does(worst.Access.Action)} {worst.Access.Table} records of any {above.Parent} record: every query of {above.Parent} is limited by “{above.Column}” to what the signed-in user belongs to, and this one names neither."
                        : $"{Address(entry.Entry)} lets {WhoOf(entry)} {Does(worst.Access.Action)} {worst.Access.Table} records whatever their “{column}”: no condition on it was found, although {Address(shown.Entry)} limits {(shown.Access.Table.Equals(table.Name, StringComparison.OrdinalIgnoreCase) ? "these records" : shown.Access.Table)} to that of the signed-in user.",
                    Related = [.. open.Select(u => u.Access.At).Where(a => a != worst.Access.At).Distinct(), shown.Access.At, entry.Entry.At],
                    Subject = $"{worst.Access.Table} {worst.Access.Action}",
                };
            }
        }
    }

    private static bool IsFinding(RecordUse use) => use.Access.Action is RecordAction.View or RecordAction.List;

    /// <summary>The condition says something of the record that the row belongs to.</summary>
    private static bool NamesParent(RecordUse use, string key, string parent) =>
        use.Terms.Other.Concat(use.Terms.Request.Select(t => t.Column)).Concat(use.Terms.Found.Select(t => t.Column)).Any(c => c.Split('.').Any(p => p.Equals(key, StringComparison.OrdinalIgnoreCase) || OwnerColumns.IsKeyOf(p, parent)))
        || use.Terms.IsRelated;

    private static string WhoOf(EntryAccess entry) => entry.Entry.Guards.Any(g => g.Asks == Requirement.Role) ? "users of one role" : Who(entry);

    /// <summary>Columns of the accounts that name what the person belongs to, or by which every query of a table is limited, and the uses of records that are.</summary>
    private static Dictionary<string, List<RecordUse>> TenantLimits(CheckContext context)
    {
        var limits = new Dictionary<string, List<RecordUse>>(StringComparer.OrdinalIgnoreCase);
        foreach (var column in context.Accounts.Accounts.Tables.SelectMany(t => t.Columns.Select(c => c.Name).Where(c => context.Owners.IsBelonging(t, c))).Concat(context.Schema.Tables.SelectMany(t => context.Access.ScopeOf(t.Name))).Distinct(StringComparer.OrdinalIgnoreCase))
        {
            var uses = context.Access.OwnedTables.SelectMany(o => o.Limited).Where(u => u.Terms.Subject.Any(t => t.Column.Equals(column, StringComparison.OrdinalIgnoreCase))).ToList();
            if (uses.Count > 0)
            {
                limits[column] = uses;
            }
        }

        return limits;
    }

    private static bool IsOpen(CheckContext context, EntryAccess entry, RecordUse use, string column) =>
        !use.Terms.OfSubject && !use.Terms.HasUnknown && !context.Access.MayBeLimited(use) && context.Access.ReachOf(entry, use) is RowReach.All or RowReach.Chosen or RowReach.Role
        && entry.Decisions.All(d => d.IsRole) && !use.Terms.Other.Contains(column, StringComparer.OrdinalIgnoreCase)
        && !use.Terms.Request.Any(t => t.Column.Equals(column, StringComparison.OrdinalIgnoreCase) || context.Words.IsSecretToken(t.Column))
        && !(use.Access.Action is RecordAction.View or RecordAction.List && use.Terms.Other.Any(context.Words.IsPublicState))
        && !ShowsChosenColumns(use) && !ChildRecords.IsTiedToHeld(context, entry, use);

    /// <summary>A list of all that there is, of columns that were chosen for it: it is meant for everybody more often than not.</summary>
    private static bool ShowsChosenColumns(RecordUse use) =>
        use.Access.Action == RecordAction.List && use.Terms.Request.Count == 0 && use.Happening.Role("model").Types.Contains(FunctionAnalyzer.Projected);

    /// <summary>What shows that others are limited: on the same table, and where a role is asked for here, behind a role there.</summary>
    private static RecordUse? Shown(List<RecordUse> limited, EntryAccess entry, string table, bool byRole) =>
        limited.Where(l => l.Entry.Handler != entry.Entry.Handler && (!byRole || l.Entry.Guards.Any(g => g.Asks == Requirement.Role) || l.Access.Table.Equals(table, StringComparison.OrdinalIgnoreCase)))
            .OrderByDescending(l => l.Access.Table.Equals(table, StringComparison.OrdinalIgnoreCase)).FirstOrDefault();
}
