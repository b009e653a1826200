using Bellator.Analysis.Domain;
using Bellator.Audit.Sql;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>A password goes into its column in a form that a key turns back.</summary>
public sealed class EncryptedNotHashed : Check
{
    public override string Id => "passwords/encrypted-not-hashed";

    public override string Title => "Password is encrypted instead of hashed";

    public override IReadOnlyList<int> Cwes => [257];

    public override IReadOnlyList<string> Asvs => ["V11.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:H/UI:N/S:C/C:H/I:L/A:N";

    public override string Why => "Whoever gets the key, which the application must have at hand, gets every password at once.";

    public override string FalsePositiveIf => "What is kept is not a person’s password but a secret that the program must be able to read, such as one for another service.";

    public override string HowToFix(string language) => PasswordAdvice.Hash(language);

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var use in Statements.Uses(context))
        {
            if (use.Statement.Writes && use.Slot.Clause != SqlClause.Where && context.Words.IsPasswordColumn(use.Slot.Column)
                && context.Passwords(use.Taints).FirstOrDefault(t => t is { Transform: PasswordTransform.Encrypted, Origin.Kind: OriginKind.Request }) is { } password)
            {
                yield return new Finding
                {
                    Check = this,
                    At = use.Event.Place,
                    Certainty = CheckContext.CertaintyOf(password, use.Event.Guessed),
                    Message = $"The password ({CheckContext.Describe(password.Origin)}) is written to the column “{use.Slot.Column}” encrypted: a key turns it back.",
                    Steps = CheckContext.Steps(password, use.Event, "written to the database"),
                    Subject = use.Slot.Column ?? "",
                };
            }
        }
    }
}
