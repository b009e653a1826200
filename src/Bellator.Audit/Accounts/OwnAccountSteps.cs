using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Sql;

namespace Bellator.Audit.Accounts;

/// <summary>The steps of what people do with their own account: leaving, and changing what it says.</summary>
internal static class OwnAccountSteps
{
    public static IReadOnlyList<JourneyStep> SignOut(AccountContext context, JourneyEvidence e)
    {
        var ended = e.Acts["sign-out"].Select(e.Evidence).Concat(e.CallsNamed(n => n is "destroy" or "session_destroy" or "flush" or "invalidate" or "reset_session" or "SignOutAsync" or "logout" or "clear"))
            .Concat(e.Details.Accesses.Where(a => a.Action == RecordAction.Delete).Select(a => e.Evidence(a.At))).ToList();
        var cleared = e.CallsNamed(n => n.Contains("ookie", StringComparison.Ordinal)).ToList();
        var kept = context.Schema.Tables.Where(t => t.Columns.Exists(c => c.Name.Contains("token", StringComparison.OrdinalIgnoreCase)) && t.Name.Contains("session", StringComparison.OrdinalIgnoreCase)).ToList();
        var byLibrary = e.Acts["sign-out"].Any();
        var elsewhere = e.CallsNamed(n => !n.Contains("ookie", StringComparison.Ordinal) && (context.Words.TellsOfSigningOut(n) || context.Words.Ends(n))).Concat(e.Details.Accesses.Where(a => a.Action == RecordAction.Edit).Select(a => e.Evidence(a.At))).ToList();
        return
        [
            JourneyStep.Of("asked", e.Entry.Method is "GET" ? StepState.Unclear : StepState.Shown, e.Entry.Method is "GET" ? "by a link" : e.Entry.Method == "*" ? "any method" : e.Entry.Method, e.Entry.Method is "GET" ? "A picture on another site can sign people out." : "Not by a mere link.", e.Here),
            ended.Count > 0 ? JourneyStep.Of("session ended", StepState.Shown, "on the server", "What was known of the visitor is forgotten.", ended)
                : elsewhere.Count > 0 ? JourneyStep.Of("session ended", StepState.Unclear, "not followed", "A call that is named for it could not be followed.", elsewhere)
                : JourneyStep.Of("session ended", StepState.Absent, "not on the server", "Nothing that the server knows is taken away: whoever has the cookie or token stays in.", e.Here),
            cleared.Count > 0 ? JourneyStep.Of("cookie cleared", StepState.Shown, "yes", "The browser forgets it.", cleared) : JourneyStep.Of("cookie cleared", ended.Count > 0 || byLibrary ? StepState.NotNeeded : elsewhere.Count > 0 ? StepState.Unclear : StepState.Absent, ended.Count > 0 ? "worth nothing by then" : elsewhere.Count > 0 ? "not followed" : "no", "The cookie stays in the browser."),
            kept.Count == 0 ? JourneyStep.Of("tokens revoked", StepState.NotNeeded, "none are kept", "No table keeps tokens that live longer than a session.")
                : e.Details.Accesses.Any(a => a.Action is RecordAction.Delete or RecordAction.Edit && kept.Exists(k => k.Name.Equals(a.Table, StringComparison.OrdinalIgnoreCase)))
                ? JourneyStep.Of("tokens revoked", StepState.Shown, kept[0].Name, "The kept token is taken away.", e.Details.Accesses.Where(a => a.Action is RecordAction.Delete or RecordAction.Edit).Select(a => e.Evidence(a.At)))
                : JourneyStep.Of("tokens revoked", StepState.Absent, kept[0].Name + " kept", $"“{kept[0].Name}” keeps tokens, and signing out leaves them there.", e.Evidence(kept[0].At)),
        ];
    }

    public static IReadOnlyList<JourneyStep> ChangePassword(AccountContext context, JourneyEvidence e, InputRules rules) =>
    [
        Own(e),
        e.Verifications.Count > 0
            ? JourneyStep.Of("old one asked", StepState.Shown, "and verified", "Whoever finds a browser signed in cannot take the account over.", e.Verifications.Select(e.Evidence))
            : e.OldPasswordCompared.ToList() is { Count: > 0 } compared
            ? JourneyStep.Of("old one asked", StepState.Shown, "and compared", "Whoever finds a browser signed in cannot take the account over.", compared.Select(e.Evidence))
            : e.Texts(context.Words.AsksOldPassword).ToList() is { Count: > 0 } ruled
            ? JourneyStep.Of("old one asked", StepState.Shown, "by a rule", "A rule of the validation verifies it.", ruled)
            : e.Fields.Any(f => context.Words.IsPassword(f) && (f.Contains("old", StringComparison.OrdinalIgnoreCase) || f.Contains("current", StringComparison.OrdinalIgnoreCase)))
            ? JourneyStep.Of("old one asked", StepState.Unclear, "asked; check not seen", "It is asked for; where it is verified could not be followed.", e.Here)
            : JourneyStep.Of("old one asked", StepState.Absent, "not asked", "Whoever finds a browser signed in, or makes it send a request, takes the account over.", e.Here),
        Measured(context, e, rules),
        RegisterSteps.Hashed(context, e),
        RecoverSteps.SessionsEnd(context, e),
        RegisterSteps.Answer(context, e),
    ];

    private static JourneyStep Measured(AccountContext context, JourneyEvidence e, InputRules rules)
    {
        var measured = rules.For(e).Where(r => context.Words.IsPassword(r.Field)).ToList();
        return measured.Count > 0 || e.Acts["password-rules"].Any()
            ? JourneyStep.Of("validated", StepState.Shown, measured.FirstOrDefault(r => r.Kind == RuleKind.Minimum) is { } least ? least.Number is { } number ? $"{number} signs or more" : "as long as a setting says" : "has a rule", "The new password has a rule.", [.. measured.Select(r => new StepEvidence(r.At, r.Text)), .. e.Acts["password-rules"].Select(e.Evidence)])
            : JourneyStep.Of("validated", StepState.Absent, "nothing measures it", "No rule for the new password was found.", e.Here);
    }

    public static IReadOnlyList<JourneyStep> ChangeEmail(AccountContext context, JourneyEvidence e)
    {
        var confirms = e.Acts["address-confirmed"].Select(e.Evidence).Concat(e.CallsNamed(context.Words.TellsOfConfirming)).Concat(e.CallsNamed(context.Words.SendsMail)).ToList();
        return
        [
            Own(e),
            e.Verifications.Count > 0 ? JourneyStep.Of("password asked", StepState.Shown, "and verified", "The address is the key to the account: it takes the password to change it.", e.Verifications.Select(e.Evidence)) : JourneyStep.Of("password asked", StepState.Absent, "not asked", "Whoever finds a browser signed in moves the account to their own address, and asks for a new password there.", e.Here),
            confirms.Count > 0 ? JourneyStep.Of("confirmed", StepState.Shown, "a message is sent", "The new address has to answer.", confirms) : JourneyStep.Of("confirmed", StepState.Absent, "nothing is sent", "Nobody shows that the new address is theirs.", e.Here),
            RegisterSteps.Answer(context, e),
        ];
    }

    public static IReadOnlyList<JourneyStep> Profile(AccountContext context, JourneyEvidence e)
    {
        var whole = e.Events.FirstOrDefault(x => x is { Kind: EventKind.Sink, Sink.Kind: "assign" } && x.Role("value").Taints.Any(t => t.Origin.Kind == OriginKind.Request && (t.Safe & OutputContext.Object) == 0 && x.Role("value").Text is null));
        var edits = e.OnAccounts(RecordAction.Edit).ToList();
        return
        [
            Own(e),
            edits.Count == 0 && whole is null ? JourneyStep.Of("only these saved", StepState.NotNeeded, "nothing is changed", "The page only shows.")
                : whole is not null ? JourneyStep.Of("only these saved", StepState.Absent, "whatever is sent", "The record's fields are whatever the request brings.", e.Evidence(whole))
                : JourneyStep.Of("only these saved", edits.Exists(a => a.Columns.Count > 0) ? StepState.Shown : StepState.Unclear, edits.Exists(a => a.Columns.Count > 0) ? RegisterSteps.Few([.. edits.SelectMany(a => a.Columns).Distinct()], 3) : "columns not known", "What the code names is written.", edits.Select(a => e.Evidence(a.At))),
            RegisterSteps.Answer(context, e),
        ];
    }

    /// <summary>Whose account it is comes from the session, not from the request.</summary>
    private static JourneyStep Own(JourneyEvidence e)
    {
        if (!e.NeedsSignIn)
        {
            return JourneyStep.Of("own account", StepState.Absent, "no sign-in needed", "Anybody reaches it.", e.Here);
        }

        var guard = e.Entry.Guards.FirstOrDefault(g => g.Asks is Requirement.SignIn or Requirement.Role);
        var chosen = e.Uses.FirstOrDefault(u => u.Slot.Clause == SqlClause.Where && u.Taints.Any(t => t.Origin.Kind == OriginKind.Request && t.Origin.Part is "path" or "body" or "form" or "query") && u.Slot.Column?.EndsWith("id", StringComparison.OrdinalIgnoreCase) == true);
        return chosen is not null
            ? JourneyStep.Of("own account", StepState.Unclear, "chosen by the request", "Which account it is comes from the request; whether it is one's own has to be checked elsewhere.", e.Evidence(chosen.Event))
            : JourneyStep.Of("own account", StepState.Shown, "signed in", "One has to be signed in, and nothing in the request chooses another account.", guard is null ? e.Here : e.Evidence(guard.At, guard.Name));
    }
}
