using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;

namespace Bellator.Audit.Checks.Injection;

/// <summary>A request value is evaluated as code, or names what is called.</summary>
public sealed class CodeFromInput : SinkCheck
{
    public override string Id => "injection/code";

    public override string Title => "Code injection";

    public override IReadOnlyList<int> Cwes => [94, 95, 470];

    public override IReadOnlyList<string> Asvs => ["V1.3.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:H/A:H";

    public override string Why =>
        "Whoever can say what the program runs owns the program: its data, its secrets, and the machine as far as its rights go.";

    public override string FalsePositiveIf => "The value is compared with a fixed list of names before, in code that was not read.";

    protected override string Kind => "code";

    protected override string Happens => "is run as program code or chooses what is called";

    protected override string LastStep => "run as code";

    /// <summary>A name of which the program writes the beginning or the end chooses among what is so called: <c>send("#{name}_from_params")</c>. Code is another matter.</summary>
    protected override bool IsOpen(AnalysisEvent happening, AbstractValue value, Taint taint) => !(happening.Sink is { Chooses: true } && value.Text is { } text && text.Alternatives.All(IsPartOfName));

    private static bool IsPartOfName(IReadOnlyList<Piece> pieces) =>
        pieces.Any(p => !p.IsHole && p.Literal!.Count(c => char.IsLetter(c) || c == '_') > 2) && pieces.All(p => p.IsHole || p.Literal!.All(c => char.IsLetterOrDigit(c) || c is '_' or ':' or '\\'));

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var found in base.Run(context))
        {
            yield return found;
        }

        foreach (var happening in context.EventsAt(Kind).Where(e => e is { Depth: 0, Guessed: false, Sink.Built: true } && IsPutTogether(e.Role("value"))))
        {
            yield return new Finding
            {
                Check = this,
                At = happening.Place,
                Certainty = Certainty.Matched,
                Message = "Code is built from values here and evaluated; where they come from was not found.",
            };
        }
    }

    /// <summary>Code with values in it that are neither the visitor's, which is told apart, nor the program's own settings.</summary>
    private static bool IsPutTogether(AbstractValue value) =>
        value is { IsConfiguration: false, Text: { } text } && !value.Taints.Any(t => t.Origin.Kind == OriginKind.Request)
        && text.Alternatives.Any(a => a.Any(p => !p.IsHole && p.Literal!.Any(char.IsLetter)) && a.Any(p => p.IsHole && (p.Taints.Count == 0 || p.Taints.Any(t => t.Safe != OutputContext.All))));

    public override string HowToFix(string language) => language switch
    {
        "ruby" => "Choose from a fixed hash: ACTIONS.fetch(params[:what]).call; never send, constantize or eval what came in.",
        "python" => "Choose from a fixed dict of functions, and read data with json.loads or ast.literal_eval instead of eval.",
        _ => "Choose from a fixed map of names to functions, and read data with a parser for data instead of evaluating it.",
    };
}
