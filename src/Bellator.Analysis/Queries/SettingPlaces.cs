using System.Globalization;
using Bellator.Analysis.Ir;
using Bellator.Text;

namespace Bellator.Analysis.Queries;

/// <summary>Where code gives settings their values by name: as members, keys, named arguments, variables of a file, or fields of a class.</summary>
public static class SettingPlaces
{
    /// <summary>Every name that is set in the file, with where.</summary>
    public static IEnumerable<(string Name, Location At)> In(IrFile file)
    {
        foreach (var function in file.Functions)
        {
            for (var i = 0; i < function.Instructions.Length; i++)
            {
                var instruction = function.Instructions[i];
                if (instruction is { Op: Opcode.SetField or Opcode.WithField or Opcode.SetStatic or Opcode.Export or Opcode.StoreShared, Text: { Length: > 0 } member })
                {
                    yield return (member, function.LocationOf(i));
                }
                else if (instruction is { Op: Opcode.SetItem or Opcode.WithItem, B: >= 0 } && function.Instructions[instruction.B] is { Op: Opcode.Constant, Text: { Length: > 0 } key })
                {
                    yield return (key, function.LocationOf(i));
                }
                else if (instruction is { Op: Opcode.New or Opcode.Object or Opcode.Call or Opcode.CallMethod or Opcode.CallStatic, C: > 0 })
                {
                    foreach (var operand in function.List(instruction).ToArray())
                    {
                        if (operand.Name is { Length: > 0 } name)
                        {
                            yield return (name.TrimStart('='), operand.Value >= 0 && function.LocationOf(operand.Value) is { IsKnown: true } at ? at : function.LocationOf(i));
                        }
                    }
                }
            }
        }

        foreach (var type in file.Classes)
        {
            foreach (var field in type.Fields)
            {
                yield return (field.Name, new Location(file.Index, field.Span.Start, field.Span.End));
            }
        }
    }

    /// <summary>The version that a call is given first, as number or text; a later one than any where it is not known.</summary>
    public static double VersionAt(IrFunction function, int call) =>
        function.List(function.Instructions[call]) is [{ Value: >= 0 and var first }, ..] && function.Instructions[first] is { Op: Opcode.Constant, Text: { } text } && double.TryParse(text, CultureInfo.InvariantCulture, out var version) ? version : double.MaxValue;

    /// <summary>Where a function has one of the texts.</summary>
    public static IEnumerable<Location> OfTexts(IrFunction function, IReadOnlyCollection<string> texts)
    {
        for (var i = 0; i < function.Instructions.Length; i++)
        {
            if (function.Instructions[i] is { Op: Opcode.Constant, Text: { } text } && texts.Contains(text))
            {
                yield return function.LocationOf(i);
            }
        }
    }
}
