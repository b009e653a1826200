using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Queries;
using Bellator.Audit.Accounts;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>A session, key or one-time token can be guessed.</summary>
public sealed class PredictableToken : Check
{
    public override string Id => "sessions/predictable-token";

    public override string Title => "Predictable token";

    public override IReadOnlyList<int> Cwes => [330, 338, 340];

    public override IReadOnlyList<string> Asvs => ["V7.2.3", "V11.5.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "Ordinary random numbers can be predicted from earlier ones, the time is known to everybody, and ids and addresses to many: whoever computes the token is taken for its owner.";

    public override string FalsePositiveIf => "The value is no secret, or stands beside one that cannot be guessed.";

    public override string HowToFix(string language) => "Make it from at least 16 bytes of the system’s cryptographically secure source: random_bytes, crypto.randomBytes, secrets.token_urlsafe, SecureRandom, RandomNumberGenerator.GetBytes.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var told = new HashSet<(IrFunction, string)>();

        // Of a token for a new password its own check speaks.
        var ofReset = context.Journeys.Where(j => j.Kind == JourneyKind.Recover).SelectMany(j => j.Step("token made")?.Evidence ?? []).Select(e => e.At).ToHashSet();
        var strong = context.EventsOf(EventKind.Random).Where(e => !MadeUp.Of(e).IsWeak).Select(e => e.Function).ToHashSet();
        foreach (var random in context.EventsOf(EventKind.Random).Where(e => e.Depth == 0 && !ofReset.Contains(e.Place) && !ofReset.Contains(e.At) && MadeUp.Of(e).IsWeak))
        {
            // A source made for secrets beside it makes the token hard to guess.
            if (!strong.Contains(random.Function) && TokenMadeOf(context, random.Function, ValueUses.CallAt(random.Function, random.At)) is { } token && told.Add((random.Function, token)))
            {
                yield return new Finding
                {
                    Check = this,
                    At = random.At,
                    Certainty = Certainty.Matched,
                    Message = $"“{token}” is derived from {context.Program.Tree.TextOf(random.At)}, which is not a cryptographically secure source.",
                    Subject = token,
                };
            }
        }

        foreach (var derived in DerivedToken.Of(context).Where(d => !ofReset.Contains(d.At) && !strong.Contains(d.Function) && told.Add((d.Function, d.Token))))
        {
            yield return new Finding
            {
                Check = this,
                At = derived.At,
                Certainty = Certainty.Matched,
                Message = $"“{derived.Token}” is a digest of {string.Join(" and ", derived.Made.Select(m => $"“{m}”"))}: whoever knows these can compute it.",
                Subject = derived.Token,
            };
        }
    }

    /// <summary>The name of the token that the value of a call goes into; null if none is known.</summary>
    internal static string? TokenMadeOf(CheckContext context, IrFunction function, int made, int depth = 0)
    {
        if (made < 0)
        {
            return null;
        }

        var uses = ValueUses.Of(function, made, call => IsForm(context, function, call));
        return uses.Names.FirstOrDefault(context.Words.IsSecretToken)
            ?? (!uses.IsReturned ? null : context.Words.IsSecretToken(function.Name) ? function.Name
                : depth < MaxCallers ? Callers(context)[function].Take(MostCallers).Select(c => TokenMadeOf(context, c.Caller, c.Call, depth + 1)).FirstOrDefault(t => t is not null) : null);
    }

    /// <summary>A helper that makes the value is called by one that hands it on, or by the one that keeps it.</summary>
    private const int MaxCallers = 2;

    /// <summary>A function that more places call makes values for other things than tokens too.</summary>
    private const int MostCallers = 8;

    private static ILookup<IrFunction, (IrFunction Caller, int Call)> Callers(CheckContext context) =>
        context.Kept(() => context.Functions.SelectMany(f => context.Flow.SummaryOf(f).Calls.Select(c => (c.Target, Caller: f, Call: c.Instruction))).ToLookup(c => c.Target, c => (c.Caller, c.Call)));

    /// <summary>The call only writes its argument in another way: it joins, cuts, encodes or digests.</summary>
    private static bool IsForm(CheckContext context, IrFunction function, int call) =>
        function.Instructions[call] is var instruction && (instruction.Op == Opcode.CallMethod ? instruction.Text : instruction.A >= 0 ? function.Instructions[instruction.A].Text : instruction.Text) is { } name
        && context.Words.IsForm(name);
}
