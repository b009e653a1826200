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
    public static RouteTable? Of(ProgramModel program, KnownRun reading, IrFunction function, int instruction)
    {
        var table = function.Instructions[instruction];
        if (table.Op is not (Opcode.Object or Opcode.List) || table.C < FewestRows)
        {
            return null;
        }

        var entries = function.List(table).ToArray();
        var rows = new List<RouteRow>();
        foreach (var entry in entries)
        {
            if (entry.Spread || reading.Written(function, entry.Value, 0) is not { } value)
            {
                continue;
            }

            var said = table.Op == Opcode.Object ? entry.Name : null;
            if (table.Op == Opcode.Object && (said is null || !Path().IsMatch(said)))
            {
                continue;
            }

            var at = entry.At == default ? function.LocationOf(entry.Value) : new Location(function.File.Index, entry.At.Start, entry.At.End);
            rows.AddRange(RowsOf(program, reading, value, said, at, function));
        }

        return rows.Count >= FewestRows && rows.Select(r => r.At).Distinct().Count() * 2 >= entries.Length ? new RouteTable(new WrittenTable(function, instruction), rows) : null;
    }

    private static IEnumerable<RouteRow> RowsOf(ProgramModel program, KnownRun reading, object value, string? key, Location at, IrFunction home)
    {
        var parts = value is WrittenTable held ? held.In.List(held.In.Instructions[held.Instruction]).ToArray().Select(o => (o.Name, Value: reading.Written(held.In, o.Value, 0))).ToList() : [(null, value)];
        if (key is not null && parts.Count > 0 && parts.TrueForAll(p => p.Name is not null && Methods.Contains(p.Name.ToUpperInvariant())))
        {
            // What answers at the address depends on the method.
            return parts.Where(p => p.Value is not null).SelectMany(p => RowsOf(program, reading, p.Value!, key, at, home).Select(r => r with { Method = p.Name!.ToUpperInvariant(), Value = value, OfMethod = p.Value }));
        }

        var texts = parts.Select(p => p.Value).OfType<string>().ToList();
        var path = key ?? texts.Find(t => t.Contains('/', StringComparison.Ordinal) && Path().IsMatch(t));
        if (path is null || HandlerOf(program, [.. parts.Select(p => p.Value).Where(v => v is not null && !ReferenceEquals(v, path))!], home) is not { } handler)
        {
            return [];
        }

        var method = texts.Find(t => Methods.Contains(t.ToUpperInvariant()))?.ToUpperInvariant();
        return [new RouteRow(method, Plain(path), handler, value, key, at)];
    }

    /// <summary>The one function of the program that the parts of a row name: by itself, by a name, by a class and a method, or by a file and a name in it.</summary>
    private static IrFunction? HandlerOf(ProgramModel program, IReadOnlyList<object?> parts, IrFunction home)
    {
        if (parts.OfType<IrFunction>().ToList() is { Count: > 0 } functions)
        {
            return functions[^1];
        }

        var names = parts.SelectMany(p => p is WrittenTable pair ? pair.In.List(pair.In.Instructions[pair.Instruction]).ToArray().Select(o => pair.In.Instructions[o.Value]).Select(i => i.Text ?? "") : [p as string ?? ""]).Where(n => n.Length > 0).ToList();
        var split = names.SelectMany(n => n.Split(["::", "@", "#", "->", ":"], StringSplitOptions.RemoveEmptyEntries)).ToList();
        var found = new List<(string Name, IrFunction Function)>();
        foreach (var name in split.Where(n => Word().IsMatch(n)))
        {
            var meant = program.Functions.Where(f => f.Name.Equals(name, StringComparison.Ordinal) && Languages.Family(f.File.Source.Language) == Languages.Family(home.File.Source.Language)).ToList();
            if (meant.Count > 1)
            {
                // Several of the name: the others say which.
                meant = meant.FindAll(f => split.Exists(o => o != name && (o.Equals(System.IO.Path.GetFileNameWithoutExtension(f.File.Source.Path), StringComparison.OrdinalIgnoreCase) || (f.Class is { } type && IrClass.ShortOf(o).Equals(type.ShortName, StringComparison.OrdinalIgnoreCase)))));
            }

            if (meant.Count == 0 && program.Functions.FirstOrDefault(f => f.File == home.File && f.Name == name) is { } near)
            {
                meant = [near];
            }

            if (meant is [var only] && !only.IsTopLevel)
            {
                found.Add((name, only));
            }
        }

        if (found.Count > 0)
        {
            // A name may be that of the file in which the other is.
            return found.LastOrDefault(f => !program.Files.Any(o => System.IO.Path.GetFileNameWithoutExtension(o.Source.Path).Equals(f.Name, StringComparison.OrdinalIgnoreCase)), found[^1]).Function;
        }

        // A file that is run for the address.
        var files = names.Where(n => n.Contains('.', StringComparison.Ordinal)).SelectMany(n => program.Files.Where(f => ("/" + f.Source.Path).EndsWith("/" + n.TrimStart('.', '/'), StringComparison.Ordinal))).ToList();
        return files is [var file] && file != home.File && file.Functions.Count > 0 ? file.Functions[0] : null;
    }

    /// <summary>A path as it would be written: <c>#^/hives/(\d+)$#</c> is <c>/hives/{1}</c>.</summary>
    private static string Plain(string path)
    {
        var bare = path.Length > 2 && path[0] == path[^1] && path[0] is '#' or '~' or '@' or '!' or '%' ? path[1..^1] : path;
        var count = 0;
        return RoutePath.Normal(Group().Replace(bare.TrimStart('^').TrimEnd('$'), _ => $"{{{++count}}}"));
    }

    [GeneratedRegex(@"^([#~@!%]?\^?/[^\s,;]*|[a-z][\w.-]*(/[\w.-]+)*)$", RegexOptions.IgnoreCase, 200)]
    private static partial Regex Path();

    [GeneratedRegex(@"^[A-Za-z_]\w*$", RegexOptions.None, 200)]
    private static partial Regex Word();

    [GeneratedRegex(@"\((?!\?P?<)[^()]*\)[+*?]?", RegexOptions.None, 200)]
    private static partial Regex Group();
}
