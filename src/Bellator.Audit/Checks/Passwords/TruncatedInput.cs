using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>Only the beginning of a password is hashed.</summary>
public sealed class TruncatedInput : Check
{
    public override string Id => "passwords/truncated-input";

    public override string Title => "Password is truncated before hashing";

    public override IReadOnlyList<int> Cwes => [521];

    public override IReadOnlyList<string> Asvs => ["V6.2.8"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:L/I:N/A:N";

    public override string Why => "A long password is no better than its beginning, and whoever chose it does not know.";

    public override string FalsePositiveIf => "What is cut is something else that has the name of a password.";

    public override string HowToFix(string language) => "Hash the whole password. Where the hash reads 72 bytes only, refuse longer ones, or hash them with SHA-384 and base64 first.";

    private const int Longest = 72;

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var hash in context.EventsOf(EventKind.Hash).Where(h => h.Depth == 0))
        {
            foreach (var (function, call, length) in Cuts(context, hash.Function))
            {
                if (context.Passwords(FieldAccess.DeepTaints(hash.Role("input"))).FirstOrDefault(t => t.Altered) is { } typed)
                {
                    yield return new Finding
                    {
                        Check = this,
                        At = function.LocationOf(call),
                        Certainty = Certainty.Matched,
                        Message = $"Only the first {length} signs of the password are hashed.",
                        Related = [hash.At],
                        Steps = CheckContext.Steps(typed, hash, "hashed"),
                        Subject = typed.Origin.Name ?? "",
                    };
                }
            }
        }
    }

    /// <summary>Calls that take the beginning of a password, with a constant for its length.</summary>
    private static IEnumerable<(IrFunction Function, int Call, string Length)> Cuts(CheckContext context, IrFunction function)
    {
        for (var i = 0; i < function.Instructions.Length; i++)
        {
            var instruction = function.Instructions[i];
            var name = instruction.Op == Opcode.Call ? function.Instructions[instruction.A].Text : instruction.Op == Opcode.CallMethod ? instruction.Text : null;
            if (name is null || !context.Words.TakesBeginning(IrClass.ShortOf(name)))
            {
                continue;
            }

            var operands = function.List(instruction).ToArray().Select(o => o.Value).ToList();
            var subject = instruction.Op == Opcode.CallMethod ? instruction.A : operands.Count > 0 ? operands[0] : -1;
            var numbers = operands.Where(o => o != subject).Select(o => function.Instructions[o]).Where(o => o.Op == Opcode.Constant).Select(o => o.Text).ToList();
            if (PasswordNames.IsPassword(context, function, subject) && numbers is ["0", { } length] && int.TryParse(length, out var most) && most is > 0 and <= Longest)
            {
                yield return (function, i, length);
            }
        }
    }
}
