using Bellator.Analysis.Queries;
using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>A record is changed by a request that any link or picture on another site can cause.</summary>
public sealed class ChangedByGet : Check
{
    public override string Id => "sessions/changed-by-get";

    public override string Title => "State change by GET";

    public override IReadOnlyList<int> Cwes => [352, 650];

    public override IReadOnlyList<string> Asvs => ["V3.5.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:R/S:U/C:N/I:L/A:N";

    public override string Why => "No CSRF protection looks at GET, and a session cookie with SameSite=Lax goes along with it: a link in a mail or on another site is enough to change the visitor’s records.";

    public override string FalsePositiveIf => "Nothing that matters is changed, or the address holds a token that only the person has.";

    public override string HowToFix(string language) => "Take the change by POST, or by the method that fits, with the CSRF protection on.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var journeys = context.Journeys.SelectMany(j => j.Entries).Select(e => e.Handler).ToHashSet();
        var forms = context.Accounts.Surface.EntryPoints.Where(e => !IsByLink(e.Method)).Select(e => e.Handler).ToHashSet();
        foreach (var entry in context.Access.Entries.Where(e => IsByLink(e.Entry.Method) && !journeys.Contains(e.Entry.Handler) && !forms.Contains(e.Entry.Handler)))
        {
            if (entry.Uses.FirstOrDefault(u => (entry.Entry.SignIn == SignInNeed.Needed || u.Terms.OfSubject) && IsWish(context, entry, u)) is { } use && !Forgery.IsByToken(context, entry.Entry) && !Forgery.AsksInCode(context, entry.Entry, use) && !FieldNames.ReadIn(use.In).Concat(FieldNames.ReadIn(entry.Entry.Handler!)).Any(context.Words.AsksForMethod))
            {
                yield return new Finding
                {
                    Check = this,
                    At = use.Access.At,
                    Certainty = Certainty.Traced,
                    Message = $"GET {entry.Entry.Path} {(use.Access.Action == RecordAction.Delete ? "deletes" : "changes")} the {use.Access.Table} record that the address names.",
                    Steps = Chosen(entry, use).First().Taint is { } taint ? CheckContext.Steps(taint, use.Access.At, "changed") : [],
                    Related = [entry.Entry.At],
                    Subject = use.Access.Table,
                };
            }
        }
    }

    /// <summary>It answers to GET: said so, or to any method.</summary>
    private static bool IsByLink(string method) => method.ToUpperInvariant() is "GET" or "ALL" or "ANY" or "*";

    /// <summary>A row that the address names is changed or deleted, and not only marked as looked at.</summary>
    private static bool IsWish(CheckContext context, EntryAccess entry, RecordUse use) =>
        use.Access.Action is RecordAction.Edit or RecordAction.Delete && !use.Access.IsGuess && !use.IsFetched
        && Chosen(entry, use).FirstOrDefault(t => t.Taint?.Origin.Part is "query" or "path" || (t.Taint?.Origin.Part == "input" && entry.Entry.Method != "*")) is { } term
        && !context.Words.IsSecretToken(term.Column) && !context.Words.IsSecretToken(term.Taint!.Origin.Name ?? "") && !context.Words.IsSecretToken(IdentifierOf(use))
        && (use.Access.Action == RecordAction.Delete || WrittenColumns.Of(use.Access) is var written && (written.Count == 0 || !written.All(context.Words.TellsOfLooking)));

    private static string IdentifierOf(RecordUse use) => Analysis.Libraries.IdentifierClassifier.Singular(use.Access.Table);

    /// <summary>What of the request chooses the row: at the use itself, or where the row was looked up.</summary>
    private static IEnumerable<RowTerm> Chosen(EntryAccess entry, RecordUse use) =>
        use.Terms.Request.Count > 0 ? use.Terms.Request
        : use.Terms.ChoosesOne ? entry.Uses.Concat(entry.OnTheWay).Where(o => o.Access.Table.Equals(use.Access.Table, StringComparison.OrdinalIgnoreCase) && o.Access.Action == RecordAction.View).SelectMany(o => o.Terms.Request) : [];
}
