using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Sessions;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>The check against forged requests is switched off, for all or for one endpoint, or an endpoint lacks what its neighbours have.</summary>
public sealed class Forgery : SwitchCheck
{
    public override string Id => "sessions/forgery";

    public override string Title => "CSRF protection missing";

    public override IReadOnlyList<int> Cwes => [352];

    public override IReadOnlyList<string> Asvs => ["V3.5.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:R/S:U/C:N/I:H/A:N";

    public override string Why => "A form or picture on another site makes the browser send the request with the visitor’s own cookie; without a token that the other site cannot know, the application takes it for the visitor’s wish.";

    public override string FalsePositiveIf => "Nobody is recognised by a cookie here: the request carries a token or key in a header.";

    public override string HowToFix(string language) => "Leave the protection on; exempt only endpoints that are called with a key in a header and never with the session cookie.";

    protected override string Kind => "forgery-off";

    protected override string Message(AnalysisEvent happening) => "The framework’s CSRF protection is disabled here.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var finding in base.Run(context))
        {
            yield return finding;
        }

        var signIns = context.Journeys.Where(j => j.Kind == JourneyKind.SignIn).SelectMany(j => j.Entries).Select(e => e.Handler).ToHashSet();
        var changing = context.Accounts.Surface.EntryPoints.Where(e => e.Handler is not null && (!IsSafe(e.Method) || (e.Method == "*" && e.Guards.Any(g => g.Asks == Requirement.ForgeryOff))) && (e.SignIn == SignInNeed.Needed || signIns.Contains(e.Handler)) && !IsByToken(context, e)).ToList();
        foreach (var entry in changing.DistinctBy(e => e.Handler))
        {
            if (entry.Guards.FirstOrDefault(g => g.Asks == Requirement.ForgeryOff) is { } exempt)
            {
                // A whole class without it is commonly one for programs, which send a key.
                if (entry.Handler!.Class is not null && (exempt.At.File != entry.Handler.File.Index || exempt.At.Start < entry.Handler.Span.Start || exempt.At.End > entry.Handler.Span.End))
                {
                    continue;
                }

                yield return Found(entry, exempt.At, $"{entry.Address} is exempt from the CSRF protection by “{exempt.Name}”.");
            }
        }

        // One class is one place to mend, by a mark on all of it.
        foreach (var type in changing.Where(e => e.Handler!.Class is not null && !signIns.Contains(e.Handler)).DistinctBy(e => e.Handler).GroupBy(e => e.Handler!.Class!))
        {
            var open = type.Where(e => !e.Guards.Any(g => g.Asks is Requirement.Forgery or Requirement.ForgeryOff) && !AsksInCode(context, e)).OrderBy(e => e.Handler!.Span.Start).ToList();
            if (open.Count > 0 && changing.Where(e => e.Handler!.Class == type.Key).Select(Guarded).FirstOrDefault(g => g is not null) is { } theirs)
            {
                yield return Found(open[0], open[0].Handler!.LocationOf(0), $"{string.Join(", ", open.Take(3).Select(e => e.Address))}{(open.Count > 3 ? $" and {open.Count - 3} more" : "")} {(open.Count == 1 ? "lacks" : "lack")} the CSRF protection “{theirs.Name}” that other actions of the class have.", [theirs.At, .. open.Skip(1).Select(e => e.Handler!.LocationOf(0))]);
            }
        }
    }

    private Finding Found(EntryPoint entry, Text.Location at, string message, params Text.Location[] related) => new()
    {
        Check = this,
        At = at,
        Certainty = Certainty.Traced,
        Message = message,
        Related = [.. related, entry.At],
        Subject = entry.Path,
    };

    private static bool IsSafe(string method) => method.ToUpperInvariant() is "GET" or "HEAD" or "OPTIONS" or "TRACE" or "*";

    private static Middleware? Guarded(EntryPoint entry) => entry.Guards.FirstOrDefault(g => g.Asks == Requirement.Forgery);

    private static bool AsksInCode(CheckContext context, EntryPoint entry) => new JourneyEvidence(context.Accounts, entry).CallsNamed(context.Words.TellsOfForgery).Any();

    /// <summary>Who asks is known by a token in a header, which no other site makes the browser send.</summary>
    internal static bool IsByToken(CheckContext context, EntryPoint entry) => ForgeryTable.IsByToken(context.Accounts, entry);
}
