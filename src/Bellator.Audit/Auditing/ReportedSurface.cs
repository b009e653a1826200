using System.Text.Json;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Tables;
using Bellator.Text;

namespace Bellator.Audit.Auditing;

/// <summary>All that an audit found the application to be, independent of the audit.</summary>
public sealed record ReportedApplication(ReportedSurface Surface, ReportedAccounts? Accounts = null, ReportedRecords? Records = null, ReportedSessions? Sessions = null)
{
    /// <summary>How it is written and read.</summary>
    public static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web) { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    /// <param name="options">Others than the usual, as a database needs them.</param>
    public string Write(JsonSerializerOptions? options = null) => JsonSerializer.Serialize(this, options ?? Options);

    public static ReportedApplication? Read(string json) => JsonSerializer.Deserialize<ReportedApplication>(json, Options);
}

/// <summary>The application's addresses and tables, independent of the audit that found them.</summary>
/// <param name="Everywhere">What is done to records on the way to most addresses; it is left out of each of them.</param>
public sealed record ReportedSurface(IReadOnlyList<ReportedEntry> Entries, IReadOnlyList<ReportedTable> Tables, IReadOnlyList<ReportedAccess>? Everywhere = null)
{
    public static readonly ReportedSurface Empty = new([], []);

    /// <summary>The same in a few words: <c>users (list, view)</c>.</summary>
    public string OnMostWays => string.Join(", ", (Everywhere ?? []).GroupBy(a => a.Table, StringComparer.OrdinalIgnoreCase).Select(g => $"{g.Key} ({string.Join(", ", g.Select(a => a.Action).Distinct())})"));
}

/// <param name="SignIn">needed, not needed or unclear.</param>
/// <param name="Handler">Name of the function, or of the file.</param>
public sealed record ReportedEntry(
    string Method,
    string Path,
    string Handler,
    ReportedPlace Declared,
    ReportedPlace? HandlerAt,
    string By,
    string SignIn,
    IReadOnlyList<ReportedGuard> Guards,
    IReadOnlyList<ReportedInput> Inputs,
    IReadOnlyList<ReportedAccess> Accesses,
    IReadOnlyList<string> Answers);

/// <param name="Asks">signIn, role, perhaps, open, throttle, forgery, forgeryOff or other.</param>
public sealed record ReportedGuard(string Name, string Asks, ReportedPlace At);

public sealed record ReportedInput(string Part, string Name);

/// <param name="Action">list, view, create, edit or delete.</param>
public sealed record ReportedAccess(string Table, string Action, IReadOnlyList<string> Columns, string How, ReportedPlace At, bool IsGuess);

/// <param name="Origins">How its declaration is known: SQL, migration, class, model; each with its place.</param>
public sealed record ReportedTable(string Name, IReadOnlyList<ReportedColumn> Columns, IReadOnlyList<string> Rules, bool RowSecurity, IReadOnlyList<ReportedOrigin> Origins);

public sealed record ReportedOrigin(string How, ReportedPlace At);

/// <param name="Meaning">What the column is recognised as; empty for nothing in particular.</param>
/// <param name="Why">The reason, for the reviewer to agree or not.</param>
public sealed record ReportedColumn(string Name, string Type, int? Length, bool NotNull, bool Unique, string Meaning, string Why, ReportedOrigin Origin);

/// <summary>Turns what an audit knows of the surface into what is kept of it.</summary>
internal static class SurfaceReporting
{
    public static ReportedSurface Report(SurfaceModel surface, DatabaseSchema schema, SourceTree tree, IdentifierClassifier words)
    {
        ReportedPlace PlaceOf(Location at) => new(tree.Files[at.File].Path, tree.RegionOf(at));
        ReportedAccess AccessOf(TableAccess a) => new(a.Table, Name(a.Action), a.Columns, a.How, PlaceOf(a.At), a.IsGuess);
        var entries = surface.EntryPoints.Select(e =>
        {
            var details = surface.Of(e);
            return new ReportedEntry(
                e.Method, e.Path, e.HandlerName, PlaceOf(e.At), e.Handler is { } handler ? PlaceOf(new Location(handler.File.Index, handler.Span.Start, handler.Span.Start + 1)) : null, e.By, Name(e.SignIn),
                [.. e.Guards.Select(g => new ReportedGuard(g.Name, Name(g.Asks), PlaceOf(g.At))).Distinct()],
                [.. details.Inputs.Select(i => new ReportedInput(i.Part, i.Name))],
                [.. details.Accesses.Select(AccessOf)],
                details.Answers);
        }).ToList();
        var tables = schema.Tables.Select(t => Report(t, words, PlaceOf)).OrderBy(t => t.Name, StringComparer.OrdinalIgnoreCase).ToList();
        return new ReportedSurface(entries, tables, [.. surface.Everywhere.Select(AccessOf)]);
    }

    internal static string Name<T>(T value)
        where T : struct, Enum => System.Text.Json.JsonNamingPolicy.CamelCase.ConvertName(value.ToString());

    private static ReportedTable Report(Table table, IdentifierClassifier words, Func<Location, ReportedPlace> placeOf) => new(
        table.Name,
        [.. table.Columns.OrderBy(c => c.At.File == table.At.File ? -1 : c.At.File).ThenBy(c => c.At.Start).Select(c =>
        {
            var meaning = ColumnMeanings.Of(c, table, words);
            return new ReportedColumn(c.Name, c.Type, c.Length, c.NotNull, table.Unique.Exists(u => u.Columns.Count == 1 && u.Columns[0].Equals(c.Name, StringComparison.OrdinalIgnoreCase)), meaning.Meaning, meaning.Why, new ReportedOrigin(Name(c.Origin), placeOf(c.At)));
        })],
        [.. Rules(table)],
        table.RowSecurity,
        [.. table.Origins.Select(o => new ReportedOrigin(Name(o.How), placeOf(o.At)))]);

    private static IEnumerable<string> Rules(Table table)
    {
        foreach (var rule in table.Unique)
        {
            yield return (rule.IsPrimary ? "primary key (" : rule.IgnoresCase ? "unique, whatever the case (" : "unique, case counts (") + string.Join(", ", rule.Columns) + ")";
        }

        foreach (var key in table.ForeignKeys)
        {
            yield return $"{string.Join(", ", key.Columns)} refers to {key.Table}";
        }

        foreach (var index in table.Indexes)
        {
            yield return $"index ({string.Join(", ", index)})";
        }
    }

    private static string Name(ColumnOrigin how) => how switch
    {
        ColumnOrigin.Sql => "SQL",
        ColumnOrigin.Use => "used in a statement",
        _ => how.ToString().ToLowerInvariant(),
    };
}
