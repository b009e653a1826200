using Bellator.Audit.RowSecurity;

namespace Bellator.Audit.Checks.Records;

/// <summary>There are policies, and they bind nobody, or not the role that matters.</summary>
public sealed class RowSecurityNotEnforced : PolicyCheck
{
    public override string Id => "records/row-security-not-enforced";

    public override string Title => "Row-level security is not enforced";

    public override IReadOnlyList<int> Cwes => [284, 732, 862];

    public override IReadOnlyList<string> Asvs => ["V8.2.2", "V8.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "Policies do nothing until row security is enabled for the table, and they bind neither the table’s owner (unless it is forced) nor a role with BYPASSRLS.";

    public override string FalsePositiveIf => "Row security is enabled elsewhere, or people’s requests never use this role.";

    public override string HowToFix(string language) => "ALTER TABLE … ENABLE ROW LEVEL SECURITY for every table with policies; let the application connect as a role that owns no tables and has no BYPASSRLS, or FORCE ROW LEVEL SECURITY.";

    protected override IEnumerable<Finding> Run(CheckContext context, RowSecurityModel model, PolicyTerms terms)
    {
        if (!model.EnablesByName)
        {
            foreach (var policies in model.Policies.GroupBy(p => p.Table, StringComparer.OrdinalIgnoreCase).Where(g => !(model.Tables.TryGetValue(g.Key, out var known) && known.Enabled is not null) && context.Schema.Find(g.Key) is not null))
            {
                yield return Found(policies.First().At, $"{policies.Key} has {(policies.Count() == 1 ? "a policy" : $"{policies.Count()} policies")}, but no statement enables row security for it: unless that is done elsewhere, every role with a grant gets every row.", policies.Key);
            }
        }

        foreach (var table in model.Tables.Values.Where(t => t is { IsForced: false, Owner: not null } && model.IsProtected(t.Name)))
        {
            var (role, at) = table.Owner!.Value;
            if (model.Grants.Exists(g => g.Role.Equals(role, StringComparison.OrdinalIgnoreCase)) || (model.Roles.TryGetValue(role, out var known) && known.CanLogIn))
            {
                yield return Found(at, $"{role} owns {table.Name}, and row security is not forced: its policies do not bind the role that the application uses.", table.Name, Certainty.Traced, model.Of(table.Name).Select(p => p.At).FirstOrDefault());
            }
        }

        foreach (var role in model.Roles.Values.Where(r => r is { CanLogIn: true, BypassesRowSecurity: true }))
        {
            if (model.Grants.Where(g => g.Role.Equals(role.Name, StringComparison.OrdinalIgnoreCase) && model.IsProtected(g.Object)).ToList() is { Count: > 0 } grants)
            {
                yield return Found(role.At, $"{role.Name} bypasses row security and may use {string.Join(", ", grants.Select(g => g.Object).Distinct(StringComparer.OrdinalIgnoreCase))}: no policy limits what its connections read.", role.Name, Certainty.Matched, grants[0].At);
            }
        }
    }
}
