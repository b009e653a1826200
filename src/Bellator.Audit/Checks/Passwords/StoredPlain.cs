using Bellator.Analysis.Domain;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>A password goes into the database as it was typed.</summary>
public sealed class StoredPlain : ReadablePassword
{
    public override string Id => "passwords/stored-plain";

    public override string Title => "Password is stored in plain text";

    public override IReadOnlyList<int> Cwes => [256];

    protected override PasswordTransform Kept => PasswordTransform.Plain;

    protected override string How => "without being hashed";
}
