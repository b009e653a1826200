using Bellator.Analysis.Libraries;
using Bellator.Audit.Access;
using Bellator.Audit.Endpoints;

namespace Bellator.Audit.Checks.Records;

/// <summary>The request says whose records are meant.</summary>
public sealed class OwnerFromRequest : RecordCheck
{
    public override string Id => "records/owner-from-request";

    public override string Title => "Owner taken from the request";

    public override IReadOnlyList<int> Cwes => [639, 862];

    public override IReadOnlyList<string> Asvs => ["V8.2.2", "V8.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:L/A:N";

    public override string Why => "The client decides whose records these are: another id in the request returns another user’s.";

    public override string FalsePositiveIf => "These records are public per user, such as the posts on a profile page.";

    public override string HowToFix(string language) => "Take the owner from the session or token, or compare what the request says with that before anything is read.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var entry in Entries(context))
        {
            foreach (var use in entry.Uses)
            {
                if (Named(context, entry, use) is not { Elsewhere: var elsewhere, Term: var named })
                {
                    continue;
                }

                yield return new Finding
                {
                    Check = this,
                    At = Entering(entry, use, named),
                    Steps = named.Taint is { } taint ? CheckContext.Steps(taint, use.Access.At, use.Access.Table) : [],
                    Certainty = Certainty.Traced,
                    Message = $"{Address(entry.Entry)} lets any signed-in user {Does(use.Access.Action)} {use.Access.Table} records by a “{named.Column}” from the request; {Address(elsewhere.Entry)} takes it from the session or token.",
                    Related = [use.Access.At, elsewhere.Access.At, entry.Entry.At],
                    Subject = $"{use.Access.Table} {named.Column}",
                };
            }
        }
    }

    /// <summary>The column of the person that the request fills in the condition of a use, and where the person fills it; null where there is none.</summary>
    internal static (RowTerm Term, RecordUse Elsewhere)? Named(CheckContext context, EntryAccess entry, RecordUse use)
    {
        if (entry.Entry.SignIn != SignInNeed.Needed || use.Access.Action == RecordAction.Create || !IsChosenByRequest(context, entry, use) || context.Accounts.Accounts.Has(use.Access.Table)
            || context.Access.Owned(use.Access.Table) is not { } owned || RowRules.Limit(context, use.Access.Table))
        {
            return null;
        }

        foreach (var term in use.Terms.Request.Where(t => !context.Words.IsRecordKey(t.Column)))
        {
            if (Elsewhere(context, entry, owned, term) is { } elsewhere)
            {
                return (term, elsewhere);
            }
        }

        return null;
    }

    /// <summary>Another entry point that takes the same from the person: of the same records, or of any records that belong to people, where the person has a part of that name.</summary>
    private static RecordUse? Elsewhere(CheckContext context, EntryAccess entry, OwnedTable owned, RowTerm named) =>
        (owned.Columns.Contains(named.Column) ? owned.Limited.FirstOrDefault(l => l.Entry.Handler != entry.Entry.Handler && l.Terms.Subject.Any(t => t.Column.Equals(named.Column, StringComparison.OrdinalIgnoreCase))) : null)
        ?? (Last(named.Column) is var last && context.Words.IsKeyName(last) && !context.Words.IsRecordKey(last)
            ? context.Access.OwnedTables.SelectMany(o => o.Limited).FirstOrDefault(l => l.Entry.Handler != entry.Entry.Handler && l.Terms.Subject.Any(t => IdentifierClassifier.SameName(Last(t.Column), last) && IdentifierClassifier.SameName(Last(t.Value), last))) : null);

    /// <summary>The column itself, where a relation leads to it: <c>tuner__workshop_id</c>, <c>tuner.workshop_id</c>.</summary>
    private static string Last(string column) => column[(Math.Max(column.LastIndexOf('.'), column.LastIndexOf("__", StringComparison.Ordinal) is >= 0 and var at ? at + 1 : -1) + 1)..];
}
