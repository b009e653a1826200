using Bellator.Audit.Access;
using Bellator.Audit.Endpoints;

namespace Bellator.Audit.Checks.Records;

/// <summary>The request says whose records are meant, and nobody asks whether the person belongs there.</summary>
public sealed class TenantNotChecked : RecordCheck
{
    public override string Id => "records/tenant-not-checked";

    public override string Title => "Missing membership check";

    public override IReadOnlyList<int> Cwes => [639, 862];

    public override IReadOnlyList<string> Asvs => ["V8.4.1", "V8.2.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "A user of one tenant names another tenant in the request and works with its records.";

    public override string FalsePositiveIf => "These records are shared between tenants, or something outside the audited code limits them.";

    public override string HowToFix(string language) => "Take the tenant from the session or token, or look the membership up before anything is read or written, and refuse if there is none.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var entry in Entries(context))
        {
            foreach (var use in entry.Uses)
            {
                if (Named(context, entry, use) is not { Term: var named, Elsewhere: var elsewhere })
                {
                    continue;
                }

                yield return new Finding
                {
                    Check = this,
                    At = Entering(entry, use, named),
                    Steps = named.Taint is { } taint ? CheckContext.Steps(taint, use.Access.At, use.Access.Table) : [],
                    Certainty = Certainty.Traced,
                    Message = $"{Address(entry.Entry)} lets {Who(entry)} {Does(use.Access.Action)} {use.Access.Table} records of any “{named.Column}” in the request: no membership check was found, although {Address(elsewhere.Use.Entry)} {(elsewhere.IsCompared ? "compares it with what the signed-in user belongs to" : $"looks the user up in {elsewhere.Use.Access.Table}")}.",
                    Related = [use.Access.At, elsewhere.Use.Access.At, entry.Entry.At],
                    Subject = $"{use.Access.Table} {named.Column}",
                };
            }
        }
    }

    /// <summary>The column by which the request says whose records are meant, and where else the person is asked about it; null where there is none, or the person is asked here.</summary>
    internal static (RowTerm Term, MembershipTest Elsewhere)? Named(CheckContext context, EntryAccess entry, RecordUse use)
    {
        var creates = use.Access.Action == RecordAction.Create;
        if (entry.Memberships.Count > 0 || use.Access.IsGuess || use.Terms.OfSubject || (creates ? !IsOpen(entry) : !IsChosenByRequest(context, entry, use)) || OwnerFromRequest.Named(context, entry, use) is not null || RowRules.Limit(context, use.Access.Table))
        {
            return null;
        }

        foreach (var term in creates ? use.Terms.FromRequest : use.Terms.Request)
        {
            if (context.Access.MembershipBy(term.Column) is { } test && test.Use.Entry.Handler != entry.Entry.Handler && (test.IsCompared || !test.Use.Access.Table.Equals(use.Access.Table, StringComparison.OrdinalIgnoreCase)))
            {
                return (term, test);
            }
        }

        return null;
    }

    /// <summary>Nothing on the way asks about the person beyond being signed in.</summary>
    private static bool IsOpen(EntryAccess entry) =>
        entry.Decisions.Count == 0 && !entry.Entry.Guards.Any(g => g.Asks is Requirement.Role or Requirement.Perhaps || (g.Asks == Requirement.Other && g.Function is null));
}
