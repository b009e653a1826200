using Bellator.Syntax;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>A slow password hash is given a salt that stands in the code.</summary>
public sealed class FixedSalt : Check
{
    public override string Id => "passwords/fixed-salt";

    public override string Title => "Same salt for every password hash";

    public override IReadOnlyList<int> Cwes => [760];

    public override IReadOnlyList<string> Asvs => ["V11.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:H/UI:N/S:U/C:H/I:N/A:N";

    public override string Why => "With one salt for all, equal passwords have equal hashes, and one list of guesses works against everybody at once.";

    public override string FalsePositiveIf => "A further salt, different for each person, is put together with the password elsewhere.";

    public override string HowToFix(string language) => PasswordAdvice.Hash(language);

    public override IEnumerable<Finding> Run(CheckContext context) => Salts.Of(context)
        .Where(s => s.Salt is { Constant.Length: > 0, ConstantKind: LiteralKind.Text, Taints.Count: 0, IsConfiguration: false })
        .Select(s => s.Found(this, "The password is hashed with a salt that stands in the code, the same for everybody."));
}
