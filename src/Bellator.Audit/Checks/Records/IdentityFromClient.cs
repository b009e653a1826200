using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Access;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Sql;

namespace Bellator.Audit.Checks.Records;

/// <summary>Where the client sends a number, it stands for the person who is signed in.</summary>
public sealed class IdentityFromClient : RecordCheck
{
    public override string Id => "records/identity-from-client";

    public override string Title => "Client can replace the signed-in user";

    public override IReadOnlyList<int> Cwes => [639, 290, 807, 862];

    public override IReadOnlyList<string> Asvs => ["V8.2.2", "V8.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "A value that the client may send in place of its own identity turns every rule that reads it into a request for any user’s records.";

    public override string FalsePositiveIf => "The records are public per user, or a proxy sets the header and removes what clients send under its name.";

    public override string HowToFix(string language) => "Use the identity of the session or token only; where somebody may act for another, look up that permission before the other identity is used.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var replaced = context.Kept(() => new ReplacedPersons(context));
        var said = new HashSet<(Origin, Text.Location)>();
        foreach (var entry in Entries(context))
        {
            // Administrators may look at others, unless it is a matter of each of them elsewhere.
            var byRole = entry.Entry.Guards.Any(g => IsPrivileged(context, g));
            foreach (var use in entry.Uses)
            {
                var term = use.Terms.Request.Concat(use.Terms.FromRequest).FirstOrDefault(t => t.Taint is { ReplacesSubject: true } taint && replaced.Counts(taint.Origin) && SaysWhose(context, use, t.Column, byRole));
                if (term is not null && said.Add((term.Taint!.Origin, use.Access.At)))
                {
                    yield return Of(term.Taint, use.Happening, $"{Address(entry.Entry)}: {CheckContext.Describe(term.Taint.Origin)} replaces the signed-in user in “{use.Access.Table}.{term.Column}” wherever the client sends it; nothing asks whether they may act for that user.");
                }
            }
        }

        foreach (var finding in Compared(context, replaced, said))
        {
            yield return finding;
        }

        // The person may be told to the database once for all statements, for its row security.
        foreach (var statement in context.EventsOf(EventKind.Query, EventKind.Run).Where(e => e.Fact is not null && replaced.In(e.Role("values")) is not null))
        {
            if (replaced.In(statement.Role("values")) is { } taint && SqlTexts.Of(statement.Role("text")).Any(SetsPerson) && said.Add((taint.Origin, statement.At)))
            {
                yield return Of(taint, statement, $"{Capital(CheckContext.Describe(taint.Origin))} is told to the database as the signed-in user wherever the client sends it.");
            }
        }
    }

    /// <summary>A record's column is held against it: in the condition of a mapper, or after the record was loaded.</summary>
    private IEnumerable<Finding> Compared(CheckContext context, ReplacedPersons replaced, HashSet<(Origin, Text.Location)> said)
    {
        foreach (var decision in context.EventsOf(EventKind.Decision).Where(e => e is { Depth: 0, Guessed: false }))
        {
            foreach (var (side, other) in (ReadOnlySpan<(string, string)>)[("left", "right"), ("right", "left")])
            {
                if (replaced.In(decision.Role(side)) is { } taint && ColumnIn(decision.Role(other)) is { } column && context.Words.IsKeyName(column) && said.Add((taint.Origin, decision.At)))
                {
                    yield return Of(taint, decision, $"{Capital(CheckContext.Describe(taint.Origin))} replaces the signed-in user in the comparison with “{column}” wherever the client sends it; nothing asks whether they may act for that user.");
                    break;
                }
            }
        }
    }

    private static string? ColumnIn(AbstractValue value) =>
        value.Taints.FirstOrDefault(t => t.Origin.Kind == OriginKind.Stored)?.Origin.Name ?? (value.Taints.All(t => t.IsParameter) ? value.Name : null);

    private static bool IsPrivileged(CheckContext context, Middleware guard) => guard.Asks == Requirement.Role && context.Words.TellsOfPrivilegedRole(guard.Name);

    private static bool SaysWhose(CheckContext context, RecordUse use, string column, bool byRole) =>
        byRole ? context.Access.Owned(use.Access.Table)?.Limited.Any(l => l.Entry.Guards.Any(g => IsPrivileged(context, g)) && l.Terms.Subject.Any(t => IsAlone(l, t) && t.Column.Equals(column, StringComparison.OrdinalIgnoreCase))) == true
        : context.Words.IsRecordKey(column) ? context.Accounts.Accounts.Has(use.Access.Table)
        : context.Words.IsKeyName(column) || context.Access.Owned(use.Access.Table)?.Limited.Any(l => l.Terms.Subject.Any(t => IsAlone(l, t) && t.Column.Equals(column, StringComparison.OrdinalIgnoreCase))) == true;

    /// <summary>The person alone decides there: nothing else may take the place.</summary>
    private static bool IsAlone(RecordUse use, RowTerm term) => !use.Terms.Request.Any(t => t.Taint is { ReplacesSubject: true } && t.Column.Equals(term.Column, StringComparison.OrdinalIgnoreCase));

    private static bool SetsPerson(SqlStatement statement) => statement.Slots.Any(s => s.Function is { } function && function.Equals("set_config", StringComparison.OrdinalIgnoreCase));

    private Finding Of(Taint taint, AnalysisEvent happening, string message) => new()
    {
        Check = this,
        At = taint.Trace.Steps().FirstOrDefault()?.At ?? happening.At,
        Certainty = CheckContext.CertaintyOf(taint, happening.Guessed),
        Message = message,
        Steps = CheckContext.Steps(taint, happening, "stands for the person"),
        Related = [happening.At],
        Subject = taint.Origin.Name ?? "",
    };
}

/// <summary>Parts of the request that may take the place of what the program knows of the person, unless something asks whether they may.</summary>
internal sealed class ReplacedPersons
{
    private readonly HashSet<Origin> _asked = [];

    public ReplacedPersons(CheckContext context)
    {
        foreach (var decision in context.EventsOf(EventKind.Decision).Where(e => !e.Guessed))
        {
            Note(decision.Role("left"), decision.Role("right"));
            Note(decision.Role("right"), decision.Role("left"));
        }

        foreach (var terms in context.Access.Entries.SelectMany(e => e.Uses.Concat(e.OnTheWay)).Select(u => u.Terms))
        {
            // A row that ties the person to what was sent.
            foreach (var sent in terms.Request.Where(t => t.Taint is not null && terms.Subject.Any(s => !s.Column.Equals(t.Column, StringComparison.OrdinalIgnoreCase))))
            {
                _asked.Add(sent.Taint!.Origin);
            }
        }
    }

    public bool Counts(Origin origin) => !_asked.Contains(origin);

    /// <summary>What of the value replaces the person; null if nothing does.</summary>
    public Taint? In(AbstractValue value) => FieldAccess.DeepTaints(value).FirstOrDefault(t => t.ReplacesSubject && Counts(t.Origin));

    private void Note(AbstractValue person, AbstractValue sent)
    {
        if (FieldAccess.DeepTaints(person).Any(RowTerms.IsSubject))
        {
            _asked.UnionWith(FieldAccess.DeepTaints(sent).Where(t => t.Origin.Kind == OriginKind.Request).Select(t => t.Origin));
        }
    }
}
