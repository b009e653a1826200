namespace Bellator.Audit.Checks.Injection;

/// <summary>A request value becomes part of a directory filter.</summary>
public sealed class LdapFilter : SinkCheck
{
    public override string Id => "injection/ldap";

    public override string Title => "LDAP injection";

    public override IReadOnlyList<int> Cwes => [90];

    public override IReadOnlyList<string> Asvs => ["V1.2.6"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:L/A:N";

    public override string Why =>
        "Brackets and asterisks change what the filter asks for: a visitor can sign in as the first match or read other entries.";

    public override string FalsePositiveIf => "The value can hold letters and digits only, by a test that was not read.";

    protected override string Kind => "ldap";

    protected override string Happens => "becomes part of a directory filter, unescaped";

    protected override string LastStep => "sent to the directory";

    public override string HowToFix(string language) => language switch
    {
        "php" => "Use ldap_escape($value, \"\", LDAP_ESCAPE_FILTER).",
        "python" => "Use ldap.filter.escape_filter_chars(value).",
        _ => "Escape the value for filters (RFC 4515) before it is put in.",
    };
}
