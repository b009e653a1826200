using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Sql;
using Bellator.Text;

namespace Bellator.Audit.Accounts;

/// <summary>The steps of signing in: from the look-up to where it leads.</summary>
internal static class SignInSteps
{
    /// <summary>Said of a comparison by another scheme than passwords are set with.</summary>
    internal const string NotAsRegistered = "not as registered";

    public static IReadOnlyList<JourneyStep> Of(AccountContext context, JourneyEvidence e, IReadOnlyList<HashUse> registered) =>
        [LookUp(context, e), Compared(context, e, registered), SameAnswer(context, e), Throttled(context, e), StatusChecked(context, e), SessionNew(context, e), LeadsTo(context, e)];

    private static JourneyStep LookUp(AccountContext context, JourneyEvidence e)
    {
        var found = e.OnAccounts(RecordAction.View, RecordAction.List).ToList();
        var byHash = e.Uses.Where(u => u.Slot.Clause == SqlClause.Where && context.Words.IsPasswordColumn(u.Slot.Column)).ToList();
        if (byHash.Count > 0)
        {
            return JourneyStep.Of("look-up", StepState.Unclear, "by name and password", "The password stands in the condition of the query: the database compares it.", byHash.Select(u => e.Evidence(u.Event)));
        }

        if (found.Count > 0)
        {
            var by = found.SelectMany(a => a.Columns).Where(c => !context.Words.IsPasswordColumn(c)).Distinct(StringComparer.OrdinalIgnoreCase).ToList();
            return JourneyStep.Of("look-up", StepState.Shown, by.Count > 0 ? "by " + RegisterSteps.Few(by, 2) : "found", "The account is looked for by what was given.", found.Select(a => e.Evidence(a.At)));
        }

        return e.Acts["account-found"].FirstOrDefault() is { } act
            ? JourneyStep.Of("look-up", StepState.Shown, act.Role("note").Constant is { Length: > 0 } note ? note : "by the library", "The library looks for the account.", e.Evidence(act))
            : JourneyStep.Of("look-up", StepState.Unclear, "not seen", "Where the account is looked for could not be followed.", e.Here);
    }

    private static JourneyStep Compared(AccountContext context, JourneyEvidence e, IReadOnlyList<HashUse> registered)
    {
        if (e.Verifications.Count > 0)
        {
            var note = e.Verifications.Select(v => v.Role("note").Constant).FirstOrDefault(n => n is { Length: > 0 });
            var other = e.PasswordHashes.Where(h => h.IsFast).ToList();
            return other.Count > 0
                ? JourneyStep.Of("compared", StepState.Unclear, "by the scheme; old ones too", $"Values of an old scheme ({string.Join(", ", other.Select(o => o.Scheme).Distinct())}) are still accepted.", e.Verifications.Select(e.Evidence).Concat(other.Select(o => e.Evidence(o.Event))))
                : JourneyStep.Of("compared", StepState.Shown, note ?? Called(context, e.Verifications[0]), "A function made for it compares, in constant time.", e.Verifications.Select(e.Evidence));
        }

        var plain = e.Comparisons.Where(c => e.IsOfPassword(c.Role("left")) || e.IsOfPassword(c.Role("right"))).ToList();
        if (plain.Exists(c => c.Role("left").Taints.Concat(c.Role("right").Taints).All(t => t.Transform == PasswordTransform.Plain)))
        {
            return JourneyStep.Of("compared", StepState.Absent, "as typed", "The password is compared as it was typed: so it is kept as it was typed.", plain.Select(e.Evidence));
        }

        if (e.PasswordHashes.Count > 0)
        {
            var schemes = string.Join(" then ", e.PasswordHashes.Select(h => h.Scheme).Distinct());
            var differs = registered.Count > 0 && !registered.Any(r => e.PasswordHashes.Any(h => h.Scheme == r.Scheme));
            var note = differs ? $" Registering uses {string.Join(", ", registered.Select(r => r.Title).Distinct())}: whoever registers there cannot sign in here." : "";
            return JourneyStep.Of("compared", StepState.Absent, schemes + (differs ? ", " + NotAsRegistered : ""), "What was typed is hashed by a fast function and compared with what is kept." + note, e.PasswordHashes.Select(h => e.Evidence(h.Event)).Concat(plain.Select(e.Evidence)));
        }

        return JourneyStep.Of("compared", StepState.Unclear, "not seen", "Where the password is compared could not be followed.", e.Here);
    }

    private static string Called(AccountContext context, AnalysisEvent call)
    {
        var text = context.TextOf(call.At);
        return text.IndexOf('(', StringComparison.Ordinal) is > 0 and var end ? text[..end].Trim() : text;
    }

    private static JourneyStep SameAnswer(AccountContext context, JourneyEvidence e)
    {
        if (e.Acts["same-answer"].FirstOrDefault() is { } act)
        {
            return JourneyStep.Of("same answer", StepState.Shown, act.Role("note").Constant is { Length: > 0 } note ? note : "by the library", "The library does not tell the two cases apart.", e.Evidence(act));
        }

        foreach (var function in e.Functions)
        {
            if (SignInAnswers.In(function, context.Words) is { } answers)
            {
                return answers.Differ
                    ? JourneyStep.Of("same answer", StepState.Absent, $"{Quoted(answers.Missing)} and {Quoted(answers.Wrong)} differ", "Whoever tries names learns which have an account.", e.Evidence(answers.MissingAt), e.Evidence(answers.WrongAt))
                    : JourneyStep.Of("same answer", StepState.Shown, "one sentence", "Both cases are answered alike.", e.Evidence(answers.MissingAt), e.Evidence(answers.WrongAt));
            }
        }

        if (!e.OnAccounts(RecordAction.View, RecordAction.List).Any())
        {
            return JourneyStep.Of("same answer", StepState.Unclear, "not seen", "Where the account is looked up could not be followed, so nor could what is said when there is none.", e.Here);
        }

        return JourneyStep.Of("same answer", StepState.Shown, "one way out", "No branch was seen that tells an unknown name from a wrong password.", e.Here);
    }

    private static string Quoted(IReadOnlyList<string> said) => said.Count == 0 ? "another answer" : $"“{(said[0].Length > 24 ? said[0][..24] + "…" : said[0])}”";

    internal static JourneyStep Throttled(AccountContext context, JourneyEvidence e)
    {
        var guards = e.Entry.Guards.Where(g => g.Asks == Requirement.Throttle).Select(g => e.Evidence(g.At, g.Name)).ToList();
        if (guards.Count > 0)
        {
            return JourneyStep.Of("throttled", StepState.Shown, guards[0].Note, "A limit stands on the way.", guards);
        }

        var acts = e.Acts["lockout"].Concat(e.Acts["throttle"]).ToList();
        if (acts.Count > 0)
        {
            return JourneyStep.Of("throttled", StepState.Shown, acts[0].Role("note").Constant is { Length: > 0 } note ? note : "by the library", "The library counts failed tries.", acts.Select(e.Evidence));
        }

        var code = e.CallsNamed(context.Words.LimitsTries)
            .Concat(e.Details.Accesses.Where(a => context.Words.LimitsTries(a.Table) || a.Columns.Any(context.Words.LimitsTries)).Select(a => e.Evidence(a.At)))
            .Concat(e.Members().Where(m => context.Words.LimitsTries(m.Name)).Select(m => e.Evidence(m.At, m.Name))).ToList();
        return code.Count > 0
            ? JourneyStep.Of("throttled", StepState.Shown, "counted in code", "The code keeps count of tries.", code)
            : JourneyStep.Of("throttled", StepState.Absent, "no limit found", "Nothing on the way counts tries: passwords can be guessed as fast as the server answers.", e.Here);
    }

    internal static JourneyStep StatusChecked(AccountContext context, JourneyEvidence e)
    {
        if (e.Acts["status-checked"].FirstOrDefault() is { } act)
        {
            return JourneyStep.Of("status checked", StepState.Shown, act.Role("note").Constant is { Length: > 0 } note ? note : "by the library", "The library refuses accounts that may not sign in.", e.Evidence(act));
        }

        var columns = e.AccountTables.SelectMany(t => t.Columns).Where(c => context.Words.TellsOfStatus(c.Name)).ToList();
        var used = e.Members().Where(m => context.Words.TellsOfStatus(m.Name) && (columns.Count == 0 || columns.Exists(c => InputRules.Plain(c.Name) == InputRules.Plain(m.Name)))).Select(m => e.Evidence(m.At, m.Name))
            .Concat(e.Events.Where(q => q.Kind is EventKind.Query && SqlTexts.Of(q.Role("text")).Any(s => columns.Exists(c => string.Concat(s.Pieces.Select(p => p.Literal)) is var text && text.IndexOf(c.Name, Math.Max(0, text.IndexOf("where", StringComparison.OrdinalIgnoreCase)), StringComparison.OrdinalIgnoreCase) >= 0))).Select(e.Evidence)).ToList();
        if (columns.Count > 0)
        {
            return used.Count > 0
                ? JourneyStep.Of("status checked", StepState.Shown, RegisterSteps.Few([.. columns.Select(c => c.Name)], 2), "The account's state is looked at.", used)
                : JourneyStep.Of("status checked", StepState.Absent, RegisterSteps.Few([.. columns.Select(c => c.Name)], 2) + " ignored", $"There is “{columns[0].Name}”, and signing in does not look at it.", columns.Select(c => e.Evidence(c.At)));
        }

        return used.Count > 0
            ? JourneyStep.Of("status checked", StepState.Shown, used[0].Note, "The account's state is looked at.", used)
            : JourneyStep.Of("status checked", StepState.NotNeeded, "accounts have no state", "No column or member says that an account may not sign in.");
    }

    internal static JourneyStep SessionNew(AccountContext context, JourneyEvidence e)
    {
        var fresh = e.Acts["session-new"].Select(e.Evidence).Concat(e.CallsNamed(context.Words.RenewsSession)).ToList();
        if (fresh.Count > 0)
        {
            return JourneyStep.Of("session new", StepState.Shown, "new id", "The session gets a new id: one that was planted before is worth nothing.", fresh);
        }

        var tokens = e.CallsNamed(context.Words.IssuesToken).ToList();
        var kept = e.KeptInSession;
        if (kept.Count > 0 && (tokens.Count == 0 || e.SignedInAs.Count > 0))
        {
            // Sessions that live in a signed cookie have no id to plant.
            var hasId = SessionLibraries.HaveIds(context, context.Program.Files[kept[0].At.File].Source.Language);
            return JourneyStep.Of("session new", hasId ? StepState.Absent : StepState.NotNeeded, hasId ? "id kept from before" : "signed cookie", "Who was visitor becomes member under the same id.", kept);
        }

        return tokens.Count > 0
            ? JourneyStep.Of("session new", StepState.NotNeeded, "a token is made", "Each sign-in makes a token of its own.", tokens)
            : JourneyStep.Of("session new", StepState.Unclear, "not seen", "How the browser is known afterwards could not be followed.", e.Here);
    }

    private static JourneyStep LeadsTo(AccountContext context, JourneyEvidence e)
    {
        var answer = RegisterSteps.Answer(context, e);
        return answer with { Name = "leads to" };
    }
}
