using Bellator.Audit.Auditing;
using Bellator.Audit.Tables;
using Bellator.Audit.Witnesses;
using Npgsql;

namespace Bellator.Storage.Replays;

/// <summary>
/// Runs the two statements of a witness on temporary tables, as a role without rights, with limits of time and rows, in a transaction
/// that is rolled back. A statement is sent by itself, so that text after a semicolon is an error and not a second statement.
/// </summary>
public sealed class StatementReplay(string scratchConnection)
{
    private const int MaxFindings = 200;
    private const int MaxRows = 50;
    private const int ShownRows = 4;
    private const int ShownColumns = 8;
    private const int ShownText = 60;
    private static readonly TimeSpan Budget = TimeSpan.FromSeconds(30);

    /// <summary>Witnesses that were not run, since there were too many or the time was up.</summary>
    public int LeftOut { get; private set; }

    /// <summary>The findings, those with a statement that could be replayed with what came back.</summary>
    public async Task<IReadOnlyList<ReportedFinding>> ReplayAsync(IReadOnlyList<ReportedFinding> findings, DatabaseSchema schema, CancellationToken cancel = default)
    {
        var tables = ScratchTables.For(schema);
        if (tables.Length == 0 || !findings.Any(f => f.Witness is { Kind: "statement" }))
        {
            return findings;
        }

        var end = DateTime.UtcNow + Budget;
        var list = new List<ReportedFinding>(findings.Count);
        var replayed = 0;
        foreach (var finding in findings)
        {
            if (finding.Witness is not { Kind: "statement" } witness)
            {
                list.Add(finding);
            }
            else if (replayed < MaxFindings && DateTime.UtcNow < end)
            {
                replayed++;
                list.Add(finding with { Witness = witness with { Replay = await ReplayAsync(witness, tables, cancel) } });
            }
            else
            {
                LeftOut++;
                list.Add(finding);
            }
        }

        return list;
    }

    /// <summary>What both statements did; null if the ordinary one does not run on these tables, so that nothing can be compared.</summary>
    private async Task<Replay?> ReplayAsync(Witness witness, string tables, CancellationToken cancel)
    {
        var ordinary = await RunAsync(witness.Ordinary, tables, cancel);
        return ordinary is not { Error: null } ? null : await RunAsync(witness.Crafted, tables, cancel) is { } crafted ? new Replay(ordinary, crafted) : null;
    }

    private async Task<ReplayedStatement?> RunAsync(string statement, string tables, CancellationToken cancel)
    {
        var verb = statement.TrimStart().Split([' ', '\n', '\r', '\t', '('], 2)[0].ToUpperInvariant();
        if (verb is not ("SELECT" or "INSERT" or "UPDATE" or "DELETE" or "WITH"))
        {
            return null;
        }

        // A connection of its own each time: whatever a statement sets ends with it.
        await using var connection = new NpgsqlConnection(new NpgsqlConnectionStringBuilder(scratchConnection) { Pooling = false, CommandTimeout = 4 }.ConnectionString);
        NpgsqlTransaction transaction;
        try
        {
            await connection.OpenAsync(cancel);
            transaction = await connection.BeginTransactionAsync(cancel);
            await using var make = new NpgsqlCommand(tables, connection, transaction);
            await make.ExecuteNonQueryAsync(cancel);
        }
        catch (NpgsqlException)
        {
            // No connection is free, or these tables cannot be made: an audit is worth more than its replays.
            return null;
        }

        await using var rolledBack = transaction;
        try
        {
            return await RunAsync(connection, Translated(statement), verb, cancel);
        }
        catch (PostgresException e)
        {
            return new ReplayedStatement(0, false, [], [], e.MessageText);
        }
        catch (NpgsqlException e) when (e.InnerException is TimeoutException)
        {
            return new ReplayedStatement(0, false, [], [], "took longer than the limit");
        }
    }

    private static async Task<ReplayedStatement> RunAsync(NpgsqlConnection connection, string statement, string verb, CancellationToken cancel)
    {
        // A batch's command goes out as one statement of the extended protocol: Npgsql does not cut it at semicolons.
        await using var batch = new NpgsqlBatch(connection) { BatchCommands = { new NpgsqlBatchCommand(statement) } };
        await using var reader = await batch.ExecuteReaderAsync(cancel);
        if (reader.FieldCount == 0)
        {
            return new ReplayedStatement(Math.Max(0, reader.RecordsAffected), true, [], [], null);
        }

        var columns = Enumerable.Range(0, Math.Min(reader.FieldCount, ShownColumns)).Select(reader.GetName).ToList();
        var rows = new List<IReadOnlyList<string>>();
        var count = 0;
        while (count < MaxRows && await reader.ReadAsync(cancel))
        {
            count++;
            if (rows.Count < ShownRows)
            {
                rows.Add([.. Enumerable.Range(0, columns.Count).Select(i => reader.IsDBNull(i) ? "" : Shown(reader.GetValue(i)))]);
            }
        }

        return new ReplayedStatement(count, verb is not ("SELECT" or "WITH"), columns, rows, null);
    }

    private static string Shown(object value)
    {
        var text = value is DateTime time ? time.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture) : Convert.ToString(value, System.Globalization.CultureInfo.InvariantCulture) ?? "";
        return text.Length > ShownText ? text[..ShownText] + "…" : text;
    }

    /// <summary>Other dialects' quotes for names as PostgreSQL knows them.</summary>
    private static string Translated(string statement) => statement.Replace('`', '"');
}
