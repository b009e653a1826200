using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Scheduling;
using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Scoring;
using Bellator.Audit.Sessions;
using Bellator.Audit.Sql;
using Bellator.Audit.Tables;
using Bellator.Audit.Witnesses;
using Bellator.Text;

namespace Bellator.Audit.Checks;

/// <summary>One weakness: how to recognise it, and what a reviewer and a developer need to know about it.</summary>
public abstract class Check
{
    private object? _score;

    /// <summary>Area and name, such as <c>passwords/fast-hash</c>.</summary>
    public abstract string Id { get; }

    /// <summary>A plain sentence.</summary>
    public abstract string Title { get; }

    /// <summary>Numbers in the Common Weakness Enumeration, the closest first.</summary>
    public abstract IReadOnlyList<int> Cwes { get; }

    /// <summary>Requirements of the OWASP Application Security Verification Standard 5.0; numbers from memory.</summary>
    public abstract IReadOnlyList<string> Asvs { get; }

    /// <summary>CVSS 3.1 base vector of a typical case; the reviewer knows the circumstances better.</summary>
    public abstract string Vector { get; }

    public abstract string Why { get; }

    /// <summary>What would make it a false alarm.</summary>
    public abstract string FalsePositiveIf { get; }

    public string Area => Id[..Id.IndexOf('/', StringComparison.Ordinal)];

    /// <summary>Kept in one reference, which threads cannot see half set.</summary>
    public double Score => (double)(_score ??= Cvss31.BaseScore(Vector));

    /// <summary>How to mend it in the language at hand.</summary>
    public abstract string HowToFix(string language);

    public abstract IEnumerable<Finding> Run(CheckContext context);
}

/// <summary>What checks read.</summary>
public sealed class CheckContext(ProgramModel program, ProgramAnalysis flow, DatabaseSchema schema, AccountContext accounts, IReadOnlyList<Journey> journeys, IReadOnlyList<PasswordPolicy> policies, StatementShapes shapes, AccessMap access, SessionContext sessions)
{
    /// <summary>Which columns say whose a record is.</summary>
    public OwnerColumns Owners => field ??= new OwnerColumns(Access, Schema, Accounts.Accounts, Words);

    /// <summary>For witnesses in SQL.</summary>
    internal StatementShapes Shapes { get; } = shapes;

    /// <summary>What everybody who reaches a function has put into the parts of the request before.</summary>
    private RequestRewrites Rewrites => Kept(() => new RequestRewrites(Flow, Program.Functions, Accounts.Surface.EntryPoints));

    /// <summary>What the request brings under that name was overwritten before, by something that does no harm in the position.</summary>
    public bool IsOverwritten(AnalysisEvent happening, Taint taint, OutputContext position)
    {
        var rewrites = Rewrites;
        if (!rewrites.IsAny)
        {
            return false;
        }

        lock (rewrites)
        {
            return rewrites.MakesHarmless(happening, taint, position);
        }
    }

    private readonly Dictionary<Type, object> _kept = [];

    /// <summary>Something that several checks read, made once.</summary>
    internal T Kept<T>(Func<T> make)
        where T : class
    {
        lock (_kept)
        {
            if (!_kept.TryGetValue(typeof(T), out var known))
            {
                _kept[typeof(T)] = known = make();
            }

            return (T)known;
        }
    }

    public ProgramModel Program { get; } = program;

    /// <summary>The functions of the program itself, without what its frameworks bring.</summary>
    public IEnumerable<IrFunction> Functions => Program.Functions.Where(f => !f.IsBrought);

    /// <summary>Who can do what to which records.</summary>
    public AccessMap Access { get; } = access;

    /// <summary>What people are recognised by.</summary>
    public SessionContext Sessions { get; } = sessions;

    /// <summary>The application's addresses, tables and accounts.</summary>
    public AccountContext Accounts { get; } = accounts;

    /// <summary>How people get accounts and use them.</summary>
    public IReadOnlyList<Journey> Journeys { get; } = journeys;

    /// <summary>Which passwords are taken where they are set.</summary>
    public IReadOnlyList<PasswordPolicy> Policies { get; } = policies;

    public ProgramAnalysis Flow { get; } = flow;

    /// <summary>The tables that the material declares, in SQL and by classes.</summary>
    public DatabaseSchema Schema { get; } = schema;

    public IdentifierClassifier Words => Flow.Vocabulary;

    public IEnumerable<AnalysisEvent> EventsOf(params ReadOnlySpan<EventKind> kinds) => Flow.Events.Of(kinds);

    /// <summary>The events at places of one kind, as facts name them.</summary>
    public IEnumerable<AnalysisEvent> EventsAt(string sink) => Flow.Events.At(sink);

    /// <summary>A parameter says something only if nobody in the program calls the function: otherwise its callers say it better.</summary>
    public bool Counts(Taint taint) => !taint.IsParameter || !Flow.IsCalled(taint.Origin.Function);

    /// <summary>Taints that bring a password as typed, from the request or from a parameter that nobody in the program fills.</summary>
    public IEnumerable<Taint> Passwords(AbstractValue value) => Passwords(value.Taints);

    public IEnumerable<Taint> Passwords(IEnumerable<Taint> taints) =>
        taints.Where(t => t.Origin.Kind is not (OriginKind.Stored or OriginKind.Subject) && !t.Selects && Words.IsPassword(t.Origin.Name) && Counts(t));

    public static Certainty CertaintyOf(Taint taint, bool guessed) =>
        guessed || taint.Guessed || taint.Origin.Kind != OriginKind.Request ? Certainty.Matched : Certainty.Traced;

    /// <summary>Neither the way of the value nor what happens at its end is certain: that is too little to trouble anybody with.</summary>
    public static bool RestsOnTwoGuesses(Taint taint, AnalysisEvent happening) => taint.Guessed && happening.Guessed;

    /// <summary>Traced becomes proved with a witness, if the value arrives as it was sent and no test that was met on some way is left unexplained.</summary>
    public static Certainty WithWitness(Certainty certainty, Witness? witness, Taint taint) =>
        certainty == Certainty.Traced && witness is not null && !taint.Altered && !taint.Doubted ? Certainty.Proved : certainty;

    /// <summary>The way of a taint, ending where something happens; says so if what happens there is a guess.</summary>
    public static IReadOnlyList<FindingStep> Steps(Taint taint, AnalysisEvent end, string note) =>
        Steps(taint, end.At, end.Guessed ? $"{note}, if the object is what its name says" : note);

    /// <summary>The way of a taint, ending at a place.</summary>
    public static IReadOnlyList<FindingStep> Steps(Taint taint, Location end, string note)
    {
        var steps = taint.Trace.Steps().Select(s => new FindingStep(s.Kind, s.At, s.Note)).ToList();
        if (steps.Count == 0 || steps[^1].At != end)
        {
            steps.Add(new FindingStep(StepKind.Sink, end, note));
        }
        else
        {
            steps[^1] = steps[^1] with { Kind = StepKind.Sink };
        }

        return steps;
    }

    public static string Describe(Origin origin) => origin.Kind switch
    {
        OriginKind.Request when origin.Name is null or Origin.AnyName => $"the request's {PartName(origin.Part)}",
        OriginKind.Request => $"“{origin.Name}” from the request's {PartName(origin.Part)}",
        OriginKind.Parameter => $"the parameter “{origin.Name}”",
        OriginKind.Subject => $"“{origin.Name}” of the person who is asking",
        _ => $"the column “{origin.Name}”",
    };

    private static string PartName(string part) => part switch
    {
        "query" => "address",
        "form" => "form",
        "body" => "body",
        "cookie" => "cookies",
        "header" => "headers",
        "path" => "path",
        "upload" => "upload",
        _ => "input",
    };
}
