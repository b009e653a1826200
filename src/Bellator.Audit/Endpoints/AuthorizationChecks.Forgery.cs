using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;

namespace Bellator.Audit.Endpoints;

/// <summary>Whether a test is about where a form comes from, and not about who sends it.</summary>
public sealed partial class AuthorizationChecks
{
    /// <summary>Something of the session is held against what was sent, whatever it is called: a form that carries it comes from this application.</summary>
    private bool HoldsSessionAgainstRequest(IrFunction function) => function.Blocks.Where(b => b.IsReachable).SelectMany(b => b.Instructions).Any(i => function.Instructions[i] switch
    {
        { Op: Opcode.Call } call => function.List(call) is { Length: 2 } both && IsSessionAgainstRequest(function, both[0].Value, both[1].Value),
        { Op: Opcode.Binary, Text: "==" or "!=" or "===" or "!==" } compared => IsSessionAgainstRequest(function, compared.A, compared.B),
        _ => false,
    });

    private bool IsSessionAgainstRequest(IrFunction function, int left, int right) =>
        (ReadsSession(function, left, 0) && BringsRequestData(function, right, 0)) || (ReadsSession(function, right, 0) && BringsRequestData(function, left, 0));

    /// <summary>A part of the session under a key that names none of the people.</summary>
    private bool ReadsSession(IrFunction function, int value, int depth) => value >= 0 && depth < 4 && function.Instructions[value] switch
    {
        { Op: Opcode.GetItem, A: >= 0 and var of, B: >= 0 and var key } => NameOf(function.Instructions[of]).TrimStart('$', '_').Equals("session", StringComparison.OrdinalIgnoreCase)
            && function.Instructions[key] is { Op: Opcode.Constant, Text: { } name } && !IdentifierClassifier.Parts(name).Exists(p => accounts.IsPerson(p) || p is "user" or "id" or "uid" or "role" or "name"),
        { Op: Opcode.Phi } phi => function.List(phi).ToArray().Any(o => o.Value < value && ReadsSession(function, o.Value, depth + 1)),
        { Op: Opcode.Cast or Opcode.Unary, A: var inner } => ReadsSession(function, inner, depth + 1),
        _ => false,
    };
}
