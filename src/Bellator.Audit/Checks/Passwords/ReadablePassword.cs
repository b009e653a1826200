using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Sql;
using Bellator.Audit.Tables;
using Bellator.Text;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>What the checks share that look for a password which goes into the database so that anybody can read it.</summary>
public abstract class ReadablePassword : Check
{
    /// <summary>What has been done to it.</summary>
    protected abstract PasswordTransform Kept { get; }

    /// <summary>How it is kept: "without being hashed".</summary>
    protected abstract string How { get; }

    public override IReadOnlyList<string> Asvs => ["V11.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:H/UI:N/S:C/C:H/I:L/A:N";

    public override string Why =>
        "Whoever sees the table, a backup or a log of statements has every password at once, and people use the same password elsewhere.";

    public override string FalsePositiveIf => "The value is hashed by the database itself (a trigger), or is not a person's password but a secret the program must be able to read.";

    public override string HowToFix(string language) => PasswordAdvice.Hash(language);

    public override IEnumerable<Finding> Run(CheckContext context) => InStatements(context).Concat(InRecords(context)).Concat(InMappers(context)).DistinctBy(f => (f.At.File, f.At.Start));

    /// <summary>Calls of a mapper that write a column with the password as typed, where nothing hashes it on its way into the record.</summary>
    private IEnumerable<Finding> InMappers(CheckContext context)
    {
        foreach (var happening in context.EventsOf(EventKind.Access).Where(e => e.Fact?.Access?.Action is "create" or "edit"))
        {
            foreach (var (name, value) in happening.Role("fields").Fields ?? [])
            {
                if (context.Words.IsPasswordColumn(name) && context.Passwords(value.Taints).FirstOrDefault(t => t.Transform == Kept && t.Origin.Kind == OriginKind.Request && !t.Guessed) is { } typed
                    && context.Accounts.Surface.AccessesOf(happening).Any(a => IsKept(context, a.Table, name)) && !HashingHooks.Cover(context, happening))
                {
                    yield return new Finding
                    {
                        Check = this,
                        At = happening.Place,
                        Certainty = CheckContext.CertaintyOf(typed, happening.Guessed),
                        Message = $"The password ({CheckContext.Describe(typed.Origin)}) is written to the column “{name}” {How}.",
                        Steps = CheckContext.Steps(typed, happening, "written to the database"),
                        Subject = name,
                    };
                }
            }
        }
    }

    /// <summary>The table has the column, as far as anything declares it: a field of the name may stand for a column of another, which holds the hash.</summary>
    private static bool IsKept(CheckContext context, string table, string column) => context.Schema.OfModel(table) is not { Columns.Count: > 0 } known || known.Find(column) is not null;

    /// <summary>Records of a mapper: a field that is a column is given the password as typed, and the class does not hash it itself.</summary>
    private IEnumerable<Finding> InRecords(CheckContext context)
    {
        foreach (var type in context.Program.Classes.Where(c => ReferenceEquals(c.Primary, c)))
        {
            foreach (var field in type.Fields.Where(f => context.Words.IsPasswordColumn(f.Name) && ModelColumns.IsColumn(f, type, context.Flow.Facts)))
            {
                var kept = context.Flow.KeptIn(type, field.Name);
                var typed = kept is null ? null : context.Passwords(kept).FirstOrDefault(t => t.Transform == Kept && t.Origin.Kind == OriginKind.Request && !t.Guessed);
                if (typed is null || context.EventsOf(EventKind.Hash).Any(h => ReferenceEquals(h.Function.Class?.Primary, type)))
                {
                    continue;
                }

                // Where the record is given the password, not where the class takes it in.
                var steps = typed.Trace.Steps();
                var given = steps.LastOrDefault(s => s.At.File != type.File.Index) ?? steps[^1];
                yield return new Finding
                {
                    Check = this,
                    At = given.At,
                    Certainty = Certainty.Traced,
                    Message = $"The password ({CheckContext.Describe(typed.Origin)}) is given to “{type.ShortName}.{field.Name}”, a column, {How}.",
                    Steps = [.. steps.Select(s => new FindingStep(s.Kind, s.At, s.Note))],
                    Related = [new Location(type.File.Index, field.Span.Start, field.Span.End)],
                    Subject = field.Name,
                };
            }
        }
    }

    private IEnumerable<Finding> InStatements(CheckContext context)
    {
        foreach (var use in Statements.Uses(context))
        {
            if (!use.Statement.Writes || use.Slot.Clause == SqlClause.Where || use.Slot.Function is { Length: > 2 } && HashedInQuery.IsHashFunction(use.Slot.Function))
            {
                continue;
            }

            if (context.Passwords(use.Taints).FirstOrDefault(t => t.Transform == Kept) is { } password)
            {
                var column = use.Slot.Column is null ? "a table" : $"the column “{use.Slot.Column}”";
                yield return new Finding
                {
                    Check = this,
                    At = use.Event.Place,
                    Certainty = CheckContext.CertaintyOf(password, use.Event.Guessed),
                    Message = $"The password ({CheckContext.Describe(password.Origin)}) is written to {column} {How}.",
                    Steps = CheckContext.Steps(password, use.Event, "written to the database"),
                    Subject = use.Slot.Column ?? "",
                };
            }
        }
    }
}
