using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Endpoints;

namespace Bellator.Audit.Checks.Records;

/// <summary>The request decides which role, or whether any, is written into a record, where nobody with a role has to ask for it.</summary>
public sealed class RoleCanBeSet : RecordCheck
{
    public override string Id => "records/role-can-be-set";

    public override string Title => "Role can be set by the request";

    public override IReadOnlyList<int> Cwes => [269, 915];

    public override IReadOnlyList<string> Asvs => ["V8.2.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "Anyone who can write their own role can give themselves every right. A form without the field does not prevent it: the field can be sent anyway.";

    public override string FalsePositiveIf => "A test that was not understood keeps everybody but administrators from the place, or the role has no rights.";

    public override string HowToFix(string language) => "Write the role only where an administrator asks for it, behind a test of the administrator's own role; keep the stored one wherever people change their own account.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var told = new HashSet<(int, int)>();
        foreach (var happening in context.EventsOf(EventKind.Access).Where(e => !e.Guessed && e.Fact?.Access?.Action is "create" or "edit"))
        {
            foreach (var (name, taint) in Chosen(context, happening.Role("fields"), 0))
            {
                var entries = context.Accounts.Surface.HandledAround(happening.Function).ToList();
                if (entries.Count > 0 && !entries.Exists(e => e.Guards.Any(g => g.Asks is Requirement.Role)) && !AsksForRole(context, happening) && told.Add((happening.At.File, happening.At.Start)))
                {
                    yield return new Finding
                    {
                        Check = this,
                        // Where it was decided is where it is mended.
                        At = taint.Trace.Steps().LastOrDefault(s => s.Kind == StepKind.Checked)?.At ?? happening.At,
                        Related = [happening.At],
                        Certainty = CheckContext.CertaintyOf(taint, true),
                        Message = $"{Capital(CheckContext.Describe(taint.Origin))} decides what is written into “{name}”, and no role check was found on the way.",
                        Steps = CheckContext.Steps(taint, happening, "written into the record"),
                        Subject = name,
                    };
                }
            }
        }
    }

    /// <summary>The fields that tell of a role and were chosen by the request, also within an operator such as $set.</summary>
    private static IEnumerable<(string Name, Taint Taint)> Chosen(CheckContext context, AbstractValue fields, int depth)
    {
        foreach (var (name, value) in fields.Fields ?? [])
        {
            if (context.Words.TellsOfRole(name) && value.Taints.FirstOrDefault(t => t is { Origin.Kind: OriginKind.Request, Selects: true }) is { } taint)
            {
                yield return (name, taint);
            }

            foreach (var inner in depth < 2 && name.StartsWith('$') ? Chosen(context, value, depth + 1) : [])
            {
                yield return inner;
            }
        }
    }

    /// <summary>A test of the role lies before the place, in the handler or in the function around it.</summary>
    private static bool AsksForRole(CheckContext context, AnalysisEvent happening) => context.Accounts.Surface.AskedBefore(happening.Function, happening.At) == Requirement.Role;
}
