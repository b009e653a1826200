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
            names.UnionWith(file.Imports.Values.Select(i => i.Module));
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
        }

        return names;
    }
}
