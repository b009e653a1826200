using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;

namespace Bellator.Analysis.Interpreter;

/// <summary>
/// Work that a queue does later. What it gets now it uses then, without anybody asking again: for whoever asked, it is as if it were done
/// at once.
/// </summary>
internal sealed partial class FunctionAnalyzer
{
    /// <param name="named">The call with its options by name.</param>
    private void RunLater(RunsModel work, CallSite site, CallSite named)
    {
        var job = work.At is { } at ? site.Argument(at) : site.Receiver;
        var given = work.ListField is { } field
            ? new CallSite(site.Index, AbstractValue.Unknown, [.. (named.Option(field) ?? site.Argument(work.From)).Parts], [])
            : new CallSite(site.Index, AbstractValue.Unknown, [.. site.Arguments.Skip(work.From)], [.. site.Operands.Skip(work.From)]);
        foreach (var function in job.Targets.OfType<IrFunction>().Where(f => f.Parameters.Count > 0))
        {
            ApplyFunction(function, given);
        }

        var type = job.Targets.OfType<IrClass>().FirstOrDefault()?.Primary
            ?? job.Types.Where(t => t[0] == '#').Select(t => _program.Program.Classes[ClassNumber(t)].Primary).FirstOrDefault();
        if (type is not null && work.Method.Length > 0 && _program.Program.FindMethod(type, work.Method) is { } method)
        {
            var self = work.Constructs ? Instantiate(type, given) : TypedValue("#" + type.Id);
            ApplyFunction(method, work.Constructs || work.At is not null ? new CallSite(site.Index, self, [], []) : given with { Receiver = self });
        }
    }
}
