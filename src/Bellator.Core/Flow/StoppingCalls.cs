using Bellator.Core.Code;
using Bellator.Core.Facts;
using Bellator.Core.Programs;
using Bellator.Core.Sources;

namespace Bellator.Core.Flow;

/// <summary>Finds the calls that never come back: of library functions that the facts say stop, and of the program's own that always end in one.</summary>
internal static class StoppingCalls
{
    /// <summary>A helper that redirects and stops is called by one that checks sign-in: two levels are common, more are not.</summary>
    private const int Rounds = 3;

    public static void Cut(ProgramCode program, FactBase facts)
    {
        var stops = new HashSet<int>();
        var open = program.Functions.Where(f => !DeadEnds.NeverReturns(f) || !stops.Add(f.Id)).ToList();
        for (var round = 0; round < Rounds; round++)
        {
            var before = stops.Count;
            foreach (var function in open)
            {
                var language = facts.For(Languages.Family(function.File.Source.Language));
                List<int>? calls = null;
                for (var i = 0; i < function.Instructions.Length; i++)
                {
                    if (Stops(program, language, function, i, stops) && !function.Blocks[function.BlockOf[i]].EndsHere)
                    {
                        (calls ??= []).Add(i);
                    }
                }

                if (calls is not null)
                {
                    DeadEnds.Cut(function, calls);
                    if (DeadEnds.NeverReturns(function))
                    {
                        stops.Add(function.Id);
                    }
                }
            }

            if (stops.Count == before)
            {
                break;
            }
        }
    }

    private static bool Stops(ProgramCode program, LanguageFacts facts, CodeFunction function, int index, HashSet<int> stops)
    {
        ref readonly var instruction = ref function.Instructions[index];
        switch (instruction.Op)
        {
            case Op.Call:
                var callee = function.Instructions[instruction.A];
                if (callee.Op == Op.Function)
                {
                    return stops.Contains(function.File.Functions[callee.A].Id);
                }

                return callee is { Op: Op.Global, Text: { } name }
                    && (facts.Call(name) is { Stops: true } || (stops.Count > 0 && program.FindFunction(name, function.File) is { } called && stops.Contains(called.Id)));
            case Op.CallMethod when stops.Count > 0 && function.Instructions[instruction.A].Op == Op.This && function.Class is not null:
                return program.FindMethod(function.Class, instruction.Text!) is { } method && stops.Contains(method.Id);
            default:
                return false;
        }
    }
}
