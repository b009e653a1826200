using System.Collections.Concurrent;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Text;

namespace Bellator.Analysis.Interpreter;

/// <summary>What facts say of the program's own functions: where a framework is audited itself, its functions are those that the facts speak of.</summary>
internal sealed class ModelledProgramFunctions(LibraryModels facts)
{
    private readonly ConcurrentDictionary<IrFunction, IReadOnlyList<JourneyStepModel>> _acts = [];

    /// <summary>The steps of journeys that the function takes by its full name.</summary>
    public IReadOnlyList<JourneyStepModel> JourneyStepsOf(IrFunction function)
    {
        if (function.File.Source.Language != Language.Python || function.Name.Length == 0)
        {
            return [];
        }

        return _acts.GetOrAdd(function, Find);
    }

    private IReadOnlyList<JourneyStepModel> Find(IrFunction function)
    {
        var calls = facts.For("python");
        var path = function.File.Source.Path[..^3];
        path = path.EndsWith("/__init__", StringComparison.Ordinal) ? path[..^9] : path;
        var name = function.Class is { } type ? "." + type.ShortName + "#" + function.Name : "." + function.Name;
        for (var start = 0; start >= 0; start = path.IndexOf('/', start) is >= 0 and var slash ? slash + 1 : -1)
        {
            if (calls.Call(path[start..].Replace('/', '.') + name) is { JourneySteps: { Count: > 0 } acts })
            {
                return acts;
            }
        }

        return [];
    }
}
