using Bellator.Analysis.Ir;

namespace Bellator.Analysis.Queries;

/// <summary>The names of the members and keys that a function reads, and of columns in conditions that it writes as text: <c>where("expires_at > ?", now)</c>.</summary>
public static class FieldNames
{
    /// <summary>Longer texts are statements, which are read as such.</summary>
    private const int LongestCondition = 200;

    private static readonly char[] NotInNames = [.. Enumerable.Range(1, 127).Select(c => (char)c).Where(c => !char.IsAsciiLetterOrDigit(c) && c != '_')];

    /// <summary>The names of the members that it sets, those of objects that it makes with them included.</summary>
    public static IEnumerable<string> SetIn(IrFunction function)
    {
        foreach (var instruction in function.Instructions)
        {
            if (instruction is { Op: Opcode.SetField or Opcode.WithField, Text: { } member })
            {
                yield return member;
            }
            else if (instruction is { Op: Opcode.New or Opcode.Object, C: > 0 })
            {
                foreach (var operand in function.List(instruction).ToArray())
                {
                    if (operand.Name is { } name)
                    {
                        yield return name.TrimStart('=');
                    }
                }
            }
        }
    }

    public static IEnumerable<string> ReadIn(IrFunction function)
    {
        foreach (var instruction in function.Instructions)
        {
            switch (instruction.Op)
            {
                case Opcode.GetField or Opcode.CallMethod when instruction.Text is { } member:
                    yield return member;
                    break;
                case Opcode.GetItem when instruction.B >= 0 && function.Instructions[instruction.B] is { Op: Opcode.Constant, Text: { } key }:
                    yield return key;
                    break;
                case Opcode.Constant when instruction.Text is { Length: > 2 and < LongestCondition } text && text.AsSpan().IndexOfAny("<>=") > 0:
                    foreach (var word in text.Split(NotInNames, StringSplitOptions.RemoveEmptyEntries))
                    {
                        yield return word;
                    }

                    break;
            }
        }
    }
}
