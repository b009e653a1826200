using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Sql;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>What of the person a test asks: who it is, or what they may.</summary>
public sealed partial class AuthorizationChecks
{
    /// <summary>One thing that is kept of the person is asked: whether, and not which.</summary>
    private bool IsRight(IrFunction function, int condition) => function.Instructions[condition] switch
    {
        { Op: Opcode.Unary or Opcode.Cast, A: >= 0 and var inner } => IsRight(function, inner),
        { Op: Opcode.GetField, A: >= 0 and var of, Text: { } name } => !_words.TellsOfStatus(name) && !_words.IsKeyName(name) && !_words.HoldsPerson(name) && !_words.IsRecordKey(name) && Asks(function, of, 0) == Requirement.SignIn,
        _ => false,
    };

    /// <summary>Who comes here is known, and may not: 403 says so (RFC 9110, 15.5.4).</summary>
    private static bool Forbids(IrFunction function, BasicBlock block) => block.Instructions.Any(i => function.Instructions[i] is { Op: Opcode.Constant, Text: "403" });

    /// <summary>One of the people, whom a function gives that the parameter's mark names: <c>current: Annotated[Keeper, Depends(get_current)]</c>.</summary>
    private bool IsProvidedPerson(IrFunction function, int parameter)
    {
        if ((uint)parameter >= (uint)function.Parameters.Count)
        {
            return false;
        }

        var (type, marks) = (function.Parameters[parameter].Type, function.Parameters[parameter].Annotations);
        if (type is not null && program.NamedType(type.Name, function.File) is var (_, named))
        {
            (type, marks) = (named.Type, [.. marks, .. named.Marks]);
        }

        var guards = flow.Facts.For(Languages.Family(function.File.Source.Language)).Guards;
        return marks.Any(m => guards.GetValueOrDefault(IrClass.ShortOf(m.Name)) == "named") && type is not null && accounts.IsPerson(IrClass.ShortOf(type.Name));
    }

    /// <summary>What the function gives is an account that it finds by what the person is recognised by: their session, a cookie, a token.</summary>
    private bool GivesPerson(IrFunction function) =>
        flow.SummaryOf(function).Returns is { } given && given.Taints.Any(t => t is { Selects: true, Origin.Kind: OriginKind.Subject }) && given.Types.Contains("row");

    /// <summary>The statement that looks the person up holds a role against something: who is found has it.</summary>
    private bool StatesRole(IrFunction function, Instruction call) =>
        function.List(call).ToArray().Where(o => o.Value >= 0).Select(o => function.Instructions[o.Value]).Any(i => i is { Op: Opcode.Constant, Text: { Length: > 12 } text } && (LiteralKind)i.A == LiteralKind.Text
            && SqlTokens.Of(text).SkipWhile(t => !t.IsWord("where")).Any(t => t.IsName && _words.TellsOfRole(t.Value)));

    private bool LooksAtRole(IrFunction method) =>
        method.Instructions.Length <= SmallFunction && method.Instructions.Any(i => i is { Op: Opcode.GetField or Opcode.CallMethod or Opcode.GetItem, Text: { } name } && _words.TellsOfRole(name.TrimEnd('?')));
}
