using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Text;

namespace Bellator.Analysis.Interpreter;

/// <summary>What facts state of the program's own functions: a reviewer who has read a function knows more of what it gives than the analysis saw.</summary>
internal sealed class StatedFunctions
{
    private readonly Dictionary<IrFunction, CallModel> _facts = [];
    private readonly List<string> _unknown = [];

    public StatedFunctions(ProgramModel program, LibraryModels facts)
    {
        foreach (var language in program.Files.GroupBy(f => Languages.Family(f.Source.Language)))
        {
            var stated = facts.For(language.Key).Functions;
            if (stated.Count == 0)
            {
                continue;
            }

            var all = language.SelectMany(f => f.Functions).Select(f => (Function: f, Name: FunctionNaming.Of(f))).Where(f => f.Name.Length > 0).ToList();
            var named = all.ToLookup(f => Normal(f.Name), f => f.Function, stated.Comparer);
            var byLastPart = all.ToLookup(f => FunctionNaming.LastPart(f.Name), f => f.Function, stated.Comparer);
            foreach (var (key, fact) in stated)
            {
                var (path, name) = Split(key);
                var functions = (name.StartsWith("*#", StringComparison.Ordinal) ? byLastPart[name[2..]] : named[Normal(name)]).Where(f => path is null || f.File.Source.Path == path).ToList();
                functions.ForEach(f => _facts[f] = fact);
                if (functions.Count == 0)
                {
                    _unknown.Add(key);
                }
            }
        }
    }

    /// <summary>Names that no function of the program bears.</summary>
    public IReadOnlyList<string> Unknown => _unknown;

    public CallModel? Of(IrFunction function) => _facts.Count == 0 ? null : _facts.GetValueOrDefault(function);

    /// <summary>A name, and the file before it where one is given: <c>lib/clean.js:sku</c>.</summary>
    private static (string? Path, string Name) Split(string key)
    {
        for (var at = key.IndexOf(':', StringComparison.Ordinal); at > 0; at = key.IndexOf(':', at + 1))
        {
            if (at + 1 < key.Length && key[at + 1] == ':')
            {
                at++;
                continue;
            }

            return (key[..at], key[(at + 1)..]);
        }

        return (null, key);
    }

    private static string Normal(string name) => name.Replace("::", "#", StringComparison.Ordinal);
}
