using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Scheduling;

namespace Bellator.Audit.Endpoints;

/// <summary>
/// Steps that do not hand the request on themselves: the router goes on with the next one unless there is an answer already. To whom such a
/// step answers on one side of a test, it refuses.
/// </summary>
internal sealed class StepRefusals(AuthorizationChecks tests, ProgramAnalysis flow)
{
    private readonly Dictionary<IrFunction, Requirement> _known = [];

    /// <summary>What the step asks of those whom it does not answer; that it depends where the test was not understood.</summary>
    public Requirement Of(IrFunction step)
    {
        if (!_known.TryGetValue(step, out var asks))
        {
            _known[step] = asks = Find(step);
        }

        return asks;
    }

    private Requirement Find(IrFunction step)
    {
        var found = Requirement.Other;
        foreach (var block in step.Blocks.Where(b => b is { IsReachable: true, Condition: >= 0, Successors.Count: 2 } && b.Successors[0] != b.Successors[1]))
        {
            var away = AuthorizationChecks.IsPresence(step, block.Condition) ? 1 : 0;
            if (!Answers(step, block.Successors[away], block.Successors[1 - away]))
            {
                continue;
            }

            var asked = tests.AskedBy(step, block.Condition);
            if (asked == Requirement.SignIn && tests.IsAboutForgery(step, block.Condition))
            {
                asked = Requirement.Forgery;
            }

            found = asked == Requirement.Other && found == Requirement.Other ? Requirement.Perhaps
                : found is Requirement.Other or Requirement.Perhaps ? asked : AuthorizationChecks.Higher(found, asked);
        }

        return found;
    }

    /// <summary>The blocks that only one side comes to answer the visitor, and those of the other do not.</summary>
    private bool Answers(IrFunction step, int side, int other) =>
        step.Blocks[side].Predecessors.Count == 1 && step.Blocks.Any(b => IsBelow(step, side, b) && AnswersIn(step, b))
        && !(step.Blocks[other].Predecessors.Count == 1 && step.Blocks.Any(b => IsBelow(step, other, b) && AnswersIn(step, b)));

    private static bool IsBelow(IrFunction step, int side, BasicBlock block) => block.IsReachable && AuthorizationChecks.Dominates(step, side, block.Index);

    private bool AnswersIn(IrFunction step, BasicBlock block) => block.Instructions.Any(i => step.Instructions[i] switch
    {
        { Op: Opcode.Constant, Text: "401" or "403" } => true,
        { Op: Opcode.Return, A: >= 0 and var answer } => step.Instructions[answer] is { Op: Opcode.Constant, Text: "false" or "False" },
        { Op: Opcode.Call or Opcode.CallMethod or Opcode.CallStatic or Opcode.New } => flow.Vocabulary.MakesRefusingResponse(step.NameAt(i)) || flow.Vocabulary.HaltsChain(IrClass.ShortOf(step.NameAt(i)))
            || flow.SummaryOf(step).Calls.Any(c => c.Instruction == i && flow.SummaryOf(c.Target).Events.Any(e => e is { Kind: EventKind.Sink, Sink.Kind: "redirect" })),
        _ => false,
    });
}
