using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Queries;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>The algorithms of a token are not fixed.</summary>
public sealed class TokenAlgorithmOpen : SwitchCheck
{
    public override string Id => "sessions/token-algorithm-open";

    public override string Title => "Token algorithms not restricted";

    public override IReadOnlyList<int> Cwes => [327, 347];

    public override IReadOnlyList<string> Asvs => ["V9.1.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "The token’s own header says how it is to be verified unless the application does: “none” needs no signature, and a public key can be taken for a shared secret (RFC 8725, 2.1 and 3.1).";

    public override string FalsePositiveIf => "The library in the version at hand derives the algorithm from the key.";

    public override string HowToFix(string language) => language switch
    {
        "javascript" => "Pass { algorithms: ['HS256'] } (or the one in use) to verify.",
        "python" => "Pass algorithms=['HS256'] (or the one in use), never “none”.",
        "ruby" => "Pass algorithm: 'HS256', never “none”.",
        _ => "Name the one algorithm that the application issues.",
    };

    public override IEnumerable<Finding> Run(CheckContext context) => base.Run(context).Concat(SaidByToken(context));

    /// <summary>The token itself names the algorithm by which it is to be verified (RFC 8725, 3.1).</summary>
    private IEnumerable<Finding> SaidByToken(CheckContext context)
    {
        foreach (var happening in context.EventsAt("token-algorithm").DistinctBy(e => e.At))
        {
            var algorithm = FieldAccess.DeepTaints(happening.Role("value"));
            var token = context.EventsAt("token").Where(t => t.At == happening.At && t.Function == happening.Function && t.Depth == happening.Depth).SelectMany(t => t.Role("value").Taints).Where(t => t.IsParameter).Select(t => (t.Origin.Function, t.Origin.Index)).ToHashSet();
            if (algorithm.FirstOrDefault(t => t.IsSent || (t.IsParameter && token.Contains((t.Origin.Function, t.Origin.Index)))) is { } taint)
            {
                yield return new Finding
                {
                    Check = this,
                    At = happening.At,
                    Certainty = CheckContext.CertaintyOf(taint, happening.Guessed),
                    Message = $"The algorithm by which the token is verified comes from {(taint.IsSent ? CheckContext.Describe(taint.Origin) : "the token itself")}: whoever makes the token chooses it.",
                    Steps = CheckContext.Steps(taint, happening.At, "taken as the algorithm"),
                    Subject = taint.Origin.Name ?? "",
                };
            }
        }
    }

    protected override string Kind => "token-algorithm-open";

    /// <summary>Code beside it that reads the header's “alg” (RFC 7515, 4.1.1) looks at the algorithm.</summary>
    protected override bool Counts(CheckContext context, AnalysisEvent happening) => !FieldNames.ReadIn(happening.Function).Any(n => n is "alg" or "algorithm");

    protected override string Message(AnalysisEvent happening) => happening.Sink!.Mixes is null
        ? "The algorithms accepted for the token are not restricted here, or include “none”."
        : "The token may be signed with a shared secret or with a private key: whoever has the public key can use it as the secret.";
}
