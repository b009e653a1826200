using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Tables;
using Bellator.Passwords;
using Bellator.Text;

namespace Bellator.Audit.Accounts;

/// <summary>The steps of registering: from the fields to the answer.</summary>
internal static class RegisterSteps
{
    public static IReadOnlyList<JourneyStep> Of(AccountContext context, JourneyEvidence e, InputRules rules) =>
        [Fields(e), Validated(e, rules.For(e)), OnlyThese(context, e), Unique(context, e, [.. rules.For(e), .. rules.OfAccounts(e)]), Hashed(context, e), ColumnFits(context, e), Confirmed(context, e), Answer(context, e), SignedIn(e)];

    private static JourneyStep Fields(JourneyEvidence e) => e.TakesWholeBody && e.Fields.Count < 2
        ? JourneyStep.Of("fields", StepState.Shown, "the whole body", "The code takes the body as it comes.", e.Here)
        : JourneyStep.Of("fields", StepState.Shown, Few(e.Fields, 5), "These are read from the request and followed further.", e.Here);

    internal static JourneyStep Validated(JourneyEvidence e, IReadOnlyList<InputRule> rules)
    {
        // A form may send its fields below the name of the record; that name is no field then.
        var several = e.Fields.Count > 2;
        var fields = e.Fields.Where(f => !f.Contains("token", StringComparison.OrdinalIgnoreCase) && !(several && e.IsPerson(f))).ToList();
        var ruled = fields.Where(f => rules.Any(r => InputRules.Plain(r.Field) == InputRules.Plain(f))).ToList();
        var evidence = rules.Select(r => new StepEvidence(r.At, r.Text));
        if (e.Acts["password-rules"].Any() && rules.Count == 0)
        {
            return JourneyStep.Of("validated", StepState.Shown, "by the library's rules", "The library that makes the account holds the password against its settings.", e.Acts["password-rules"].Select(e.Evidence));
        }

        if (rules.Count == 0)
        {
            return JourneyStep.Of("validated", StepState.Absent, "nothing looks at them", "No condition, schema, mark or rule on the way looks at any of the fields.", e.Here);
        }

        var missing = fields.Except(ruled).ToList();
        return missing.Count == 0 || fields.Count == 0
            ? JourneyStep.Of("validated", StepState.Shown, Few([.. rules.Select(r => r.Field).Distinct(StringComparer.OrdinalIgnoreCase)], 4), "Each field has a rule in the code.", evidence)
            : JourneyStep.Of("validated", StepState.Unclear, "not " + Few(missing, 4), $"There are rules for {Few(ruled.Count > 0 ? ruled : [.. rules.Select(r => r.Field).Distinct()], 4)}; none was found for {Few(missing, 6)}.", evidence);
    }

    private static JourneyStep OnlyThese(AccountContext context, JourneyEvidence e)
    {
        // Marks, schemas and lists of columns were followed already: what arrives whole here, nothing has limited.
        var whole = e.Events.FirstOrDefault(x => x is { Kind: EventKind.Sink, Sink.Kind: "assign" } && x.Role("value").Taints.Any(t => t.Origin.Kind == OriginKind.Request && (t.Safe & OutputContext.Object) == 0 && x.Role("value").Text is null));
        if (whole is not null)
        {
            var named = e.AccountTables.SelectMany(t => t.Columns.Where(c => context.Words.IsSensitiveColumn(c.Name)).Select(c => c.Name)).Distinct().ToList();
            return JourneyStep.Of("only these saved", StepState.Absent, named.Count > 0 ? Few(named, 3) + " can be set" : "whatever is sent", "The record's fields are whatever the request brings.", e.Evidence(whole));
        }

        var made = e.OnAccounts(RecordAction.Create).OrderByDescending(a => a.Columns.Count).FirstOrDefault();
        var settable = made?.Columns.Where(c => context.Words.IsSensitiveColumn(c) && e.Fields.Any(f => InputRules.Plain(f) == InputRules.Plain(c))).ToList() ?? [];
        if (settable.Count > 0)
        {
            return JourneyStep.Of("only these saved", StepState.Absent, Few(settable, 3) + " can be set", $"The request brings {Few(settable, 3)}, which people must not choose for themselves.", e.Evidence(made!.At));
        }

        return made is { Columns.Count: > 0 }
            ? JourneyStep.Of("only these saved", StepState.Shown, made.Columns.Count == 1 ? "1 column listed" : $"{made.Columns.Count} columns listed", "The code names each column that is written: " + Few(made.Columns, 8) + ".", e.Evidence(made.At))
            : e.Acts["account-made"].FirstOrDefault() is { } act ? JourneyStep.Of("only these saved", StepState.Shown, "an object of its own", "The account is made from members that the code sets one by one.", e.Evidence(act))
            : JourneyStep.Of("only these saved", StepState.Unclear, "columns not known", "The record is made in a way that does not say which columns it sets.", made is null ? e.Here : e.Evidence(made.At));
    }

    private static JourneyStep Unique(AccountContext context, JourneyEvidence e, IReadOnlyList<InputRule> rules)
    {
        if (e.Acts["unique"].FirstOrDefault() is { } act)
        {
            return JourneyStep.Of("unique", StepState.Shown, "by the library", "The library refuses a name that there is, whatever the case of its letters.", e.Evidence(act));
        }

        var lookUps = e.OnAccounts(RecordAction.View, RecordAction.List).Where(a => a.Columns.Any(c => context.Words.IsAccountName(c))).ToList();
        var table = context.Accounts.Tables.Find(t => e.OnAccounts(RecordAction.Create).Any(a => a.Table.Equals(t.Name, StringComparison.OrdinalIgnoreCase))) ?? context.Accounts.Tables.FirstOrDefault();
        var columns = table?.Columns.Where(c => context.Words.IsAccountName(c.Name) && !c.Name.Equals("name", StringComparison.OrdinalIgnoreCase)).ToList() ?? [];
        var rule = table?.Unique.Find(u => !u.IsPrimary && u.Columns.All(c => columns.Exists(k => k.Name.Equals(c, StringComparison.OrdinalIgnoreCase))));
        if (rule is not null && table is not null)
        {
            var folded = rule.IgnoresCase || LowersName(e);
            return folded
                ? JourneyStep.Of("unique", StepState.Shown, rule.IgnoresCase ? "index, whatever the case" : "index; made lower case", $"The database refuses a second {rule.Columns[0]}.", Place(columns, rule))
                : JourneyStep.Of("unique", StepState.Unclear, "index, case counts", $"The database tells “A@b” from “a@b”, and the code does not make the {rule.Columns[0]} lower case: one person can have two accounts, or two people one name.", Place(columns, rule));
        }

        var asked = rules.Where(r => r.Text.Contains("unique", StringComparison.OrdinalIgnoreCase)).DistinctBy(r => r.At).Select(r => new StepEvidence(r.At, r.Text)).ToList();
        if (lookUps.Count > 0 || asked.Count > 0)
        {
            return JourneyStep.Of("unique", StepState.Unclear, table is null ? "asked in code" : "asked in code; no index", "The code asks whether the name is taken and then writes: two requests at once get through, and no rule of the database was found to stop them.", asked.Concat(lookUps.Select(a => e.Evidence(a.At))));
        }

        return table is null && context.Schema.Tables.Count == 0
            ? JourneyStep.Of("unique", StepState.Unclear, "tables not known", "Nothing in the material declares the table, and the code does not ask.", e.Here)
            : JourneyStep.Of("unique", StepState.Absent, "nothing asks", "Neither the code nor a rule of the database keeps a name from being taken twice.", e.Here);

        IEnumerable<StepEvidence> Place(List<Column> known, UniqueRule unique) => known.Where(c => unique.Columns.Contains(c.Name, StringComparer.OrdinalIgnoreCase)).Select(c => e.Evidence(c.At)).Concat(lookUps.Select(a => e.Evidence(a.At)));
    }

    private static bool LowersName(JourneyEvidence e) => e.CallsNamed(n => n is "strtolower" or "mb_strtolower" or "toLowerCase" or "lower" or "downcase" or "ToLowerInvariant" or "ToLower" or "ToUpperInvariant" or "casefold" or "toLocaleLowerCase").Any();

    internal static JourneyStep Hashed(AccountContext context, JourneyEvidence e)
    {
        if (e.Acts["password-hashed"].FirstOrDefault() is { } act)
        {
            return JourneyStep.Of("hashed", StepState.Shown, act.Role("note").Constant is { Length: > 0 } note ? note : "by the library", "The library hashes it before it is kept.", e.Evidence(act));
        }

        var uses = e.PasswordHashes;
        if (uses.Count > 0)
        {
            var slow = uses.Where(u => !u.IsFast).ToList();
            if (slow.Count == 0)
            {
                var salted = uses.Any(u => u.IsSalted);
                return JourneyStep.Of("hashed", StepState.Absent, string.Join(" then ", uses.Select(u => u.Scheme).Distinct()) + (salted ? "" : ", no salt"), "These functions are made to be fast: billions of guesses a second.", uses.Select(u => e.Evidence(u.Event)));
            }

            var use = slow[0];
            var rating = use.Rating;
            return JourneyStep.Of("hashed", rating?.Strength == Strength.BelowMinimum ? StepState.Unclear : StepState.Shown, use.Title + (use.Cost is { } cost ? $", factor {cost:0}" : ""), rating?.Reason ?? "A function made for passwords, at its own settings.", slow.Select(u => e.Evidence(u.Event)));
        }

        if (ByMark(context, e) is var (type, mark, scheme))
        {
            return JourneyStep.Of("hashed", StepState.Shown, $"{scheme}, {mark}", "The mark on the class makes the hash whenever a password is set.", e.Evidence(new Location(type.File.Index, type.Span.Start, type.Span.Start + 1), $"class {type.ShortName}"));
        }

        var plain = e.PasswordWrites.FirstOrDefault(w => w.Taints.Any(t => t.Transform is PasswordTransform.Plain or PasswordTransform.Encoded or PasswordTransform.Encrypted && context.Words.IsPassword(t.Origin.Name)));
        return plain is not null
            ? JourneyStep.Of("hashed", StepState.Absent, plain.Taints.Any(t => t.Transform == PasswordTransform.Encrypted) ? "encrypted only" : "kept as typed", "The value that is written is the password itself, or can be turned back into it.", e.Evidence(plain.Event))
            : JourneyStep.Of("hashed", StepState.Unclear, "not seen", "The way from the password to the column could not be followed to the end.", e.Here);
    }

    /// <summary>The class of accounts that is made here, where a mark on it says how passwords are hashed.</summary>
    private static (IrClass Type, string Mark, string Scheme)? ByMark(AccountContext context, JourneyEvidence e)
    {
        foreach (var type in context.Accounts.Models.Where(m => m.File.Source.Language == e.Entry.Handler?.File.Source.Language))
        {
            foreach (var mark in type.Annotations)
            {
                if (context.Words.HashedBy(mark.Name) is { } scheme)
                {
                    return (type, mark.Name, scheme);
                }
            }
        }

        return null;
    }

    private static JourneyStep ColumnFits(AccountContext context, JourneyEvidence e)
    {
        var columns = e.AccountTables.SelectMany(t => t.Columns.Where(c => ColumnMeanings.Of(c, t, context.Words).Meaning == ColumnMeanings.Password)).ToList();
        var scheme = e.PasswordHashes.FirstOrDefault(h => !h.IsFast)?.Scheme ?? e.PasswordHashes.LastOrDefault()?.Scheme ?? ByMark(context, e)?.Scheme;
        if (columns.Count == 0 || scheme is null)
        {
            return JourneyStep.Of("column fits", StepState.Unclear, columns.Count == 0 ? "column not known" : "hash not known", columns.Count == 0 ? "Nothing in the material declares the column." : "Which scheme is used does not stand in the code.", columns.Select(c => e.Evidence(c.At)));
        }

        var column = columns.FirstOrDefault(c => e.PasswordWrites.Any(w => c.Name.Equals(w.Slot.Column, StringComparison.OrdinalIgnoreCase))) ?? columns[0];
        var needed = SchemeList.Find(scheme)?.LongestValue ?? SchemeList.Find(scheme.StartsWith("argon", StringComparison.Ordinal) ? "argon2" : "bcrypt")!.LongestValue;
        var fit = new ColumnFit(column.Length, needed);
        return fit.Fits
            ? JourneyStep.Of("column fits", StepState.Shown, column.Length is null ? $"{needed} of any" : $"{needed} of {column.Length}", column.Length < ColumnFit.Recommended ? $"It holds this scheme; for the recommended one it would need {ColumnFit.Recommended} characters." : "It holds this scheme and the recommended one.", e.Evidence(column.At))
            : JourneyStep.Of("column fits", StepState.Absent, $"{needed} of {column.Length}", "The value is cut off, or refused.", e.Evidence(column.At));
    }

    private static JourneyStep Confirmed(AccountContext context, JourneyEvidence e)
    {
        if (!e.Fields.Any(context.Words.IsEmail) && !(e.TakesWholeBody && context.Accounts.Tables.Exists(t => t.Columns.Exists(c => context.Words.IsEmail(c.Name)))))
        {
            return JourneyStep.Of("confirmed", StepState.NotNeeded, "no address taken", "Registering takes no address that could be confirmed.");
        }

        var confirms = e.Acts["address-confirmed"].Select(e.Evidence).Concat(e.CallsNamed(context.Words.TellsOfConfirming)).ToList();
        var mails = e.Acts["mail"].Select(e.Evidence).Concat(e.CallsNamed(context.Words.SendsMail)).ToList();
        return confirms.Count > 0
            ? JourneyStep.Of("confirmed", StepState.Shown, mails.Count > 0 ? "a message is sent" : "asked for", "The address gets something to confirm it with.", confirms.Concat(mails))
            : mails.Count > 0
            ? JourneyStep.Of("confirmed", StepState.Unclear, "a message is sent", "A message is sent; whether it has to be answered was not seen.", mails)
            : JourneyStep.Of("confirmed", StepState.Absent, "nothing is sent", "Nobody shows that the address is theirs: accounts can be made in other people's names.", e.Here);
    }

    internal static JourneyStep Answer(AccountContext context, JourneyEvidence e)
    {
        var told = e.Responses.FirstOrDefault(r => TellsHash(context, r.Role("value"), 0));
        if (told is not null)
        {
            return JourneyStep.Of("answer", StepState.Absent, "returns the hash", "What is answered has the password's hash in it.", e.Evidence(told));
        }

        // What errors say is no answer to those who succeed.
        var answers = e.Details.Answers.Where(a => a is not ("page" or "data: error" or "data: message" or "data: errors" or "data: detail")).ToList();
        return answers.Count > 0
            ? JourneyStep.Of("answer", StepState.Shown, Few(answers, 2), "This is all that was seen to be answered.", e.Responses.Take(3).Select(e.Evidence))
            : JourneyStep.Of("answer", StepState.Shown, "a page", "No data of the account was seen in the answer.", e.Here);
    }

    private static bool TellsHash(AccountContext context, AbstractValue value, int depth) =>
        value.Fields is { } fields && fields.Any(f => (context.Words.IsPasswordColumn(f.Key) && f.Value.Taints.Any(t => t.Transform is PasswordTransform.SlowHash or PasswordTransform.FastHash || t.Origin.Kind == OriginKind.Stored)) || (depth < AbstractValue.MaxDepth && TellsHash(context, f.Value, depth + 1)));

    private static JourneyStep SignedIn(JourneyEvidence e) =>
        e.Acts["sign-in"].Any() || e.KeptInSession.Count > 0
            ? JourneyStep.Of("signed in after", StepState.Shown, e.Acts["session-new"].Any() ? "with a new session" : "session kept", "Whoever registers is signed in at once.", e.Acts["sign-in"].Concat(e.Acts["session-new"]).Select(e.Evidence).Concat(e.KeptInSession))
            : JourneyStep.Of("signed in after", StepState.NotNeeded, "signs in later", "Registering does not sign in.");

    internal static string Few(IReadOnlyList<string> items, int most) =>
        items.Count == 0 ? "none" : string.Join(", ", items.Take(most)) + (items.Count > most ? $" and {items.Count - most} more" : "");
}
