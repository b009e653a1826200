using Bellator.Analysis.Domain;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>A link that is mailed leads to the host that the request named.</summary>
public sealed class LinkHostFromRequest : Check
{
    public override string Id => "sessions/link-host-from-request";

    public override string Title => "Host header in mailed links";

    public override IReadOnlyList<int> Cwes => [640, 644];

    public override IReadOnlyList<string> Asvs => ["V6.4.3"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:R/S:U/C:H/I:H/A:N";

    public override string Why => "Whoever asks for a message on somebody else’s behalf chooses the Host or Origin header; the receiver follows the link in a genuine message, and the token in it goes to the attacker’s host.";

    public override string FalsePositiveIf => "The server in front passes on only requests with the right Host header, or the framework refuses other hosts by a setting that was not read.";

    public override string HowToFix(string language) => "Keep the address of the application in its settings and begin links with it; list the allowed hosts.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var happening in context.EventsAt("mail").Concat(context.EventsAt("link-host")))
        {
            var value = happening.Role("value");
            if (Begins(context, value, 0) is not { } host || !context.Counts(host))
            {
                continue;
            }

            var isSetting = happening.Sink!.Kind == "link-host";
            yield return new Finding
            {
                Check = this,
                At = isSetting ? happening.At : Trace(host) ?? happening.At,
                Certainty = CheckContext.CertaintyOf(host, happening.Guessed),
                Message = $"{Capital(CheckContext.Describe(host.Origin))} determines the host of {(isSetting ? "links that the application makes" : "the link in this message")}.",
                Steps = CheckContext.Steps(host, happening, isSetting ? "the host of links" : "mailed"),
                Related = isSetting ? [] : [happening.At],
                Subject = host.Origin.Name ?? "",
            };
        }
    }

    /// <summary>Where the value entered: the place to mend.</summary>
    private static Text.Location? Trace(Taint host) => host.Trace.Steps().Select(s => (Text.Location?)s.At).FirstOrDefault();

    private static string Capital(string text) => char.ToUpperInvariant(text[0]) + text[1..];

    /// <summary>A link in the text begins with what the request named as the host.</summary>
    private static Taint? Begins(CheckContext context, AbstractValue value, int depth)
    {
        foreach (var alternative in value.Text?.Alternatives ?? [])
        {
            for (var i = 0; i < alternative.Count; i++)
            {
                if (alternative[i].IsHole && (i == 0 || (!alternative[i - 1].IsHole && MayBeginLink(alternative[i - 1].Literal!))) && alternative[i].Taints.FirstOrDefault(t => IsHost(context, t)) is { } found)
                {
                    return found;
                }
            }
        }

        return value.Text is null && value.Taints.FirstOrDefault(t => IsHost(context, t)) is { } bare ? bare
            : depth >= AbstractValue.MaxDepth ? null
            : (value.Fields ?? []).Values.Select(f => Begins(context, f, depth + 1)).FirstOrDefault(t => t is not null);
    }

    /// <summary>What follows is the host: after the scheme, or where a link may begin in a text.</summary>
    private static bool MayBeginLink(string before) => before.EndsWith("://", StringComparison.Ordinal) || char.IsWhiteSpace(before[^1]) || before[^1] is '"' or '\'' or '>' or '(' or ':';

    private static bool IsHost(CheckContext context, Taint taint) => taint.Origin is { Kind: OriginKind.Request, Part: "header", Name: { } name } && context.Words.NamesHost(name);
}
