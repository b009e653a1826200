using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>The session id is the same before and after signing in.</summary>
public sealed class Fixation : StepCheck
{
    public override string Id => "sessions/fixation";

    public override string Title => "Session fixation";

    public override IReadOnlyList<int> Cwes => [384];

    public override IReadOnlyList<string> Asvs => ["V7.2.4"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:R/S:U/C:H/I:H/A:N";

    public override string Why => "Whoever planted a session id in the victim’s browser, or read it before the sign-in, is signed in as the victim afterwards.";

    public override string FalsePositiveIf => "The framework renews the id by itself where it is told who signed in, or sessions live in the cookie and have no id.";

    public override string HowToFix(string language) => language switch
    {
        "php" => "session_regenerate_id(true) once the password was right, before anything is written into the session.",
        "javascript" => "req.session.regenerate(…) once the password was right, and write into the session in its callback.",
        "ruby" => "reset_session before the account’s id is written.",
        "csharp" => "Sign in with HttpContext.SignInAsync, or session.Clear() and a new cookie.",
        _ => "Renew the session once the password was right.",
    };

    /// <summary>Whoever has to be signed in already does not sign in here.</summary>
    protected override bool Counts(CheckContext context, Journey journey, JourneyStep step) => journey.Entries.All(e => e.SignIn != SignInNeed.Needed);

    protected override JourneyKind Journey => JourneyKind.SignIn;

    protected override string Step => "session new";

    protected override string Message(Journey journey, JourneyStep step) => $"{journey.Address}: no renewal of the session id was found once the password was checked.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var finding in base.Run(context))
        {
            yield return finding;
        }

        // Registering, confirming an address or following a link sign in as well.
        var signIns = context.Journeys.Where(j => j.Kind == JourneyKind.SignIn).SelectMany(j => j.Entries).Select(e => e.Handler).ToHashSet();
        var told = new HashSet<Text.Location>();
        foreach (var entry in context.Accounts.Surface.EntryPoints.Where(e => e is { Handler: not null, SignIn: not SignInNeed.Needed } && !signIns.Contains(e.Handler) && SessionLibraries.HaveIds(context.Accounts, e.Handler.File.Source.Language)).DistinctBy(e => e.Handler))
        {
            var evidence = new JourneyEvidence(context.Accounts, entry);
            if (evidence.SignedInAs is [var first, ..] && !evidence.Acts["session-new"].Any() && !evidence.CallsNamed(context.Words.RenewsSession).Any() && told.Add(first.At))
            {
                yield return new Finding
                {
                    Check = this,
                    At = first.At,
                    Certainty = Certainty.Matched,
                    Message = $"{entry.Address} signs the user in without renewing the session id.",
                    Related = [entry.At],
                    Subject = entry.Path,
                };
            }
        }
    }
}
