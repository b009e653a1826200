using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Scheduling;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>Addresses that files have by where they lie.</summary>
internal sealed class FileRoutes(ProgramModel program, ProgramAnalysis flow, CallRoutes surroundings)
{
    private static readonly string[] HttpMethods = ["get", "post", "put", "patch", "delete", "head"];

    /// <param name="taken">Functions that have addresses already.</param>
    public IEnumerable<EntryPoint> Read(IReadOnlySet<IrFunction> taken)
    {
        HashSet<int>? included = null;
        foreach (var file in program.Files)
        {
            foreach (var pages in flow.Facts.For(Languages.Family(file.Source.Language)).Pages)
            {
                if (PathOf(file.Source.Path, pages) is not var (path, method))
                {
                    continue;
                }

                if (pages.Not.Exists(n => ("/" + file.Source.Path).Contains("/" + n + "/", StringComparison.Ordinal)) || (pages.Calls.Count > 0 && !CallsOne(file, pages.Calls)))
                {
                    continue;
                }

                if (pages.Runs && ((included ??= Included()).Contains(file.Index) || flow.IsShown(file) || !Runs(file) || taken.Any(t => t.File == file)))
                {
                    continue;
                }

                if (pages.Directive is { } directive)
                {
                    foreach (var action in file.Functions.Where(f => f is { IsTopLevel: false, Name.Length: > 0 } && !taken.Contains(f) && Directives.Apply(f, directive)))
                    {
                        yield return new EntryPoint("POST", RoutePath.Normal(path) + "#" + action.Name, action, surroundings.Shown(action), new Location(file.Index, action.Span.Start, action.Span.Start + 1),
                            Languages.Family(file.Source.Language), [.. surroundings.Surrounding(action)]);
                    }

                    continue;
                }

                foreach (var (name, means) in pages.Handlers)
                {
                    foreach (var handler in Handlers(file, name))
                    {
                        var said = method ?? (name == "<file>" ? MethodsOf(file) : means);
                        var shown = handler.IsTopLevel ? file.Source.Path : surroundings.Shown(handler);
                        yield return new EntryPoint(said, RoutePath.Normal(path), handler, shown, new Location(file.Index, handler.Span.Start, handler.Span.Start + 1),
                            Languages.Family(file.Source.Language), [.. surroundings.Surrounding(handler)]);
                    }
                }

                break;
            }
        }
    }

    private static (string Path, string? Method)? PathOf(string file, FileRouteModel pages)
    {
        var ending = pages.Endings.Find(e => file.EndsWith(e, StringComparison.Ordinal));
        if (ending is null)
        {
            return null;
        }

        var rest = file;
        if (pages.Under.Count > 0)
        {
            var under = pages.Under.Find(u => ("/" + file).Contains("/" + u + "/", StringComparison.Ordinal));
            if (under is null)
            {
                return null;
            }

            rest = file[(("/" + file).IndexOf("/" + under + "/", StringComparison.Ordinal) + under.Length + 1)..];
        }

        if (!pages.KeepsEnding)
        {
            rest = rest[..^ending.Length];
        }

        string? method = null;
        if (pages.MethodInName && rest.LastIndexOf('.') is > 0 and var dot && Array.IndexOf(HttpMethods, rest[(dot + 1)..]) is >= 0 and var which)
        {
            method = HttpMethods[which].ToUpperInvariant();
            rest = rest[..dot];
        }

        var segments = rest.Split('/').Where(s => s.Length > 0 && !(s[0] == '(' && s[^1] == ')')).ToList();
        if (segments.Count > 0 && pages.Index.Contains(segments[^1]))
        {
            segments.RemoveAt(segments.Count - 1);
        }
        else if (pages.OnlyIndex)
        {
            return null;
        }

        return (pages.Prefix + "/" + string.Join('/', segments), method);
    }

    private IEnumerable<IrFunction> Handlers(IrFile file, string name)
    {
        if (name == "<file>")
        {
            return [file.Functions[0]];
        }

        if (name == "default")
        {
            var exported = flow.Shared(file, "default")?.Targets.OfType<IrFunction>().FirstOrDefault();
            return exported is not null ? [exported] : file.Functions.Where(f => f.Outer is { IsTopLevel: true } && f.Name.Length == 0).Take(1);
        }

        return file.Functions.Where(f => name.EndsWith('*') ? f.Class is not null && f.Name.StartsWith(name[..^1], StringComparison.Ordinal) : f.Name == name && f.Outer is { IsTopLevel: true });
    }

    private static bool CallsOne(IrFile file, List<string> names)
    {
        foreach (var function in file.Functions)
        {
            foreach (var lead in function.OutgoingCalls)
            {
                var called = function.Instructions[lead] is { Op: Opcode.Call, A: var callee } ? function.Instructions[callee] : default;
                if ((called.Op == Opcode.Import ? function.Operands[called.B].Name : called.Text) is { } name && names.Contains(name))
                {
                    return true;
                }
            }
        }

        return false;
    }

    private HashSet<int> Included()
    {
        var found = new HashSet<int>();
        foreach (var function in program.Functions)
        {
            foreach (var instruction in function.Instructions)
            {
                if (instruction.Op == Opcode.Include && program.Modules.IncludeTarget(function.File, function, instruction.A) is >= 0 and var target && target != function.File.Index)
                {
                    found.Add(target);
                }
            }
        }

        return found;
    }

    /// <summary>The top level of the file does something that a visitor could notice.</summary>
    private bool Runs(IrFile file)
    {
        var top = file.Functions[0];
        return top.Instructions.Any(i => i.Op is Opcode.Output or Opcode.Exit) || flow.SummaryOf(top).Events.Any(e => e.Kind is EventKind.Query or EventKind.Sink or EventKind.Act or EventKind.Run)
            || top.Instructions.Any(i => i.Op == Opcode.Global && i.Text is "$_GET" or "$_POST" or "$_REQUEST");
    }

    /// <summary>A page that reads a form answers to POST, one that reads only its address to GET.</summary>
    private string MethodsOf(IrFile file)
    {
        var names = file.Functions.SelectMany(f => f.Instructions).Where(i => i.Op is Opcode.Global or Opcode.LoadShared).Select(i => i.Text).ToHashSet(StringComparer.Ordinal);
        var facts = flow.Facts.For(Languages.Family(file.Source.Language));
        return names.Any(n => n is not null && facts.Global(n)?.Source == "form") ? "POST" : "GET";
    }
}
