using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Audit.Endpoints;
using Bellator.Text;

namespace Bellator.Audit.Checks.Records;

/// <summary>A line is indented as if it belonged to a test of the person, and without braces it does not.</summary>
public sealed class BlockNotDelimited : Check
{
    public override string Id => "records/block-not-delimited";

    public override string Title => "Statement outside the check it is indented under";

    public override IReadOnlyList<int> Cwes => [483, 863];

    public override IReadOnlyList<string> Asvs => ["V8.2.1", "V8.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "Without braces only the first statement belongs to the if. The next line runs for everyone, whatever its indentation says.";

    public override string FalsePositiveIf => "The second line is meant to run in every case, and only its indentation is wrong.";

    public override string HowToFix(string language) => "Put both statements into braces, and have a linter ask for braces everywhere.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var function in context.Functions.Where(f => LanguageSemantics.For(f.File.Source.Language).HasOptionalBraces))
        {
            foreach (var block in function.Blocks.Where(b => b.IsReachable && b.Condition >= 0 && b.Successors.Count == 2))
            {
                if (Misplaced(function, block) is { } statement && IsAboutPerson(context, function, block))
                {
                    var test = function.LocationOf(block.Condition);
                    yield return new Finding
                    {
                        Check = this,
                        At = function.LocationOf(statement),
                        Certainty = Certainty.Traced,
                        Message = $"This line is indented under the check “{context.Program.Tree.TextOf(test)}”, but does not belong to it: it runs for everyone.",
                        Related = [test],
                        Subject = function.Name,
                    };
                }
            }
        }
    }

    /// <summary>The test asks who somebody is, what they may do or whether their password is right.</summary>
    private static bool IsAboutPerson(CheckContext context, IrFunction function, BasicBlock block)
    {
        if (context.Accounts.Surface.AskedBy(function, block.Condition) is Requirement.SignIn or Requirement.Role)
        {
            return true;
        }

        var at = function.LocationOf(block.Condition);
        return context.Flow.SummaryOf(function).Events.Any(e => e.Kind is EventKind.Decision or EventKind.Verify or EventKind.Compare && e is { Guessed: false } && IsWithin(e.Depth == 0 ? e.At : e.Place, at))
            || context.Flow.SummaryOf(function).Calls.Any(c => block.Instructions.Contains(c.Instruction) && context.Flow.SummaryOf(c.Target).Events.Any(e => e.Kind is EventKind.Verify or EventKind.Compare));
    }

    private static bool IsWithin(Location inner, Location outer) => inner.File == outer.File && inner.Start >= outer.Start && inner.End <= outer.End;

    /// <summary>The first instruction behind an if without braces that stands on a line of its own, as deep as the one statement of the if.</summary>
    private static int? Misplaced(IrFunction function, BasicBlock block)
    {
        var body = function.Blocks[block.Successors[0]];
        if (body.Successors is not [var joined] || joined != block.Successors[1] || body.Predecessors.Count != 1 || First(function, body) is not { } inside || First(function, function.Blocks[joined]) is not { } behind)
        {
            return null;
        }

        var content = function.File.Source.Content;
        var (test, first, second) = (function.Instructions[block.Condition].Span.Start, function.Instructions[inside].Span.Start, function.Instructions[behind].Span.Start);
        if (test >= first || first >= second || second >= content.Length)
        {
            return null;
        }

        var around = Indentation(content, test);
        var within = Indentation(content, first);
        var next = Indentation(content, second);
        return within.SequenceEqual(next) && within.Length > around.Length && !content.AsSpan(test, second - test).ContainsAny((byte)'{', (byte)'}') && LineStart(content, first) > LineStart(content, test) && LineStart(content, second) > LineStart(content, first) ? behind : null;
    }

    private static int? First(IrFunction function, BasicBlock block)
    {
        foreach (var i in block.Instructions)
        {
            if (function.Instructions[i].Op is not Opcode.Phi)
            {
                return i;
            }
        }

        return null;
    }

    private static int LineStart(byte[] content, int at) => at == 0 ? 0 : Array.LastIndexOf(content, (byte)'\n', at - 1) + 1;

    private static ReadOnlySpan<byte> Indentation(byte[] content, int at)
    {
        var start = LineStart(content, at);
        var end = start;
        while (end < content.Length && content[end] is (byte)' ' or (byte)'\t')
        {
            end++;
        }

        return content.AsSpan(start, end - start);
    }
}
