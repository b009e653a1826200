using Bellator.Audit.Access;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Tables;

namespace Bellator.Audit.Checks.Records;

/// <summary>Records that belong to people are found by what the request names alone.</summary>
public sealed class NoOwnerCondition : RecordCheck
{
    public override string Id => "records/no-owner-condition";

    public override string Title => "No check of the record's owner";

    public override IReadOnlyList<int> Cwes => [639, 862];

    public override IReadOnlyList<string> Asvs => ["V8.2.2", "V8.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "Whoever is signed in takes the number of somebody else's record, which can be guessed or seen, and reads or changes it.";

    public override string FalsePositiveIf => "The records are meant for everybody who gets there, or something that the audit did not see limits them: row security in the database, or a gateway in front.";

    public override string HowToFix(string language) => language switch
    {
        "ruby" => "Find the record through the person it belongs to: current_user.hives.find(params[:id]).",
        "csharp" => "Put the owner into the condition: Where(h => h.Id == id && h.OwnerId == userId), or ask IAuthorizationService about the loaded record and act on its answer.",
        "python" => "Put the owner into the query: get_object_or_404(Hive, pk=pk, owner=request.user).",
        "php" => "Put the owner into the condition, WHERE id = ? AND owner_id = ?, with the number of the person from the session.",
        _ => "Put the owner into the condition: WHERE id = $1 AND owner_id = $2, with the number of the person from the session or token.",
    };

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var told = new HashSet<(object?, string)>();
        foreach (var entry in Entries(context).Where(e => e.Entry.SignIn != SignInNeed.NotNeeded))
        {
            // What is loaded and then changed is one weakness: the change is the worst of it, and the place that finds the row the one to mend.
            foreach (var uses in entry.Uses.Where(u => IsOpen(context, entry, u)).GroupBy(u => u.Access.Table, StringComparer.OrdinalIgnoreCase))
            {
                var worst = uses.MaxBy(u => u.Access.Action)!;
                var isAccount = context.Accounts.Accounts.Has(uses.Key);
                var shown = isAccount ? null : Evidence(context, entry, worst);
                if ((!isAccount && shown is null) || !told.Add((entry.Entry.Handler, uses.Key.ToLowerInvariant())))
                {
                    continue;
                }

                var found = uses.FirstOrDefault(u => u.Terms.Request.Count > 0) ?? worst;
                yield return new Finding
                {
                    Check = this,
                    At = found.Access.At,
                    Certainty = Certainty.Traced,
                    Message = $"{entry.Entry.Method} {entry.Entry.Path} {Does(worst.Access.Action)} the row of {worst.Access.Table} that the request names, for {Who(entry)}: nothing on the way compares its owner with the person who is asking"
                        + (shown is null ? "." : $", as {shown.Entry.Method} {shown.Entry.Path} does."),
                    Related = [.. uses.Select(u => u.Access.At).Where(a => a != found.Access.At).Distinct(), .. shown is null ? [] : new[] { shown.Access.At }, entry.Entry.At],
                    Subject = $"{worst.Access.Table} {worst.Access.Action}",
                };
            }
        }
    }

    /// <summary>The row is read, changed or deleted by its number, and nobody asks whose it is.</summary>
    private static bool IsOpen(CheckContext context, EntryAccess entry, RecordUse use) =>
        use.Access.Action is RecordAction.View or RecordAction.Edit or RecordAction.Delete && IsChosenByRequest(entry, use)
        && (context.Accounts.Accounts.Has(use.Access.Table) ? IsOthersAccount(entry, use) : IsKeyed(entry, use))
        && !HasRowSecurity(context, use.Access.Table) && !(use.Access.Action == RecordAction.View && use.Terms.Other.Any(context.Words.IsPublicState));

    private static bool HasRowSecurity(CheckContext context, string table) => context.Schema.Find(table) is { RowSecurity: true };

    /// <summary>The row is told by its number, as far as that can be seen; a search or a secret is another matter.</summary>
    private static bool IsKeyed(EntryAccess entry, RecordUse use) =>
        use.Terms.Request.Any(t => t.Column is RowTerms.Key or "pk" or "_id" || t.Column.EndsWith("id", StringComparison.OrdinalIgnoreCase))
        || (use.Terms.Request.Count == 0 && entry.Uses.Concat(entry.OnTheWay).Any(o => o != use && o.Access.Table.Equals(use.Access.Table, StringComparison.OrdinalIgnoreCase) && o.Terms.Request.Any(t => t.Column is RowTerms.Key or "pk" or "_id")));

    /// <summary>Somebody signed in changes or deletes an account by its number.</summary>
    private static bool IsOthersAccount(EntryAccess entry, RecordUse use) =>
        entry.Entry.SignIn == SignInNeed.Needed && use.Access.Action is RecordAction.Edit or RecordAction.Delete && IsKeyed(entry, use);

    /// <summary>A use of the same records that is limited to the person's own. What is only limited where it is changed may be public to read.</summary>
    private static RecordUse? Evidence(CheckContext context, EntryAccess entry, RecordUse use)
    {
        if (context.Access.Owned(use.Access.Table) is not { } owned)
        {
            return null;
        }

        var reads = use.Access.Action == RecordAction.View;
        return owned.Limited.Where(l => l.Entry.Handler != entry.Entry.Handler && (!reads || l.Access.Action is RecordAction.View or RecordAction.List))
            .OrderByDescending(l => l.Access.Action == use.Access.Action).FirstOrDefault() ?? (reads ? null : owned.Created.FirstOrDefault());
    }
}
