namespace Bellator.Audit.Checks.Injection;

/// <summary>A request value becomes part of the headers of a message.</summary>
public sealed class HeaderFromInput : SinkCheck
{
    public override string Id => "injection/header";

    public override string Title => "Header injection";

    public override IReadOnlyList<int> Cwes => [113, 93];

    public override IReadOnlyList<string> Asvs => ["V4.2.4"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:R/S:C/C:L/I:L/A:N";

    public override string Why =>
        "A line break in a header begins the next one: a visitor can add recipients to a mail, or forge headers where the library does not refuse line breaks.";

    public override string FalsePositiveIf => "The library refuses line breaks in headers, as current ones for web answers do.";

    protected override string Kind => "header";

    protected override string Happens => "becomes part of a header of the answer";

    protected override string LastStep => "written into a header";

    public override string HowToFix(string language) => language switch
    {
        "php" => "Remove line breaks, or encode the value with rawurlencode().",
        _ => "Remove line breaks, or encode the value as part of an address.",
    };
}
