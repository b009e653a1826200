using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;

namespace Bellator.Audit.Sessions;

public enum ForgeryState
{
    /// <summary>A check was found that another site’s request does not pass.</summary>
    Protected,

    /// <summary>None was found.</summary>
    Open,

    /// <summary>It was taken off.</summary>
    Exempt,

    /// <summary>Nothing that the browser sends by itself is recognised.</summary>
    NotNeeded,

    Unclear,
}

/// <summary>Whether another site can make a signed-in visitor change something at one entry point.</summary>
/// <param name="By">What protects it, or why it is as it is.</param>
public sealed record ForgeryRow(EntryPoint Entry, ForgeryState State, string By, IReadOnlyList<StepEvidence> Evidence);

/// <summary>Every entry point that changes something for whoever is signed in, with what keeps forged requests out.</summary>
internal sealed class ForgeryTable(AccountContext context, SessionContext sessions, AccessMap access, IReadOnlyList<Journey> journeys)
{
    private readonly ForgeryDefaults _defaults = new(context.Program, context.Flow.Facts);

    public IReadOnlyList<ForgeryRow> Rows()
    {
        var signIns = journeys.Where(j => j.Kind is JourneyKind.SignIn or JourneyKind.Register).SelectMany(j => j.Entries).Select(e => e.Handler).ToHashSet();
        var byLink = ChangesByLink.Of(context, access, journeys).Select(c => (c.Entry.Entry, c.Use.Access.At)).DistinctBy(c => c.Entry).ToDictionary(c => c.Entry, c => c.At);
        return [.. context.Surface.EntryPoints.Where(e => e.Handler is not null && (e.SignIn != SignInNeed.NotNeeded || signIns.Contains(e.Handler))).DistinctBy(e => (e.Method, e.Path))
            .Select(e => byLink.TryGetValue(e, out var at) ? new ForgeryRow(e, ForgeryState.Open, "changes something by GET: a link on another site is enough", Known(new StepEvidence(at, e.Address))) : IsChange(e) ? Row(e) : null).OfType<ForgeryRow>()
            .OrderBy(r => r.State switch { ForgeryState.Open => 0, ForgeryState.Exempt => 1, ForgeryState.Unclear => 2, ForgeryState.Protected => 3, _ => 4 })];
    }

    /// <summary>By any method only where something is changed that was seen.</summary>
    private bool IsChange(EntryPoint entry) => entry.Method.ToUpperInvariant() switch
    {
        "GET" or "HEAD" or "OPTIONS" or "TRACE" => false,
        "*" => context.Surface.Of(entry).Accesses.Any(a => a.Action == RecordAction.Create) || sessions.Ends.ChangesOf(entry).Count > 0,
        _ => true,
    };

    private ForgeryRow Row(EntryPoint entry)
    {
        if (IsByToken(context, entry))
        {
            return new(entry, ForgeryState.NotNeeded, "recognised by a header, which no other site makes the browser send", []);
        }

        if (entry.Guards.FirstOrDefault(g => g.Asks == Requirement.ForgeryOff) is { } off)
        {
            return new(entry, ForgeryState.Exempt, $"exempt by {off.Name}", Known(new StepEvidence(off.At, off.Name)));
        }

        if (entry.Guards.FirstOrDefault(g => g.Asks == Requirement.Forgery) is { } guard)
        {
            return new(entry, ForgeryState.Protected, guard.Name, Known(new StepEvidence(guard.At, guard.Name)));
        }

        if (_defaults.Of(entry) is { } usual)
        {
            return new(entry, ForgeryState.Protected, usual.Note, Known(usual));
        }

        return new JourneyEvidence(context, entry).CallsNamed(context.Words.TellsOfForgery).FirstOrDefault() is { } call
            ? new(entry, ForgeryState.Protected, $"{call.Note} in the code", Known(call))
            : entry.Guards.FirstOrDefault(g => g.Asks == Requirement.Perhaps || (g.Asks == Requirement.Other && g.Function is null)) is { } unknown
            ? new(entry, ForgeryState.Unclear, $"what {unknown.Name} does was not understood", Known(new StepEvidence(unknown.At, unknown.Name)))
            : new(entry, ForgeryState.Open, "nothing was found but the cookie’s own SameSite", Known(new StepEvidence(entry.At, entry.Address)));
    }

    /// <summary>Who asks is known by a token in a header, which no other site makes the browser send.</summary>
    internal static bool IsByToken(AccountContext context, EntryPoint entry) =>
        entry.Guards.Any(g => g.Asks is Requirement.SignIn or Requirement.Role && (context.Words.TellsOfBearer(g.Name) || (g.Function is { } step && ReadsHeaderOnly(context, step))));

    private static bool ReadsHeaderOnly(AccountContext context, Analysis.Ir.IrFunction step)
    {
        var parts = context.Surface.OwnReach(step).SelectMany(f => context.Flow.SummaryOf(f).Events).SelectMany(e => e.Roles.Values).SelectMany(Analysis.Domain.FieldAccess.DeepTaints).Select(t => t.Origin.Part).ToHashSet(StringComparer.Ordinal);
        return parts.Contains("header") && !parts.Contains("cookie");
    }

    private static IReadOnlyList<StepEvidence> Known(StepEvidence evidence) => evidence.At.IsKnown ? [evidence] : [];
}
