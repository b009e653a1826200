using Bellator.Analysis.Libraries;
using Bellator.Analysis.Queries;
using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;

namespace Bellator.Audit.Sessions;

/// <summary>Entry points that change by GET what the address names, for whoever is signed in: a link or a picture on another site is enough.</summary>
internal static class ChangesByLink
{
    /// <returns>The entry, what it changes, and what of the request chooses the row.</returns>
    public static IEnumerable<(EntryAccess Entry, RecordUse Use, RowTerm Chosen)> Of(AccountContext context, AccessMap access, IReadOnlyList<Journey> journeys)
    {
        var ofJourneys = journeys.SelectMany(j => j.Entries).Select(e => e.Handler).ToHashSet();
        var forms = context.Surface.EntryPoints.Where(e => !IsByLink(e.Method)).Select(e => e.Handler).ToHashSet();
        foreach (var entry in access.Entries.Where(e => IsByLink(e.Entry.Method) && !ofJourneys.Contains(e.Entry.Handler) && !forms.Contains(e.Entry.Handler)))
        {
            if (entry.Uses.FirstOrDefault(u => (entry.Entry.SignIn == SignInNeed.Needed || u.Terms.OfSubject) && IsWish(context, entry, u)) is { } use && !ForgeryTable.IsByToken(context, entry.Entry) && !AsksInCode(context, entry.Entry, use) && !FieldNames.ReadIn(use.In).Concat(FieldNames.ReadIn(entry.Entry.Handler!)).Any(context.Words.AsksForMethod))
            {
                yield return (entry, use, Chosen(entry, use).First());
            }
        }
    }

    /// <summary>A check against forged requests stands in the function that changes the records, before it does.</summary>
    private static bool AsksInCode(AccountContext context, EntryPoint entry, RecordUse use) =>
        entry.Guards.Any(g => g.Asks == Requirement.Forgery) || new JourneyEvidence(context, entry).CallsNamed(context.Words.TellsOfForgery).Any(c => c.At.File == use.Access.At.File ? c.At.Start < use.Access.At.Start : c.At.File == entry.Handler!.File.Index);

    /// <summary>It answers to GET: said so, or to any method.</summary>
    private static bool IsByLink(string method) => method.ToUpperInvariant() is "GET" or "ALL" or "ANY" or "*";

    /// <summary>A row that the address names is changed or deleted, and not only marked as looked at.</summary>
    private static bool IsWish(AccountContext context, EntryAccess entry, RecordUse use) =>
        use.Access.Action is RecordAction.Edit or RecordAction.Delete && !use.Access.IsGuess && !use.IsFetched
        && Chosen(entry, use).FirstOrDefault(t => t.Taint?.Origin.Part is "query" or "path" || (t.Taint?.Origin.Part == "input" && entry.Entry.Method != "*")) is { } term
        && !context.Words.IsSecretToken(term.Column) && !context.Words.IsSecretToken(term.Taint!.Origin.Name ?? "") && !context.Words.IsSecretToken(IdentifierClassifier.Singular(use.Access.Table))
        && (use.Access.Action == RecordAction.Delete || !IsFilledByForm(use))
        && (use.Access.Action == RecordAction.Delete || WrittenColumns.Of(use.Access) is var written && (written.Count == 0 || !written.All(context.Words.TellsOfLooking)));

    /// <summary>All that the request brings into the row stands in a form, which a link has not.</summary>
    private static bool IsFilledByForm(RecordUse use) =>
        use.Happening.Role("fields").Parts.SelectMany(p => p.Taints).Where(t => t.IsSent).ToList() is { Count: > 0 } sent && sent.TrueForAll(t => t.Origin.Part is "form" or "body" or "upload");

    /// <summary>What of the request chooses the row: at the use itself, or where the row was looked up.</summary>
    private static IEnumerable<RowTerm> Chosen(EntryAccess entry, RecordUse use) =>
        use.Terms.Request.Count > 0 ? use.Terms.Request
        : use.Terms.ChoosesOne ? entry.Uses.Concat(entry.OnTheWay).Where(o => o.Access.Table.Equals(use.Access.Table, StringComparison.OrdinalIgnoreCase) && o.Access.Action == RecordAction.View).SelectMany(o => o.Terms.Request) : [];
}
