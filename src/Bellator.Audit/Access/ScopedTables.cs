using Bellator.Analysis.Events;
using Bellator.Analysis.Interpreter;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Scheduling;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Tables;
using Bellator.Text;

namespace Bellator.Audit.Access;

/// <summary>
/// Tables whose mapped classes, or whose mapper, put a condition of their own on every query: what a query does not say itself may stand
/// there, so that which rows it finds is not known.
/// </summary>
internal sealed class ScopedTables
{
    private readonly ProgramAnalysis _flow;
    private readonly HashSet<string> _tables = new(StringComparer.OrdinalIgnoreCase);
    private readonly HashSet<string> _stores = [];

    public ScopedTables(ProgramAnalysis flow, SurfaceModel surface)
    {
        _flow = flow;
        foreach (var type in flow.Program.Classes)
        {
            var calls = flow.Facts.For(Languages.Family(type.File.Source.Language)).ScopeCalls;
            if (calls.Count > 0 && type.Traits.Select(t => flow.Program.FindClass(t, type.File)).OfType<IrClass>().Append(type).Any(c => Of(c).Any(m => m.NamedCalls.Any(n => calls.Contains(n.Name)))))
            {
                _tables.Add(surface.TableOf(type));
            }
        }

        foreach (var function in flow.Program.Functions)
        {
            var family = Languages.Family(function.File.Source.Language);
            var facts = flow.Facts.For(family);
            foreach (var call in facts.StoreScopeCalls.Count == 0 ? [] : function.NamedCalls.Where(n => facts.StoreScopeCalls.Contains(n.Name)))
            {
                // It is said of one of the mapper's classes, or of all of them.
                if (FluentTables.ModelAt(function, call.Instruction, facts) is { } model && flow.Program.FindClass(model, function.File) is { } type)
                {
                    _tables.Add(surface.TableOf(type.Primary));
                }
                else
                {
                    _stores.Add(family);
                }
            }
        }
    }

    public bool Has(string table) => _tables.Contains(table);

    /// <summary>The use goes through a mapper that may add a condition, and nothing at the use takes it off.</summary>
    public bool MayLimit(RecordUse use)
    {
        var family = Languages.Family(use.In.File.Source.Language);
        return use.Happening.Kind == EventKind.Access && !IsLifted(use, _flow.Facts.For(family).ScopeLifts)
            && (_stores.Contains(family) || use.Happening.Role("model").Types.Contains(FunctionAnalyzer.LimitedRecords) || _tables.Contains(use.Access.Table));
    }

    private static bool IsLifted(RecordUse use, HashSet<string> lifts) =>
        lifts.Count > 0 && use.Happening.Function is { } function
        && function.NamedCalls.Any(n => lifts.Contains(n.Name) && function.LocationOf(n.Instruction) is var at && at.Start >= use.Happening.At.Start && at.End <= use.Happening.At.End);

    /// <summary>The code of a class: its methods, its body, and blocks in these.</summary>
    private static IEnumerable<IrFunction> Of(IrClass type) => type.File.Functions.Where(f => f.Class == type || f.Outer?.Class == type || f.Outer?.Outer?.Class == type);
}
