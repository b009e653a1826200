using Bellator.Analysis.Ir;
using Bellator.Analysis.Programs;
using Bellator.Text;

namespace Bellator.Analysis.Html;

/// <summary>Finds page templates by the names and conventions under which code refers to them.</summary>
internal sealed class ViewModels
{
    private readonly ProgramModel _program;
    private readonly Dictionary<string, List<int>> _byStem = new(StringComparer.OrdinalIgnoreCase);

    public ViewModels(ProgramModel program)
    {
        _program = program;
        _scripts = new(() => program.Files.Where(f => f.Source.Language == Language.TypeScript).GroupBy(f => f.Source.Path).ToDictionary(g => g.Key, g => g.First(), StringComparer.Ordinal));
        for (var i = 0; i < program.Files.Count; i++)
        {
            if (Languages.IsTemplate(program.Files[i].Source.Language))
            {
                var stem = Stem(program.Files[i].Source.Path);
                (_byStem.TryGetValue(stem[(stem.LastIndexOf('/') + 1)..], out var list) ? list : _byStem[stem[(stem.LastIndexOf('/') + 1)..]] = []).Add(i);
            }
        }
    }

    /// <summary>The template's file, or -1. Without a name the convention holds: folder after the class, file after the method.</summary>
    public int Find(string? name, IrFunction from)
    {
        if (_byStem.Count == 0)
        {
            return -1;
        }

        var controller = from.Class is null ? "" : from.Class.ShortName.Replace("Controller", "", StringComparison.Ordinal);
        var wanted = name is null ? controller + "/" + from.Name : name.Contains('/', StringComparison.Ordinal) || name.Contains('.', StringComparison.Ordinal) ? Wanted(name) : controller.Length > 0 ? controller + "/" + name : name;
        var last = wanted[(wanted.LastIndexOf('/') + 1)..];
        if (!_byStem.TryGetValue(last, out var candidates))
        {
            // A part of pages has a name that begins with a line, which is left out where it is named.
            wanted = wanted[..^last.Length] + "_" + last;
            if (last.Length == 0 || !_byStem.TryGetValue("_" + last, out candidates))
            {
                return -1;
            }
        }

        var matching = candidates.FindAll(c => ("/" + Stem(_program.Files[c].Source.Path)).EndsWith("/" + wanted, StringComparison.OrdinalIgnoreCase));
        return matching.Count > 0 ? Nearest(matching, from.File) : candidates.Count == 1 ? candidates[0] : -1;
    }

    /// <summary>Of several applications in one tree, each has templates of its own: the one that shares most of the path.</summary>
    private int Nearest(List<int> candidates, IrFile from)
    {
        var path = from.Source.Path;
        return candidates.MaxBy(c =>
        {
            var other = _program.Files[c].Source.Path;
            var shared = 0;
            while (shared < path.Length && shared < other.Length && path[shared] == other[shared])
            {
                shared++;
            }

            return shared;
        });
    }

    /// <summary>The class whose actions show a template, by the folder it lies in.</summary>
    public IrClass? ControllerOf(IrFile template)
    {
        var path = template.Source.Path;
        var start = path.IndexOf("views/", StringComparison.Ordinal);
        var end = path.LastIndexOf('/');
        if (start < 0 || end < start + 6)
        {
            return null;
        }

        var parts = path[(start + 6)..end].Split('/').Select(p => string.Concat(p.Split('_').Where(w => w.Length > 0).Select(w => char.ToUpperInvariant(w[0]) + w[1..])));
        return _program.FindClass(string.Join("::", parts) + "Controller", template)?.Primary;
    }

    /// <summary>The class of the component whose page this is: of the file beside it that has the same name.</summary>
    public IrClass? ComponentOf(IrFile template)
    {
        var path = template.Source.Path;
        if (template.Source.Language != Language.Angular || !path.EndsWith(".html", StringComparison.OrdinalIgnoreCase))
        {
            return null;
        }

        return _scripts.Value.GetValueOrDefault(path[..^5] + ".ts")?.Classes.FirstOrDefault();
    }

    private readonly Lazy<Dictionary<string, IrFile>> _scripts;

    /// <summary>The type of the object that a page shows, where the page itself says it.</summary>
    public static string? ModelOf(IrFile page)
    {
        if (page.Source.Language != Language.Razor)
        {
            return null;
        }

        var at = page.Source.Content.AsSpan().IndexOf("@model "u8);
        return at < 0 || at > MaxDirectives ? null : System.Text.Encoding.UTF8.GetString(page.Source.Content.AsSpan(at + 7)[..Math.Max(0, page.Source.Content.AsSpan(at + 7).IndexOf((byte)'\n'))]).Trim();
    }

    /// <summary>Directives stand at the beginning of a page.</summary>
    private const int MaxDirectives = 2000;

    private static string Wanted(string name)
    {
        var stem = Stem(name);
        return stem == name && !name.Contains('/', StringComparison.Ordinal) ? name.Replace('.', '/') : stem;
    }

    /// <summary>The path without its extensions.</summary>
    private static string Stem(string path)
    {
        var slash = path.LastIndexOf('/');
        foreach (var extension in (ReadOnlySpan<string>)[".html", ".htm", ".jinja", ".jinja2", ".j2", ".twig", ".erb", ".ejs", ".hbs", ".handlebars", ".mustache", ".cshtml", ".razor", ".blade.php", ".txt", ".xml"])
        {
            var at = path.IndexOf(extension, slash + 1, StringComparison.OrdinalIgnoreCase);
            if (at > slash)
            {
                return path[..at];
            }
        }

        return path;
    }
}
