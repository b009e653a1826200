using Bellator.Audit.RowSecurity;
using Bellator.Audit.Tables;

namespace Bellator.Audit.Checks.Records;

/// <summary>Whoever may write a row may say whose it is, or what they are.</summary>
public sealed class OwnerCanBeSet : PolicyCheck
{
    public override string Id => "records/owner-can-be-set";

    public override string Title => "Owner or role can be written by the user";

    public override IReadOnlyList<int> Cwes => [915, 639, 269, 863];

    public override IReadOnlyList<string> Asvs => ["V8.2.2", "V8.2.3"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:L/I:H/A:N";

    public override string Why => "A rule on who may see a row is worth nothing if the person can write the column that it rests on: rows are handed to others, made in their name, or made one’s own.";

    public override string FalsePositiveIf => "Entering records for others is what these people are there for.";

    public override string HowToFix(string language) => "Hold the column against the signed-in person in WITH CHECK as well, and grant UPDATE on the columns only that people may change.";

    protected override IEnumerable<Finding> Run(CheckContext context, RowSecurityModel model, PolicyTerms terms)
    {
        foreach (var policy in Permissive(context, model))
        {
            var owners = model.Of(policy.Table).SelectMany(p => terms.OwnerColumns(p.Using)).Distinct(StringComparer.OrdinalIgnoreCase).ToList();
            if (owners.Count == 0)
            {
                continue;
            }

            if (policy.For is null or PolicyCommand.Update && PolicyTerms.IsAlwaysTrue(policy.Check) && !PolicyTerms.IsAlwaysTrue(policy.Using) && !terms.AsksForRole(policy.Using) && !IsNarrowed(model, terms, policy.Table, PolicyCommand.Update))
            {
                yield return Found(policy.At, $"Policy “{policy.Name}” checks nothing of the new row: whoever may change a row of {policy.Table} can write another person into “{owners[0]}”.", policy.Name);
            }
            else if (policy is { For: PolicyCommand.Insert, Check: { } check } && !terms.OwnerColumns(check).Any() && !terms.AsksForRole(check) && (PolicyTerms.IsAlwaysTrue(check) || terms.KindOf(check) != PersonKind.None) && !Mentions(check, owners)
                && !IsNarrowed(model, terms, policy.Table, PolicyCommand.Insert))
            {
                yield return Found(policy.At, $"Policy “{policy.Name}” does not hold “{owners[0]}” against the signed-in person: rows of {policy.Table} can be added in anyone’s name.", policy.Name);
            }
        }

        foreach (var grant in model.Grants.Where(g => g is { Privilege: "UPDATE" or "ALL", Columns.Count: 0 } && model.IsProtected(g.Object) && model.Tables[g.Object].Owner?.Role != g.Role))
        {
            // People may change the row that says what they may.
            if (context.Schema.Find(grant.Object)?.Columns.Find(c => MeaningOf(context, grant.Object, c.Name) == ColumnMeanings.Role || context.Words.TellsOfRole(c.Name)) is { } role
                && Permissive(context, model).FirstOrDefault(p => p.Table.Equals(grant.Object, StringComparison.OrdinalIgnoreCase) && p.Covers(PolicyCommand.Update) && terms.OwnerColumns(p.Using).Any() && !terms.AsksForRole(p.Using) && !(p.Check is { } check && Mentions(check, [role.Name]))) is { } own)
            {
                yield return Found(grant.At, $"{grant.Role} may update every column of {grant.Object}, “{role.Name}” included, and policy “{own.Name}” lets people change their own row: they can give themselves another role.", grant.Object, Certainty.Traced, own.At);
            }
        }
    }

    private static bool Mentions(SqlExpression expression, IReadOnlyList<string> columns) => expression.All().OfType<SqlColumn>().Any(c => columns.Contains(c.Name, StringComparer.OrdinalIgnoreCase));
}
