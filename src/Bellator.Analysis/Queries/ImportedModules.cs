using Bellator.Analysis.Ir;
using Bellator.Analysis.Programs;

namespace Bellator.Analysis.Queries;

/// <summary>The names of the modules that a program asks for, its own and others, as they are written.</summary>
public static class ImportedModules
{
    public static HashSet<string> Of(ProgramModel program)
    {
        var names = new HashSet<string>(StringComparer.Ordinal);
        foreach (var file in program.Files)
        {
            names.UnionWith(Of(file));
        }

        return names;
    }

    /// <summary>Those of one file.</summary>
    public static HashSet<string> Of(IrFile file)
    {
        var names = file.Imports.Values.Select(i => i.Module).ToHashSet(StringComparer.Ordinal);
        foreach (var function in file.Functions)
        {
            foreach (ref readonly var instruction in function.Instructions.AsSpan())
            {
                if (instruction is { Op: Opcode.Import, Text: { } module })
                {
                    names.Add(module);
                }
            }
        }

        return names;
    }

    /// <summary>A file names something by one of the names that nobody in it declares, such as a class that is loaded when it is first named.</summary>
    public static bool Mentions(IrFile file, IReadOnlyCollection<string> names)
    {
        foreach (var function in file.Functions)
        {
            foreach (ref readonly var instruction in function.Instructions.AsSpan())
            {
                if (instruction is { Op: Opcode.Global, Text: { } name } && names.Contains(name))
                {
                    return true;
                }
            }
        }

        return false;
    }
}
