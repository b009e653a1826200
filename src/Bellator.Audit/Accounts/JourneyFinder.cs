using Bellator.Analysis.Domain;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Sql;
using Bellator.Text;

namespace Bellator.Audit.Accounts;

/// <summary>Finds the journeys of an application by what its entry points do, and by what libraries bring.</summary>
public sealed class JourneyFinder
{
    private static readonly string[] Changing = ["POST", "PUT", "PATCH", "*", "DELETE"];
    private readonly AccountContext _context;
    private readonly List<JourneyEvidence> _all;
    private readonly InputRules _rules;
    private readonly WorkerPool _crew;

    internal JourneyFinder(AccountContext context, WorkerPool crew)
    {
        _context = context;
        _crew = crew;
        _rules = new InputRules(context);

        // One function may answer at several addresses and to several methods: it is looked at once, by the one that changes most.
        var byHandler = context.Surface.EntryPoints.Where(e => e.Handler is not null).GroupBy(e => e.Handler)
            .Select(g => g.OrderBy(e => Array.IndexOf(Changing, e.Method) is >= 0 and var rank ? rank : Changing.Length).ToList()).ToList();
        var all = new JourneyEvidence[byHandler.Count];
        crew.ForEach(all.Length, i => all[i] = new JourneyEvidence(context, byHandler[i][0]) { Others = byHandler[i][1..] });
        _all = [.. all];
        _signingOut = all.SelectMany(e => e.Acts["sign-out"].Select(a => a.At).Distinct()).CountBy(a => a).ToDictionary();
    }

    /// <summary>How many handlers come to each place that ends a session.</summary>
    private readonly Dictionary<Text.Location, int> _signingOut;

    /// <summary>Places that end a session and that more handlers than this come to are on the way in: they turn out whom they do not recognise.</summary>
    private const int FewSignOuts = 2;

    public InputRules Rules => _rules;

    public JourneyEvidence EvidenceOf(EntryPoint entry) => _all.Find(e => ReferenceEquals(e.Entry, entry)) ?? new JourneyEvidence(_context, entry);

    public IReadOnlyList<Journey> Find()
    {
        var kinds = new Kinds[_all.Count];
        _crew.ForEach(kinds.Length, i => kinds[i] = KindsOf(_all[i]));
        List<JourneyEvidence> Those(Func<Kinds, bool> are) => [.. _all.Where((_, i) => are(kinds[i]))];
        var schemes = Those(k => k.Registers).Concat(Those(k => k.ChangesPassword)).SelectMany(e => e.PasswordHashes).ToList();
        var making = new List<Func<Journey>>();
        void Make(JourneyKind kind, IEnumerable<IReadOnlyList<JourneyEvidence>> passed, Func<IReadOnlyList<JourneyEvidence>, IReadOnlyList<JourneyStep>> steps) =>
            making.AddRange(passed.Select(p => (Func<Journey>)(() => Made(kind, p, steps(p)))));
        void MakeEach(JourneyKind kind, Func<Kinds, bool> are, Func<JourneyEvidence, IReadOnlyList<JourneyStep>> steps) =>
            Make(kind, Those(are).Select(e => (IReadOnlyList<JourneyEvidence>)[e]), p => steps(p[0]));
        MakeEach(JourneyKind.Register, k => k.Registers, e => RegisterSteps.Of(_context, e, _rules));
        MakeEach(JourneyKind.SignIn, k => k is { SignsIn: true, Registers: false }, e => SignInSteps.Of(_context, e, schemes));
        MakeEach(JourneyKind.SignOut, k => k.SignsOut, e => OwnAccountSteps.SignOut(_context, e));
        Make(JourneyKind.Recover, Recoveries(), p => RecoverSteps.Of(_context, p, _rules));
        MakeEach(JourneyKind.ChangePassword, k => k is { ChangesPassword: true, Registers: false }, e => OwnAccountSteps.ChangePassword(_context, e, _rules));
        MakeEach(JourneyKind.ChangeEmail, k => k is { ChangesEmail: true, ChangesPassword: false, Registers: false }, e => OwnAccountSteps.ChangeEmail(_context, e));
        MakeEach(JourneyKind.Profile, k => k is { IsProfile: true, Registers: false, SignsIn: false }, e => OwnAccountSteps.Profile(_context, e));
        var made = new Journey[making.Count];
        _crew.ForEach(made.Length, i => made[i] = making[i]());
        var provided = new ProvidedJourneys(_context).All().ToList();
        return [.. Merged(made.Where(j => !provided.Exists(p => IsTakenBy(p, j)))).Concat(provided).OrderBy(j => j.Kind).ThenBy(j => j.At.File).ThenBy(j => j.At.Start)];
    }

    /// <summary>A library that settings name answers at the address before its handler is reached: an empty one only gives the address a name.</summary>
    private static bool IsTakenBy(Journey provided, Journey own) =>
        provided.IsSetUp && provided.Kind == own.Kind && own.Entries.All(e => e.Handler is { } handler && handler.Blocks.Count(b => b.IsReachable) == 1 && provided.Address.EndsWith(" " + e.Path, StringComparison.Ordinal));

    /// <summary>Addresses that come to the same code for every step are one journey: files that include the same one, say.</summary>
    private IEnumerable<Journey> Merged(IEnumerable<Journey> made)
    {
        foreach (var same in made.GroupBy(j => (j.Kind, Traits: string.Join(';', j.Steps.Select(s => $"{s.State}{s.Text}{string.Join(',', s.Evidence.Where(e => !IsStart(j, e)).Select(e => e.At))}")))))
        {
            var all = same.ToList();
            var isShown = all[0].Steps.Any(s => s.Evidence.Any(e => !IsStart(all[0], e)));
            foreach (var journey in isShown ? [Together(all)] : all)
            {
                yield return journey;
            }
        }
    }

    /// <summary>One journey for several addresses, under the one that is called signing in, or the shortest.</summary>
    private Journey Together(List<Journey> all)
    {
        var first = all.Find(j => _context.Words.TellsOfSignIn(j.Address)) ?? all.MinBy(j => j.Address.Length)!;
        return all.Count == 1 ? first : first with { Entries = [.. all.SelectMany(j => j.Entries)], Address = $"{first.Address}, and {all.Count - 1} more" };
    }

    /// <summary>The evidence is only where the handler begins.</summary>
    private static bool IsStart(Journey journey, StepEvidence evidence) => journey.Entries.Any(e => e.Handler is { } handler && evidence.At.File == handler.File.Index && evidence.At.Start == handler.Span.Start);

    /// <summary>What an entry point may be a journey of.</summary>
    private readonly record struct Kinds(bool Registers, bool SignsIn, bool SignsOut, bool ChangesPassword, bool ChangesEmail, bool IsProfile);

    private Kinds KindsOf(JourneyEvidence e) => new(IsRegister(e), IsSignIn(e), IsSignOut(e), IsChangeOfPassword(e), IsChangeOfEmail(e), IsProfile(e));

    private static Journey Made(JourneyKind kind, IReadOnlyList<JourneyEvidence> passed, IReadOnlyList<JourneyStep> steps)
    {
        var main = passed[^1];
        var at = main.Here.At;
        return new Journey(kind, [.. passed.Select(p => p.Entry)], Languages.Title(main.Entry.Handler!.File.Source.Language), at, steps)
        {
            Address = string.Join(", ", passed.SelectMany(p => p.Others.Prepend(p.Entry)).Select(e => $"{(e.Method == "*" ? "any" : e.Method)} {e.Path}").Distinct().Take(4)),
        };
    }

    /// <summary>It is about recovery alone: a script of its own that also verifies passwords or makes accounts does several things by what is asked of it.</summary>
    private bool OnlyRecovers(JourneyEvidence e) =>
        IsRecovery(e) && !(e.Entry.Handler is { IsTopLevel: true } && !e.IsNamed(_context.Words.TellsOfRecovery));

    private bool IsRecovery(JourneyEvidence e) => e.IsNamed(_context.Words.TellsOfRecovery) || e.Acts["reset-token-made"].Any() || e.Acts["reset-token-used"].Any();

    /// <summary>Somebody new gets an account with a password of their own.</summary>
    private bool IsRegister(JourneyEvidence e) =>
        e.Entry.Method is not ("GET" or "DELETE") && !OnlyRecovers(e) && e.TakesPassword && !OnlySignsIn(e)
        && (e.OnAccounts(RecordAction.Create).Any() || e.Acts["account-made"].Any() || (e.IsNamed(_context.Words.TellsOfJoining) && e.OnAccounts(RecordAction.Edit).Any()))
        && e.Entry.Guards.All(g => g.Asks != Requirement.Role) && !e.NeedsSignIn;

    private bool Verifies(JourneyEvidence e) => e.Verifications.Count > 0 || ComparesPassword(e) || (e.PasswordHashes.Count > 0 && ComparesHash(e));

    /// <summary>It is called signing in, and verifies: the account that it may make is one that another directory has let in.</summary>
    private bool OnlySignsIn(JourneyEvidence e) => e.IsNamed(_context.Words.IsSignIn) && !e.IsNamed(_context.Words.TellsOfJoining) && Verifies(e);

    private bool IsSignIn(JourneyEvidence e) =>
        e.Entry.Method is not "DELETE" && !OnlyRecovers(e) && !e.ComesSignedIn && Verifies(e)
        && (OnlySignsIn(e) || SignsIn(e)) && (e.Fields.Count > 0 || e.TakesWholeBody || e.Acts["password-verified"].Any());

    private bool SignsIn(JourneyEvidence e) =>
        (e.Acts["sign-in"].Any() || e.Acts["session-new"].Any() || e.KeptInSession.Count > 0 || e.IsNamed(_context.Words.IsSignIn) || e.CallsNamed(_context.Words.IssuesToken).Any())
        && !SetsPassword(e) && !e.OnAccounts(RecordAction.Create).Any() && !e.Acts["account-made"].Any();

    private static bool ComparesPassword(JourneyEvidence e) => e.Comparisons.Any(c => e.IsOfPassword(c.Role("left")) || e.IsOfPassword(c.Role("right")));

    /// <summary>The hash of what was typed stands in the condition of a query.</summary>
    private static bool ComparesHash(JourneyEvidence e) => e.Uses.Any(u => u.Slot.Clause == SqlClause.Where && u.Taints.Any(t => t.Transform is PasswordTransform.FastHash or PasswordTransform.SlowHash or PasswordTransform.Plain && t.Origin.Kind == OriginKind.Request)) && e.PasswordHashes.Count > 0;

    private bool SetsPassword(JourneyEvidence e) =>
        e.Acts["password-set"].Any() || e.PasswordWrites.Any(w => w.Statement.Verb == "UPDATE" && w.Taints.Any(t => t.Origin.Kind == OriginKind.Request))
        || (e.PasswordHashes.Any(h => !h.IsFast) && e.OnAccounts(RecordAction.Edit).Any() && e.Verifications.Count == 0)
        || (e.NeedsSignIn && (e.Fields.Count(_context.Words.IsPassword) > 1 || e.TypesPasswordAgain) && e.OnAccounts(RecordAction.Edit).Any());

    private bool IsSignOut(JourneyEvidence e) =>
        ((e.Verifications.Count == 0 && e.KeptInSession.Count == 0) || e.IsNamed(_context.Words.TellsOfSigningOut) || e.CallsNamed(_context.Words.TellsOfSigningOut).Any()) &&
        (e.Acts["sign-out"].Any(a => _signingOut[a.At] <= FewSignOuts) || e.IsNamed(_context.Words.TellsOfSigningOut)) && !e.Entry.Path.Contains("account/delete", StringComparison.OrdinalIgnoreCase) && (e.IsNamed(_context.Words.TellsOfSigningOut) || e.Entry.Method == "DELETE" || (!e.Acts["account-made"].Any() && e.OnAccounts(RecordAction.Create, RecordAction.Edit, RecordAction.Delete).Any() == false));

    private bool IsChangeOfPassword(JourneyEvidence e) => !IsRecovery(e) && e.Entry.Method is not ("GET" or "DELETE") && e.Entry.Guards.All(g => g.Asks != Requirement.Role) && SetsPassword(e) && e.TakesPassword && (e.NeedsSignIn || e.IsNamed(_context.Words.MentionsPassword));

    private bool IsChangeOfEmail(JourneyEvidence e) =>
        !IsRecovery(e) && e.Entry.Method != "GET" && e.NeedsSignIn && e.Entry.Guards.All(g => g.Asks != Requirement.Role)
        && (e.OnAccounts(RecordAction.Edit).Any(a => a.Columns.Any(c => _context.Words.IsEmail(c))) || e.Acts["address-confirmed"].Any() && e.Fields.Any(f => _context.Words.IsEmail(f)));

    private bool IsProfile(JourneyEvidence e) =>
        e.NeedsSignIn && !IsRecovery(e) && e.Entry.Guards.All(g => g.Asks != Requirement.Role) && !IsChangeOfPassword(e) && !IsChangeOfEmail(e)
        && SpeaksOfOneself(e.Entry.Path) && e.OnAccounts(RecordAction.View, RecordAction.Edit, RecordAction.List).Any();

    private bool SpeaksOfOneself(string path)
    {
        var segments = path.Split('/', StringSplitOptions.RemoveEmptyEntries).Select(s => System.IO.Path.GetFileNameWithoutExtension(s)).ToList();
        return !path.Contains('{', StringComparison.Ordinal) && segments.Count > 0 && (segments.Exists(s => s is "me" or "mine" or "self" or "myself" or "profile") || segments[^1] == "my" || _context.Words.TellsOfOneself(segments[^1]));
    }

    /// <summary>Asking for a new password and setting it belong together: those of one file that has both, the others of one language and folder.</summary>
    private IEnumerable<IReadOnlyList<JourneyEvidence>> Recoveries()
    {
        // Who asks for it gets a message beside the code that uses the token.
        var used = _all.Where(e => e.Acts["reset-token-used"].Any()).Select(e => e.Entry.Handler!.File).ToHashSet();
        var byFile = _all.Where(e => (IsRecovery(e) || (e.Acts["mail"].Any() && used.Contains(e.Entry.Handler!.File))) && e.Entry.Guards.All(g => g.Asks != Requirement.Role) && (e.Entry.Method != "GET" || e.Entry.Handler!.IsTopLevel || e.TakesPassword || e.Acts["mail"].Any()))
            .GroupBy(e => e.Entry.Handler!.File).ToList();
        static bool IsWhole(IEnumerable<JourneyEvidence> group) => group.Any(e => e.TakesPassword) && group.Any(e => e.SendsToken);
        return byFile.Where(IsWhole).Select(g => g.ToList())
            .Concat(byFile.Where(g => !IsWhole(g)).SelectMany(g => g).GroupBy(e => (e.Entry.Handler!.File.Source.Language, Folder(e.Entry.Handler.File.Source.Path))).Select(g => g.ToList()))
            .Select(g => (IReadOnlyList<JourneyEvidence>)[.. g.OrderBy(e => e.TakesPassword)])
            .Where(g => g.Any(e => e.TakesPassword || e.Acts["mail"].Any() || e.OnAccounts(RecordAction.View, RecordAction.Edit).Any()));
    }

    private static string Folder(string path) => path.LastIndexOf('/') is >= 0 and var slash ? path[..slash] : "";
}
