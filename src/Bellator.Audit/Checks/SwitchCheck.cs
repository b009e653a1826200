using Bellator.Analysis.Events;
using Bellator.Analysis.Queries;

namespace Bellator.Audit.Checks;

/// <summary>Something that protects is switched off, or left off, where it is set up, or what helps developers is switched on; no setting decides about it.</summary>
public abstract class SwitchCheck : Check
{
    /// <summary>The kind of place, as library models name it.</summary>
    protected abstract string Kind { get; }

    /// <summary>What is wrong there, as a full sentence.</summary>
    protected abstract string Message(AnalysisEvent happening);

    /// <summary>Whether this one is worth a finding.</summary>
    protected virtual bool Counts(CheckContext context, AnalysisEvent happening) => true;

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var happening in context.EventsAt(Kind).Where(e => e.Depth == 0 && IsBeside(e) && Counts(context, e)))
        {
            yield return new Finding
            {
                Check = this,
                At = happening.At,
                Certainty = Certainty.Matched,
                Message = Message(happening),
                Subject = NameOf(happening),
            };
        }
    }

    private static bool IsBeside(AnalysisEvent happening) =>
        (happening.Sink?.Beside is not { } other || FieldNames.SetIn(happening.Function).Contains(other)) && (happening.Sink?.NotBeside is not { } without || !FieldNames.SetIn(happening.Function).Contains(without));

    /// <summary>The name of the cookie or entry, where it is a text in the code.</summary>
    protected static string NameOf(AnalysisEvent happening) => happening.Role("name") is { Constant.Length: > 0, Taints.Count: 0 } name ? name.Constant! : "";
}
