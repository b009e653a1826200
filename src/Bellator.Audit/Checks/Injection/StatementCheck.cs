using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Sql;
using Bellator.Audit.Witnesses;

namespace Bellator.Audit.Checks.Injection;

/// <summary>What the checks share that look for a request value in the text of a statement.</summary>
public abstract class StatementCheck : Check
{
    /// <summary>True for the statements that this check is about.</summary>
    protected abstract bool Covers(AnalysisEvent happening);

    /// <summary>What the text is: "a statement".</summary>
    protected abstract string What { get; }

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var happening in context.EventsOf(EventKind.Query).Where(Covers))
        {
            foreach (var statement in Statements.Of(happening.Role("text")))
            {
                foreach (var slot in statement.Slots.Where(s => s.Hole is not null))
                {
                    var open = slot.Hole!.Taints.Where(t => t.Origin.Kind == OriginKind.Request && (t.Safe & slot.Position) == 0 && t.Transform == PasswordTransform.Plain && !CheckContext.RestsOnTwoGuesses(t, happening) && !context.IsOverwritten(happening, t, slot.Position)).ToList();
                    if (open.Count == 0 && slot.Position == OutputContext.SqlString && SecondOrder(context, happening, slot.Hole) is { } stored)
                    {
                        open.Add(stored);
                    }

                    if (open.Count > 0)
                    {
                        yield return Found(context, happening, statement, slot, open);
                    }
                }
            }
        }
    }

    /// <summary>A stored text that goes into another statement unescaped: whoever could write it decides what that statement does. Numbers, dates and hashes, by their names, cannot; and a way through other files is not believed.</summary>
    private static Taint? SecondOrder(CheckContext context, AnalysisEvent happening, Piece hole) => hole.Taints.FirstOrDefault(t =>
        t.Origin is { Kind: OriginKind.Stored, Name: { } name } && t.Origin.Function == (hole.At.IsKnown ? hole.At : happening.At).File && !context.Words.IsPasswordColumn(name) && (t.Safe & OutputContext.SqlString) == 0 && t is { Transform: PasswordTransform.Plain, Guessed: false } && name != Origin.AnyName && !context.Words.IsNumberColumn(name));

    private Finding Found(CheckContext context, AnalysisEvent happening, SqlStatement statement, SqlSlot slot, List<Taint> open)
    {
        var best = open.OrderBy(t => t.Guessed).ThenBy(t => t.Altered).First();
        var witness = SqlWitness.For(statement.Pieces, slot, (best.Safe & OutputContext.SqlString) != 0, context.Shapes);
        var place = slot.Hole!.At.IsKnown ? slot.Hole.At : happening.At;
        var names = string.Join(", ", open.Select(t => CheckContext.Describe(t.Origin)).Distinct().Take(3));
        var verb = open.Count == 1 ? "stands" : "stand";
        return new Finding
        {
            Check = this,
            At = place,
            Certainty = CheckContext.WithWitness(CheckContext.CertaintyOf(best, happening.Guessed), witness, best),
            Witness = witness,
            Message = $"{char.ToUpperInvariant(names[0])}{names[1..]} {verb} in {What} {Where(slot, best)}.",
            Steps = CheckContext.Steps(best, happening, "sent to the database"),
            Related = [happening.At],
            Subject = best.Origin.Name ?? best.Origin.Part,
        };
    }

    private static string Where(SqlSlot slot, Taint taint)
    {
        var escaped = (taint.Safe & OutputContext.SqlString) != 0 && slot.Position != OutputContext.SqlString;
        return slot.Position switch
        {
            OutputContext.SqlString when slot.Like => "inside the quotes of a search pattern, unescaped",
            OutputContext.SqlString => "inside quotes, unescaped",
            OutputContext.SqlIdentifier => "as a quoted name, without a list of allowed names",
            _ when escaped => "without quotes; it is escaped, which only helps between quotes",
            _ when slot.Clause == SqlClause.OrderOrGroup => "as a column or direction to sort by, without a list of allowed ones",
            _ when slot.Clause == SqlClause.Limit => "as a limit, without being made a number",
            _ => "without quotes, and nothing makes it a number or checks it against a list",
        };
    }
}
