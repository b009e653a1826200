using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;

namespace Bellator.Audit.Checks.Records;

/// <summary>The client itself says which role it has.</summary>
public sealed class RoleFromClient : RecordCheck
{
    public override string Id => "records/role-from-client";

    public override string Title => "Role taken from the client";

    public override IReadOnlyList<int> Cwes => [807, 269, 639, 862];

    public override IReadOnlyList<string> Asvs => ["V8.3.1", "V8.2.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "Headers and plain cookies are written by whoever sends the request: a role in them is a claim, not a fact.";

    public override string FalsePositiveIf => "A proxy in front of the application sets the header, removes what clients send under its name, and nothing else can reach the application.";

    public override string HowToFix(string language) => "Read the role from the account or from a signed session or token at each request; ignore what the client says about itself.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var said = new HashSet<(Origin, int)>();
        foreach (var claimed in context.EventsOf(EventKind.ClaimedRole).Where(e => e.Depth == 0))
        {
            // A role may be held against several in one test.
            if (claimed.Role("value").Taints.FirstOrDefault(t => t.Origin.Kind == OriginKind.Request && t.Origin.Part is "header" or "cookie") is { } taint && said.Add((taint.Origin, claimed.Function.Id)))
            {
                yield return Of(taint, claimed, $"The role is taken from {CheckContext.Describe(taint.Origin)}, which the client can write: whoever sends the request decides its value.");
            }
        }

        var replaced = context.Kept(() => new ReplacedPersons(context));
        foreach (var decision in context.EventsOf(EventKind.Decision).Where(e => e is { Depth: 0, Guessed: false }))
        {
            foreach (var side in (ReadOnlySpan<string>)["left", "right"])
            {
                var value = decision.Role(side);
                if (replaced.In(value) is { } taint && value.Taints.Concat([taint]).Any(t => t.Origin.Name is { } name && context.Words.TellsOfRole(name)))
                {
                    yield return Of(taint, decision, $"{Capital(CheckContext.Describe(taint.Origin))} replaces the role of the signed-in user wherever the client sends it.");
                    break;
                }
            }
        }
    }

    private Finding Of(Taint taint, AnalysisEvent happening, string message) => new()
    {
        Check = this,
        At = happening.At,
        Certainty = CheckContext.CertaintyOf(taint, happening.Guessed),
        Message = message,
        Steps = CheckContext.Steps(taint, happening, "decides what the person may do"),
        Subject = taint.Origin.Name ?? "",
    };
}
