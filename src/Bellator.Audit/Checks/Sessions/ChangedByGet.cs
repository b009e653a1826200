using Bellator.Analysis.Queries;
using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Sessions;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>A record is changed by a request that any link or picture on another site can cause.</summary>
public sealed class ChangedByGet : Check
{
    public override string Id => "sessions/changed-by-get";

    public override string Title => "State change by GET";

    public override IReadOnlyList<int> Cwes => [352, 650];

    public override IReadOnlyList<string> Asvs => ["V3.5.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:R/S:U/C:N/I:L/A:N";

    public override string Why => "No CSRF protection looks at GET, and a session cookie with SameSite=Lax goes along with it: a link in a mail or on another site is enough to change the visitor’s records.";

    public override string FalsePositiveIf => "Nothing that matters is changed, or the address holds a token that only the person has.";

    public override string HowToFix(string language) => "Take the change by POST, or by the method that fits, with the CSRF protection on.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var (entry, use, chosen) in ChangesByLink.Of(context.Accounts, context.Access, context.Journeys))
        {
            yield return new Finding
            {
                Check = this,
                At = use.Access.At,
                Certainty = Certainty.Traced,
                Message = $"GET {entry.Entry.Path} {(use.Access.Action == RecordAction.Delete ? "deletes" : "changes")} the {use.Access.Table} record that the address names.",
                Steps = chosen.Taint is { } taint ? CheckContext.Steps(taint, use.Access.At, "changed") : [],
                Related = [entry.Entry.At],
                Subject = use.Access.Table,
            };
        }
    }
}
