using Bellator.Analysis.Interpreter;
using Bellator.Audit.Access;
using Bellator.Text;

namespace Bellator.Audit.Checks.Records;

/// <summary>A record without an owner passes the check that compares its owner with the person.</summary>
public sealed class OwnerMayBeNull : RecordCheck
{
    public override string Id => "records/owner-may-be-null";

    public override string Title => "Ownership check passes for records without an owner";

    public override IReadOnlyList<int> Cwes => [284, 639, 862];

    public override IReadOnlyList<string> Asvs => ["V8.2.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:L/I:L/A:N";

    public override string Why => "Where the owner is missing, nobody is refused: such records are open to everyone who reaches the code, though nobody decided that.";

    public override string FalsePositiveIf => "Records without an owner are meant for everyone, or there cannot be any.";

    public override string HowToFix(string language) => "Refuse when the owner is missing, and decide separately who may see records that belong to nobody; make the column NOT NULL if there must not be any.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var told = new HashSet<Location>();
        foreach (var entry in Entries(context))
        {
            foreach (var decision in entry.Decisions.Where(d => d.Happening.Roles.ContainsKey(FunctionAnalyzer.UnlessNull)))
            {
                var column = decision.Happening.Role(FunctionAnalyzer.UnlessNull).Constant!;
                var use = entry.Uses.FirstOrDefault(u => !context.Accounts.Accounts.Has(u.Access.Table) && IsOwner(context, u.Access.Table, column) && context.Schema.Find(u.Access.Table)?.Find(column) is not { NotNull: true });
                if (use is not null && told.Add(decision.Happening.At))
                {
                    yield return new Finding
                    {
                        Check = this,
                        At = decision.Happening.At,
                        Certainty = Certainty.Traced,
                        Message = $"{Address(entry.Entry)} compares “{column}” with the signed-in user only where it has a value: a {use.Access.Table} record without one is open to {Who(entry)}.",
                        Related = [use.Access.At, entry.Entry.At],
                        Subject = $"{use.Access.Table}.{column}",
                    };
                }
            }
        }
    }

    private static bool IsOwner(CheckContext context, string table, string column) =>
        context.Owners.SaysWhose(table, column) || (context.Access.Owned(table)?.Columns.Contains(column) ?? false);
}
