namespace Bellator.Audit.Checks.Passwords;

/// <summary>A password goes into a message.</summary>
public sealed class Mailed : PasswordLeak
{
    public override string Id => "passwords/mailed";

    public override string Title => "Password is sent by e-mail";

    public override IReadOnlyList<int> Cwes => [640, 319];

    public override IReadOnlyList<string> Asvs => ["V6.4.3"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:H/I:N/A:N";

    public override string Why => "Messages pass many servers and stay in mailboxes for years; a password in one is a password known.";

    public override string FalsePositiveIf => "What is sent is a code that works once and for minutes.";

    public override string HowToFix(string language) => "Send a link with a random token that ends soon, and let people choose the password themselves.";

    protected override string Place => "mail";

    protected override string Happens => "is put into a message";
}
