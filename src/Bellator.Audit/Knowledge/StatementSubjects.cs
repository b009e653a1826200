using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Audit.Auditing;
using Bellator.Syntax;
using Bellator.Syntax.Parsing;
using Bellator.Syntax.Templates;
using Bellator.Text;

namespace Bellator.Audit.Knowledge;

/// <param name="Name">As facts files name it.</param>
/// <param name="Line">Where it is called, or begins.</param>
/// <param name="IsOnWay">The value goes through it, as far as the lines show; otherwise it is called nearby.</param>
public sealed record StatementSubject(string Name, string Path, int Line, bool IsOnWay);

/// <summary>The functions of which something may be stated over a finding: those on the way of the value, and those called beside it, which may have tested it.</summary>
public static class StatementSubjects
{
    /// <summary>So many are offered.</summary>
    public const int MostOffered = 40;

    /// <summary>Of several languages that a way leads through, functions of the sink's are offered.</summary>
    /// <param name="files">The files on the finding's way, as they were audited.</param>
    public static IReadOnlyList<StatementSubject> Of(ReportedFinding finding, IReadOnlyCollection<SourceFile> files)
    {
        var family = files.FirstOrDefault(f => f.Path == finding.Path) is { } end ? Languages.Family(end.Language) : finding.Language;
        var own = files.Where(f => Languages.Family(f.Language) == family && !Languages.IsDeclarations(f.Language)).ToList();
        var found = new List<StatementSubject>();
        WorkerPool.OnLargeStack(() => Find(finding, own, LibraryModels.Shipped.For(family), found));
        return [.. found.OrderByDescending(s => s.IsOnWay).DistinctBy(s => s.Name).Take(MostOffered)];
    }

    private static void Find(ReportedFinding finding, IReadOnlyList<SourceFile> files, LanguageModels known, List<StatementSubject> found)
    {
        var read = files.Select(Read).ToList();
        var program = ProgramModel.Build(new SourceTree("", [.. files], []), read);
        var named = program.Functions.Select(f => (Function: f, Name: FunctionNaming.Of(f))).Where(f => f.Name.Length > 0).ToList();
        var byShortName = named.ToLookup(f => FunctionNaming.LastPart(f.Name), f => f.Name);
        var steps = finding.Steps.Select(s => (s.Path, s.Region)).Append((finding.Path, finding.Region)).ToList();
        var lines = steps.SelectMany(s => Enumerable.Range(s.Region.StartLine, Math.Min(20, s.Region.EndLine - s.Region.StartLine + 1)).Select(l => (s.Path, Line: l))).ToHashSet();
        IrFunction? first = null;
        var seen = new HashSet<IrFunction>();
        foreach (var (path, region) in steps)
        {
            if (program.Files.FirstOrDefault(f => f.Source.Path == path) is not { } file
                || program.FunctionAt(new Location(file.Index, file.Source.SpanOf(region).Start, 0)) is not { } function || !seen.Add(function))
            {
                continue;
            }

            first ??= function;
            if (function != first && named.FirstOrDefault(f => f.Function == function).Name is { } name)
            {
                found.Add(new StatementSubject(name, path, file.Source.LineOf(function.Span.Start), true));
            }

            foreach (var (instruction, called) in function.NamedCalls)
            {
                var line = file.Source.LineOf(function.Instructions[instruction].Span.Start);
                if (NameOf(function, instruction, called, byShortName, known) is { } subject)
                {
                    found.Add(new StatementSubject(subject, path, line, lines.Contains((path, line))));
                }
            }
        }
    }

    /// <summary>What facts would call the function; null for one that the shipped facts know.</summary>
    private static string? NameOf(IrFunction function, int call, string called, ILookup<string, string> byShortName, LanguageModels known)
    {
        var instruction = function.Instructions[call];
        if (byShortName[called].Distinct().Take(2).ToList() is [var only])
        {
            return only;
        }

        switch (instruction.Op)
        {
            case Opcode.CallStatic when function.Instructions[instruction.A].Text is { } type:
                return known.Call(IrClass.ShortOf(type) + "::" + called) is null ? IrClass.ShortOf(type) + "::" + called : null;
            case Opcode.CallMethod:
                return known.Method("*", called) is null && !known.Calls.Keys.Any(k => k.EndsWith("#" + called, StringComparison.Ordinal) || k.EndsWith("." + called, StringComparison.Ordinal)) ? "*#" + called : null;
            case Opcode.Call:
                return known.Call(called) is null ? called : null;
            default:
                return null;
        }
    }

    private static IrFile Read(SourceFile file)
    {
        var hosted = TemplateCode.Hosted(file);
        using var parser = new SyntaxParser();
        using var tree = parser.Parse(hosted);
        return Lowering.Lower(tree is null ? new FileUnit(file, new Block([], Span.None)) : Reader.Read(tree, hosted, file));
    }
}
