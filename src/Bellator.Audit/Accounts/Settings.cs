using Bellator.Analysis.Ir;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Accounts;

/// <summary>Settings of libraries that the program gives as constants: a member of an options object, or a name at the top of a settings file.</summary>
public static class Settings
{
    /// <summary>The constant that a setting has, and where; null if the program does not set it.</summary>
    public static (string Value, Location At)? Find(AccountContext context, string name)
    {
        foreach (var function in context.Program.Functions)
        {
            for (var i = 0; i < function.Instructions.Length; i++)
            {
                var instruction = function.Instructions[i];
                var (key, value) = instruction.Op switch
                {
                    Opcode.SetField or Opcode.WithField => (instruction.Text, instruction.B),
                    Opcode.StoreShared => (instruction.Text, instruction.B),
                    Opcode.Export => (instruction.Text, instruction.A),
                    _ => (null, -1),
                };
                if (key == name && value >= 0 && function.Instructions[value] is { Op: Opcode.Constant, Text: { } text, A: not (int)LiteralKind.Null })
                {
                    return (text, function.LocationOf(i));
                }
            }
        }

        return null;
    }

    /// <summary>A step whose text begins with a setting in braces is shown only where that is on: <c>{RequireConfirmedAccount} a link is mailed</c>.</summary>
    /// <param name="given">What the call is given that brings the journey: what is named there is on.</param>
    internal static JourneyStep Applied(AccountContext context, JourneyStep step, IReadOnlySet<string> given)
    {
        if (step.Text.Length == 0 || step.Text[0] != '{' || step.Text.IndexOf('}', StringComparison.Ordinal) is not (> 0 and var end))
        {
            return step;
        }

        var name = step.Text[1..end];
        var text = step.Text[(end + 1)..].Trim();
        if (given.Contains(name))
        {
            return step with { Text = text, Reason = $"“{name}” is asked for. " + step.Reason };
        }

        return Find(context, name) is var (value, at) && value is "true" or "True"
            ? step with { Text = text, Reason = $"“{name}” is switched on. " + step.Reason, Evidence = [new StepEvidence(at, name), .. step.Evidence] }
            : step with { State = StepState.Absent, Text = "switched off", Reason = $"“{name}” is not switched on, and it is off by itself." };
    }
}
