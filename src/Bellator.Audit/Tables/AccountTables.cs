using Bellator.Analysis.Events;
using Bellator.Analysis.Interpreter;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Audit.Sql;

namespace Bellator.Audit.Tables;

/// <summary>The tables of the people who sign in: those with a password column, and classes that a library makes accounts.</summary>
public sealed class AccountTables
{
    private readonly HashSet<string> _names = new(StringComparer.OrdinalIgnoreCase);
    private readonly HashSet<string> _words = new(StringComparer.Ordinal);

    public AccountTables(ProgramModel program, DatabaseSchema schema, IdentifierClassifier words, EventIndex happenings)
    {
        // Nothing may declare the tables; what is written into them tells then.
        foreach (var written in happenings.Of(EventKind.Access).Where(e => e.Role("fields").PartNames.Any(words.IsPasswordColumn)))
        {
            foreach (var type in written.Role("model").Types.Where(t => t[0] == FunctionAnalyzer.RecordsMark))
            {
                Add(type[1..]);
            }
        }

        foreach (var statement in happenings.Of(EventKind.Query, EventKind.Run).SelectMany(e => SqlTexts.Of(e.Role("text"))))
        {
            if (statement.Table is { Length: > 0 } table && schema.Find(table) is null && statement.InsertColumns.FirstOrDefault(words.IsPasswordColumn) is { } column)
            {
                _columns.TryAdd(table, column);
                Add(table);
            }
        }

        // Passwords for other servers are kept in tables too: they count only where no table is named for people, or where they are hashed.
        var keeping = schema.Tables.Where(t => t.Columns.Exists(c => ColumnMeanings.Of(c, t, words).Meaning == ColumnMeanings.Password)).ToList();
        var named = keeping.Exists(t => words.IsAccounts(t.Name));
        foreach (var table in keeping.Where(t => !named || words.IsAccounts(t.Name) || t.Columns.Exists(c => words.IsHashColumn(c.Name))))
        {
            if (words.IsAccounts(table.Name) || !table.ForeignKeys.Exists(k => words.IsAccounts(k.Table) && schema.Find(k.Table) is { } other && other != table))
            {
                Add(table.Name);
                Tables.Add(table);
            }
        }

        foreach (var type in program.Classes)
        {
            if (type.Annotations.Any(a => words.MakesAccount(IrClass.ShortOf(a.Name))) || type.Traits.Concat(type.Interfaces).Append(type.Base ?? "").Any(b => words.MakesAccount(IrClass.ShortOf(b))))
            {
                Add(type.ShortName);
                Models.Add(type);
            }
        }
    }

    private readonly Dictionary<string, string> _columns = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>The column with the password of a table that nothing declares, as statements write it; null if none does.</summary>
    public string? WrittenPassword(string table) => _columns.GetValueOrDefault(table);

    public List<Table> Tables { get; } = [];

    /// <summary>Classes of accounts whose columns the material may not say.</summary>
    public List<IrClass> Models { get; } = [];

    /// <summary>True for the name of a table or class with accounts.</summary>
    public bool Has(string name) => _names.Contains(name);

    /// <summary>True for the name of one of these people, not of something about them: <c>current_warden</c> where there is a class Warden.</summary>
    public bool IsPerson(string name) => IdentifierClassifier.Parts(name) is [.., var last] && _words.Contains(last);

    /// <summary>
    /// True for a yes or no that is kept of each person and names who they are or what they may: <c>verifier</c>, <c>can_export</c>. Others say in which
    /// state the account is, or what the person likes.
    /// </summary>
    public bool IsTrait(string name, IdentifierClassifier words) =>
        name.TrimEnd('?') is var column && IdentifierClassifier.Parts(column) is [var first, ..] parts
        && (first is "can" or "may" || (parts.Count < 3 && words.IsAgent(parts[^1])) || (parts.Count == 2 && first == "is" && !parts[1].EndsWith("ed", StringComparison.Ordinal) && !words.IsPublicState(column)))
        && !words.TellsOfStatus(column) && Tables.Exists(t => t.Find(column) is { } found && found.Type.StartsWith("bool", StringComparison.OrdinalIgnoreCase));

    /// <summary>True for a name that speaks of one of these people.</summary>
    public bool Speaks(string name) => _words.Count > 0 && IdentifierClassifier.Parts(name).Exists(p => _words.Contains(p) || _words.Contains(p.TrimEnd('s')));

    private void Add(string name)
    {
        _names.Add(name);
        var parts = IdentifierClassifier.Parts(name);
        if (parts.Count > 0)
        {
            _words.Add(parts[^1].TrimEnd('s'));
            _words.Add(IdentifierClassifier.Singular(parts[^1]));
        }
    }
}
