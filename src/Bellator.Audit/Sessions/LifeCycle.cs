using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Queries;
using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Tables;
using Bellator.Text;

namespace Bellator.Audit.Sessions;

/// <summary>Derives what ends a credential: after each event, whether some check still accepts one that was issued before.</summary>
internal sealed class LifeCycle(AccountContext context, SessionContext sessions, IReadOnlyList<Journey> journeys)
{
    /// <summary>Journeys of the family's own code, or that a library brings where that code takes it in.</summary>
    public bool IsOf(Journey journey, string family) =>
        journey.Entries.Any(e => e.Handler is { } handler && Languages.Family(handler.File.Source.Language) == family)
        || (journey.Entries.All(e => e.Handler is null) && journey.At.IsKnown && Languages.Family(context.Program.Files[journey.At.File].Source.Language) == family);

    public static string FamilyOf(Journey journey) => journey.Entries.Select(e => e.Handler).OfType<IrFunction>().Select(h => Languages.Family(h.File.Source.Language)).FirstOrDefault() ?? "";

    public IReadOnlyList<LifeCell> OfLibrary(string family, CredentialModel model, IReadOnlyList<IrFile> files, bool isIssued) =>
    [
        SignIn(family, model),
        Registering(family, model),
        RoleChange(family, model.Kind == "token"),
        PasswordSet(family, model, JourneyKind.ChangePassword, LifeEvent.PasswordChange),
        PasswordSet(family, model, JourneyKind.Recover, LifeEvent.PasswordReset),
        SignOut(family, model),
        Disabled(family),
        .. Limits(model, files, isIssued),
    ];

    public IReadOnlyList<LifeCell> OfTable(KeptCredential kept)
    {
        var isKey = context.Words.TellsOfProgramKey(kept.Table);
        var family = Languages.Family(kept.Lookups[0].Function.File.Source.Language);
        return
        [
            LifeCell.Of(LifeEvent.SignIn, LifeState.NotNeeded, "each one is issued anew"),
            LifeCell.Of(LifeEvent.Register, LifeState.NotNeeded, "each one is issued anew"),
            RoleChange(family),
            ByRow(kept, LifeEvent.PasswordChange, Entries(JourneyKind.ChangePassword)),
            ByRow(kept, LifeEvent.PasswordReset, Entries(JourneyKind.Recover)),
            isKey || !kept.IsCookie ? LifeCell.Of(LifeEvent.SignOut, LifeState.NotNeeded, "no browser is signed in by it") : ByRow(kept, LifeEvent.SignOut, Entries(JourneyKind.SignOut) is var all && all.FindAll(e => sessions.Ends.IsOfSameDoor(kept, e)) is { Count: > 0 } beside ? beside : all),
            Disabled(family),
            LifeCell.Of(LifeEvent.Idle, LifeState.NotNeeded, "it has one end, if any"),
            RowEnd(kept),
        ];
    }

    public IReadOnlyList<LifeCell> OfLink(Journey journey) =>
    [
        .. new[] { LifeEvent.SignIn, LifeEvent.Register, LifeEvent.RoleChange, LifeEvent.PasswordChange }.Select(e => LifeCell.Of(e, LifeState.NotNeeded, "no event for a link")),
        OfStep(LifeEvent.PasswordReset, journey.Step("used once"), "it is good once", "it can be used again"),
        LifeCell.Of(LifeEvent.SignOut, LifeState.NotNeeded, "no event for a link"),
        LifeCell.Of(LifeEvent.AccountDisabled, LifeState.Unclear, "not followed"),
        LifeCell.Of(LifeEvent.Idle, LifeState.NotNeeded, "it has one end, if any"),
        OfStep(LifeEvent.Absolute, journey.Step("ends"), journey.Step("ends")?.Text ?? "it ends", "it has no end"),
    ];

    private LifeCell SignIn(string family, CredentialModel model) =>
        model.Kind == "token" ? LifeCell.Of(LifeEvent.SignIn, LifeState.NotNeeded, "each sign-in makes one of its own")
        : Worst(LifeEvent.SignIn, Of(JourneyKind.SignIn, family).Select(j => j.Step("session new") switch
        {
            { State: StepState.NotNeeded } step => LifeCell.Of(LifeEvent.SignIn, LifeState.NotNeeded, step.Text, step.Evidence),
            _ when model.InBrowser && j.Step("session new") is { State: StepState.Absent or StepState.Shown } step => LifeCell.Of(LifeEvent.SignIn, LifeState.NotNeeded, "it has no id that could be planted", step.Evidence),
            var step => OfStep(LifeEvent.SignIn, step, "it gets a new id", "its id stays"),
        }), "no sign-in was found in this code");

    /// <summary>Where registering signs in as well, the id must be a new one there, too.</summary>
    private LifeCell Registering(string family, CredentialModel model)
    {
        if (model.Kind == "token")
        {
            return LifeCell.Of(LifeEvent.Register, LifeState.NotNeeded, "each one is issued anew");
        }

        return Worst(LifeEvent.Register, Of(JourneyKind.Register, family).SelectMany(j => j.Entries).Where(e => e.Handler is not null).Select(e => new JourneyEvidence(context, e)).Where(e => e.SignedInAs.Count > 0).Select(e =>
            e.Acts["session-new"].Select(e.Evidence).Concat(e.CallsNamed(context.Words.RenewsSession)).ToList() is { Count: > 0 } renewed ? LifeCell.Of(LifeEvent.Register, LifeState.Ends, "it gets a new id", renewed)
            : LifeCell.Of(LifeEvent.Register, model.InBrowser ? LifeState.NotNeeded : LifeState.Stays, model.InBrowser ? "it has no id that could be planted" : "registering signs in under the same id", e.SignedInAs)), "registering signs nobody in");
    }

    /// <summary>A right that is put into the credential stays there when it is taken away.</summary>
    /// <param name="isToken">What is put into it is not followed.</param>
    private LifeCell RoleChange(string family, bool isToken = false)
    {
        var roles = context.Program.Functions.Where(f => !f.IsBrought && Languages.Family(f.File.Source.Language) == family)
            .SelectMany(context.KeptInSession).Where(k => context.Words.TellsOfRole(k.Key)).Select(k => new StepEvidence(k.At, k.Key)).ToList();
        return isToken ? LifeCell.Of(LifeEvent.RoleChange, LifeState.Unclear, "whether a role is put into it was not followed")
            : roles.Count > 0 ? LifeCell.Of(LifeEvent.RoleChange, LifeState.Stays, $"“{roles[0].Note}” is kept in it", roles)
            : context.Surface.EntryPoints.Any(e => e.Guards.Any(g => g.Asks == Requirement.Role)) ? LifeCell.Of(LifeEvent.RoleChange, LifeState.Ends, "no role was seen in it")
            : LifeCell.Of(LifeEvent.RoleChange, LifeState.NotNeeded, "no address asks for a role");
    }

    private LifeCell PasswordSet(string family, CredentialModel model, JourneyKind kind, LifeEvent what)
    {
        var none = kind == JourneyKind.Recover ? "no way to a new password was found" : "no way to change it was found";
        return Worst(what, Of(kind, family).Select(j =>
        {
            var step = j.Step("sessions end");
            if (step is { State: StepState.Shown } shown && model.Kind == "session" && !model.InBrowser)
            {
                return LifeCell.Of(what, LifeState.Ends, shown.Text, shown.Evidence);
            }

            // What is checked with each request may tell: a stamp, a version, the hash of the password.
            foreach (var change in j.Entries.Where(e => e.Handler is not null).SelectMany(sessions.Ends.ChangesOf).Where(a => a.Action == RecordAction.Edit && context.Accounts.Has(a.Table)))
            {
                foreach (var use in context.Accounts.Tables.Where(t => t.Name.Equals(change.Table, StringComparison.OrdinalIgnoreCase)).SelectMany(sessions.Recognition.Of))
                {
                    if (WrittenColumns.Of(change).FirstOrDefault(c => !context.Words.IsAccountName(c) && sessions.Recognition.Depends(use, c)) is { } column)
                    {
                        return LifeCell.Of(what, LifeState.Ends, $"each request asks for “{column}”", new StepEvidence(use.Access.At, column), new StepEvidence(change.At, column));
                    }
                }
            }

            return step is { State: StepState.Shown } ended ? LifeCell.Of(what, LifeState.Unclear, "something is ended; whether this is, is not seen", ended.Evidence)
                : LifeCell.Of(what, LifeState.Stays, "others go on", new StepEvidence(j.At, j.Address));
        }), none);
    }

    private LifeCell SignOut(string family, CredentialModel model)
    {
        var all = Of(JourneyKind.SignOut, family).ToList();
        if (model.Kind == "token")
        {
            var kept = sessions.Kept.All.FirstOrDefault(k => k.Lookups.Exists(l => l.Sent.Origin.Kind == Analysis.Domain.OriginKind.Subject));
            return all.Count == 0 ? LifeCell.Of(LifeEvent.SignOut, LifeState.Stays, "nothing on the server ends it")
                : kept is not null ? ByRow(kept, LifeEvent.SignOut, [.. all.SelectMany(j => j.Entries)])
                : LifeCell.Of(LifeEvent.SignOut, LifeState.Stays, "nothing on the server ends it", all.Select(j => new StepEvidence(j.At, j.Address)));
        }

        return Worst(LifeEvent.SignOut, all.Select(j => model.InBrowser && j.Step("session ended") is { State: StepState.Shown } step
            ? LifeCell.Of(LifeEvent.SignOut, LifeState.Stays, "the browser forgets it; a copy stays good", step.Evidence)
            : OfStep(LifeEvent.SignOut, j.Step("session ended"), "ended on the server", "nothing on the server ends it")), "no way to sign out was found");
    }

    /// <summary>An account that may not go on: whether its state is asked for wherever the account of whoever asks is loaded.</summary>
    private LifeCell Disabled(string family)
    {
        var barring = ColumnsOf(context.Words.TellsOfBarring);
        var columns = barring.Count > 0 ? barring : ColumnsOf(context.Words.TellsOfStatus);
        return columns.Count == 0 ? LifeCell.Of(LifeEvent.AccountDisabled, LifeState.NotNeeded, "no column says that an account may not go on")
            : Worst(LifeEvent.AccountDisabled, columns.Select(c => Disabled(family, c.Table, c.Column.Name, c.Column.At, barring.Count > 0)), "");
    }

    private List<(Table Table, Column Column)> ColumnsOf(Func<string, bool> says) => [.. context.Accounts.Tables.SelectMany(t => t.Columns.Where(c => says(c.Name)).Select(c => (t, c)))];

    private LifeCell Disabled(string family, Table table, string column, Location declared, bool isSure)
    {
        var uses = sessions.Recognition.Of(table).Where(u => Languages.Family(u.In.File.Source.Language) == family).ToList();
        var open = uses.Find(u => !sessions.Recognition.Asks(u, column));
        return (uses.Count, open) switch
        {
            (0, _) when LoadsNoAccount(family) is { Count: > 0 } guards => LifeCell.Of(LifeEvent.AccountDisabled, isSure ? LifeState.Stays : LifeState.Unclear, $"no request looks at “{column}”: the account is not loaded again", [.. guards, new StepEvidence(declared, column)]),
            (0, _) => LifeCell.Of(LifeEvent.AccountDisabled, LifeState.Unclear, "where its account is loaded could not be followed"),
            (_, not null) => LifeCell.Of(LifeEvent.AccountDisabled, isSure ? LifeState.Stays : LifeState.Unclear, $"“{column}” is not asked for", new StepEvidence(open.Access.At, column)),
            _ when uses.TrueForAll(u => sessions.Recognition.Depends(u, column)) => LifeCell.Of(LifeEvent.AccountDisabled, LifeState.Ends, $"each request asks for “{column}”", uses.Select(u => new StepEvidence(u.Access.At, column))),
            _ => LifeCell.Of(LifeEvent.AccountDisabled, LifeState.Unclear, $"“{column}” is read; what depends on it could not be followed", uses.Select(u => new StepEvidence(u.Access.At, column))),
        };
    }

    /// <summary>The guards of a language, where all of them were read and none comes to the table of accounts.</summary>
    private List<StepEvidence> LoadsNoAccount(string family)
    {
        var guards = context.Surface.EntryPoints.Where(e => e.SignIn == SignInNeed.Needed && e.Handler is { } handler && Languages.Family(handler.File.Source.Language) == family)
            .SelectMany(e => e.Guards.Where(g => g.Asks is Requirement.SignIn or Requirement.Role)).DistinctBy(g => g.At).ToList();
        return guards.TrueForAll(g => g.Function is { } step && !context.Surface.OwnReach(step).SelectMany(f => context.Flow.SummaryOf(f).Events).SelectMany(context.Surface.AccessesOf).Any(a => context.Accounts.Has(a.Table)))
            ? [.. guards.Take(3).Select(g => new StepEvidence(g.At, g.Name))] : [];
    }

    private IEnumerable<LifeCell> Limits(CredentialModel model, IReadOnlyList<IrFile> files, bool isIssued)
    {
        if (model.Kind == "token")
        {
            var open = context.Flow.Events.At("token-no-expiry").Where(e => e.Depth == 0 && files.Any(f => f.Index == e.At.File)).Select(e => new StepEvidence(e.At, "no expiry time")).ToList();
            yield return LifeCell.Of(LifeEvent.Idle, LifeState.NotNeeded, "a token has one end, if any");
            yield return open.Count > 0 ? LifeCell.Of(LifeEvent.Absolute, LifeState.Stays, "it has no expiry time", open)
                : !isIssued ? LifeCell.Of(LifeEvent.Absolute, LifeState.Unclear, "it is issued elsewhere")
                : model.SaysExpiry ? LifeCell.Of(LifeEvent.Absolute, LifeState.Ends, "it has an expiry time")
                : LifeCell.Of(LifeEvent.Absolute, LifeState.Unclear, "whether it gets an expiry time was not followed");
            yield break;
        }

        yield return Limit(LifeEvent.Idle, model.Idle, model.IdleSettings, files, "nothing ends it when it is not used");
        yield return Limit(LifeEvent.Absolute, model.Absolute, model.AbsoluteSettings, files, "used often enough, it goes on for ever");
    }

    private static LifeCell Limit(LifeEvent what, string usual, List<string> settings, IReadOnlyList<IrFile> files, string otherwise)
    {
        var set = settings.Count == 0 ? [] : files.SelectMany(SettingPlaces.In).Where(s => settings.Contains(s.Name)).Take(3).Select(s => new StepEvidence(s.At, s.Name)).ToList();
        return set.Count > 0 ? LifeCell.Of(what, LifeState.Ends, $"as {set[0].Note} says", set)
            : usual.Length > 0 ? LifeCell.Of(what, LifeState.Ends, usual)
            : LifeCell.Of(what, LifeState.Stays, otherwise);
    }

    /// <summary>What changes at the entry points, held against what the look-ups of the credential look at.</summary>
    private LifeCell ByRow(KeptCredential kept, LifeEvent what, IReadOnlyList<EntryPoint> entries)
    {
        if (entries.Count == 0)
        {
            return LifeCell.Of(what, LifeState.NotNeeded, what == LifeEvent.SignOut ? "no way to sign out was found" : "no such page was found");
        }

        return Worst(what, entries.Where(e => e.Handler is not null).DistinctBy(e => e.Handler).Select(e => sessions.Ends.ChangesOf(e).Where(a => CredentialEnds.Ends(kept, a)).ToList() is { Count: > 0 } ended
            ? LifeCell.Of(what, LifeState.Ends, "its row goes, or what it is held against", ended.Select(a => new StepEvidence(a.At, a.Table)))
            : LifeCell.Of(what, LifeState.Stays, $"{kept.Table} is left as it is", new StepEvidence(e.At, e.Address))), "no such page was found");
    }

    private LifeCell RowEnd(KeptCredential kept)
    {
        var table = context.Schema.Find(kept.Table);
        var end = table?.Columns.Find(c => context.Words.TellsOfExpiry(c.Name));
        var lookups = kept.Lookups.FindAll(l => l.Action != RecordAction.Delete);
        if (lookups.Count == 0)
        {
            return LifeCell.Of(LifeEvent.Absolute, LifeState.Unclear, "where it is looked up is not seen");
        }

        var places = lookups.Select(l => new StepEvidence(l.At, "looked up")).ToList();
        if (lookups.TrueForAll(l => l.Looked.Any(context.Words.TellsOfExpiry) || TestedNames.In(l.Function).Any(n => context.Words.TellsOfExpiry(n) || context.Words.TellsWhen(n))))
        {
            return LifeCell.Of(LifeEvent.Absolute, LifeState.Ends, "the look-up asks for its end", places);
        }

        return lookups.Find(l => !l.Looked.Any(c => context.Words.TellsOfExpiry(c) || context.Words.TellsWhen(c))) is not { } open ? LifeCell.Of(LifeEvent.Absolute, LifeState.Unclear, "a time is read beside it; what depends on it could not be followed", places)
            : end is not null ? LifeCell.Of(LifeEvent.Absolute, LifeState.Stays, $"{end.Name} is kept and not asked for", new StepEvidence(open.At, "looked up"), new StepEvidence(end.At, end.Name))
            : table is { Columns.Count: > 0 } ? LifeCell.Of(LifeEvent.Absolute, LifeState.Stays, "it has no end", new StepEvidence(open.At, "looked up"))
            : LifeCell.Of(LifeEvent.Absolute, LifeState.Unclear, "the table’s columns are not known", places);
    }

    private IEnumerable<Journey> Of(JourneyKind kind, string family) => journeys.Where(j => j.Kind == kind && IsOf(j, family));

    private List<EntryPoint> Entries(JourneyKind kind) => [.. journeys.Where(j => j.Kind == kind).SelectMany(j => j.Entries)];

    private static LifeCell OfStep(LifeEvent what, JourneyStep? step, string ends, string stays) => step switch
    {
        { State: StepState.Shown } => LifeCell.Of(what, LifeState.Ends, ends, step.Evidence),
        { State: StepState.Absent } => LifeCell.Of(what, LifeState.Stays, stays, step.Evidence),
        { State: StepState.NotNeeded } => LifeCell.Of(what, LifeState.NotNeeded, step.Text, step.Evidence),
        { } => LifeCell.Of(what, LifeState.Unclear, step.Text, step.Evidence),
        null => LifeCell.Of(what, LifeState.Unclear, "not seen"),
    };

    /// <summary>Of several ways the one on which the credential outlives the event: that is the one that will be used.</summary>
    private static LifeCell Worst(LifeEvent what, IEnumerable<LifeCell> cells, string none) =>
        cells.OrderBy(c => c.State switch { LifeState.Stays => 0, LifeState.Unclear => 1, LifeState.Ends => 2, _ => 3 }).FirstOrDefault() ?? LifeCell.Of(what, LifeState.NotNeeded, none);
}
