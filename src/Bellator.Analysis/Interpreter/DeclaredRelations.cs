using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>The relations that marks of the program's classes declare: by such a name records are reached also from an object that is not known.</summary>
internal sealed class DeclaredRelations(ProgramModel program, Func<IrFile, LanguageModels> facts)
{
    private readonly Lazy<Dictionary<string, List<IrClass>>> _owners = new(() =>
    {
        var owners = new Dictionary<string, List<IrClass>>(StringComparer.Ordinal);
        foreach (var type in program.Classes.Where(c => c.Annotations.Count > 0))
        {
            foreach (var mark in type.Annotations.Where(m => facts(type.File).Relations.ContainsKey(m.Name)))
            {
                if (mark.Arguments is [{ Name: null, Value: Literal { Text: { Length: > 0 } name } }, ..])
                {
                    var known = owners.TryGetValue(name, out var others) ? others : owners[name] = [];
                    if (!known.Contains(type.Primary))
                    {
                        known.Add(type.Primary);
                    }
                }
            }
        }

        return owners;
    });

    /// <summary>The one class that has a relation of the name; null if none or several have. Of several applications the one counts that the file belongs to.</summary>
    public IrClass? OnlyOwner(string relation, IrFile file)
    {
        if (!_owners.Value.TryGetValue(relation, out var owners))
        {
            return null;
        }

        var near = owners.GroupBy(o => Common(o.File.Source.Path, file.Source.Path)).MaxBy(g => g.Key)!;
        return near.Count() == 1 ? near.First() : null;
    }

    /// <summary>How many folders two paths have in common.</summary>
    private static int Common(string path, string other)
    {
        var (one, two) = (path.Split('/'), other.Split('/'));
        var same = 0;
        while (same < Math.Min(one.Length, two.Length) - 1 && one[same] == two[same])
        {
            same++;
        }

        return same;
    }
}
