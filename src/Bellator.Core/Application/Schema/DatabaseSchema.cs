using Bellator.Core.Sources;

namespace Bellator.Core.Application.Schema;

/// <summary>A column as its declaration says.</summary>
/// <param name="Type">In lower case, as written but for its length.</param>
/// <param name="Length">Characters or bytes it holds, or digits of a number; null if the type sets no limit.</param>
public sealed record Column(string Name, string Type, int? Length, bool NotNull, string? Default, Location At);

/// <summary>A rule that no two rows are equal in these columns.</summary>
/// <param name="IgnoresCase">The rule is on the lower-case form, or the type ignores case.</param>
public sealed record UniqueRule(IReadOnlyList<string> Columns, bool IsPrimary, bool IgnoresCase);

public sealed record ForeignKey(IReadOnlyList<string> Columns, string Table, IReadOnlyList<string> TargetColumns);

/// <summary>A table put together from all that declares or changes it.</summary>
public sealed class Table(string name, Location at)
{
    public string Name { get; } = name;

    public Location At { get; } = at;

    public List<Column> Columns { get; } = [];

    public List<UniqueRule> Unique { get; } = [];

    public List<ForeignKey> ForeignKeys { get; } = [];

    /// <summary>The columns that each index begins with, in order.</summary>
    public List<IReadOnlyList<string>> Indexes { get; } = [];

    public bool RowSecurity { get; set; }

    public Column? Find(string name) => Columns.Find(c => string.Equals(c.Name, name, StringComparison.OrdinalIgnoreCase));
}

/// <summary>The tables that an application's material declares.</summary>
public sealed class DatabaseSchema
{
    private readonly Dictionary<string, Table> _tables = new(StringComparer.OrdinalIgnoreCase);

    public static DatabaseSchema Empty { get; } = new();

    public IReadOnlyCollection<Table> Tables => _tables.Values;

    public Table? Find(string name) => _tables.GetValueOrDefault(ShortName(name));

    /// <summary>The table of this name, made if it is new.</summary>
    internal Table Declare(string name, Location at)
    {
        name = ShortName(name);
        return _tables.TryGetValue(name, out var table) ? table : _tables[name] = new Table(name, at);
    }

    private static string ShortName(string name) => name[(name.LastIndexOf('.') + 1)..];
}
