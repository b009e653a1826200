using Bellator.Analysis.Ir;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Programs;

/// <summary>Finds the file that an import or include means, and which files share top-level variables through includes.</summary>
public sealed class ModuleResolver
{
    private static readonly string[] Extensions = ["", ".js", ".ts", ".mjs", ".cjs", ".jsx", ".tsx", "/index.js", "/index.ts", "/index.mjs", "/index.cjs", "/index.tsx"];
    private readonly Dictionary<string, int> _byPath = new(StringComparer.Ordinal);
    private readonly Dictionary<string, List<int>> _byName = new(StringComparer.Ordinal);
    private readonly string[] _paths;
    private readonly HashSet<int>[] _related;

    internal ModuleResolver(IReadOnlyList<IrFile> files)
    {
        _paths = [.. files.Select(f => f.Source.Path)];
        for (var i = 0; i < files.Count; i++)
        {
            var path = files[i].Source.Path;
            _byPath[path] = i;
            var name = path[(path.LastIndexOf('/') + 1)..];
            if (!_byName.TryGetValue(name, out var list))
            {
                _byName[name] = list = [];
            }

            list.Add(i);
        }

        _related = RelateIncludes(files);
    }

    /// <summary>The file that a module name means when imported from a path, or -1 for a library.</summary>
    public int Resolve(string from, string module)
    {
        if (from.EndsWith(".py", StringComparison.Ordinal))
        {
            return ResolvePython(from, module);
        }

        string[] starts;
        if (module.StartsWith('.'))
        {
            starts = [Join(Folder(from), module)];
        }
        else if (module.StartsWith("@/", StringComparison.Ordinal) || module.StartsWith("~/", StringComparison.Ordinal))
        {
            // Common aliases for the source root.
            starts = [module[2..], "src/" + module[2..], "app/" + module[2..], "server/" + module[2..]];
        }
        else if (module.StartsWith("~~/", StringComparison.Ordinal) || module.StartsWith("#", StringComparison.Ordinal))
        {
            starts = [module.TrimStart('~', '#', '/')];
        }
        else if (module.Contains('/', StringComparison.Ordinal) && !module.StartsWith('@'))
        {
            starts = [module, "src/" + module];
        }
        else
        {
            return -1;
        }

        foreach (var start in starts)
        {
            foreach (var extension in Extensions)
            {
                if (_byPath.TryGetValue(start + extension, out var found))
                {
                    return found;
                }
            }

            // TypeScript's imports may name the file that it compiles to.
            if (start.EndsWith(".js", StringComparison.Ordinal) && _byPath.TryGetValue(start[..^3] + ".ts", out var typed))
            {
                return typed;
            }
        }

        return -1;
    }

    /// <summary>A dotted module, from the importing package for one with leading dots, else from any folder above.</summary>
    private int ResolvePython(string from, string module)
    {
        var dots = module.Length - module.TrimStart('.').Length;
        var relative = module[dots..].Replace('.', '/');
        var folder = Folder(from);
        for (var i = 1; i < dots; i++)
        {
            folder = Folder(folder);
        }

        while (true)
        {
            var path = Join(folder, relative);
            if (_byPath.TryGetValue(path + ".py", out var found) || _byPath.TryGetValue(path.Length == 0 ? "__init__.py" : path + "/__init__.py", out found))
            {
                return found;
            }

            if (dots > 0 || folder.Length == 0)
            {
                return -1;
            }

            folder = Folder(folder);
        }
    }

    /// <summary>Files whose top-level variables a file can see: those it includes and those that include it, directly or through others.</summary>
    public bool AreRelated(int file, int other) => _related[file].Contains(other);

    private HashSet<int>[] RelateIncludes(IReadOnlyList<IrFile> files)
    {
        var includes = new List<int>[files.Count];
        var includedBy = new List<int>[files.Count];
        for (var i = 0; i < files.Count; i++)
        {
            includes[i] = [];
            includedBy[i] = [];
        }

        for (var i = 0; i < files.Count; i++)
        {
            if (files[i].Source.Language != Language.Php)
            {
                continue;
            }

            foreach (var function in files[i].Functions)
            {
                foreach (var instruction in function.Instructions)
                {
                    if (instruction.Op == Opcode.Include && IncludeTarget(files[i], function, instruction.A) is >= 0 and var target && target != i)
                    {
                        includes[i].Add(target);
                        includedBy[target].Add(i);
                    }
                }
            }
        }

        var related = new HashSet<int>[files.Count];
        for (var i = 0; i < files.Count; i++)
        {
            var seen = new HashSet<int> { i };
            Reach(i, includes, seen);
            var up = new HashSet<int> { i };
            Reach(i, includedBy, up);
            seen.UnionWith(up);
            seen.Remove(i);
            related[i] = seen;
        }

        return related;
    }

    private static void Reach(int from, List<int>[] edges, HashSet<int> seen)
    {
        var queue = new Queue<int>([from]);
        while (queue.TryDequeue(out var file) && seen.Count < 400)
        {
            foreach (var next in edges[file])
            {
                if (seen.Add(next))
                {
                    queue.Enqueue(next);
                }
            }
        }
    }

    /// <summary>The file that an include means, or -1 where its path is not known.</summary>
    public int IncludeTarget(IrFile file, IrFunction function, int path)
    {
        var value = path < 0 ? default : function.Instructions[path];
        if (value.Op == Opcode.Concat && value.C > 0)
        {
            value = function.Instructions[function.Operands[value.B + value.C - 1].Value];
        }

        if (value.Op != Opcode.Constant || value.A != (int)LiteralKind.Text || string.IsNullOrEmpty(value.Text))
        {
            return -1;
        }

        var text = value.Text.TrimStart('/');
        var relative = Join(Folder(file.Source.Path), text);
        if (_byPath.TryGetValue(relative, out var found) || _byPath.TryGetValue(Clean(text), out found))
        {
            return found;
        }

        // The start of the path is computed: take the only file that ends like the rest.
        var tail = Clean(text);
        var name = tail[(tail.LastIndexOf('/') + 1)..];
        if (_byName.TryGetValue(name, out var candidates))
        {
            var matching = candidates.FindAll(c => ("/" + _paths[c]).EndsWith("/" + tail, StringComparison.Ordinal));
            return matching.Count == 1 ? matching[0] : -1;
        }

        return -1;
    }

    private static string Folder(string path) => path.LastIndexOf('/') is >= 0 and var slash ? path[..slash] : "";

    private static string Clean(string path) => Join("", path);

    private static string Join(string folder, string relative)
    {
        var parts = new List<string>(folder.Split('/', StringSplitOptions.RemoveEmptyEntries));
        foreach (var part in relative.Split('/', StringSplitOptions.RemoveEmptyEntries))
        {
            if (part == "..")
            {
                if (parts.Count > 0)
                {
                    parts.RemoveAt(parts.Count - 1);
                }
            }
            else if (part != ".")
            {
                parts.Add(part);
            }
        }

        return string.Join('/', parts);
    }
}
