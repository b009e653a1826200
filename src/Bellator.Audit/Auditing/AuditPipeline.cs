using System.Diagnostics;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Scheduling;
using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Checks;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Sessions;
using Bellator.Audit.Sql;
using Bellator.Audit.Tables;
using Bellator.Syntax;
using Bellator.Syntax.Parsing;
using Bellator.Syntax.Templates;
using Bellator.Text;

namespace Bellator.Audit.Auditing;

/// <summary>What an audit is to do.</summary>
public sealed record AuditOptions
{
    /// <summary>Areas to check; empty for all.</summary>
    public IReadOnlyList<string> Areas { get; init; } = [];

    public LibraryModels Facts { get; init; } = LibraryModels.Shipped;

    public int Threads { get; init; } = Environment.ProcessorCount;

    /// <summary>How long one function may be looked at, all visits together. What takes longer is followed coarsely, and noted.</summary>
    public TimeSpan FunctionLimit { get; init; } = TimeSpan.FromSeconds(5);

    /// <summary>What a reviewer says that columns hold, by table and column.</summary>
    public IReadOnlyDictionary<(string Table, string Column), string> ColumnMeanings { get; init; } = new Dictionary<(string, string), string>();

    /// <summary>Told what the audit is busy with, where somebody watches.</summary>
    public AuditActivity? Activity { get; init; }

    /// <summary>Where the material is audited again and again: what the last audit found out, for this one to build on and to bring up to date.</summary>
    public AuditCache? Memory { get; init; }
}

/// <summary>How far an audit is.</summary>
/// <param name="Stage">reading, following, checking, done.</param>
/// <param name="Share">Of the whole, from 0 to 1.</param>
public sealed record AuditProgress(string Stage, double Share, int FilesDone, int FilesTotal, int Findings);

/// <summary>Runs the stages one after another over a source tree.</summary>
public static class AuditPipeline
{
    private const double ReadingShare = 0.45;

    /// <summary>Begins the note on a file that broke a reader.</summary>
    public const string UnreadNote = "an internal error kept this file from being audited; please report it";

    /// <exception cref="OperationCanceledException">It was cancelled.</exception>
    public static AuditResult Run(SourceTree tree, AuditOptions options, Action<AuditProgress>? progress = null, CancellationToken cancel = default)
    {
        AuditResult? result = null;
        WorkerPool.OnLargeStack(() => result = RunHere(tree, options, progress, cancel));
        return result!;
    }

    private static AuditResult RunHere(SourceTree tree, AuditOptions options, Action<AuditProgress>? progress, CancellationToken cancel)
    {
        var watch = Stopwatch.StartNew();
        using var crew = new WorkerPool(Math.Max(1, options.Threads));
        var notes = new List<AuditNote>();
        options.Facts.Prepare(tree.Files.Select(f => Languages.Family(f.Language)));
        var kept = options.Memory?.Take(options.Facts);
        var read = ReadFiles(tree, crew, kept, options, progress, cancel);
        notes.AddRange(read.SelectMany(f => f.Notes));
        var parseTime = watch.Elapsed;
        var reused = kept is null ? 0 : read.Count(kept.Has);
        var program = kept?.Build(tree, read) ?? ProgramModel.Build(tree, [.. read.Select(f => f.Code)]);
        var files = program.Files;
        var flow = new ProgramAnalysis(program, options.Facts, kept?.Analyses) { FunctionLimit = options.FunctionLimit, Activity = options.Activity };
        flow.Run(crew, share => progress?.Invoke(new AuditProgress("following", ReadingShare + (share * 0.5), tree.Files.Count, tree.Files.Count, 0)), cancel);
        foreach (var (function, reason) in flow.Failed)
        {
            notes.Add(new AuditNote(function.File.Source.Path, $"{UnreadNote} (in “{function}”): {reason}"));
        }

        foreach (var function in flow.CutShortFunctions)
        {
            notes.Add(new AuditNote(function.File.Source.Path, $"“{function}” took longer than {options.FunctionLimit.TotalSeconds:0.#} seconds to follow; what it does is only known coarsely, and findings in it may be missing"));
        }

        foreach (var (function, dropped) in flow.Dropped)
        {
            notes.Add(new AuditNote(function.File.Source.Path, $"so much happens in “{function}” that {dropped} of the queries, outputs and calls in it were left out; findings there may be missing"));
        }

        var unrepeated = program.Functions.Select(f => flow.SummaryOf(f).UnrepeatedEvents).Where(c => c > 0).ToList();
        if (unrepeated.Count > 0)
        {
            notes.Add(new AuditNote("", $"{unrepeated.Count} functions do more with their parameters than calls of them repeat; {unrepeated.Sum()} of these queries, outputs and calls are only known in the functions themselves"));
        }

        foreach (var name in flow.Stated.Unknown)
        {
            notes.Add(new AuditNote("", $"a fact states something of “{name}”, but no function of this code has that name"));
        }

        if (flow.UnsettledFunctions > 0)
        {
            notes.Add(new AuditNote("", $"{flow.UnsettledFunctions} functions depend on each other in so many ways that their analysis was ended early; findings in them may be missing"));
        }

        progress?.Invoke(new AuditProgress("checking", 0.96, tree.Files.Count, tree.Files.Count, 0));
        var schema = new DatabaseSchema();
        ReadDeclarations(tree, schema, flow.Vocabulary, options.Activity, notes, cancel);
        ModelColumns.Add(schema, program, options.Facts);
        DeclaredTables.AddStatements(schema, flow.Events);
        DeclaredTables.Add(schema, program, flow.Events, flow.Vocabulary);
        ObjectTables.Add(schema, program, options.Facts);
        FluentTables.AddNames(schema, program, options.Facts);
        ClassTables.Add(schema, program, options.Facts, flow.Vocabulary);
        FluentTables.Add(schema, program, options.Facts);
        schema.Corrections = options.ColumnMeanings;
        var surface = new SurfaceModel(program, flow, schema, crew);
        var accounts = new AccountContext(program, flow, schema, surface);
        if (surface.EntryPoints.Select(e => e.Handler).OfType<IrFunction>().Distinct().Count(surface.Reach.IsCut) is > 0 and var cut)
        {
            notes.Add(new AuditNote("", CallReachability.SayCut(cut)));
        }

        var map = new AccessMap(surface, flow, schema, crew);
        var finder = new JourneyFinder(accounts, crew);
        var journeys = finder.Find();
        var policies = new PolicyReader(accounts, finder.Rules).Read(journeys, finder.EvidenceOf);
        var ways = new WayReader(program, surface);
        var sessions = new SessionContext(accounts, map);
        var findings = Check(accounts, sessions, map, journeys, policies, kept?.Statements ?? [], ways, options, notes, crew, cancel);
        var figures = new AuditFigures(
            tree.Files.Count,
            tree.LineCount,
            files.Sum(f => (long)f.NodeCount),
            files.Sum(f => (long)f.OpaqueCount),
            files.Sum(f => (long)f.ErrorCount),
            program.Functions.Count,
            flow.UnsettledFunctions,
            parseTime,
            watch.Elapsed);
        if (options.Memory is { } memory)
        {
            memory.Put(kept!);
            memory.Reused = (reused, kept!.Analyses.Figures.Repeated);
            memory.Analyses = kept.Analyses.Figures.Repeated + kept.Analyses.Figures.Evaluated;
        }

        progress?.Invoke(new AuditProgress("done", 1, tree.Files.Count, tree.Files.Count, findings.Count));
        return new AuditResult(tree.Name, findings, tree.Skipped, notes, figures) { Schema = schema, About = new ReportedApplication(SurfaceReporting.Report(surface, schema, tree, flow.Vocabulary), AccountReporting.Report(accounts, journeys, policies), RecordReporting.Report(map, journeys, tree), SessionReporting.Report(accounts, sessions, map, journeys)) };
    }

    /// <summary>The tables that files declare. One that its reader fails on is noted, and the others are read.</summary>
    private static void ReadDeclarations(SourceTree tree, DatabaseSchema schema, IdentifierClassifier words, AuditActivity? activity, List<AuditNote> notes, CancellationToken cancel)
    {
        for (var i = 0; i < tree.Files.Count; i++)
        {
            var file = tree.Files[i];
            if (!Languages.IsDeclarations(file.Language))
            {
                continue;
            }

            cancel.ThrowIfCancellationRequested();
            activity?.Begin(file.Path);
            try
            {
                DdlReader.Read(schema, tree, i, words);
                PrismaSchema.Read(schema, tree, i);
            }
            catch (Exception e) when (e is not OperationCanceledException and not OutOfMemoryException)
            {
                notes.Add(new AuditNote(file.Path, $"{UnreadNote}: {e.GetType().Name} {e.Message}"));
            }

            activity?.End();
        }
    }

    private static AuditCache.CachedFile[] ReadFiles(SourceTree tree, WorkerPool crew, AuditCache.CachedAudit? kept, AuditOptions options, Action<AuditProgress>? progress, CancellationToken cancel)
    {
        var activity = options.Activity;
        var files = new AuditCache.CachedFile[tree.Files.Count];
        var done = 0;
        using var parsers = new ThreadLocal<SyntaxParser>(() => new SyntaxParser(), trackAllValues: true);
        try
        {
            crew.ForEach(files.Length, index =>
            {
                cancel.ThrowIfCancellationRequested();
                activity?.Begin(tree.Files[index].Path);
                try
                {
                    files[index] = kept?.Find(tree.Files[index]) ?? ReadFile(parsers.Value!, tree.Files[index], options.Facts);
                }
                catch (Exception e)
                {
                    throw new InvalidOperationException($"{tree.Files[index].Path}: {e.Message}", e);
                }

                activity?.End();
                var finished = Interlocked.Increment(ref done);
                if ((finished & 15) == 0 || finished == files.Length)
                {
                    progress?.Invoke(new AuditProgress("reading", ReadingShare * finished / files.Length, finished, files.Length, 0));
                }
            });
        }
        finally
        {
            foreach (var parser in parsers.Values)
            {
                parser.Dispose();
            }
        }

        return files;
    }

    private static AuditCache.CachedFile ReadFile(SyntaxParser parser, SourceFile file, LibraryModels facts)
    {
        if (Languages.IsDeclarations(file.Language))
        {
            // They are read on their own.
            return Empty(null);
        }

        try
        {
            var hosted = TemplateCode.Hosted(file);
            using var tree = parser.Parse(hosted);
            if (tree is null)
            {
                return Empty("the parser gave up on this file; it was not audited");
            }

            var unit = Reader.Read(tree, hosted, file);
            var known = facts.For(Languages.Family(file.Language));
            var code = Lowering.Lower(unit, known.Demands);
            BroughtMembers.AddTo(code, known, parser);
            return new AuditCache.CachedFile(file, code, unit.ErrorCount == 0 && unit.CutCount == 0 ? [] : [new AuditNote(file.Path, unit.CutCount > 0
                ? $"{unit.CutCount} parts lie too deep and were left out"
                : $"{unit.ErrorCount} places did not parse; the rest of the file was audited")]);
        }
        catch (Exception e) when (e is not OperationCanceledException and not OutOfMemoryException)
        {
            // One file that a reader fails on must not cost the audit of the others; the note asks for a report.
            return Empty($"{UnreadNote}: {e.GetType().Name} {e.Message}");
        }

        AuditCache.CachedFile Empty(string? note) =>
            new(file, Lowering.Lower(new FileUnit(file, new Block([], Span.None))), note is null ? [] : [new AuditNote(file.Path, note)]);
    }

    private static List<ReportedFinding> Check(AccountContext accounts, SessionContext sessions, AccessMap map, IReadOnlyList<Journey> journeys, IReadOnlyList<PasswordPolicy> policies, Dictionary<string, IReadOnlyList<string>?> statements, WayReader ways, AuditOptions options, List<AuditNote> notes, WorkerPool crew, CancellationToken cancel)
    {
        var program = accounts.Program;
        using var shapes = new StatementShapes(statements);
        var context = new CheckContext(program, accounts.Flow, accounts.Schema, accounts, journeys, policies, shapes, map, sessions);
        Check[] checks = [.. CheckList.All.Where(c => options.Areas.Count == 0 || options.Areas.Contains(c.Area))];
        var found = new IEnumerable<Finding>[checks.Length];
        crew.ForEach(checks.Length, i =>
        {
            cancel.ThrowIfCancellationRequested();
            options.Activity?.Begin("the check " + checks[i].Id);
            try
            {
                // One place is one finding: the surest way to it is shown.
                found[i] = [.. checks[i].Run(context)
                    .GroupBy(f => (f.At, f.Subject))
                    .Select(g => g.OrderByDescending(f => f.Certainty).ThenBy(f => f.Steps.Count).ThenBy(f => f.Message, StringComparer.Ordinal).First())
                    .GroupBy(f => f.At)
                    .Select(g => g.OrderByDescending(f => f.Certainty).First())];
            }
            catch (Exception e) when (e is not OperationCanceledException and not OutOfMemoryException)
            {
                // One check that breaks must not cost what the others find.
                found[i] = [];
                lock (notes)
                {
                    notes.Add(new AuditNote("", $"an internal error kept the check {checks[i].Id} from being made; please report it: {e.GetType().Name} {e.Message}"));
                }
            }

            options.Activity?.End();
        });

        var prints = new Fingerprints(program.Tree);
        var traits = new TraitReader(program);
        return [.. found.SelectMany(f => f)
            .OrderByDescending(f => f.Score).ThenByDescending(f => f.Certainty)
            .ThenBy(f => program.Tree.Files[f.At.File].Path, StringComparer.Ordinal).ThenBy(f => f.At.Start).ThenBy(f => f.Check.Id, StringComparer.Ordinal)
            .Select(f => ways.Add(traits.Add(Report(f, program.Tree, prints), f), f))];
    }

    private static ReportedFinding Report(Finding finding, SourceTree tree, Fingerprints prints)
    {
        string PathOf(Location at) => tree.Files[at.File].Path;
        return new ReportedFinding(
            finding.Check.Id,
            finding.Check.Area,
            finding.Certainty,
            finding.Message,
            PathOf(finding.At),
            tree.RegionOf(finding.At),
            Languages.Family(tree.Files[finding.At.File].Language),
            [.. finding.Cwes],
            finding.Score,
            [.. finding.Steps.Where(s => s.At.IsKnown).Select(s => new ReportedStep(s.Kind.ToString().ToLowerInvariant(), s.Note, PathOf(s.At), tree.RegionOf(s.At)))],
            [.. finding.Related.Where(r => r.IsKnown && r != finding.At).Select(r => new ReportedPlace(PathOf(r), tree.RegionOf(r)))],
            prints.Of(finding),
            finding.Witness);
    }
}
