using Bellator.Analysis.Queries;
using Bellator.Audit.Access;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Tables;

namespace Bellator.Audit.Checks.Records;

/// <summary>The request names a record and the one that it belongs to; only the latter is asked about.</summary>
public sealed class ChildNotTied : RecordCheck
{
    public override string Id => "records/child-not-tied";

    public override string Title => "Nested record not tied to its parent";

    public override IReadOnlyList<int> Cwes => [639, 862, 863];

    public override IReadOnlyList<string> Asvs => ["V8.2.2", "V8.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "A user names a parent of their own and a child of somebody else’s: the check passes, and the child is read or changed.";

    public override string FalsePositiveIf => "The child’s records may be seen by everyone who reaches this endpoint, or the code that follows refuses where the two do not belong together.";

    public override string HowToFix(string language) => language switch
    {
        "ruby" => "Find the child through its parent: @trip.participants.find(params[:id]).",
        "php" => "Find the child through its parent, $trip->participants()->findOrFail($id), or scope the route’s bindings.",
        "python" => "Put the parent into the look-up: get_object_or_404(Piano, pk=pk, client=client).",
        _ => "Put the parent into the condition of the look-up: WHERE id = $1 AND parent_id = $2.",
    };

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var entry in Entries(context).Where(e => e.Entry.SignIn == SignInNeed.Needed))
        {
            foreach (var (child, parent) in Pairs(context, entry).DistinctBy(p => p.Child.Access.Table.ToLowerInvariant()))
            {
                var worst = entry.Uses.Where(u => u.Access.Table.Equals(child.Access.Table, StringComparison.OrdinalIgnoreCase) && u.Access.Action != RecordAction.Create).MaxBy(u => u.Access.Action)!;
                yield return new Finding
                {
                    Check = this,
                    At = child.Access.At,
                    Certainty = Certainty.Traced,
                    Message = $"{Address(entry.Entry)} asks whose the {parent.Access.Table} record is, and then lets the user {Does(worst.Access.Action)} any {child.Access.Table} record by its own id: nothing ties the two together.",
                    Related = [parent.Access.At, .. worst.Access.At == child.Access.At ? [] : new[] { worst.Access.At }, entry.Entry.At],
                    Subject = $"{child.Access.Table} of {parent.Access.Table}",
                };
            }
        }
    }

    /// <summary>Rows that are found by their own number beside a parent that is held against the person.</summary>
    internal static IEnumerable<(RecordUse Child, RecordUse Parent)> Pairs(CheckContext context, EntryAccess entry)
    {
        foreach (var child in entry.Uses.Where(u => IsByNumber(context, u)))
        {
            var key = child.Terms.Request.First(t => context.Words.IsRecordKey(t.Column));
            if (entry.Uses.Concat(entry.OnTheWay).FirstOrDefault(p => IsParent(context, entry, p, child, key)) is { } parent)
            {
                yield return (child, parent);
            }
        }
    }

    private static bool IsByNumber(CheckContext context, RecordUse use) =>
        use.Access.Action is RecordAction.View or RecordAction.Edit or RecordAction.Delete && !use.Access.IsGuess && use.Terms is { OfSubject: false, HasUnknown: false, IsRelated: false }
        && use.Terms.Request.Any(t => context.Words.IsRecordKey(t.Column)) && !context.Accounts.Accounts.Has(use.Access.Table);

    /// <summary>The other is held against the person, by another value of the request; and nothing on the way reads the column that ties the two.</summary>
    private static bool IsParent(CheckContext context, EntryAccess entry, RecordUse parent, RecordUse child, RowTerm key) =>
        !parent.Access.Table.Equals(child.Access.Table, StringComparison.OrdinalIgnoreCase) && parent.Access.Action is RecordAction.View or RecordAction.List
        && parent.Terms.Request.Any(t => context.Words.IsRecordKey(t.Column) && t.Value != key.Value && !child.Terms.Request.Any(c => c.Value == t.Value)) && ChildRecords.IsHeld(context, entry, parent)
        && ChildRecords.ColumnTo(context, child.Access.Table, parent.Access.Table) is { } column
        && !child.Terms.Other.Concat(child.Terms.Request.Select(t => t.Column)).Any(c => ChildRecords.Names(c, column))
        && !entry.Uses.Select(u => u.In).Append(entry.Entry.Handler!).Distinct().SelectMany(FieldNames.ReadIn).Any(n => ChildRecords.Names(n, column));
}
