using Bellator.Analysis.Events;
using Bellator.Audit.Access;
using Bellator.Text;

namespace Bellator.Audit.Checks.Records;

/// <summary>An OR lets rows through beside those that the condition holds against the person.</summary>
public sealed class ConditionWidened : RecordCheck
{
    public override string Id => "records/condition-widened";

    public override string Title => "Ownership condition bypassed by OR";

    public override IReadOnlyList<int> Cwes => [863, 783, 639];

    public override IReadOnlyList<string> Asvs => ["V8.2.2", "V8.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:N/A:N";

    public override string Why => "AND binds before OR. The ownership condition limits only the alternative it stands in: rows that match the other one come through, whoever they belong to.";

    public override string FalsePositiveIf => "Rows that match the other alternative are meant for everyone, such as published ones.";

    public override string HowToFix(string language) => language switch
    {
        "php" => "Put the alternatives into brackets of their own: WHERE owner_id = ? AND (a OR b); with a query builder, where(fn ($q) => $q->where(…)->orWhere(…)).",
        "csharp" => "Put the alternatives into brackets: x.OwnerId == id && (a || b).",
        "python" => "Combine the alternatives first, then the owner: filter(Q(a) | Q(b), owner=user).",
        "ruby" => "Combine the alternatives first, then merge the owner: owner.hives.merge(Hive.where(a).or(Hive.where(b))).",
        _ => "Put the alternatives into brackets or a list of their own, beside the owner: { ownerId, OR: [a, b] }.",
    };

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var told = new HashSet<Location>();
        foreach (var entry in context.Access.Entries)
        {
            foreach (var use in entry.Uses.Where(u => u.Terms.Widened.Count > 0 && !u.Access.IsGuess && !IsOpenByIntention(context, u)))
            {
                if (told.Add(use.Access.At))
                {
                    var other = string.Join(", ", use.Terms.Widened.Distinct(StringComparer.OrdinalIgnoreCase).Take(3).Select(c => $"“{c}”"));
                    yield return new Finding
                    {
                        Check = this,
                        At = use.Access.At,
                        Certainty = Certainty.Traced,
                        Message = $"{Address(entry.Entry)}: only one side of the OR is limited to the signed-in user. {Capital(use.Access.Table)} rows that match {other} come through for {Who(entry)}.",
                        Related = [entry.Entry.At],
                        Subject = $"{use.Access.Table} {use.Access.Action}",
                    };
                }
            }
        }
    }

    /// <summary>What comes through beside is public, or told by a secret; a mapper's condition may also ask for that of all rows.</summary>
    private static bool IsOpenByIntention(CheckContext context, RecordUse use) =>
        use.Terms.Widened.Any(c => context.Words.IsPublicState(c) || context.Words.IsSecretToken(c)) || (use.Happening.Kind == EventKind.Access && use.Terms.Other.Any(context.Words.IsPublicState));
}
