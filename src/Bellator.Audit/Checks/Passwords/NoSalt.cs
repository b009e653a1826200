using Bellator.Syntax;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>A slow password hash is given no salt.</summary>
public sealed class NoSalt : Check
{
    public override string Id => "passwords/no-salt";

    public override string Title => "Password hash without a salt";

    public override IReadOnlyList<int> Cwes => [759];

    public override IReadOnlyList<string> Asvs => ["V11.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:H/UI:N/S:U/C:H/I:N/A:N";

    public override string Why =>
        "Without a salt that differs for each person, equal passwords have equal hashes, and one list of guesses works against everybody at once.";

    public override string FalsePositiveIf => "The salt is put together with the password elsewhere, or the derived key is not a stored password.";

    public override string HowToFix(string language) => PasswordAdvice.Hash(language);

    public override IEnumerable<Finding> Run(CheckContext context) => Salts.Of(context)
        .Where(s => s.Salt is { Constant: not null, Taints.Count: 0 } && (s.Salt.ConstantKind == LiteralKind.Null || s.Salt.Constant.Length == 0))
        .Select(s => s.Found(this, "The password is hashed without a salt."));
}
