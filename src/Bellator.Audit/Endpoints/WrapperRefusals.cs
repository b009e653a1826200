using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;

namespace Bellator.Audit.Endpoints;

/// <summary>
/// Functions that wrap handlers, where what they make may refuse instead of calling the handler: who is refused was not understood, and
/// neither is who gets through.
/// </summary>
internal static class WrapperRefusals
{
    public static bool In(IrFunction wrapper, IdentifierClassifier words) =>
        wrapper.File.Functions.Exists(f => (f.Outer == wrapper || f.Outer?.Outer == wrapper) && CallsGiven(f) && f.Blocks.Any(b => b.IsReachable && Refuses(f, b, words)));

    /// <summary>A step that hands requests on answers on one of its ways that the visitor may not: 401 and 403 (RFC 9110, 15.5) say nothing else.</summary>
    public static bool Denies(IrFunction step, IdentifierClassifier words) =>
        AuthorizationChecks.Passing(step) is { Count: > 0 } passing && step.Blocks.Any(b => b.IsReachable && !passing.Contains(b.Index) && b.Predecessors.Count > 0
            && (b.Instructions.Any(i => step.Instructions[i] is { Op: Opcode.Constant, Text: "401" or "403" }) || b.Instructions.Any(i => step.Instructions[i].Op is Opcode.Call or Opcode.CallMethod or Opcode.New && words.MakesRefusingResponse(step.NameAt(i)))));

    /// <summary>Whether the handler is called depends on the answer of a function that was given, too: <c>if not test(**path)</c>.</summary>
    public static bool AsksWhatItWasGiven(IrFunction wrapper)
    {
        var given = wrapper.Parameters.Select(p => p.Name).ToHashSet(StringComparer.Ordinal);
        return wrapper.File.Functions.Exists(f => f.Outer?.Outer == wrapper && CallsGiven(f) && f.Blocks.Any(b => b is { IsReachable: true, Condition: >= 0 } && Tested(f, b.Condition) is >= 0 and var tested
            && f.Instructions[tested] is { Op: Opcode.Call, A: >= 0 and var called } && (f.Instructions[called].Text ?? f.Names.GetValueOrDefault(called)) is { } name && given.Contains(name)));
    }

    private static int Tested(IrFunction function, int value) => value >= 0 && function.Instructions[value] is { Op: Opcode.Unary or Opcode.Cast, A: var inner } ? Tested(function, inner) : value;

    /// <summary>It calls what a function around it was given: the handler.</summary>
    private static bool CallsGiven(IrFunction made)
    {
        var given = made.Outer!.Parameters.Concat(made.Outer.Outer?.Parameters ?? []).Select(p => p.Name).ToHashSet(StringComparer.Ordinal);
        return made.OutgoingCalls.Any(i => made.Instructions[i] is { Op: Opcode.Call, A: >= 0 and var called } && (made.Instructions[called].Text ?? made.Names.GetValueOrDefault(called)) is { } name && given.Contains(name));
    }

    /// <summary>It ends there by an error or by what stops a request, or answers that the visitor may not, or has to go elsewhere.</summary>
    private static bool Refuses(IrFunction made, BasicBlock block, IdentifierClassifier words) =>
        block.NeverContinues
        || block.Instructions.Any(i => made.Instructions[i].Op is Opcode.Throw or Opcode.Exit)
        || (block.Instructions.Any(i => made.Instructions[i].Op == Opcode.Return)
            && block.Instructions.Any(i => made.Instructions[i] is { Op: Opcode.Constant, Text: "401" or "403" } || (made.Instructions[i].Op is Opcode.Call or Opcode.CallMethod or Opcode.New && words.MakesRefusingResponse(made.NameAt(i)))));
}
