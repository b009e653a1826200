using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Scheduling;

namespace Bellator.Audit.Endpoints;

/// <summary>
/// Functions below a handler that refuse, under a condition that was not understood: a handler that comes to one is not known to be open to
/// anybody.
/// </summary>
internal sealed class InnerRefusals(ProgramAnalysis flow)
{
    private const int MaxDepth = 3;
    private const int MaxFunctions = 60;
    private readonly Dictionary<IrFunction, bool> _refuses = [];

    /// <summary>The first such function, as something that stands on the way; null where there is none.</summary>
    public Middleware? Within(IrFunction handler)
    {
        var seen = new HashSet<IrFunction> { handler };
        var open = new Queue<(IrFunction Function, int Depth)>([(handler, 0)]);
        while (open.TryDequeue(out var at))
        {
            foreach (var edge in flow.SummaryOf(at.Function).Calls.Where(c => !c.Target.IsTopLevel))
            {
                if (seen.Count > MaxFunctions || !seen.Add(edge.Target))
                {
                    continue;
                }

                if (Refuses(edge.Target))
                {
                    return new Middleware(edge.Target.Name, Requirement.Perhaps, at.Function.LocationOf(edge.Instruction), edge.Target);
                }

                if (at.Depth + 1 < MaxDepth)
                {
                    open.Enqueue((edge.Target, at.Depth + 1));
                }
            }
        }

        return null;
    }

    private bool Refuses(IrFunction function)
    {
        if (!_refuses.TryGetValue(function, out var known))
        {
            var demands = flow.Vocabulary.DemandsPerson(function.Name);
            _refuses[function] = known = function.Blocks.Any(b => b.IsReachable && ((demands && b.NeverContinues) || b.Instructions.Any(i => function.Instructions[i] is { Op: Opcode.Throw, A: >= 0 and var thrown } && (demands || NamesRefusal(function, thrown)))));
        }

        return known;
    }

    /// <summary>What is thrown is named for a refusal.</summary>
    private bool NamesRefusal(IrFunction function, int thrown) =>
        function.Instructions[thrown] is var made && flow.Vocabulary.NamesRefusal(IrClass.ShortOf(made.Op == Opcode.New && made.A >= 0 ? function.Instructions[made.A].Text ?? made.Text ?? "" : function.NameAt(thrown) is { Length: > 0 } called ? called : made.Text ?? ""));
}
