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

    protected override string Kind => "token-algorithm-open";

    /// <summary>Code beside it that reads the header's “alg” (RFC 7515, 4.1.1) looks at the algorithm.</summary>
    protected override bool Counts(CheckContext context, AnalysisEvent happening) => !FieldNames.ReadIn(happening.Function).Any(n => n is "alg" or "algorithm");

    protected override string Message(AnalysisEvent happening) => "The algorithms accepted for the token are not restricted here, or include “none”.";
}
