using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Programs;

namespace Bellator.Audit.Endpoints;

/// <summary>
/// Methods of classes that put guards on the class in whose body they are called, or take them away: <c>open_to_all only: :index</c>, where
/// <c>open_to_all</c> skips what asks for sign-in. They say nothing of the class in which they are written.
/// </summary>
internal sealed class GuardMacros
{
    private const string Body = "<body>";

    private readonly ProgramModel _program;
    private readonly Dictionary<string, List<AnalysisEvent>> _byName;
    private readonly HashSet<IrFunction> _methods = [];
    private readonly List<(IrClass Type, AnalysisEvent Guard, Options Options)> _calls = [];

    public GuardMacros(ProgramModel program, IReadOnlyList<AnalysisEvent> guards)
    {
        _program = program;
        _byName = guards.Where(g => g.Depth == 0 && g.Function is { Class: not null, IsTopLevel: false, Name: { Length: > 0 } name } && name != Body && name[0] != '<')
            .GroupBy(g => g.Function.Name, StringComparer.Ordinal).ToDictionary(g => g.Key, g => g.ToList(), StringComparer.Ordinal);
        foreach (var body in _byName.Count == 0 ? [] : program.Functions.Where(f => f is { Name: Body, Class: not null }))
        {
            foreach (var (call, name) in body.NamedCalls.Where(c => _byName.ContainsKey(c.Name)))
            {
                foreach (var guard in _byName[name].Where(g => Has(body.Class!, g.Function.Class!)))
                {
                    _methods.Add(guard.Function);
                    _calls.Add((body.Class!.Primary, guard, OptionsOf(body, call)));
                }
            }
        }
    }

    /// <summary>The actions for which the call says that it holds, or does not.</summary>
    public sealed record Options(HashSet<string>? Only, HashSet<string>? Except);

    /// <summary>The body of some class calls the function, so that its guards stand there.</summary>
    public bool Contains(IrFunction function) => _methods.Contains(function);

    public IEnumerable<(IrClass Type, AnalysisEvent Guard, Options Options)> Calls() => _calls;

    /// <summary>The class, or one that it is based on or takes in, is the other, or has it written in it.</summary>
    private bool Has(IrClass type, IrClass other)
    {
        for (var at = type.Primary; at is not null; at = _program.BaseOf(at)?.Primary)
        {
            if (at == other.Primary || at.Traits.Select(t => _program.FindClass(t, at.File)).OfType<IrClass>().Any(t => t.Primary == other.Primary || other.Name.StartsWith(t.Name + "::", StringComparison.Ordinal)))
            {
                return true;
            }
        }

        return false;
    }

    private static Options OptionsOf(IrFunction body, int call) => new(NamesIn(body, call, "only"), NamesIn(body, call, "except"));

    private static HashSet<string>? NamesIn(IrFunction body, int call, string option)
    {
        foreach (var operand in body.List(body.Instructions[call]).ToArray().Where(o => o.Name == option && o.Value >= 0))
        {
            var value = body.Instructions[operand.Value];
            return value.Op == Opcode.Constant ? [value.Text ?? ""] : value.Op == Opcode.List ? [.. body.List(value).ToArray().Select(o => body.Instructions[o.Value].Text).OfType<string>()] : null;
        }

        return null;
    }
}
