using System.Text.RegularExpressions;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Queries;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>One address of a table, and the function that the table names for it.</summary>
/// <param name="Method">Null where the table does not say.</param>
/// <param name="Value">The row as it is written: a table, a text, a function.</param>
/// <param name="Key">What the row is looked up by, where it has a key.</param>
internal sealed record RouteRow(string? Method, string Path, IrFunction Handler, object Value, string? Key, Location At)
{
    /// <summary>What the row has for the method, where it is a table of methods itself.</summary>
    public object? OfMethod { get; init; }
}

/// <summary>
/// A table in the code whose rows are addresses with the functions that answer there: a router of the application's own, which looks the address
/// up and calls what it finds. Whether the table is used so is for <see cref="FrontController"/> to find out.
/// </summary>
internal sealed partial class RouteTable
{
    private const int FewestRows = 2;
    private static readonly string[] Methods = ["GET", "POST", "PUT", "PATCH", "DELETE", "HEAD"];

    private RouteTable(WrittenTable at, IReadOnlyList<RouteRow> rows)
    {
        At = at;
        Rows = rows;
    }

    public WrittenTable At { get; }

    public IReadOnlyList<RouteRow> Rows { get; }

    /// <summary>Null where it is no such table: fewer than half of its rows name a function.</summary>
    public static RouteTable? Of(HandlerNames names, WrittenValues written, IrFunction function, int instruction)
    {
        var table = function.Instructions[instruction];
        if (table.Op is not (Opcode.Object or Opcode.List) || table.C < FewestRows)
        {
            return null;
        }

        // Only pages are told apart by a parameter, and that they are is a custom of PHP.
        var entries = function.List(table).ToArray();
        if (table.Op == Opcode.Object && Languages.Family(function.File.Source.Language) != "php" && !Array.Exists(entries, e => e.Name?.Contains('/', StringComparison.Ordinal) == true))
        {
            return null;
        }

        var rows = new List<RouteRow>();
        foreach (var entry in entries)
        {
            if (entry.Spread || written.Of(function, entry.Value) is not { } value)
            {
                continue;
            }

            var said = table.Op == Opcode.Object ? entry.Name : null;
            if (table.Op == Opcode.Object && (said is null || !Path().IsMatch(said)))
            {
                continue;
            }

            var at = entry.At == default ? function.LocationOf(entry.Value) : new Location(function.File.Index, entry.At.Start, entry.At.End);
            rows.AddRange(RowsOf(names, written, value, said, at, function));
        }

        return rows.Count >= FewestRows && rows.Select(r => r.At).Distinct().Count() * 2 >= entries.Length ? new RouteTable(new WrittenTable(function, instruction), rows) : null;
    }

    private static IEnumerable<RouteRow> RowsOf(HandlerNames names, WrittenValues written, object value, string? key, Location at, IrFunction home)
    {
        var parts = value is WrittenTable held ? held.Entries().Select(o => (o.Name, Value: written.Of(held.In, o.Value))).ToList() : [(null, value)];
        if (key is not null && parts.Count > 0 && parts.TrueForAll(p => p.Name is not null && Methods.Contains(p.Name.ToUpperInvariant())))
        {
            // What answers at the address depends on the method.
            return parts.Where(p => p.Value is not null).SelectMany(p => RowsOf(names, written, p.Value!, key, at, home).Select(r => r with { Method = p.Name!.ToUpperInvariant(), Value = value, OfMethod = p.Value }));
        }

        var texts = parts.Select(p => p.Value).OfType<string>().ToList();
        var path = key ?? texts.Find(t => t.Contains('/', StringComparison.Ordinal) && Path().IsMatch(t));
        if (path is null || names.HandlerOf([.. parts.Select(p => p.Value).Where(v => v is not null && !ReferenceEquals(v, path))!], home) is not { } handler)
        {
            return [];
        }

        var method = texts.Find(t => Methods.Contains(t.ToUpperInvariant()))?.ToUpperInvariant();
        return [new RouteRow(method, Plain(path), handler, value, key, at)];
    }

    /// <summary>A path as it would be written: <c>#^/hives/(\d+)$#</c> is <c>/hives/{1}</c>.</summary>
    internal static string Plain(string path)
    {
        var bare = path.Length > 2 && path[0] == path[^1] && path[0] is '#' or '~' or '@' or '!' or '%' ? path[1..^1] : path;
        var count = 0;
        return RoutePath.Normal(Group().Replace(bare.TrimStart('^').TrimEnd('$'), _ => $"{{{++count}}}"));
    }

    [GeneratedRegex(@"^([#~@!%]?\^?/[^\s,;]*|[a-z][\w.-]*(/[\w.-]+)*)$", RegexOptions.IgnoreCase, 200)]
    private static partial Regex Path();

    [GeneratedRegex(@"\((?!\?P?<)[^()]*\)[+*?]?", RegexOptions.None, 200)]
    private static partial Regex Group();
}
