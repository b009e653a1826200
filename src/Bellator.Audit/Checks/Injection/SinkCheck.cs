using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Witnesses;
using Bellator.Text;

namespace Bellator.Audit.Checks.Injection;

/// <summary>What the checks share that look for a request value at a place of one kind.</summary>
public abstract class SinkCheck : Check
{
    /// <summary>The kind of place, as facts name it.</summary>
    protected abstract string Kind { get; }

    /// <summary>What happens to the value there, after its name: "becomes part of a shell command".</summary>
    protected abstract string Happens { get; }

    /// <summary>The same where it depends on the place.</summary>
    protected virtual string HappensAt(AnalysisEvent happening, Taint taint) => Happens;

    /// <summary>The last step of the trace.</summary>
    protected abstract string LastStep { get; }

    /// <summary>True if the value can do harm in the place, apart from what was done to it.</summary>
    protected virtual bool IsOpen(AnalysisEvent happening, AbstractValue value, Taint taint) => true;

    protected virtual IReadOnlyList<Taint> TaintsOf(AnalysisEvent happening, AbstractValue value) => happening.Sink!.Parts ? FieldAccess.DeepTaints(value) : value.Taints;

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var position = OutputContexts.OfSink(Kind);
        foreach (var happening in Places(context))
        {
            var value = happening.Role("value");
            var standing = happening.Context ?? position;
            var open = TaintsOf(happening, value)
                .Where(t => t.Origin.Kind == OriginKind.Request && (t.Safe & standing) == 0 && t.Transform is PasswordTransform.Plain or PasswordTransform.Encoded && !CheckContext.RestsOnTwoGuesses(t, happening) && IsOpen(happening, value, t) && !context.IsOverwritten(happening, t, standing)).ToList();
            if (open.Count == 0)
            {
                continue;
            }

            var best = open.OrderBy(t => t.Guessed).ThenBy(t => t.Altered).First();
            var witness = WitnessFor(happening, value, best);
            var names = string.Join(", ", open.Select(t => CheckContext.Describe(t.Origin)).Distinct().Take(3));
            yield return new Finding
            {
                Check = this,
                At = PlaceOf(happening, value, best),
                Certainty = CheckContext.WithWitness(CheckContext.CertaintyOf(best, happening.Guessed), witness, best),
                Witness = witness,
                Message = $"{char.ToUpperInvariant(names[0])}{names[1..]} {HappensAt(happening, best)}.",
                Steps = CheckContext.Steps(best, happening, LastStep),
                Related = [happening.At],
                Subject = best.Origin.Name ?? best.Origin.Part,
            };
        }
    }

    /// <summary>The places that are looked at.</summary>
    protected virtual IEnumerable<AnalysisEvent> Places(CheckContext context) => context.EventsAt(Kind);

    /// <summary>What shows the weakness, if it can be made.</summary>
    protected virtual Witness? WitnessFor(AnalysisEvent happening, AbstractValue value, Taint taint) => null;

    /// <summary>Where a change would mend it: where the value was put into a text, else the place itself.</summary>
    protected virtual Location PlaceOf(AnalysisEvent happening, AbstractValue value, Taint taint) => happening.Place;
}
