using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Libraries;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>Something that protects a session or token is switched off, or left off, where it is set up; no setting decides about it.</summary>
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
        foreach (var happening in context.EventsAt(Kind).Where(e => e.Depth == 0 && Counts(context, e)))
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

    /// <summary>The name of the cookie or entry, where it is a text in the code.</summary>
    protected static string NameOf(AnalysisEvent happening) => happening.Role("name") is { Constant.Length: > 0, Taints.Count: 0 } name ? name.Constant! : "";

    /// <summary>"The cookie “sid”", or what stands for it where its name is not known.</summary>
    protected static string CookieOf(AnalysisEvent happening) => NameOf(happening) is { Length: > 0 } name ? $"The cookie “{name}”" : happening.Sink!.NameAt is null ? "The session cookie" : "The cookie";

    /// <summary>A cookie by which people are recognised: the session's own, or one whose name or value says so.</summary>
    protected static bool IsCredential(AnalysisEvent happening, IdentifierClassifier words) =>
        happening.Sink!.NameAt is null || (happening.Role("value").Constant is null
            && (words.IsCredential(NameOf(happening)) || words.IsCredential(happening.Role("called").Constant ?? "") || happening.Role("value").Taints.Any(t => words.IsCredential(t.Origin.Name ?? ""))));
}
