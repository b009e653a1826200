using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Sessions;
using Bellator.Audit.Tables;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>A credential that the server keeps is accepted however old it is.</summary>
public sealed class KeptCredentialLasting : Check
{
    public override string Id => "sessions/kept-credential-lasting";

    public override string Title => "Stored token accepted without expiry";

    public override IReadOnlyList<int> Cwes => [613];

    public override IReadOnlyList<string> Asvs => ["V7.3.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:H/I:L/A:N";

    public override string Why => "The browser may forget the cookie, but whoever copied it does not: the server takes it for as long as the row is there.";

    public override string FalsePositiveIf => "Old rows are deleted by a job that was not read, such as one of the database or of cron.";

    public override string HowToFix(string language) => "Put the end into the condition of the look-up, WHERE token_hash = ? AND expires_at > now(), and keep an end with every token that is issued.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var kept in CredentialChecks.Of(context).All.Where(k => !context.Words.TellsOfProgramKey(k.Table)))
        {
            if (context.Schema.Find(kept.Table) is not { Columns.Count: > 0 } table || IsSwept(context, table))
            {
                continue;
            }

            var ends = table.Columns.Where(c => Ends(context, c.Name)).Select(c => c.Name).ToList();
            var lookups = kept.Lookups.Where(l => l.Action != RecordAction.Delete).ToList();
            var open = lookups.Where(l => !l.Looked.Any(c => Ends(context, c) || context.Words.TellsWhen(c))).ToList();
            if (open.Count == 0 || (ends.Count == 0 && open.Count < lookups.Count))
            {
                continue;
            }

            yield return new Finding
            {
                Check = this,
                At = open[0].At,
                Certainty = CheckContext.CertaintyOf(open[0].Sent, false),
                Message = ends.Count > 0
                    ? $"{kept.Table}.{ends[0]} is kept, and the look-up by “{kept.Carrier}” does not check it: an expired token is still accepted."
                    : $"{kept.Table} has no expiry time, so “{kept.Carrier}” is accepted forever.",
                Related = [.. ends.Count > 0 ? [table.Columns.Find(c => c.Name == ends[0])!.At] : kept.Issued.Take(1)],
                Subject = kept.Table,
            };
        }
    }

    private static bool Ends(CheckContext context, string column) => context.Words.TellsOfExpiry(column);

    /// <summary>Some code deletes rows by their age.</summary>
    private static bool IsSwept(CheckContext context, Table table) =>
        context.EventsOf(Analysis.Events.EventKind.Query, Analysis.Events.EventKind.Run, Analysis.Events.EventKind.Access).SelectMany(context.Access.RowsOf)
            .Where(r => r.Access.Action == RecordAction.Delete && r.Access.Table.Equals(table.Name, StringComparison.OrdinalIgnoreCase))
            .Any(r => r.Terms.Other.Concat(r.Access.Columns).Any(c => Ends(context, c) || context.Words.TellsWhen(c)));
}
