using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Text;

namespace Bellator.Analysis.Interpreter;

/// <summary>Finds the functions that frameworks call, by what the facts say of their marks, classes and names.</summary>
internal sealed class EntryPoints(ProgramModel program, LibraryModels facts)
{
    private readonly EntryModel?[] _known = new EntryModel?[program.FunctionBound];
    private readonly bool[] _isAsked = new bool[program.FunctionBound];

    /// <summary>What the framework is known to hand to the function, or null if no framework calls it.</summary>
    public EntryModel? Of(IrFunction function)
    {
        if (!Volatile.Read(ref _isAsked[function.Id]))
        {
            // Others may ask at the same time; all find the same.
            _known[function.Id] = Find(function);
            Volatile.Write(ref _isAsked[function.Id], true);
        }

        return _known[function.Id];
    }

    /// <summary>Notes that a function was handed over as an entry point of this kind.</summary>
    /// <returns>True if that is news.</returns>
    public bool Note(IrFunction function, string id)
    {
        if (Of(function) is not null)
        {
            return false;
        }

        _known[function.Id] = Named(function, id);
        return _known[function.Id] is not null;
    }

    /// <summary>Whether the function would be known as an entry point after that is noted.</summary>
    public bool WouldKnow(IrFunction function, string id) => (Of(function) ?? Named(function, id)) is not null;

    private EntryModel? Named(IrFunction function, string id) => facts.For(Languages.Family(function.File.Source.Language)).Entries.Find(e => e.Id == id);

    private EntryModel? Find(IrFunction function)
    {
        if (function.IsTopLevel || function.Name.Length == 0 || function.Name is "constructor" or "__construct")
        {
            return null;
        }

        foreach (var entry in facts.For(Languages.Family(function.File.Source.Language)).Entries)
        {
            if (!entry.IsEmpty && Fits(entry, function))
            {
                return entry;
            }
        }

        return null;
    }

    private bool Fits(EntryModel entry, IrFunction function)
    {
        if (entry.Annotated.Count > 0 && !function.Annotations.Any(a => entry.Annotated.Contains(IrClass.ShortOf(a.Name))))
        {
            return false;
        }

        if (entry.Files.Count > 0 && !entry.Files.Exists(f => ("/" + function.File.Source.Path).EndsWith(f, StringComparison.Ordinal)))
        {
            return false;
        }

        if (entry.Directive is { } directive && !Directives.Apply(function, directive))
        {
            return false;
        }

        if (entry.OverridesProgram is { } first && (function.Parameters.Count == 0 || function.Parameters[0].Name.TrimStart('$') != first))
        {
            return false;
        }

        if (entry.Names.Count > 0 && !entry.Names.Exists(n => n.EndsWith('*') ? function.Name.StartsWith(n[..^1], StringComparison.Ordinal) : n == function.Name))
        {
            return false;
        }

        if (entry.Public && (function.IsStatic || function.Annotations.Any(a => a.Name is "private" or "protected" or "internal")
            || (LanguageSemantics.For(function.File.Source.Language).PrivateByDefault && function.Annotations.All(a => a.Name != "public"))))
        {
            return false;
        }

        if (entry.Imports is { } module && function.File.Imports.Values.All(i => i.Module.Split('.')[0] != module))
        {
            return false;
        }

        if (entry.ClassAnnotated.Count > 0 && (function.Class is null || !function.Class.Primary.Annotations.Any(a => entry.ClassAnnotated.Contains(IrClass.ShortOf(a.Name)))))
        {
            return false;
        }

        return entry.Base.Count == 0 || (function.Class is not null && (ReferenceEquals(function.Class.Primary.Methods.GetValueOrDefault(function.Name), function) || IsOverload(function))
            && program.Kinds(function.Class).Any(k => entry.Base.Contains(k.TrimStart('\\')) || (!k.Contains('\\', StringComparison.Ordinal) && entry.Base.Contains(IrClass.ShortOf(k)))));
    }

    /// <summary>It is another method of the name, such as the one that takes the form beside the one that shows it.</summary>
    private static bool IsOverload(IrFunction function) =>
        LanguageSemantics.For(function.File.Source.Language).Overloads && (function.Outer is null or { IsTopLevel: true }) && function.Class!.Primary.Methods.ContainsKey(function.Name);
}
