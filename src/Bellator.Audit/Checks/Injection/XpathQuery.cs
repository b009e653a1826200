namespace Bellator.Audit.Checks.Injection;

/// <summary>A request value becomes part of an XPath expression.</summary>
public sealed class XpathQuery : SinkCheck
{
    public override string Id => "injection/xpath";

    public override string Title => "XPath injection";

    public override IReadOnlyList<int> Cwes => [643];

    public override IReadOnlyList<string> Asvs => ["V1.2.7"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:N/A:N";

    public override string Why =>
        "A quote ends the value and the rest becomes part of the question: a visitor reads other parts of the document.";

    public override string FalsePositiveIf => "The value can hold letters and digits only, by a test that was not read.";

    protected override string Kind => "xpath";

    protected override string Happens => "becomes part of an XPath expression";

    protected override string LastStep => "used as a query on a document";

    public override string HowToFix(string language) => language switch
    {
        "csharp" => "Bind the value as an XPath variable, or compare in code after selecting the elements.",
        _ => "Bind the value as a variable of the expression, or compare in code after selecting the elements.",
    };
}
