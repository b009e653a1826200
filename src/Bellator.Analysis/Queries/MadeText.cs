using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Queries;

/// <summary>Comparisons of a value that was made a text before, so that it is never nothing: <c>x.to_s</c>, <c>String(x)</c>, <c>x.ToString()</c>.</summary>
public static class MadeText
{
    public static bool IsIn(IrFunction function, Location comparison, IdentifierClassifier words)
    {
        for (var i = 0; i < function.Instructions.Length; i++)
        {
            if (function.Instructions[i] is { Op: Opcode.Binary } compared && function.LocationOf(i) == comparison)
            {
                return IsMade(function, compared.A, words) || IsMade(function, compared.B, words);
            }
        }

        return false;
    }

    /// <summary>A call of a method without arguments on what was read, a cast, or a call that makes a text.</summary>
    private static bool IsMade(IrFunction function, int at, IdentifierClassifier words) => at >= 0 && function.Instructions[at] switch
    {
        { Op: Opcode.CallMethod, A: >= 0 } call => function.List(call).Length == 0 && function.Instructions[call.A].Op is Opcode.GetItem or Opcode.GetField or Opcode.Call or Opcode.CallMethod or Opcode.Phi,
        { Op: Opcode.Cast, Text: not PassThrough.Await } => true,
        { Op: Opcode.Call, A: >= 0 } call => words.MakesText(function.Instructions[call.A].Text),
        _ => false,
    };
}
