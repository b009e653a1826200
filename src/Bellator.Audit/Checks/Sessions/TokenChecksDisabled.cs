using Bellator.Analysis.Events;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>A check of a token is switched off.</summary>
public sealed class TokenChecksDisabled : SwitchCheck
{
    public override string Id => "sessions/token-checks-disabled";

    public override string Title => "Token validation disabled";

    public override IReadOnlyList<int> Cwes => [347, 613];

    public override IReadOnlyList<string> Asvs => ["V9.2.1", "V9.2.3"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "A token that is not held against its key, end, issuer and audience is accepted after it ended, or although it was issued by and for somebody else (RFC 7519, 4.1; RFC 8725, 3.8 to 3.10).";

    public override string FalsePositiveIf => "There is one issuer and one audience for the key, and only those two checks are off.";

    public override string HowToFix(string language) => language switch
    {
        "csharp" => "Leave ValidateLifetime and ValidateIssuerSigningKey on, and name ValidIssuer and ValidAudience.",
        "javascript" => "Leave ignoreExpiration off, and pass issuer and audience.",
        "python" => "Leave verify_exp, verify_aud and verify_iss on.",
        _ => "Leave the checks on, and name the issuer and the audience that the application expects.",
    };

    protected override string Kind => "token-checks-disabled";

    protected override string Message(AnalysisEvent happening) => "Validation of the token’s lifetime, issuer, audience or signing key is disabled here.";
}
