namespace Bellator.Analysis.Ir;

/// <summary>Texts that stand alone at the beginning of a function or file and say how it is run: <c>"use server"</c>.</summary>
public static class Directives
{
    /// <summary>How far into a function a directive may stand, in instructions: its parameters come before it.</summary>
    private const int MaxBefore = 12;

    /// <summary>The function, or the file that it is exported by, begins with the text.</summary>
    public static bool Apply(IrFunction function, string directive) =>
        Begins(function, directive) || (function.Outer is { IsTopLevel: true } && function.Class is null && Begins(function.File.Functions[0], directive));

    private static bool Begins(IrFunction function, string directive)
    {
        for (var i = 0; i < Math.Min(function.Instructions.Length, MaxBefore); i++)
        {
            if (function.Instructions[i] is { Op: Opcode.Constant, Text: { } text } && text == directive)
            {
                return true;
            }
        }

        return false;
    }
}
