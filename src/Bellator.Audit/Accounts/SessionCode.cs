using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Text;

namespace Bellator.Audit.Accounts;

/// <summary>Code that keeps something in a session, told by how it is written: the object that is changed is called one.</summary>
internal static class SessionCode
{
    /// <summary>The places where the function does so; what only guards forms, or is a message for the next page, does not count.</summary>
    public static IEnumerable<(Location At, string Key)> Kept(IrFunction function, IdentifierClassifier words)
    {
        if (words.TellsOfForgery(function.Name))
        {
            yield break;
        }

        for (var i = 0; i < function.Instructions.Length; i++)
        {
            var instruction = function.Instructions[i];
            var key = instruction.Op is Opcode.SetField or Opcode.WithField ? instruction.Text
                : instruction.Op is Opcode.SetItem or Opcode.WithItem && instruction.B >= 0 ? function.Instructions[instruction.B].Text : null;
            if (key is not null && IsSession(function, instruction.A) && !IdentifierClassifier.Parts(key).Exists(p => p is "token" or "csrf" or "form" or "flash" or "error"))
            {
                yield return (function.LocationOf(i), key.TrimStart(':'));
            }
        }
    }

    private static bool IsSession(IrFunction function, int value) => value >= 0 && function.Instructions[value] switch
    {
        { Op: Opcode.GetField or Opcode.Global or Opcode.LoadShared, Text: "session" or "$_SESSION" } => true,
        { Op: Opcode.CallMethod, Text: "session" } => true,
        { Op: Opcode.Call, A: var called } => function.Instructions[called].Text == "session",
        { Op: Opcode.WithItem, A: var changed } => IsSession(function, changed),
        _ => false,
    };
}
