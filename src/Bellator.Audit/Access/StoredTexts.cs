using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Tables;

namespace Bellator.Audit.Access;

/// <summary>A place that puts text from a request into a column as it was sent.</summary>
public sealed record StoredText(string Table, RecordUse Use, Taint Taint);

/// <summary>
/// Which columns hold what people typed: an entry point writes a value of the request into them that nothing has looked at or escaped. What is
/// read back from there is as much a stranger's text as the request itself.
/// </summary>
public sealed class StoredTexts
{
    private readonly Dictionary<string, List<StoredText>> _byColumn = new(StringComparer.OrdinalIgnoreCase);
    private readonly ILookup<int, string> _tablesByFile;
    private readonly DatabaseSchema _schema;
    private readonly IdentifierClassifier _words;

    /// <summary>Less than this holds no markup that does anything; common practice, no published source.</summary>
    private const int MinHarmfulLength = 20;

    public StoredTexts(AccessMap access, DatabaseSchema schema, IdentifierClassifier words)
    {
        _schema = schema;
        _words = words;
        foreach (var entry in access.Entries.Where(e => !e.Entry.Guards.Any(g => g.Asks == Requirement.Role) && !e.Decisions.Any(d => d is { IsRole: true, IsGuess: false })))
        {
            foreach (var use in entry.Uses.Where(u => u.Access.Action is RecordAction.Create or RecordAction.Edit))
            {
                foreach (var term in use.Terms.FromRequest)
                {
                    var column = term.Column[(term.Column.LastIndexOf('.') + 1)..];
                    if (term.Taints.FirstOrDefault(t => t is { Transform: PasswordTransform.Plain, Guessed: false } && (t.Safe & OutputContext.Html) == 0) is { } sent && HoldsMarkup(use.Access.Table, column))
                    {
                        var known = _byColumn.TryGetValue(column, out var list) ? list : _byColumn[column] = [];
                        known.Add(new StoredText(use.Access.Table, use, sent));
                    }
                }
            }
        }

        _tablesByFile = access.Entries.SelectMany(e => e.Uses).Where(u => u.Access.Action is RecordAction.View or RecordAction.List)
            .SelectMany(u => new[] { u.Happening.At.File, u.In.File.Index, u.Entry.Handler!.File.Index }.Distinct().Select(f => (File: f, u.Access.Table))).Distinct().ToLookup(u => u.File, u => u.Table);
    }

    /// <summary>What shows that a value which was read from a column of that name may be somebody's text; null where it may be of another table, or nothing does.</summary>
    /// <param name="happening">What is done with the value.</param>
    /// <param name="stored">Where it was read.</param>
    public StoredText? Of(AnalysisEvent happening, Taint stored)
    {
        if (stored.Origin is not { Kind: OriginKind.Stored, Name: { } column } || !_byColumn.TryGetValue(column, out var written))
        {
            return null;
        }

        var read = TablesOf(happening, stored, column);
        return read.Count > 0 && read.TrueForAll(t => written.Exists(w => w.Table.Equals(t, StringComparison.OrdinalIgnoreCase)))
            ? written.Find(w => read.Contains(w.Table, StringComparer.OrdinalIgnoreCase) && !w.Use.Happening.Guessed) : null;
    }

    /// <summary>The column that was read holds text, long enough for markup, in every table that it may be of.</summary>
    public bool MayHoldMarkup(AnalysisEvent happening, Taint stored) =>
        stored.Origin is { Kind: OriginKind.Stored, Name: { } column }
        && (TablesOf(happening, stored, column) is { Count: > 0 } tables ? tables.TrueForAll(t => HoldsMarkup(t, column) && (_schema.Find(t)!.Find(column)!.Type.Length > 0 || _words.HoldsFreeText(column)))
            : _words.HoldsFreeText(column) && ReadNear(happening, stored).Any(t => _schema.Find(t) is null or { Columns.Count: 0 }));

    /// <summary>The tables with such a column that are read in the file where the value was, or where something is done with it.</summary>
    private List<string> TablesOf(AnalysisEvent happening, Taint stored, string column) =>
        [.. ReadNear(happening, stored).Where(t => _schema.Find(t)?.Find(column) is not null).Distinct(StringComparer.OrdinalIgnoreCase)];

    private IEnumerable<string> ReadNear(AnalysisEvent happening, Taint stored) => new[] { stored.Origin.Function, happening.Function.File.Index, happening.At.File }.Distinct().SelectMany(f => _tablesByFile[f]);

    private bool HoldsMarkup(string table, string column) =>
        _schema.Find(table)?.Find(column) is { } known && (known.Length is null || known.Length >= MinHarmfulLength) && IsText(known.Type);

    private static bool IsText(string type) =>
        type.Length == 0 || type.Contains("char", StringComparison.OrdinalIgnoreCase) || type.Contains("text", StringComparison.OrdinalIgnoreCase) || type.Contains("string", StringComparison.OrdinalIgnoreCase) || type.Contains("clob", StringComparison.OrdinalIgnoreCase);
}
