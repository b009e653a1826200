using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Witnesses;

namespace Bellator.Audit.Checks.Injection;

/// <summary>A request value says which host the server itself asks.</summary>
public sealed class ServerRequest : SinkCheck
{
    public override string Id => "injection/server-request";

    public override string Title => "Server-side request forgery";

    public override IReadOnlyList<int> Cwes => [918];

    public override IReadOnlyList<string> Asvs => ["V1.3.6"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:C/C:H/I:L/A:N";

    public override string Why =>
        "The server sends the request from inside: to services that trust whoever can reach them, to the machine's own ports, to the address at which a cloud gives out its keys. What comes back, or only whether and when it does, tells the visitor about them.";

    public override string FalsePositiveIf => "The host is compared with a list, or the server can reach nothing but the outside, in code or settings that were not read.";

    protected override string Kind => "server-request";

    protected override string Happens => "decides which host the server sends a request to";

    protected override string LastStep => "asked for by the server";

    public override string HowToFix(string language) =>
        "Let the visitor choose a name, and look the address up in a list of the program's own. Where any address must do: accept https only, resolve the host, refuse private, loopback and link-local addresses, connect to the address that was tested, and do not follow redirects.";

    /// <summary>Behind a host that the program chose it can only choose the path there.</summary>
    protected override bool IsOpen(AnalysisEvent happening, AbstractValue value, Taint taint) =>
        value.Text is null || value.Text.Alternatives.Any(a => !RedirectFromInput.IsFixedStart(a) && a.Any(p => p.IsHole && p.Taints.Any(taint.SameAs)));

    protected override Witness? WitnessFor(AnalysisEvent happening, AbstractValue value, Taint taint) => ValueWitness.ServerRequest(value, taint);
}
