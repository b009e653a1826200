using System.Net.Mail;
using Bellator.Analysis.Ir;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Checks.Records;

/// <summary>A right hangs on the address of one person that is written into the code.</summary>
public sealed class FixedIdentity : Check
{
    public override string Id => "records/fixed-identity";

    public override string Title => "Access decided by an e-mail address in the code";

    public override IReadOnlyList<int> Cwes => [284, 863, 547];

    public override IReadOnlyList<string> Asvs => ["V8.2.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:L/UI:N/S:U/C:L/I:L/A:N";

    public override string Why => "The right stays when the person leaves, nobody sees it in a list of roles, and whoever gets that address into an account, by registering or changing it, has the right too.";

    public override string FalsePositiveIf => "The comparison only decides what is shown or where mail goes.";

    public override string HowToFix(string language) => "Give the person a role or a row in a table of grants, and ask for that.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var function in context.Functions)
        {
            for (var i = 0; i < function.Instructions.Length; i++)
            {
                if (Compared(context, function, i) is not var (address, other) || !IsPersons(context, function, other))
                {
                    continue;
                }

                yield return new Finding
                {
                    Check = this,
                    At = function.LocationOf(i),
                    Certainty = Certainty.Matched,
                    Message = $"“{context.Program.Tree.TextOf(function.LocationOf(i))}” compares with the e-mail address of one person, “{address}”, which is hard-coded.",
                    Subject = address,
                };
            }
        }
    }

    /// <summary>The address, and the value that it is compared with or looked for in a list.</summary>
    private static (string Address, int Other)? Compared(CheckContext context, IrFunction function, int index)
    {
        var instruction = function.Instructions[index];
        return instruction.Op switch
        {
            Opcode.Binary when instruction.Text is "==" or "===" or "!=" or "!==" => AddressAt(function, instruction.B) is { } right ? (right, instruction.A) : AddressAt(function, instruction.A) is { } left ? (left, instruction.B) : null,
            Opcode.Binary when instruction.Text is "in" or "not in" && ListedAt(function, instruction.B) is { } listed => (listed, instruction.A),
            Opcode.CallMethod when instruction is { C: 1, Text: { } method } && context.Words.AsksForElement(method) && ListedAt(function, instruction.A) is { } listed => (listed, function.List(instruction)[0].Value),
            Opcode.Call when instruction.C >= 2 && function.Instructions[instruction.A].Text is { } called && context.Words.AsksForElement(called) && ListedAt(function, function.List(instruction)[1].Value) is { } listed => (listed, function.List(instruction)[0].Value),
            _ => null,
        };
    }

    private static string? ListedAt(IrFunction function, int value)
    {
        if (value < 0 || function.Instructions[value] is not { Op: Opcode.List or Opcode.Object, C: > 0 } list)
        {
            return null;
        }

        foreach (var operand in function.List(list))
        {
            if (AddressAt(function, operand.Value) is { } address)
            {
                return address;
            }
        }

        return null;
    }

    private static string? AddressAt(IrFunction function, int value) =>
        value >= 0 && function.Instructions[value] is { Op: Opcode.Constant, A: (int)LiteralKind.Text, Text: { Length: < 100 } text } && text.Contains('@', StringComparison.Ordinal) && IsAddress(text) ? text : null;

    /// <summary>A whole address of somebody; those of domains reserved for tests and examples stand for nobody (RFC 2606, from memory).</summary>
    private static bool IsAddress(string text) =>
        MailAddress.TryCreate(text, out var address) && address.Address == text && address.Host.Contains('.', StringComparison.Ordinal)
        && !Reserved.Any(r => address.Host.EndsWith(r, StringComparison.OrdinalIgnoreCase)) && !address.User.Contains("reply", StringComparison.OrdinalIgnoreCase);

    private static readonly string[] Reserved = ["example.com", "example.org", "example.net", ".test", ".invalid", ".localhost"];

    /// <summary>What is compared has the name of somebody's address or name, not that of a letter's sender or receiver.</summary>
    private static bool IsPersons(CheckContext context, IrFunction function, int value)
    {
        var named = value < 0 ? "" : function.Instructions[value] is { Op: Opcode.GetItem, B: >= 0 and var key } ? function.Instructions[key].Text ?? "" : function.Names.GetValueOrDefault(value) ?? function.Instructions[value].Text ?? "";
        return context.Words.NamesPersonsAddress(named.TrimStart('$', ':'));
    }
}
