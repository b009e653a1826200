using Bellator.Analysis.Libraries;
using Bellator.Text;

namespace Bellator.Audit.Tables;

/// <summary>A column as its declaration says.</summary>
/// <param name="Type">In lower case, as written but for its length.</param>
/// <param name="Length">Characters or bytes it holds, or digits of a number; null if the type sets no limit.</param>
/// <param name="Origin">What declares it.</param>
public sealed record Column(string Name, string Type, int? Length, bool NotNull, string? Default, Location At, ColumnOrigin Origin = ColumnOrigin.Sql);

/// <summary>By what a column is known.</summary>
public enum ColumnOrigin
{
    Sql,

    /// <summary>A class whose objects are the rows.</summary>
    Class,

    /// <summary>A model that code hands to a mapper.</summary>
    Model,

    /// <summary>A step that changes the tables.</summary>
    Migration,

    /// <summary>A statement that uses it; nothing in the material declares it.</summary>
    Use,
}

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

    internal Dictionary<string, string> Corrections { get; set; } = [];

    /// <summary>All places that declare something of the table, the first of each kind.</summary>
    public List<(ColumnOrigin How, Location At)> Origins { get; } = [];

    internal void NoteOrigin(ColumnOrigin how, Location at)
    {
        if (!Origins.Exists(o => o.How == how && o.At.File == at.File))
        {
            Origins.Add((how, at));
        }
    }

    /// <summary>Adds a column, unless one of the name is known already: what is said first is kept, but a length that is missing is filled in.</summary>
    internal void Add(Column column)
    {
        NoteOrigin(column.Origin, column.At);
        if (Columns.FindIndex(c => string.Equals(c.Name, column.Name, StringComparison.OrdinalIgnoreCase)) is >= 0 and var at)
        {
            if (Columns[at].Type.Length == 0 && column.Type.Length > 0)
            {
                Columns[at] = column;
            }

            return;
        }

        Columns.Add(column);
    }

    /// <summary>Takes a column away, or gives it another name; what is declared in another way stays.</summary>
    internal void Change(string column, string? to, ColumnOrigin by)
    {
        if (Columns.FindIndex(c => string.Equals(c.Name, column, StringComparison.OrdinalIgnoreCase)) is not (>= 0 and var at) || Columns[at].Origin != by)
        {
            return;
        }

        bool Has(IReadOnlyList<string> columns) => columns.Contains(column, StringComparer.OrdinalIgnoreCase);
        IReadOnlyList<string> Renamed(IReadOnlyList<string> columns) => [.. columns.Select(c => string.Equals(c, column, StringComparison.OrdinalIgnoreCase) ? to! : c)];
        if (to is null || Find(to) is not null)
        {
            Columns.RemoveAt(at);
            Unique.RemoveAll(u => Has(u.Columns));
            Indexes.RemoveAll(Has);
            ForeignKeys.RemoveAll(k => Has(k.Columns));
            return;
        }

        Columns[at] = Columns[at] with { Name = to };
        for (var i = 0; i < Unique.Count; i++)
        {
            Unique[i] = Unique[i] with { Columns = Renamed(Unique[i].Columns) };
        }

        for (var i = 0; i < Indexes.Count; i++)
        {
            Indexes[i] = Renamed(Indexes[i]);
        }

        for (var i = 0; i < ForeignKeys.Count; i++)
        {
            ForeignKeys[i] = ForeignKeys[i] with { Columns = Renamed(ForeignKeys[i].Columns) };
        }
    }

    /// <summary>The table under another name.</summary>
    internal Table Renamed(string to)
    {
        var table = new Table(to, At) { RowSecurity = RowSecurity };
        table.Columns.AddRange(Columns);
        table.Unique.AddRange(Unique);
        table.ForeignKeys.AddRange(ForeignKeys);
        table.Indexes.AddRange(Indexes);
        table.Origins.AddRange(Origins);
        return table;
    }

    /// <summary>Notes how long the texts of a column may be.</summary>
    internal void SetLength(string column, int length)
    {
        if (Columns.FindIndex(c => string.Equals(c.Name, column, StringComparison.OrdinalIgnoreCase)) is >= 0 and var at)
        {
            Columns[at] = Columns[at] with { Length = length };
        }
    }

    /// <summary>Notes that no two rows are equal in the columns, unless it is known.</summary>
    internal void AddUnique(IReadOnlyList<string> columns)
    {
        if (columns.Count > 0 && !Unique.Exists(u => u.Columns.SequenceEqual(columns, StringComparer.OrdinalIgnoreCase)))
        {
            Unique.Add(new UniqueRule(columns, false, false));
        }
    }

    internal void AddIndex(IReadOnlyList<string> columns)
    {
        if (columns.Count > 0 && !Indexes.Exists(i => i.SequenceEqual(columns, StringComparer.OrdinalIgnoreCase)))
        {
            Indexes.Add(columns);
        }
    }

    /// <summary>Notes that the columns refer to another table.</summary>
    internal void AddReference(IReadOnlyList<string> columns, string target, IReadOnlyList<string>? targetColumns = null)
    {
        if (columns.Count > 0 && !ForeignKeys.Exists(k => k.Columns.SequenceEqual(columns, StringComparer.OrdinalIgnoreCase)))
        {
            ForeignKeys.Add(new ForeignKey(columns, target, targetColumns ?? []));
        }
    }

    public Column? Find(string name) => Columns.Find(c => string.Equals(c.Name, name, StringComparison.OrdinalIgnoreCase));
}

/// <summary>The tables that an application's material declares.</summary>
public sealed class DatabaseSchema
{
    private readonly Dictionary<string, Table> _tables = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>What a reviewer says that columns hold; it counts more than what they look like.</summary>
    public IReadOnlyDictionary<(string Table, string Column), string> Corrections
    {
        get;
        set
        {
            field = value;
            foreach (var table in _tables.Values)
            {
                table.Corrections = value.Where(c => c.Key.Table.Equals(table.Name, StringComparison.OrdinalIgnoreCase)).ToDictionary(c => c.Key.Column, c => c.Value, StringComparer.OrdinalIgnoreCase);
            }
        }
    } = new Dictionary<(string, string), string>();

    public static DatabaseSchema Empty { get; } = new();

    public IReadOnlyCollection<Table> Tables => _tables.Values;

    public Table? Find(string name) => _tables.GetValueOrDefault(ShortName(name));

    /// <summary>Takes a table away that steps had made, or gives it another name.</summary>
    internal void Change(string name, string? to)
    {
        if (Find(name) is { } table && table.Origins.TrueForAll(o => o.How == ColumnOrigin.Migration) && _tables.Remove(table.Name) && to is not null && Find(to) is null)
        {
            _tables[ShortName(to)] = table.Renamed(ShortName(to));
        }

        _ofModels.Clear();
    }

    /// <summary>The table of this name, made if it is new.</summary>
    internal Table Declare(string name, Location at)
    {
        name = ShortName(name);
        if (_tables.TryGetValue(name, out var table))
        {
            return table;
        }

        _ofModels.Clear();
        return _tables[name] = new Table(name, at);
    }

    private readonly Dictionary<string, string> _named = new(StringComparer.Ordinal);

    /// <summary>Notes what the program calls the table of a class.</summary>
    internal void NameModel(string model, string table)
    {
        _named[ShortName(model)] = table;
        _ofModels.Clear();
    }

    /// <summary>What the program calls the table of a class; null if nothing is said.</summary>
    internal string? NameOf(string model) => _named.GetValueOrDefault(ShortName(model));

    /// <summary>The table that a class or model of the name stands for: as the program says, of that name, of its plural, or of its words with underscores.</summary>
    public Table? OfModel(string model) => _ofModels.GetOrAdd(model, FindOfModel);

    /// <summary>What was found last; tables that are declared later may change it.</summary>
    private readonly System.Collections.Concurrent.ConcurrentDictionary<string, Table?> _ofModels = new(StringComparer.Ordinal);

    private Table? FindOfModel(string model)
    {
        var parts = string.Join('_', IdentifierClassifier.Parts(ShortName(model)));
        return (NameOf(model) is { } said ? Find(said) : null) ?? Find(model) ?? Find(parts) ?? Find(IdentifierClassifier.Plural(parts)) ?? OfOne(parts, Find) ?? _tables.Values.FirstOrDefault(t => t.Name.EndsWith("_" + parts, StringComparison.OrdinalIgnoreCase) || t.Name.EndsWith("_" + IdentifierClassifier.Plural(parts), StringComparison.OrdinalIgnoreCase));
    }

    /// <summary>The table that is named for one record, where the name is for many.</summary>
    private static Table? OfOne(string name, Func<string, Table?> find) =>
        name.EndsWith('s') && name.Length > 3 ? find(IdentifierClassifier.Singular(name)) ?? (name.EndsWith("es", StringComparison.Ordinal) ? find(name[..^2]) : null) : null;

    private static string ShortName(string name) => name[(name.LastIndexOfAny(['.', '\\']) + 1)..];
}
