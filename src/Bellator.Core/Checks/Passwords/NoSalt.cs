using Bellator.Core.Flow;
using Bellator.Core.Syntax;

namespace Bellator.Core.Checks.Passwords;

/// <summary>A slow password hash is given no salt, or the same one for everybody.</summary>
public sealed class NoSalt : Check
{
    public override string Id => "passwords/no-salt";

    public override string Title => "Password hash has no salt of its own";

    public override IReadOnlyList<int> Cwes => [759, 760];

    public override IReadOnlyList<string> Asvs => ["V11.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:H/UI:N/S:U/C:H/I:N/A:N";

    public override string Why =>
        "Without a salt that differs for each person, equal passwords have equal hashes, and one list of guesses works against everybody at once.";

    public override string FalseAlarm => "The salt is put together with the password elsewhere, or the derived key is not a stored password.";

    public override string Mend(string language) => PasswordAdvice.Hash(language);

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var hash in context.EventsOf(EventKind.Hash))
        {
            if (!hash.Roles.TryGetValue("salt", out var salt) || HashSchemes.IsFast(hash.Role("scheme").Constant ?? ""))
            {
                continue;
            }

            var missing = salt is { Constant: not null, Taints.Count: 0 } && (salt.ConstantKind == LiteralKind.Null || salt.Constant.Length == 0);
            var fixedText = salt is { Constant.Length: > 0, ConstantKind: LiteralKind.Text, Taints.Count: 0, IsConfiguration: false };
            if ((!missing && !fixedText) || context.Passwords(FieldAccess.DeepTaints(hash.Role("input"))).FirstOrDefault() is not { } password)
            {
                continue;
            }

            yield return new Finding
            {
                Check = this,
                At = hash.At,
                Certainty = CheckContext.CertaintyOf(password, hash.Guessed),
                Message = missing ? "The password is hashed without a salt." : "The password is hashed with a salt that stands in the code, the same for everybody.",
                Steps = CheckContext.Steps(password, hash, "hashed"),
                Subject = hash.Role("scheme").Constant ?? "",
            };
        }
    }
}
