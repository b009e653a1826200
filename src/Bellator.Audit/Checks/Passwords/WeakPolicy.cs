using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Accounts;
using Bellator.Text;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>Passwords are hashed and kept, and nothing in the program looks at how long they are.</summary>
public sealed class WeakPolicy : Check
{
    public override string Id => "passwords/weak-policy";

    public override string Title => "Weak password policy";

    public override IReadOnlyList<int> Cwes => [521];

    public override IReadOnlyList<string> Asvs => ["V6.2.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:L/I:L/A:N";

    public override string Why =>
        "People choose what is let through: a single letter, or nothing at all. No hash protects a password that is among the first guesses. NIST SP 800-63B-4 asks for at least 15 characters where the password is all there is, and for a list of common ones that are refused.";

    public override string FalsePositiveIf => "The length is looked at by code that was not read: a service in front, or a rule of the database.";

    public override string HowToFix(string language) => "Refuse passwords of less than 12 characters (15 by NIST SP 800-63B-4), compare them with a list of common ones, and set an upper length of 64 or more that the hash can take.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var hashed = context.EventsOf(EventKind.Hash)
            .Select(h => (Event: h, Typed: context.Passwords(FieldAccess.DeepTaints(h.Role("input"))).FirstOrDefault(t => t is { Transform: PasswordTransform.Plain, Guessed: false, Origin.Kind: OriginKind.Request })))
            .Where(h => h.Typed is not null && h.Event.Fact?.Hash is { } hash && !HashSchemeNames.IsFast(h.Event.Role("scheme").Constant ?? hash.Scheme ?? "")).ToList();
        var measures = new PasswordMeasures(context.Program, context.Words);
        if (hashed.Count == 0 || measures.Any() || context.Policies.Any(p => p.Minimum > 1 || p.HasUnknownMinimum))
        {
            yield break;
        }

        // What is only hashed to be compared was let through when it was set.
        var signingIn = context.Journeys.Where(j => j.Kind == JourneyKind.SignIn).SelectMany(j => j.Entries).Select(e => e.Handler).ToHashSet();
        foreach (var (happening, typed) in hashed.Where(h => !signingIn.Contains(h.Event.Function)))
        {
            // Where the input is declared is where a rule belongs.
            var source = typed!.Trace.Steps()[0].At;
            Location? declared = source.IsKnown ? measures.Declared(context.Program.Files[source.File]) : null;
            yield return new Finding
            {
                Check = this,
                At = declared ?? happening.Place,
                Certainty = Certainty.Matched,
                Message = $"The password ({CheckContext.Describe(typed.Origin)}) is hashed and kept, and nothing in the program looks at how long it is: “1” would do.",
                Steps = CheckContext.Steps(typed, happening, "hashed, whatever it is"),
                Related = [happening.At],
                Subject = typed.Origin.Name ?? "",
            };
        }
    }
}
