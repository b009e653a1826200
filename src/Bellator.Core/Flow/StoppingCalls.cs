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
        var stops = new Stopping();
        var open = program.Functions.Where(f => !f.NeverReturns || !stops.Add(f)).ToList();
        for (var round = 0; round < Rounds; round++)
        {
            var before = stops.Count;
            foreach (var function in open)
            {
                var language = facts.For(Languages.Family(function.File.Source.Language));
                List<int>? calls = null;
                foreach (var i in function.Leads)
                {
                    if (function.Instructions[i].Op is Op.Call or Op.CallMethod && stops.After(program, language, function, i) && !function.Blocks[function.BlockOf[i]].EndsHere)
                    {
                        (calls ??= []).Add(i);
                    }
                }

                if (calls is not null)
                {
                    DeadEnds.Cut(function, calls);
                    if (DeadEnds.NeverReturns(function))
                    {
                        stops.Add(function);
                    }
                }
            }

            if (stops.Count == before)
            {
                break;
            }
        }
    }

    /// <summary>The functions of the program that never come back. Most calls are told from theirs by the name alone.</summary>
    private sealed class Stopping
    {
        private readonly HashSet<CodeFunction> _functions = [];
        private readonly HashSet<string> _names = new(StringComparer.OrdinalIgnoreCase);

        public int Count => _functions.Count;

        public bool Add(CodeFunction function)
        {
            _names.Add(CodeClass.ShortOf(function.Name));
            return _functions.Add(function);
        }

        /// <summary>Whether nothing comes after a call.</summary>
        public bool After(ProgramCode program, LanguageFacts facts, CodeFunction function, int index)
        {
            ref readonly var instruction = ref function.Instructions[index];
            ref readonly var called = ref function.Instructions[instruction.A];
            if (instruction.Op == Op.CallMethod)
            {
                if (called.Op == Op.This && (function.File.Source.Language is Language.Ruby or Language.Erb) && facts.Call(instruction.Text!) is { Stops: true })
                {
                    // Without an object a call may be one that is known everywhere.
                    return true;
                }

                return called.Op == Op.This && function.Class is not null && _names.Contains(instruction.Text!)
                    && program.FindMethod(function.Class, instruction.Text!) is { } method && _functions.Contains(method);
            }

            return called.Op == Op.Function
                ? _functions.Contains(function.File.Functions[called.A])
                : called is { Op: Op.Global, Text: { } name } && (facts.Call(name) is { Stops: true } || (_names.Contains(CodeClass.ShortOf(name)) && program.FindFunction(name, function.File) is { } found && _functions.Contains(found)));
        }
    }
}
