using System.Text;
using Bellator.Analysis.Ir;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Programs;

/// <summary>
/// Puts a new reading of a changed file in the place of the old one, so that functions and classes stay the same objects with the
/// same numbers and all that is known of the rest of the program goes on to hold.
/// </summary>
internal static class IncrementalFileUpdate
{
    /// <summary>Renews a file in place.</summary>
    /// <param name="nextId">The number for the next function that is new; counted up.</param>
    /// <param name="nextCell">The number for the next variable that functions share; counted up.</param>
    /// <returns>False, and nothing is changed, if the new reading declares other things than the old one: then others may mean something else by the same names.</returns>
    public static bool TryApply(IrFile old, IrFile fresh, ref int nextId, ref int nextCell)
    {
        foreach (var type in old.Classes)
        {
            type.Restore();
        }

        var oldKeys = Keys(old);
        var freshKeys = Keys(fresh);
        if (!Outline(old, oldKeys).SequenceEqual(Outline(fresh, freshKeys), StringComparer.Ordinal))
        {
            return false;
        }

        var known = new Dictionary<string, IrFunction>(StringComparer.Ordinal);
        for (var i = 0; i < old.Functions.Count; i++)
        {
            known[oldKeys[i]] = old.Functions[i];
        }

        var meant = new Dictionary<IrFunction, IrFunction>();
        var functions = new List<IrFunction>(fresh.Functions.Count);
        for (var i = 0; i < fresh.Functions.Count; i++)
        {
            var function = fresh.Functions[i];
            var outer = function.Outer is null ? null : meant[function.Outer];
            if (known.TryGetValue(freshKeys[i], out var same) && ReferenceEquals(same.Outer, outer) && Signature(same) == Signature(function))
            {
                same.UpdateFrom(function);
            }
            else
            {
                function.Id = nextId++;
                function.MoveInto(old, outer, function.Class is null ? null : old.Classes[fresh.Classes.IndexOf(function.Class)]);
                same = function;
            }

            meant[function] = same;
            functions.Add(same);
        }

        for (var i = 0; i < old.Classes.Count; i++)
        {
            old.Classes[i].UpdateFrom(fresh.Classes[i], fresh.Classes[i].Methods.Select(m => KeyValuePair.Create(m.Key, meant[m.Value])));
        }

        if (fresh.CellCount > old.CellCount)
        {
            old.FirstCell = nextCell;
            nextCell += fresh.CellCount;
        }

        old.UpdateFrom(fresh, functions);
        return true;
    }

    /// <summary>What tells the functions of a file apart in every reading: where they stand in one another, their names, and their order among equals.</summary>
    private static string[] Keys(IrFile file)
    {
        var keys = new string[file.Functions.Count];
        var byFunction = new Dictionary<IrFunction, string>();
        var seen = new Dictionary<string, int>(StringComparer.Ordinal);
        for (var i = 0; i < keys.Length; i++)
        {
            var function = file.Functions[i];
            var key = (function.Outer is null ? "" : byFunction[function.Outer]) + "/" + (function.Class is null ? "" : file.Classes.IndexOf(function.Class)) + "." + function.Name;
            var count = seen[key] = seen.GetValueOrDefault(key) + 1;
            byFunction[function] = keys[i] = key + "#" + count;
        }

        return keys;
    }

    /// <summary>What other files can know of this one without following values through it.</summary>
    private static IEnumerable<string> Outline(IrFile file, string[] keys)
    {
        yield return file.Namespace;
        foreach (var (name, full) in file.Aliases.OrderBy(a => a.Key, StringComparer.Ordinal))
        {
            yield return $"{name}={full}";
        }

        foreach (var (name, import) in file.Imports.OrderBy(i => i.Key, StringComparer.Ordinal))
        {
            yield return $"{name}<{import.Module}:{import.Name}";
        }

        foreach (var (name, type) in file.NamedTypes.OrderBy(t => t.Key, StringComparer.Ordinal))
        {
            yield return $"{name}={Type(type.Type)}{Marks(type.Marks, file)}";
        }

        foreach (var type in file.Classes)
        {
            yield return $"{type.Kind} {type.Name} {type.Base} {string.Join(',', type.BaseArguments)} {string.Join(',', type.Interfaces)} {string.Join(',', type.Traits)} {Marks(type.Annotations, file)}";
            foreach (var field in type.Fields)
            {
                yield return $"{field.Name} {Type(field.Type)} {field.IsStatic} {Marks(field.Annotations, file)}";
            }

            foreach (var name in type.Methods.Keys)
            {
                yield return name;
            }
        }

        for (var i = 0; i < keys.Length; i++)
        {
            if (file.Functions[i].Name.Length > 0)
            {
                yield return keys[i] + Signature(file.Functions[i]);
            }
        }
    }

    private static string Signature(IrFunction function)
    {
        var text = new StringBuilder();
        text.Append(function.IsStatic).Append(function.IsArrow).Append(Type(function.ReturnType)).Append(Marks(function.Annotations, function.File));
        foreach (var parameter in function.Parameters)
        {
            text.Append('|').Append(parameter.Name).Append(':').Append(Type(parameter.Type)).Append(parameter.Variadic).Append(Marks(parameter.Annotations, function.File));
        }

        return text.ToString();
    }

    private static string Type(TypeName? type) => type is null ? "" : type.Arguments.Count == 0 ? type.Name : $"{type.Name}<{string.Join(',', type.Arguments.Select(Type))}>";

    private static string Marks(IReadOnlyList<Annotation> marks, IrFile file) =>
        string.Concat(marks.Select(m => " @" + m.Name + (m.Span == Span.None ? "" : file.Source.Text(m.Span))));
}
