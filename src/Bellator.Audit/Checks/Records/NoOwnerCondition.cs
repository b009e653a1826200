using Bellator.Audit.Access;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Tables;

namespace Bellator.Audit.Checks.Records;

/// <summary>Records that belong to people are found by what the request names alone.</summary>
public sealed class NoOwnerCondition : RecordCheck
{
    public override string Id => "records/no-owner-condition";

    public override string Title => "Missing ownership check";

    public override IReadOnlyList<int> Cwes => [639, 862];

    public override IReadOnlyList<string> Asvs => ["V8.2.2", "V8.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "A user who sends the id of somebody else’s record, guessed or seen in a link, reads or changes it.";

    public override string FalsePositiveIf => "The records are meant for everyone who can reach this endpoint, or something outside the audited code limits them: row-level security in the database, or a gateway.";

    public override string HowToFix(string language) => language switch
    {
        "ruby" => "Look the record up through its owner: current_user.hives.find(params[:id]).",
        "csharp" => "Add the owner to the condition: Where(h => h.Id == id && h.OwnerId == userId), or call IAuthorizationService with the loaded record and act on its result.",
        "python" => "Add the owner to the query: get_object_or_404(Hive, pk=pk, owner=request.user).",
        "php" => "Add the owner to the condition, WHERE id = ? AND owner_id = ?, with the user’s id from the session.",
        _ => "Add the owner to the condition: WHERE id = $1 AND owner_id = $2, with the user’s id from the session or token.",
    };

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var told = new HashSet<(object?, string)>();
        foreach (var entry in Entries(context).Where(e => e.Entry.SignIn != SignInNeed.NotNeeded))
        {
            foreach (var (uses, worst, shown) in Open(context, entry))
            {
                if (!told.Add((entry.Entry.Handler, worst.Access.Table.ToLowerInvariant())))
                {
                    continue;
                }

                // What the framework fetches for the handler stands nowhere in it.
                var found = uses.FirstOrDefault(u => u.Terms.Request.Count > 0 && !u.IsFetched) ?? worst;
                yield return new Finding
                {
                    Check = this,
                    At = found.Access.At,
                    Certainty = Certainty.Traced,
                    Message = $"{Address(entry.Entry)} lets {Who(entry)} {Does(worst.Access.Action)} any {worst.Access.Table} record by its id: no ownership check was found{Contrast(shown)}.",
                    Related = [.. uses.Select(u => u.Access.At).Where(a => a != found.Access.At).Distinct(), .. shown is null ? [] : new[] { shown.Access.At }, entry.Entry.At],
                    Subject = $"{worst.Access.Table} {worst.Access.Action}",
                };
            }
        }
    }

    /// <summary>
    /// For each table whose rows anybody can name, the uses of it and what shows that they belong to people. What is loaded and then changed
    /// is one weakness: the change is the worst of it, and the place that finds the row the one to mend.
    /// </summary>
    internal static IEnumerable<(IReadOnlyList<RecordUse> Uses, RecordUse Worst, RecordUse? Shown)> Open(CheckContext context, EntryAccess entry)
    {
        // A child that is found beside its parent is told as that.
        var children = ChildNotTied.Pairs(context, entry).Select(p => p.Child.Access.Table).ToHashSet(StringComparer.OrdinalIgnoreCase);
        var written = entry.AsWritten;
        foreach (var uses in written.Uses.Where(u => !children.Contains(u.Access.Table) && IsOpen(context, written, u)).GroupBy(u => u.Access.Table, StringComparer.OrdinalIgnoreCase))
        {
            var worst = uses.MaxBy(u => u.Access.Action)!;
            var isAccount = context.Accounts.Accounts.Has(uses.Key);
            var shown = isAccount ? null : context.Access.ScopeOf(uses.Key).Count == 0 || context.Access.LiftsScope(worst) ? Evidence(context, entry, worst) : EvidenceWithin(context, entry, worst);
            if (isAccount || shown is not null)
            {
                yield return ([.. uses], worst, shown);
            }
        }
    }

    /// <summary>The row is read, changed or deleted by its number, and nobody asks whose it is.</summary>
    private static bool IsOpen(CheckContext context, EntryAccess entry, RecordUse use) =>
        use.Access.Action is RecordAction.View or RecordAction.Edit or RecordAction.Delete && IsChosenByRequest(context, entry, use)
        && (context.Accounts.Accounts.Has(use.Access.Table) ? IsOthersAccount(context, entry, use) : IsKeyed(context, entry, use))
        && !RowRules.Limit(context, use.Access.Table) && OwnerFromRequest.Named(context, entry, use) is null && TenantNotChecked.Named(context, entry, use) is null && !(use.Access.Action == RecordAction.View && use.Terms.Other.Any(context.Words.IsPublicState));

    /// <summary>What the other entry point does: it limits the records, or only records whose they are.</summary>
    private static string Contrast(RecordUse? shown) => shown is null ? ""
        : shown.Terms.Widened is [var open, ..] ? $", although {Address(shown.Entry)} gives only the user’s own and those that “{open}” lets through"
        : shown.Access.Action == RecordAction.Create ? $", although {Address(shown.Entry)} stores whose each record is"
        : $", although {Address(shown.Entry)} limits these records to the user’s own";

    /// <summary>The row is told by its number, as far as that can be seen; a search or a secret is another matter.</summary>
    private static bool IsKeyed(CheckContext context, EntryAccess entry, RecordUse use) =>
        use.Terms.Request.Any(t => context.Words.IsRecordKey(t.Column) || t.Column.EndsWith("id", StringComparison.OrdinalIgnoreCase))
        || (use.Terms.Request.Count == 0 && entry.Uses.Concat(entry.OnTheWay).Any(o => o != use && o.Access.Table.Equals(use.Access.Table, StringComparison.OrdinalIgnoreCase) && o.Terms.Request.Any(t => context.Words.IsRecordKey(t.Column))));

    /// <summary>Somebody signed in changes or deletes an account by its number.</summary>
    private static bool IsOthersAccount(CheckContext context, EntryAccess entry, RecordUse use) =>
        entry.Entry.SignIn == SignInNeed.Needed && use.Access.Action is RecordAction.Edit or RecordAction.Delete && IsKeyed(context, entry, use);

    /// <summary>
    /// Where every query is limited to what the person belongs to, those of one firm may well work on the same records: what shows that these
    /// are somebody's is the same done elsewhere to the person's own only, or the page of the same address.
    /// </summary>
    private static RecordUse? EvidenceWithin(CheckContext context, EntryAccess entry, RecordUse use) =>
        context.Access.Owned(use.Access.Table)?.Personal.Find(p => p.Entry.Handler != entry.Entry.Handler && !p.Entry.Guards.Any(g => g.Asks == Requirement.Role)
            && (p.Access.Action == use.Access.Action || (p.Access.Action == RecordAction.View && p.Entry.Path == entry.Entry.Path)));

    /// <summary>A use of the same records that is limited to the person's own. What is only limited where it is changed may be public to read.</summary>
    private static RecordUse? Evidence(CheckContext context, EntryAccess entry, RecordUse use)
    {
        var reads = use.Access.Action == RecordAction.View;
        if (context.Access.Owned(use.Access.Table) is not { } owned)
        {
            return OfOwnParent(context, entry, use, reads);
        }

        return owned.Limited.Where(l => l.Entry.Handler != entry.Entry.Handler && (!reads || l.Access.Action is RecordAction.View or RecordAction.List))
            .OrderByDescending(l => l.Access.Action == use.Access.Action).FirstOrDefault()
            ?? (reads ? owned.Shared.Find(s => s.Entry.Handler != entry.Entry.Handler) : owned.Created.FirstOrDefault()) ?? OfOwnParent(context, entry, use, reads);
    }

    /// <summary>Another entry point reaches these records only through a record of the person's own: the inspections of an own hive.</summary>
    private static RecordUse? OfOwnParent(CheckContext context, EntryAccess entry, RecordUse use, bool reads) =>
        use.Terms.IsRelated ? null : context.Access.Entries.Where(e => e.Entry.Handler != entry.Entry.Handler && e.Entry.SignIn == SignInNeed.Needed && !e.Entry.Guards.Any(g => g.Asks == Requirement.Role))
            .SelectMany(e => e.Uses.Where(u => u.Access.Table.Equals(use.Access.Table, StringComparison.OrdinalIgnoreCase) && !u.Terms.OfSubject && (!reads || u.Access.Action is RecordAction.View or RecordAction.List) && context.Access.IsOfHeldParent(e, u))).FirstOrDefault();
}
