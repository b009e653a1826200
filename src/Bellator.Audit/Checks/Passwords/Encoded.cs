using Bellator.Analysis.Domain;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>A password goes into the database in another spelling, which needs no key to undo.</summary>
public sealed class Encoded : ReadablePassword
{
    public override string Id => "passwords/encoded";

    public override string Title => "Password is only encoded";

    public override IReadOnlyList<int> Cwes => [261];

    protected override PasswordTransform Kept => PasswordTransform.Encoded;

    protected override string How => "only encoded, which anyone can undo";
}
