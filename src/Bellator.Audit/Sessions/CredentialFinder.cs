using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Queries;
using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Tables;
using Bellator.Text;

namespace Bellator.Audit.Sessions;

/// <summary>Finds every credential that a program hands out, with what is done to it and what ends it.</summary>
public sealed class CredentialFinder
{
    private const int MostPlaces = 6;
    private readonly AccountContext _context;
    private readonly SessionContext _sessions;
    private readonly IReadOnlyList<Journey> _journeys;
    private readonly LifeCycle _life;

    public CredentialFinder(AccountContext context, SessionContext sessions, IReadOnlyList<Journey> journeys)
    {
        (_context, _sessions, _journeys) = (context, sessions, journeys);
        _life = new LifeCycle(context, sessions, journeys);
    }

    public IReadOnlyList<Credential> Find() =>
    [
        .. OfLibraries(),
        .. _sessions.Kept.All.Where(k => k.Lookups.Count > 0).Select(OfTable),
        .. _journeys.Where(j => j.Kind == JourneyKind.Recover).Select(OfLink),
    ];

    /// <summary>Libraries whose use shows: by an import, or by a call where nothing is imported.</summary>
    private IEnumerable<Credential> OfLibraries()
    {
        foreach (var files in _context.Program.Files.Where(f => f.Source.Language != Language.Sql).GroupBy(f => Languages.Family(f.Source.Language)))
        {
            foreach (var model in _context.Flow.Facts.For(files.Key).Credentials)
            {
                var showing = files.Where(f => SessionLibraries.Shows(f, model)).ToList();
                if (showing.Count > 0 && (model.Kind != "session" || IsUsed(files.Key, model)))
                {
                    yield return Of(files.Key, model, showing, [.. files]);
                }
            }
        }
    }

    /// <summary>Sessions of a language count where somebody signs in by that language, or is asked to be signed in.</summary>
    private bool IsUsed(string family, CredentialModel model) =>
        model.Imports.Count > 0 || _journeys.Any(j => _life.IsOf(j, family)) || _context.Surface.EntryPoints.Any(e => e is { SignIn: SignInNeed.Needed, Handler: { } handler } && Languages.Family(handler.File.Source.Language) == family);

    private Credential Of(string family, CredentialModel model, List<IrFile> showing, List<IrFile> all)
    {
        var isToken = model.Kind == "token";
        var issued = isToken ? CallsIn(showing, model.Issues) : Kept(family);
        var verified = isToken ? CallsIn(showing, model.Verifies) : [];
        var asked = AskedBy(family);
        var operations = new List<CredentialOperation>
        {
            new(OperationKind.Issued, issued.Count == 0 ? isToken ? "not by this code" : "where it is not seen" : isToken ? "signed" : "kept at sign-in", issued),
            new(OperationKind.Carried, isToken ? "where the code puts it" : model.Carrier, Attributes(showing)),
            new(OperationKind.Kept, model.InBrowser ? isToken ? "in the client only" : "in the browser, sealed or signed" : "on the server, found by its id", []),
            new(OperationKind.Checked, isToken && verified.Count == 0 ? "not by this code" : asked.Text, isToken ? verified : asked.Evidence),
        };
        return new Credential(model.Name, isToken ? CredentialKind.Token : CredentialKind.Session, family, operations, _life.OfLibrary(family, model, all, issued.Count > 0));
    }

    /// <summary>Places of the sign-in where the session is told who is signed in.</summary>
    private List<StepEvidence> Kept(string family) =>
        [.. _journeys.Where(j => j.Kind == JourneyKind.SignIn && _life.IsOf(j, family)).SelectMany(j => j.Entries).Where(e => e.Handler is not null).Take(MostPlaces)
            .SelectMany(e => new JourneyEvidence(_context, e) is var evidence && evidence.SignedInAs is { Count: > 0 } named ? named : evidence.KeptInSession).DistinctBy(e => e.At).Take(MostPlaces)];

    private static List<StepEvidence> CallsIn(List<IrFile> files, List<string> names) =>
        [.. files.SelectMany(f => f.Functions).SelectMany(f => f.NamedCalls.Where(c => names.Contains(c.Name)).Select(c => new StepEvidence(f.LocationOf(c.Instruction), c.Name))).Take(MostPlaces)];

    private (string Text, IReadOnlyList<StepEvidence> Evidence) AskedBy(string family)
    {
        var entries = _context.Surface.EntryPoints.Where(e => e.Handler is { } handler && Languages.Family(handler.File.Source.Language) == family).ToList();
        var needed = entries.Where(e => e.SignIn == SignInNeed.Needed).ToList();
        var guards = needed.SelectMany(e => e.Guards.Where(g => g.Asks is Requirement.SignIn or Requirement.Role)).GroupBy(g => g.At).OrderByDescending(g => g.Count()).Take(MostPlaces).Select(g => new StepEvidence(g.Key, g.First().Name)).Where(e => e.At.IsKnown);
        return (needed.Count == 0 ? "by no address that was understood" : $"by {needed.Count} of {entries.Count} {(entries.Count == 1 ? "address" : "addresses")}", [.. guards]);
    }

    /// <summary>What is switched off of the cookie, as the checks see it.</summary>
    private List<StepEvidence> Attributes(List<IrFile> files)
    {
        var indices = files.Select(f => f.Index).ToHashSet();
        return [.. new[] { ("cookie-not-secure", "without Secure"), ("cookie-readable", "without HttpOnly"), ("cookie-cross-site", "SameSite=None") }
            .SelectMany(k => _context.Flow.Events.At(k.Item1).Where(e => e.Depth == 0 && indices.Contains(e.At.File) && e.Sink?.NameAt is null).Select(e => new StepEvidence(e.At, k.Item2))).Take(MostPlaces)];
    }

    private Credential OfTable(KeptCredential kept)
    {
        var isKey = _context.Words.TellsOfProgramKey(kept.Table);
        var family = Languages.Family(kept.Lookups[0].Function.File.Source.Language);
        var deleted = kept.Lookups.Where(l => l.Action == RecordAction.Delete).Select(l => new StepEvidence(l.At, "deleted")).ToList();
        var operations = new List<CredentialOperation>
        {
            new(OperationKind.Issued, kept.Issued.Count == 0 ? "where it is not seen" : "a row is made", [.. kept.Issued.Take(MostPlaces).Select(a => new StepEvidence(a, "a row is made"))]),
            new(OperationKind.Carried, $"{(kept.IsCookie ? "the cookie" : "the header")} {(kept.Carrier == Analysis.Domain.Origin.AnyName ? "that a setting names" : kept.Carrier)}", [.. kept.Lookups.Where(l => l.InAddress is not null).Take(1).Select(l => new StepEvidence(l.At, "in the address, too"))]),
            new(OperationKind.Kept, $"{kept.Table}.{kept.Column}, {(kept.IsPlain ? "as it is sent" : "as a digest")}", [.. _context.Schema.Find(kept.Table)?.Find(kept.Column) is { } column ? [new StepEvidence(column.At, kept.Column)] : Array.Empty<StepEvidence>()]),
            new(OperationKind.Checked, kept.Lookups.Count == 1 ? "by one look-up" : $"by {kept.Lookups.Count} look-ups", [.. kept.Lookups.Where(l => l.Action != RecordAction.Delete).Take(MostPlaces).Select(l => new StepEvidence(l.At, "looked up"))]),
        };
        if (deleted.Count > 0)
        {
            operations.Add(new(OperationKind.Ended, "its row is deleted", deleted));
        }

        return new Credential(kept.Table, isKey ? CredentialKind.ProgramKey : CredentialKind.KeptToken, family, operations, _life.OfTable(kept));
    }

    private Credential OfLink(Journey journey)
    {
        var (made, kept) = (journey.Step("token made"), journey.Step("kept"));
        var operations = new List<CredentialOperation>
        {
            new(OperationKind.Issued, made?.Text ?? "where it is not seen", made?.Evidence ?? []),
            new(OperationKind.Carried, "a link that is mailed", []),
            new(OperationKind.Kept, kept?.Text ?? "where it is not seen", kept?.Evidence ?? []),
            new(OperationKind.Checked, journey.Address, [new StepEvidence(journey.At, journey.Address)]),
        };
        return new Credential($"link for a new password, {journey.By}", CredentialKind.OneTimeLink, LifeCycle.FamilyOf(journey), operations, _life.OfLink(journey));
    }
}
