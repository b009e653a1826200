using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Tables;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>A password, or its hash, is kept in the session.</summary>
public sealed class InSession : Check
{
    public override string Id => "passwords/in-session";

    public override string Title => "Password is kept in the session";

    public override IReadOnlyList<int> Cwes => [522, 312];

    public override IReadOnlyList<string> Asvs => ["V11.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:L/UI:N/S:U/C:H/I:N/A:N";

    public override string Why =>
        "Sessions lie in files, tables or a cookie that its owner can read, for as long as they last, and none of these is made to keep secrets. After sign-in nothing needs the password any more.";

    public override string FalsePositiveIf => "What is kept is something else that has the name of a password, such as a flag.";

    public override string HowToFix(string language) => "Keep the account's number in the session and nothing else of it; ask for the password again where an action needs it, and verify it against the stored hash.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var records = new WholeRecords(context.Program, context.Schema, context.Accounts.Accounts, context.Words);
        foreach (var happening in context.EventsAt("session"))
        {
            var value = happening.Role("value");
            if (context.Passwords(FieldAccess.DeepTaints(value)).FirstOrDefault(t => t.Transform is PasswordTransform.Plain or PasswordTransform.Encoded && t.Safe != OutputContext.All && t.Origin.Kind == OriginKind.Request) is { } typed)
            {
                yield return Found(happening, typed, $"The password ({CheckContext.Describe(typed.Origin)}) is kept in the session as it was typed.");
            }
            else if (FieldAccess.DeepTaints(value).FirstOrDefault(t => t.Origin.Kind == OriginKind.Stored && context.Words.IsPasswordColumn(t.Origin.Name) && !t.Guessed) is { } stored)
            {
                yield return Found(happening, stored, $"The stored password ({CheckContext.Describe(stored.Origin)}) is copied into the session.");
            }
            else if (!(value.HasParameters && context.Flow.IsCalled(happening.Function.Id)) && records.PasswordIn(value, happening.Function.File) is { } column)
            {
                yield return new Finding
                {
                    Check = this,
                    At = happening.Place,
                    Certainty = happening.Guessed ? Certainty.Matched : Certainty.Traced,
                    Message = $"The whole record is kept in the session, the database column “{column}” with it.",
                    Subject = column,
                };
            }
            else if (value.Fields?.Values.FirstOrDefault(f => f.Constant is null && context.Words.IsPasswordColumn(f.Name)) is { Name: { } field })
            {
                yield return new Finding
                {
                    Check = this,
                    At = happening.At,
                    Certainty = Certainty.Matched,
                    Message = $"The stored password (“{field}”) goes into the session with the rest of the record.",
                    Subject = field,
                };
            }
        }
    }

    private Finding Found(AnalysisEvent happening, Taint taint, string message) => new()
    {
        Check = this,
        At = happening.At,
        Certainty = CheckContext.CertaintyOf(taint, happening.Guessed),
        Message = message,
        Steps = CheckContext.Steps(taint, happening, "kept in the session"),
        Subject = taint.Origin.Name ?? "",
    };
}
