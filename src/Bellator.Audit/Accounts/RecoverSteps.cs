using System.Globalization;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Sql;
using Bellator.Audit.Tables;
using Bellator.Syntax;

namespace Bellator.Audit.Accounts;

/// <summary>A value that is made up, with how hard it is to guess.</summary>
/// <param name="Bits">At best; null if not known.</param>
public sealed record MadeUp(AnalysisEvent Event, double? Bits, bool IsWeak)
{
    /// <summary>Below this a token can be guessed (OWASP ASVS 5.0, 7.2.3 asks for 128 bits for session tokens; from memory).</summary>
    public const double Enough = 64;

    public static MadeUp Of(AnalysisEvent random)
    {
        var fact = random.Fact!.Random!;
        double? Number(string role) => double.TryParse(random.Role(role).Constant, NumberStyles.Float, CultureInfo.InvariantCulture, out var number) ? number : null;
        double? bits = Number("size") is { } size ? size * fact.Per
            : Number("high") is { } high ? Math.Log2(Math.Max(1, high - (Number("low") ?? 0) + 1))
            : fact.Bits > 0 ? fact.Bits : null;
        return new MadeUp(random, bits, fact.Weak);
    }
}

/// <summary>The steps of getting back in without the password: asking, the token, and the new password.</summary>
internal static class RecoverSteps
{
    public static IReadOnlyList<JourneyStep> Of(AccountContext context, IReadOnlyList<JourneyEvidence> passed, InputRules rules)
    {
        var ask = passed.FirstOrDefault(p => p.SendsToken) ?? passed.FirstOrDefault(p => !p.TakesPassword) ?? passed[0];
        var use = passed.LastOrDefault(p => p.TakesPassword) ?? passed[^1];
        return [Asked(context, ask), SameAnswer(context, ask), TokenMade(context, passed, ask), Kept(context, passed, ask), Ends(context, passed), UsedOnce(context, passed, use), NewPassword(context, use, rules), SessionsEnd(context, use)];
    }

    private static JourneyStep Asked(AccountContext context, JourneyEvidence ask) =>
        ask.Fields.FirstOrDefault(f => context.Words.IsAccountName(f) || context.Words.IsEmail(f)) is { } by
            ? JourneyStep.Of("asked", StepState.Shown, "by " + by, "People say who they are.", ask.Here)
            : JourneyStep.Of("asked", StepState.Unclear, "not seen", "By what people ask could not be followed.", ask.Here);

    private static JourneyStep SameAnswer(AccountContext context, JourneyEvidence ask)
    {
        if (ask.Acts["same-answer"].FirstOrDefault() is { } act)
        {
            return JourneyStep.Of("same answer", StepState.Shown, "by the library", "The library answers alike.", ask.Evidence(act));
        }

        // A branch on whether there is an account, which ends there, with words of its own.
        StepEvidence? branch = null;
        foreach (var function in ask.Functions.Take(1))
        {
            foreach (var block in function.Blocks.Where(b => b is { IsReachable: true, Condition: >= 0, Successors.Count: 2 }))
            {
                var at = function.LocationOf(block.Condition);
                if (!context.Accounts.Speaks(context.TextOf(at)) || Ends(block) is not { Count: > 0 } ends)
                {
                    continue;
                }

                // Where it can be told which side is the one on which there is nobody, what that side says counts, if the other does not say it too.
                var nobody = function.Blocks[block.Successors[AuthorizationChecks.IsPresence(function, block.Condition) ? 1 : 0]];
                var end = ends.Contains(nobody) ? nobody : ends[0];
                var elsewhere = function.Blocks.Where(b => b.IsReachable && b != end).SelectMany(b => b.Instructions).Select(i => function.Instructions[i]).Where(i => i.Op == Opcode.Constant).Select(i => i.Text).ToHashSet();
                if (end.Instructions.Any(i => (IsSentence(function, i) && !elsewhere.Contains(function.Instructions[i].Text)) || TellsUnknown(context, function, i)))
                {
                    return JourneyStep.Of("same answer", StepState.Absent, "says if there is one", "An address without an account gets an answer of its own.", ask.Evidence(at));
                }

                branch ??= SaysOther(end) ? ask.Evidence(at) : null;

                // Numbers and words that are said there alone: a status of its own, a flag.
                bool SaysOther(BasicBlock said) => said.Instructions.Select(i => function.Instructions[i]).Any(i => (i.Op == Opcode.Constant && !elsewhere.Contains(i.Text)) || i.Op is Opcode.Throw or Opcode.Exit) || !said.Instructions.Any(i => function.Instructions[i].Op == Opcode.Constant);
            }

            List<BasicBlock> Ends(BasicBlock test) => [.. test.Successors.Select(s => function.Blocks[s]).Where(s => s is { Successors.Count: 0, Predecessors.Count: 1 } && s.Instructions.Any(i => IsCall(function, i)))];
        }

        if (branch is not null)
        {
            return JourneyStep.Of("same answer", StepState.Unclear, "a branch of its own", "Whether there is an account decides about the way out; what it says there could not be followed.", branch);
        }

        if (!ask.OnAccounts(RecordAction.View, RecordAction.List, RecordAction.Edit).Any())
        {
            return JourneyStep.Of("same answer", StepState.Unclear, "not seen", "Where the account is looked up could not be followed, so nor could what is said when there is none.", ask.Here);
        }

        return JourneyStep.Of("same answer", StepState.Shown, "one sentence", "No branch was seen that answers otherwise where there is no such account.", ask.Here);
    }

    private static bool IsCall(IrFunction function, int instruction) => function.Instructions[instruction].Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic;

    /// <summary>A text for people: with a space, and no statement.</summary>
    private static bool IsSentence(IrFunction function, int instruction) =>
        function.Instructions[instruction] is { Op: Opcode.Constant, Text: { Length: > 11 } said, A: (int)LiteralKind.Text } && said.Contains(' ', StringComparison.Ordinal)
        && !said.Contains("SELECT", StringComparison.OrdinalIgnoreCase) && !said.Contains("INSERT", StringComparison.OrdinalIgnoreCase);

    /// <summary>The name of a text that is kept elsewhere, which tells that nobody is there: <c>notice_account_unknown_email</c>.</summary>
    private static bool TellsUnknown(AccountContext context, IrFunction function, int instruction) =>
        function.Instructions[instruction] is { Op: Opcode.Constant, Text: { Length: > 5 } name, A: (int)LiteralKind.Text } && context.Words.TellsUnknown(name);

    private static JourneyStep TokenMade(AccountContext context, IReadOnlyList<JourneyEvidence> passed, JourneyEvidence ask)
    {
        if (passed.SelectMany(p => p.Acts["reset-token-made"]).FirstOrDefault() is { } act)
        {
            return JourneyStep.Of("token made", StepState.Shown, act.Role("note").Constant is { Length: > 0 } note ? note : "by the library", "The library makes the token.", ask.Evidence(act));
        }

        var made = Token(context, ask);
        if (made is null)
        {
            return JourneyStep.Of("token made", StepState.Unclear, "not seen", "What the token is made of could not be followed.", ask.Here);
        }

        var called = context.TextOf(made.Event.At);
        var bits = made.Bits is { } number ? $"{number:0} bits at best" : "bits not known";
        return made.IsWeak
            ? JourneyStep.Of("token made", StepState.Absent, $"{Short(called)}: {bits}", "Who knows when it was made, or has seen others, can work it out.", ask.Evidence(made.Event))
            : made.Bits < MadeUp.Enough
            ? JourneyStep.Of("token made", StepState.Absent, $"{Short(called)}: {bits}", "So few possible values can be tried out.", ask.Evidence(made.Event))
            : JourneyStep.Of("token made", StepState.Shown, $"{Short(called)}: {bits.Replace(" at best", "", StringComparison.Ordinal)}", "It comes from a source made for secrets.", ask.Evidence(made.Event));
    }

    private static string Short(string text) => text.Length > 26 ? text[..25] + "…" : text;

    /// <summary>What the token is made of: of several made-up values the one that is no salt, session or form token, nearest to the handler; weak ones count first.</summary>
    public static MadeUp? Token(AccountContext context, JourneyEvidence ask)
    {
        var made = ask.Events.Where(e => e is { Kind: EventKind.Random, Depth: 0 } && !context.Words.TellsOfForgery(e.Function.Name) && !e.Function.Name.Contains("form", StringComparison.OrdinalIgnoreCase)
            && !e.Function.Name.Contains("salt", StringComparison.OrdinalIgnoreCase) && !e.Function.Name.Contains("hash", StringComparison.OrdinalIgnoreCase) && !e.Function.Name.Contains("log", StringComparison.OrdinalIgnoreCase)).Select(MadeUp.Of).ToList();

        // The clock is read for ends of validity too: it is only the token's if there is nothing else.
        var own = made.Where(m => m.Bits is not (< 16 and > 0) || !m.IsWeak || IsInside(ask, m)).ToList();
        return (own.Count > 0 ? own : made.Where(m => !context.TextOf(m.Event.At).StartsWith("time()", StringComparison.Ordinal) && !context.TextOf(m.Event.At).StartsWith("Date.now", StringComparison.Ordinal)).ToList())
            .OrderBy(m => IndexOf(ask, m)).FirstOrDefault();
    }

    /// <summary>It is hashed where it is made: so it is the token, or a part of it.</summary>
    private static bool IsInside(JourneyEvidence ask, MadeUp made) =>
        ask.Hashes.Any(h => h.Event.At.File == made.Event.At.File && h.Event.At.Start <= made.Event.At.Start && h.Event.At.End >= made.Event.At.End);

    private static int IndexOf(JourneyEvidence ask, MadeUp made)
    {
        for (var i = 0; i < ask.Functions.Count; i++)
        {
            if (ask.Functions[i] == made.Event.Function)
            {
                return i;
            }
        }

        return int.MaxValue;
    }

    private static JourneyStep Kept(AccountContext context, IReadOnlyList<JourneyEvidence> passed, JourneyEvidence ask)
    {
        if (passed.SelectMany(p => p.Acts["reset-token-made"]).FirstOrDefault() is { } act)
        {
            return JourneyStep.Of("kept", StepState.Shown, "by the library", act.Role("note").Constant is { Length: > 0 } note ? note + "." : "The library keeps it so that a stolen table is no use, or not at all.", ask.Evidence(act));
        }

        var writes = ask.Details.Accesses.Where(a => a.Action is RecordAction.Create or RecordAction.Edit).ToList();
        var column = writes.SelectMany(w => w.Columns.Select(c => (Write: w, Column: c))).FirstOrDefault(c => context.Words.Means(c.Column, ColumnMeanings.ResetToken) is not null || context.Words.Means(c.Column, ColumnMeanings.SessionToken) is not null || c.Column.Contains("token", StringComparison.OrdinalIgnoreCase) || c.Column.Contains("code", StringComparison.OrdinalIgnoreCase));
        var made = Token(context, ask);

        // A hash around what is made up is how the token is made; the one that is kept is made of the token.
        var passwords = passed.SelectMany(p => p.PasswordHashes).Select(h => h.Event.At).ToHashSet();
        var hashed = ask.Hashes.Where(h => !passwords.Contains(h.Event.At) && (made is null || h.Event.At.File != made.Event.At.File || h.Event.At.Start > made.Event.At.Start || h.Event.At.End < made.Event.At.End)).ToList();
        if (hashed.Count > 0)
        {
            return JourneyStep.Of("kept", StepState.Shown, $"hashed ({hashed[0].Scheme})", "Only its hash is kept: a stolen table lets nobody in.", hashed.Select(h => ask.Evidence(h.Event)));
        }

        return column.Column is not null
            ? JourneyStep.Of("kept", StepState.Absent, $"as sent, in {column.Column}", "Whoever reads the table can use every token in it.", ask.Evidence(column.Write.At))
            : writes.Count > 0 ? JourneyStep.Of("kept", StepState.Unclear, "not seen", "Whether what is written is the token itself could not be followed.", writes.Select(w => ask.Evidence(w.At)))
            : JourneyStep.Of("kept", StepState.Unclear, "not seen", "Where the token is kept could not be followed.", ask.Here);
    }

    private static JourneyStep Ends(AccountContext context, IReadOnlyList<JourneyEvidence> passed)
    {
        if (passed.SelectMany(p => p.Acts["reset-token-made"].Concat(p.Acts["reset-token-used"])).FirstOrDefault() is { } act)
        {
            return JourneyStep.Of("ends", StepState.Shown, "by the library", "The library ends it after a time that its settings say.", passed[0].Evidence(act));
        }

        var marks = passed.SelectMany(p => p.Members().Where(m => context.Words.TellsOfExpiry(m.Name)).Select(m => p.Evidence(m.At, m.Name))
            .Concat(p.Events.Where(q => q.Kind == EventKind.Query && SqlTexts.Of(q.Role("text")).Any(s => s.Pieces.Any(l => l.Literal is { } text && IdentifierClassifier.Parts(text) is var parts && (parts.Exists(w => context.Words.TellsOfExpiry(w)) || parts.Zip(parts.Skip(1)).Any(w => context.Words.TellsOfExpiry(w.First + w.Second)))))).Select(p.Evidence))
            .Concat(p.Details.Accesses.Where(a => a.Columns.Any(context.Words.TellsOfExpiry)).Select(a => p.Evidence(a.At)))
            .Concat(p.CallsNamed(context.Words.TellsOfExpiry)).Concat(p.AgesAsked())).ToList();
        return marks.Count > 0
            ? JourneyStep.Of("ends", StepState.Shown, "after a time", "A time is kept with it and looked at.", marks)
            : JourneyStep.Of("ends", StepState.Absent, "never", "No time was found after which the token is worth nothing.", passed[^1].Here);
    }

    private static JourneyStep UsedOnce(AccountContext context, IReadOnlyList<JourneyEvidence> passed, JourneyEvidence use)
    {
        if (use.Acts["reset-token-used"].FirstOrDefault() is { } act)
        {
            return JourneyStep.Of("used once", StepState.Shown, act.Role("note").Constant is { Length: > 0 } note ? note : "by the library", "It is worth nothing after the password has changed.", use.Evidence(act));
        }

        var tokens = passed.SelectMany(p => p.Details.Accesses.Where(a => a.Action == RecordAction.Create && !context.Accounts.Has(a.Table)).Select(a => a.Table)).ToHashSet(StringComparer.OrdinalIgnoreCase);
        var spent = use.Details.Accesses.Where(a => (a.Action == RecordAction.Delete && (tokens.Contains(a.Table) || context.Words.TellsOfRecovery(a.Table)))
            || (a.Action == RecordAction.Edit && (a.Columns.Any(c => context.Words.Means(c, ColumnMeanings.ResetToken) is not null) || tokens.Contains(a.Table) || SetPart(a.How).Contains("token", StringComparison.OrdinalIgnoreCase)))).Select(a => use.Evidence(a.At))
            .Concat(use.Functions.SelectMany(f => Enumerable.Range(0, f.Instructions.Length).Where(i => f.Instructions[i] is { Op: Opcode.SetField or Opcode.WithField, Text: { } member } && (context.Words.Means(member, ColumnMeanings.ResetToken) is not null || (member.Contains("reset", StringComparison.OrdinalIgnoreCase)))).Select(i => use.Evidence(f.LocationOf(i))))).ToList();
        return spent.Count > 0
            ? JourneyStep.Of("used once", StepState.Shown, "taken away", "The token is taken away with its use.", spent)
            : JourneyStep.Of("used once", StepState.Absent, "works again", "Nothing takes the token away after its use.", use.Here);
    }

    /// <summary>What a statement writes, without what it looks for.</summary>
    private static string SetPart(string statement) =>
        statement.IndexOf(" set ", StringComparison.OrdinalIgnoreCase) is >= 0 and var start ? statement[start..(statement.IndexOf(" where ", start, StringComparison.OrdinalIgnoreCase) is >= 0 and var end ? end : statement.Length)] : "";

    internal static JourneyStep NewPassword(AccountContext context, JourneyEvidence use, InputRules rules)
    {
        var hashed = RegisterSteps.Hashed(context, use);
        var measured = rules.For(use).Where(r => context.Words.IsPassword(r.Field)).ToList();
        if (hashed.State is StepState.Absent)
        {
            return hashed with { Name = "new password" };
        }

        return measured.Count > 0 || use.Acts["password-rules"].Any()
            ? JourneyStep.Of("new password", hashed.State, hashed.Text, "It is measured and hashed.", [.. hashed.Evidence, .. measured.Select(r => new StepEvidence(r.At, r.Text)), .. use.Acts["password-rules"].Select(use.Evidence)])
            : JourneyStep.Of("new password", StepState.Unclear, hashed.Text + ", not measured", "No rule for the new password was found here.", hashed.Evidence);
    }

    internal static JourneyStep SessionsEnd(AccountContext context, JourneyEvidence use)
    {
        var ended = use.Acts["sessions-ended"].Select(use.Evidence)
            .Concat(use.Details.Accesses.Where(a => a.Action == RecordAction.Delete && a.Table.Contains("session", StringComparison.OrdinalIgnoreCase) || (a.Action is RecordAction.Delete or RecordAction.Edit && a.Table.Contains("token", StringComparison.OrdinalIgnoreCase) && !context.Words.TellsOfRecovery(a.Table))).Select(a => use.Evidence(a.At)))
            .Concat(use.CallsNamed(n => n is "logoutOtherDevices" or "UpdateSecurityStampAsync" or "invalidate_all_sessions" or "revokeAll" or "destroyAll")).ToList();
        return ended.Count > 0
            ? JourneyStep.Of("sessions end", StepState.Shown, "others are ended", "Whoever was signed in elsewhere has to sign in again.", ended)
            : JourneyStep.Of("sessions end", StepState.Absent, "others go on", "Somebody else who is signed in stays so after the change.", use.Here);
    }
}
