using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>A token is read without its signature being verified.</summary>
public sealed class TokenNotVerified : SwitchCheck
{
    public override string Id => "sessions/token-not-verified";

    public override string Title => "Token accepted without verification";

    public override IReadOnlyList<int> Cwes => [347, 345];

    public override IReadOnlyList<string> Asvs => ["V9.1.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "Anybody writes a token with any name and role in it: only the signature tells those that the application issued (RFC 7519, 7.2; RFC 8725, 3.10).";

    public override string FalsePositiveIf => "The token is verified before by something that was not read, or what is read from it decides nothing.";

    public override string HowToFix(string language) => language switch
    {
        "javascript" => "Use jwt.verify(token, key, { algorithms: ['HS256'] }) in place of jwt.decode.",
        "python" => "Leave verify_signature on and pass the accepted algorithms.",
        _ => "Verify the signature with the key and the accepted algorithms before anything is read from the token.",
    };

    protected override string Kind => "token-not-verified";

    protected override string Message(AnalysisEvent happening) => "The token is decoded here and its signature is not verified.";

    /// <summary>What verifies beside it, or where it is called, does the deciding: the unverified reading chooses the key.</summary>
    protected override bool Counts(CheckContext context, AnalysisEvent happening)
    {
        if (happening.Role("value").Targets.OfType<IrFunction>().ToList() is { Count: > 0 } given)
        {
            // A function that takes the place of the library's own check.
            return !given.Exists(f => f.NamedCalls.Any(c => context.Words.Verifies(c.Name)));
        }

        var callers = context.Kept(() => context.Functions.SelectMany(f => context.Flow.SummaryOf(f).Calls.Select(c => (c.Target, Caller: f))).ToLookup(c => c.Target, c => c.Caller));
        return !callers[happening.Function].Append(happening.Function).Any(f => context.Flow.SummaryOf(f).Calls.Select(c => c.Target).Append(f).Any(g => g.NamedCalls.Any(c => context.Words.Verifies(c.Name))));
    }
}
