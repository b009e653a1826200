namespace Bellator.Audit.Checks.Injection;

/// <summary>A request value becomes part of the source of a template.</summary>
public sealed class TemplateFromInput : SinkCheck
{
    public override string Id => "injection/template";

    public override string Title => "Server-side template injection";

    public override IReadOnlyList<int> Cwes => [1336, 94];

    public override IReadOnlyList<string> Asvs => ["V1.3.7"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:H/A:H";

    public override string Why =>
        "A template is a program: what a visitor writes into its source is run on the server, mostly up to any command.";

    public override string FalsePositiveIf => "Only the program itself can write the text that comes here.";

    protected override string Kind => "template";

    protected override string Happens => "becomes part of the source of a template";

    protected override string LastStep => "compiled as a template";

    public override string HowToFix(string language) => language switch
    {
        "python" => "Keep the template in a file and hand the value over: render_template(\"label.html\", name=name).",
        "ruby" => "Render a file and hand the value over as a local: render :label, locals: { name: }.",
        _ => "Keep the template fixed and hand the value over as data.",
    };
}
