using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Summaries;

namespace Bellator.Analysis.Interpreter;

/// <summary>Functions that are handed to functions of the program, which run them: <c>asKeeper(id, client => …)</c>.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>Calls of given functions that callers are told of.</summary>
    private const int MaxGivenCalls = 8;

    private readonly List<GivenCall> _givenCalls = [];

    private void NoteGivenCall(int callee, IReadOnlyList<AbstractValue> arguments)
    {
        if (_function.Instructions[callee] is { Op: Opcode.Parameter, A: var parameter } && arguments.Count > 0)
        {
            // Where the arguments come from is for the store of what parameters are; here counts what they are.
            AddGivenCall(new GivenCall(parameter, [.. arguments.Select(Known)]));
        }
    }

    private static AbstractValue Known(AbstractValue value) => Substitution.WithoutTaints(value) ?? AbstractValue.Unknown;

    private void AddGivenCall(GivenCall call)
    {
        if (_givenCalls.Count < MaxGivenCalls && !_givenCalls.Exists(c => c.SameAs(call)))
        {
            _givenCalls.Add(call);
        }
    }

    /// <summary>What this call hands over is run with what the function gives it; what it only passes on is for its own callers to say.</summary>
    private void RunGiven(GivenCall given, IReadOnlyList<AbstractValue> arguments, int index)
    {
        if (given.Parameter >= arguments.Count)
        {
            return;
        }

        var values = given.Arguments;
        foreach (var function in arguments[given.Parameter].Targets.OfType<IrFunction>())
        {
            for (var i = 0; i < values.Count; i++)
            {
                _visit.InformParameter(function, i, values[i]);
            }

            _visit.NoteCall(function);
            _edges.Add(new CallEdge(index, function));
        }

        foreach (var taint in arguments[given.Parameter].Taints)
        {
            if (taint.IsParameter && taint.Origin.Function == _function.Id)
            {
                AddGivenCall(new GivenCall(taint.Origin.Index, values));
            }
        }
    }
}
