using Bellator.Analysis.Ir;
using Bellator.Analysis.Scheduling;
using Bellator.Audit.Endpoints;
using Bellator.Text;

namespace Bellator.Audit.Access;

/// <summary>
/// Tables whose mapped classes put a condition of their own on every query: what a query does not say itself may stand there, so that
/// which rows it finds is not known.
/// </summary>
internal sealed class ScopedTables
{
    private readonly HashSet<string> _tables = new(StringComparer.OrdinalIgnoreCase);

    public ScopedTables(ProgramAnalysis flow, SurfaceModel surface)
    {
        foreach (var type in flow.Program.Classes)
        {
            var calls = flow.Facts.For(Languages.Family(type.File.Source.Language)).ScopeCalls;
            if (calls.Count > 0 && type.Traits.Select(t => flow.Program.FindClass(t, type.File)).OfType<IrClass>().Append(type).Any(c => Of(c).Any(m => m.NamedCalls.Any(n => calls.Contains(n.Name)))))
            {
                _tables.Add(surface.TableOf(type));
            }
        }
    }

    /// <summary>The code of a class: its methods, its body, and blocks in these.</summary>
    private static IEnumerable<IrFunction> Of(IrClass type) => type.File.Functions.Where(f => f.Class == type || f.Outer?.Class == type || f.Outer?.Outer?.Class == type);

    public bool Has(string table) => _tables.Contains(table);
}
