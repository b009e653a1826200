using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>
/// A password of any length goes through every one of many rounds: whoever sends a long one keeps the machine busy. Functions made
/// for passwords read it once, and are left alone.
/// </summary>
public sealed class NoUpperLength : Check
{
    public override string Id => "passwords/no-upper-length";

    public override string Title => "No upper limit on password length";

    public override IReadOnlyList<int> Cwes => [400];

    public override IReadOnlyList<string> Asvs => ["V6.2.9"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:N/I:N/A:L";

    public override string Why => "The work grows with the rounds times the length. A few requests with passwords of a megabyte are enough to keep all cores busy.";

    public override string FalsePositiveIf => "Something before the application refuses long requests, at a few kilobytes.";

    public override string HowToFix(string language) => "Use a function made for passwords, which reads the password once; and refuse more than a few hundred signs.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var hash in context.EventsOf(EventKind.Hash).Where(h => h.Depth == 0))
        {
            var taken = context.Policies.Where(p => p.Within.Contains(hash.Function)).ToList();
            if (taken.Count == 0 || taken.Exists(p => p.Maximum is not null || p.Within.Any(f => PasswordNames.Measures(context, f))) || CallOf(hash) is not (>= 0 and var call) || !RunsAgain(hash.Function, call) || !Reads(context, hash.Function, call))
            {
                continue;
            }

            if (FieldAccess.DeepTaints(hash.Role("input")).FirstOrDefault(t => context.Words.IsPassword(t.Origin.Name)) is { } typed)
            {
                yield return new Finding
                {
                    Check = this,
                    At = hash.At,
                    Certainty = Certainty.Traced,
                    Message = $"Each round hashes {CheckContext.Describe(typed.Origin)} anew, and no longest length was found.",
                    Steps = CheckContext.Steps(typed, hash, "hashed in every round"),
                    Subject = typed.Origin.Name ?? "",
                };
            }
        }
    }

    private static int CallOf(AnalysisEvent hash) =>
        Enumerable.Range(0, hash.Function.BlockOf.Length).FirstOrDefault(i => hash.Function.Instructions[i].Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic && hash.Function.LocationOf(i) == hash.At, -1);

    /// <summary>The call is given the password itself, alone or put together with something else.</summary>
    private static bool Reads(CheckContext context, IrFunction function, int call) =>
        function.List(function.Instructions[call]).ToArray().Select(o => o.Value).Where(v => v >= 0).Any(v => PasswordNames.IsPassword(context, function, v)
            || (function.Instructions[v].Op == Opcode.Concat && function.List(function.Instructions[v]).ToArray().Any(p => PasswordNames.IsPassword(context, function, p.Value))));

    /// <summary>The place comes round again in its own function.</summary>
    private static bool RunsAgain(IrFunction function, int call)
    {
        var seen = new HashSet<int>();
        var open = new Stack<int>(function.Blocks[function.BlockOf[call]].Successors);
        while (open.TryPop(out var block))
        {
            if (block == function.BlockOf[call])
            {
                return true;
            }

            if (seen.Add(block))
            {
                foreach (var next in function.Blocks[block].Successors)
                {
                    open.Push(next);
                }
            }
        }

        return false;
    }
}
