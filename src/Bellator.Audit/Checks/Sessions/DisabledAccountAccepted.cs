using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Queries;
using Bellator.Audit.Access;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Tables;
using Bellator.Text;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>Accounts can be disabled, signing in asks for it, and whoever is signed in already goes on.</summary>
public sealed class DisabledAccountAccepted : Check
{
    public override string Id => "sessions/disabled-account-accepted";

    public override string Title => "Disabled account stays signed in";

    public override IReadOnlyList<int> Cwes => [613, 285];

    public override IReadOnlyList<string> Asvs => ["V7.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:L/I:L/A:N";

    public override string Why => "An account is disabled because its owner must not go on: with a session, a remembered browser or a key that is still good, they do.";

    public override string FalsePositiveIf => "Sessions and tokens of the account are ended by code that was not read.";

    public override string HowToFix(string language) => "Ask for the state wherever the account of a session or token is loaded, or end all of the account’s sessions and tokens when it is disabled.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var table in context.Accounts.Accounts.Tables)
        {
            foreach (var column in table.Columns.Where(c => Bars(context, c.Name)).Select(c => c.Name))
            {
                // That nobody asks for the state at all is said of signing in.
                var recognising = context.Sessions.Recognition.Of(table).ToList();
                if (recognising.Count == 0 || !context.Sessions.Recognition.IsAskedSomewhere(table, column))
                {
                    continue;
                }

                var open = recognising.Find(r => !context.Sessions.Recognition.Asks(r, column));
                foreach (var (who, change) in open is null ? [] : Disabling(context, table, column))
                {
                    yield return new Finding
                    {
                        Check = this,
                        At = change.At,
                        Certainty = Certainty.Traced,
                        Message = $"{who} sets “{column}” of an account without ending its sessions or tokens, and the account of a session or token is loaded elsewhere without a check of “{column}”: whoever is signed in stays signed in.",
                        Related = [open!.Access.At],
                        Subject = $"{table.Name}.{column}",
                    };
                }
            }
        }
    }

    /// <summary>A state in which somebody may not go on: not one that is waited for, such as a confirmed address.</summary>
    private static bool Bars(CheckContext context, string column) => context.Words.TellsOfBarring(column);

    /// <summary>Functions that set the column, and neither change anything else nor call what ends something.</summary>
    private static IEnumerable<(string Who, TableAccess Change)> Disabling(CheckContext context, Table table, string column)
    {
        var seen = new HashSet<Location>();
        foreach (var happening in context.EventsOf(EventKind.Query, EventKind.Run, EventKind.Access))
        {
            var change = context.Accounts.Surface.AccessesOf(happening).FirstOrDefault(a => a.Action == RecordAction.Edit && a.Table.Equals(table.Name, StringComparison.OrdinalIgnoreCase) && WrittenColumns.Of(a).Any(c => IdentifierClassifier.SameName(c, column)));
            var function = happening.Function;
            if (change is null || change.At.File != function.File.Index || change.At.Start < function.Span.Start || change.At.End > function.Span.End || !seen.Add(change.At) || !Denies(happening, change, column))
            {
                continue;
            }

            var reach = context.Accounts.Surface.OwnReach(function);
            if (!reach.SelectMany(f => context.Flow.SummaryOf(f).Events).SelectMany(context.Accounts.Surface.AccessesOf).Any(a => a.At != change.At && a.Action is RecordAction.Delete or RecordAction.Edit) && !reach.SelectMany(f => f.CalledNames()).Any(context.Words.Ends))
            {
                var entry = context.Accounts.Surface.HandledBy(function).FirstOrDefault();
                yield return (entry is null ? function.Name : entry.Address, change);
            }
        }
    }

    /// <summary>Making an account active again leaves nobody signed in who should not be.</summary>
    private static bool Denies(AnalysisEvent happening, TableAccess change, string column)
    {
        var set = happening.Role("fields").Fields?.FirstOrDefault(f => IdentifierClassifier.SameName(f.Key, column)).Value?.Constant;
        return set?.ToLowerInvariant() is not ("null" or "nil" or "none") && !change.How.Contains(column + " = NULL", StringComparison.OrdinalIgnoreCase);
    }
}
