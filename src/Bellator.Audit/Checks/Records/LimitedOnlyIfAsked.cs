using Bellator.Audit.Access;
using Bellator.Text;

namespace Bellator.Audit.Checks.Records;

/// <summary>The condition on the owner is put on only where the request asks for it.</summary>
public sealed class LimitedOnlyIfAsked : RecordCheck
{
    public override string Id => "records/limited-only-if-asked";

    public override string Title => "Ownership condition depends on a request parameter";

    public override IReadOnlyList<int> Cwes => [639, 863, 862];

    public override IReadOnlyList<string> Asvs => ["V8.2.2", "V8.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:N/A:N";

    public override string Why => "Whoever leaves the parameter out, or sends another value, gets the records of everybody.";

    public override string FalsePositiveIf => "The records are meant for everyone who can reach this endpoint, and the parameter only narrows the list.";

    public override string HowToFix(string language) => "Put the condition on the owner on in every case, and let parameters narrow the result further.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var told = new HashSet<Location>();
        foreach (var entry in context.Access.Entries)
        {
            foreach (var use in entry.Uses.Where(u => u.Terms.OnlyIfAsked.Count > 0 && !u.Terms.OfSubject && !u.Access.IsGuess && !u.Terms.Other.Any(context.Words.IsPublicState)))
            {
                // Records that nothing else limits may be for everyone, and the parameter a convenience.
                var limited = context.Access.Owned(use.Access.Table)?.Limited.FirstOrDefault(l => l.Entry.Handler != entry.Entry.Handler);
                if (limited is not null && told.Add(use.Access.At))
                {
                    yield return new Finding
                    {
                        Check = this,
                        At = use.Access.At,
                        Certainty = Certainty.Traced,
                        Message = $"{Address(entry.Entry)} limits {use.Access.Table} to the user’s own only if the request asks for it; whoever sends something else gets other people’s too, although {Address(limited.Entry)} limits these records in every case.",
                        Related = [limited.Access.At, entry.Entry.At],
                        Subject = $"{use.Access.Table} {use.Access.Action}",
                    };
                }
            }
        }
    }
}
