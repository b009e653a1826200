using System.Text.RegularExpressions;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Queries;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>The functions and files of a program by their names, as tables of addresses name them.</summary>
internal sealed partial class HandlerNames(ProgramModel program)
{
    private readonly ILookup<string, IrFunction> _byName = program.Functions.ToLookup(f => f.Name, StringComparer.Ordinal);
    private readonly ILookup<string, IrFile> _byStem = program.Files.ToLookup(f => Path.GetFileNameWithoutExtension(f.Source.Path), StringComparer.OrdinalIgnoreCase);

    /// <summary>The one function of the program that the parts of a row name: by itself, by a name, by a class and a method, or by a file and a name in it.</summary>
    public IrFunction? HandlerOf(IReadOnlyList<object?> parts, IrFunction home)
    {
        if (parts.OfType<IrFunction>().ToList() is { Count: > 0 } functions)
        {
            return functions[^1];
        }

        var names = parts.SelectMany(p => p is WrittenTable pair ? pair.Entries().Select(o => pair.In.Instructions[o.Value]).Select(i => i is { Op: Opcode.GetStatic, Text: "class", A: >= 0 } ? pair.In.Instructions[i.A].Text ?? "" : i.Text ?? "") : [p as string ?? ""]).Where(n => n.Length > 0).ToList();
        var split = names.SelectMany(n => n.Split(["::", "@", "#", "->", ":"], StringSplitOptions.RemoveEmptyEntries)).ToList();
        var found = new List<(string Name, IrFunction Function)>();
        foreach (var name in split.Where(n => Word().IsMatch(n)))
        {
            var meant = _byName[name].Where(f => Languages.Family(f.File.Source.Language) == Languages.Family(home.File.Source.Language)).ToList();
            if (meant.Count > 1)
            {
                // Several of the name: the others say which.
                meant = meant.FindAll(f => split.Exists(o => o != name && (o.Equals(Path.GetFileNameWithoutExtension(f.File.Source.Path), StringComparison.OrdinalIgnoreCase) || (f.Class is { } type && IrClass.ShortOf(o).Equals(type.ShortName, StringComparison.OrdinalIgnoreCase)))));
            }

            if (meant.Count != 1 && _byName[name].Where(f => f.File == home.File).ToList() is [var near])
            {
                meant = [near];
            }

            if (meant is [var only] && !only.IsTopLevel)
            {
                found.Add((name, only));
            }
        }

        if (found.Count > 0)
        {
            // A name may be that of the file in which the other is.
            return found.LastOrDefault(f => !_byStem.Contains(f.Name), found[^1]).Function;
        }

        // A file that is run for the address.
        var files = names.Where(n => n.Contains('.', StringComparison.Ordinal)).SelectMany(n => _byStem[Path.GetFileNameWithoutExtension(n)].Where(f => ("/" + f.Source.Path).EndsWith("/" + n.TrimStart('.', '/'), StringComparison.Ordinal))).ToList();
        return files is [var file] && file != home.File && file.Functions.Count > 0 ? file.Functions[0] : null;
    }

    [GeneratedRegex(@"^[A-Za-z_]\w*$", RegexOptions.None, 200)]
    private static partial Regex Word();
}
