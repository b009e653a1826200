using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Scheduling;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>
/// Guards that stand before every address of an application, or all below a folder, wherever that is declared: a policy for what says
/// nothing itself, guards of the whole application that a module lists.
/// </summary>
internal sealed class ApplicationGuards
{
    private readonly ProgramModel _program;
    private readonly ProgramAnalysis _flow;
    private readonly List<Placed> _placed = [];

    public ApplicationGuards(ProgramModel program, ProgramAnalysis flow, GuardClassifier names, EventIndex happenings)
    {
        (_program, _flow) = (program, flow);
        foreach (var happening in happenings.Of(EventKind.Guard).Where(h => h.Fact?.Guard is { Everywhere: true } && h.Depth == 0))
        {
            Read(happening, names);
        }

        foreach (var type in program.Classes)
        {
            foreach (var mark in type.Annotations)
            {
                Read(type, mark, names);
            }
        }
    }

    /// <param name="Language">It stands before handlers of this language.</param>
    /// <param name="Path">The path, or the folder, that it is about; empty for all.</param>
    /// <param name="Exact">It is about this path alone.</param>
    /// <param name="Classes">It stands only before methods of classes of one of these kinds; empty for all.</param>
    private sealed record Placed(string Language, Middleware Guard, string Path, bool Exact, IReadOnlyList<string> Classes);

    /// <summary>The entry point with what stands before all.</summary>
    public EntryPoint With(EntryPoint entry)
    {
        if (_placed.Count == 0)
        {
            return entry;
        }

        var language = Languages.Family(_program.Files[entry.At.File].Source.Language);
        var found = _placed.Where(p => p.Language == language && IsAt(p, entry.Path) && IsOf(p, entry.Handler)).Select(p => p.Guard).ToList();

        // What stands at a handler's own marks says more than what is said of all, unless that cannot be taken back.
        return found.Count == 0 ? entry : entry with { Guards = [.. found.Where(g => g.Asks != Requirement.Open || g.Overrides || entry.Guards.All(e => e.Asks is not (Requirement.SignIn or Requirement.Role))), .. entry.Guards] };
    }

    private static bool IsAt(Placed placed, string path)
    {
        var (begin, whole) = (placed.Path.Trim('/'), path.Trim('/'));
        return begin.Length == 0 || whole.Equals(begin, StringComparison.OrdinalIgnoreCase) || (!placed.Exact && whole.StartsWith(begin + "/", StringComparison.OrdinalIgnoreCase));
    }

    private bool IsOf(Placed placed, IrFunction? handler) =>
        placed.Classes.Count == 0 || (handler?.Class is { } type && _program.Kinds(type).Any(k => placed.Classes.Contains(IrClass.ShortOf(k))));

    private void Read(AnalysisEvent happening, GuardClassifier names)
    {
        var fact = happening.Fact!.Guard!;
        var given = happening.Role("names").Fields?.Values.ToList() ?? [];
        var language = Languages.Family(happening.Function.File.Source.Language);
        if (fact.Asks == "named")
        {
            for (var i = 0; i < given.Count; i++)
            {
                var at = i < happening.Places.Count ? happening.Places[i] : happening.At;
                var text = _program.Tree.TextOf(at);
                _placed.Add(new Placed(language, new Middleware(text, names.Of(text, given[i], happening.Function.File), at, names.StepOf(given[i], happening.Function.File)), "", false, fact.Classes));
            }

            return;
        }

        if (given is [{ Constant: "null" or "false" }, ..])
        {
            // Set to nothing, it asks for nothing.
            return;
        }

        var path = fact.Path is { } position && position < given.Count ? given[position].Constant : "";
        if (path is null)
        {
            return;
        }

        var asks = fact.Role is { } role && role < given.Count ? Requirement.Role : GuardClassifier.Named(fact.Asks);
        _placed.Add(new Placed(language, new Middleware(_program.Tree.TextOf(happening.At), asks, happening.At) { Overrides = fact.Overrides }, path, fact.Exact, fact.Classes));
    }

    private void Read(IrClass type, Annotation mark, GuardClassifier names)
    {
        var facts = _flow.Facts.For(Languages.Family(type.File.Source.Language));
        foreach (var fact in facts.ModuleGuards.Where(f => f.Mark == IrClass.ShortOf(mark.Name)))
        {
            var listed = mark.Arguments.Select(a => a.Value).OfType<ObjectLiteral>().SelectMany(o => o.Entries).FirstOrDefault(e => e.Name == fact.Field)?.Value as ObjectLiteral;
            foreach (var provider in listed?.Entries.Select(e => e.Value).OfType<ObjectLiteral>() ?? [])
            {
                if (!provider.Entries.Any(e => e.Name == fact.Key && type.File.Source.Text(e.Value.Span) == fact.Is) || provider.Entries.FirstOrDefault(e => fact.Given.Contains(e.Name ?? ""))?.Value is not { } guard)
                {
                    continue;
                }

                var text = type.File.Source.Text(guard.Span);
                var step = names.StepNamed(guard, text, type.File);
                _placed.Add(new Placed(Languages.Family(type.File.Source.Language), new Middleware(text, names.Of(text, step, type.File), new Location(type.File.Index, guard.Span.Start, guard.Span.End), step), "", false, []));
            }
        }
    }
}
