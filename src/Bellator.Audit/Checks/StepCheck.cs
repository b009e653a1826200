using Bellator.Analysis.Domain;
using Bellator.Audit.Accounts;

namespace Bellator.Audit.Checks;

/// <summary>A step that a journey should take, and does not. Journeys that a library brings are its own affair, but for what settings of the application say.</summary>
public abstract class StepCheck : Check
{
    protected abstract JourneyKind Journey { get; }

    /// <summary>The step's name.</summary>
    protected abstract string Step { get; }

    protected abstract string Message(Journey journey, JourneyStep step);

    /// <summary>Whether an absent step is worth a finding here.</summary>
    protected virtual bool Counts(CheckContext context, Journey journey, JourneyStep step) => true;

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var journey in context.Journeys.Where(j => j.Kind == Journey && (j.Entries.Count > 0 || j.IsSetUp)))
        {
            if (journey.Step(Step) is { State: StepState.Absent } step && Counts(context, journey, step))
            {
                yield return new Finding
                {
                    Check = this,
                    At = step.Evidence.Count > 0 ? step.Evidence[0].At : journey.At,
                    Certainty = Certainty.Matched,
                    Message = Message(journey, step),
                    Steps = [.. step.Evidence.Select(e => new FindingStep(StepKind.Checked, e.At, e.Note))],
                    Related = [journey.At],
                    Subject = journey.Address,
                };
            }
        }
    }
}
