using Bellator.Analysis.Ir;

namespace Bellator.Analysis.Queries;

/// <summary>Texts that stand for "nothing was sent": what a call is told to give where there is nothing else.</summary>
public static class DefaultValues
{
    /// <summary>A call in the function is given the text behind another argument: <c>post('password', 'none')</c>.</summary>
    public static bool IsDefault(IrFunction function, string text)
    {
        foreach (var (call, _) in function.NamedCalls)
        {
            var operands = function.List(function.Instructions[call]);
            for (var i = 1; i < operands.Length; i++)
            {
                if (operands[i].Value >= 0 && function.Instructions[operands[i].Value] is { Op: Opcode.Constant, Text: { } constant } && constant == text)
                {
                    return true;
                }
            }
        }

        return false;
    }
}
