using Bellator.Audit.Endpoints;

namespace Bellator.Audit.Checks.Records;

/// <summary>A step on the way is named for turning people away, and hands every request on.</summary>
public sealed class GuardRefusesNobody : RecordCheck
{
    public override string Id => "records/guard-refuses-nobody";

    public override string Title => "Access check that lets everybody through";

    public override IReadOnlyList<int> Cwes => [862, 285];

    public override IReadOnlyList<string> Asvs => ["V8.2.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "The routes look protected to whoever reads them, and are not. The check is a stub, or lost its refusal.";

    public override string FalsePositiveIf => "It only notes who asks, and another step refuses.";

    public override string HowToFix(string language) => "Test the person's role where the step is, answer 403 and return without going on; then try the route as somebody who may not.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var steps = context.Accounts.Surface.EntryPoints.SelectMany(e => e.Guards.Select(g => (Entry: e, Guard: g))).Where(s => s.Guard is { Asks: Requirement.Other, Function: not null }).ToLookup(s => s.Guard.Function!);
        foreach (var uses in steps)
        {
            var step = uses.Key;
            var name = step.Name.Length > 0 ? step.Name : uses.First().Guard.Name[(uses.First().Guard.Name.LastIndexOf('.') + 1)..].Split('(')[0];
            if (context.Words.IsToTurnAway(name) && AuthorizationChecks.OnlyHandsOn(step))
            {
                var (entry, guard) = uses.First();
                yield return new Finding
                {
                    Check = this,
                    At = step.LocationOf(0) is { IsKnown: true } first ? first with { Start = step.Span.Start, End = Math.Min(step.Span.End, step.Span.Start + 1) } : guard.At,
                    Certainty = Certainty.Traced,
                    Message = $"“{name}” stands before {entry.Address}{(uses.Count() > 1 ? $" and {uses.Count() - 1} more" : "")} and hands every request on: nothing in it refuses.",
                    Related = [.. uses.Select(u => u.Guard.At).Distinct().Take(5)],
                    Subject = name,
                };
            }
        }
    }
}
