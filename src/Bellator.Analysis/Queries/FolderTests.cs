using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Queries;

/// <summary>
/// Tests whether a resolved path lies in a folder that only look at how it begins: <c>realpath(p).startswith(realpath(folder))</c> holds for the
/// neighbour <c>folder-old</c> as well, since what resolves a path leaves no separator at its end.
/// </summary>
public static class FolderTests
{
    public static IEnumerable<Location> WithoutSeparator(IrFunction function, IdentifierClassifier words)
    {
        foreach (var (call, name) in function.NamedCalls)
        {
            if (!words.AsksForBeginning(name))
            {
                continue;
            }

            var instruction = function.Instructions[call];
            var operands = function.List(instruction).ToArray();
            var (path, folder) = instruction.Op == Opcode.CallMethod ? (instruction.A, operands is [var only, ..] ? only.Value : -1) : operands is [var first, var second, ..] ? (first.Value, second.Value) : (-1, -1);
            if (path >= 0 && folder >= 0 && IsResolved(function, path, words) && EndsOpen(function, folder, words))
            {
                yield return function.LocationOf(call);
            }
        }
    }

    private static bool IsResolved(IrFunction function, int at, IdentifierClassifier words) =>
        function.Instructions[at] is { Op: Opcode.Call or Opcode.CallMethod or Opcode.CallStatic } && words.ResolvesPath(function.NameAt(at));

    /// <summary>A folder that was resolved too, or that is written out without a separator at its end.</summary>
    private static bool EndsOpen(IrFunction function, int at, IdentifierClassifier words) =>
        IsResolved(function, at, words) || function.Instructions[at] is { Op: Opcode.Constant, A: (int)LiteralKind.Text, Text: { Length: > 1 } text } && text.Contains('/', StringComparison.Ordinal) && text[^1] is not ('/' or '\\');
}
