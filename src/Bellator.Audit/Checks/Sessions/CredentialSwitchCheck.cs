using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Sessions;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>What is switched off of a cookie or entry, where that holds what somebody is recognised by.</summary>
public abstract class CredentialSwitchCheck : SwitchCheck
{
    /// <summary>"The cookie “sid”", or what stands for it where its name is not known.</summary>
    protected static string CookieOf(AnalysisEvent happening) => NameOf(happening) is { Length: > 0 } name ? $"The cookie “{name}”" : happening.Sink!.NameAt is null ? "The session cookie" : "The cookie";

    /// <summary>What a framework's default leaves unprotected, as a full sentence.</summary>
    protected virtual string LeftOut(string of, string setting) => $"{of}: {setting} is left at its default.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var finding in base.Run(context))
        {
            yield return finding;
        }

        foreach (var (setting, at) in UnsetSettings.Of(context.Program, context.Flow.Facts, Kind))
        {
            yield return new Finding { Check = this, At = at, Certainty = Certainty.Matched, Message = LeftOut(setting.Of, setting.Setting), Subject = setting.Setting };
        }
    }

    /// <summary>A cookie by which people are recognised: the session's own, or one whose name or value says so.</summary>
    protected sealed override bool Counts(CheckContext context, AnalysisEvent happening) =>
        happening.Sink!.NameAt is null || (happening.Role("value").Constant is null
            && (context.Words.IsCredential(NameOf(happening)) || context.Words.IsCredential(happening.Role("called").Constant ?? "") || happening.Role("value").Taints.Any(t => context.Words.IsCredential(t.Origin.Name ?? ""))));
}
