using Bellator.Analysis.Ir;
using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;
using Bellator.Text;

namespace Bellator.Audit.Checks.Records;

/// <summary>A weakness in who gets which records, read from the access map.</summary>
public abstract class RecordCheck : Check
{
    /// <summary>Entries of journeys are about the account itself: who signs in or recovers is not known yet.</summary>
    protected static IEnumerable<EntryAccess> Entries(CheckContext context)
    {
        var journeys = context.Journeys.Where(j => j.Kind is not JourneyKind.Profile).SelectMany(j => j.Entries).Select(e => e.Handler).ToHashSet();
        return context.Access.Entries.Where(e => !journeys.Contains(e.Entry.Handler));
    }

    /// <summary>The request alone says which rows are meant, and everything on the way was understood.</summary>
    protected static bool IsChosenByRequest(CheckContext context, EntryAccess entry, RecordUse use) =>
        !use.Access.IsGuess && use.Terms.ChoosesOne && context.Access.ReachOf(entry, use) is RowReach.Chosen or RowReach.All;

    /// <summary>Where the value enters in the entry's own code; the use itself where that is elsewhere.</summary>
    protected static Location Entering(EntryAccess entry, RecordUse use, RowTerm term) =>
        entry.Entry.Handler is { } handler && !IsIn(use.Access.At, handler) && term.Taint?.Trace.Steps().Select(s => s.At).Where(a => IsIn(a, handler)).ToList() is [var first, ..] ? first : use.Access.At;

    private static bool IsIn(Location at, IrFunction function) => at.File == function.File.Index && at.Start >= function.Span.Start && at.End <= function.Span.End;

    protected static string Who(EntryAccess entry) => entry.Entry.SignIn == SignInNeed.Needed ? "any signed-in user" : entry.Entry.SignIn == SignInNeed.NotNeeded ? "anyone, without signing in," : "anyone who can reach it";

    protected static string Capital(string text) => char.ToUpperInvariant(text[0]) + text[1..];

    protected static string Address(EntryPoint entry) => entry.Address;

    /// <summary>The action as a verb: “lets any signed-in user delete …”.</summary>
    protected static string Does(RecordAction action) => action switch
    {
        RecordAction.Edit => "edit",
        RecordAction.Delete => "delete",
        RecordAction.List => "list",
        RecordAction.Create => "create",
        _ => "read",
    };
}
