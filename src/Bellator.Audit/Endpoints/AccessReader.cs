using System.Collections.Concurrent;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Interpreter;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Audit.Sql;
using Bellator.Audit.Tables;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>Reads from statements and calls of mappers which tables are used, and how.</summary>
public sealed class AccessReader(ProgramModel program, DatabaseSchema schema, IdentifierClassifier words)
{
    /// <summary>What one happening does to records.</summary>
    public IEnumerable<TableAccess> Of(AnalysisEvent happening)
    {
        if (happening.Kind is EventKind.Query or EventKind.Run && happening.Fact?.Query is not { Objects: true })
        {
            return OfStatement(happening);
        }

        return happening.Kind == EventKind.Access ? OfMapper(happening) : [];
    }

    /// <summary>The path of a route stands at its beginning.</summary>
    private const int MaxDeclared = 400;

    /// <summary>Records that the framework fetches for the handler, by a part of the path and the class of a parameter.</summary>
    /// <summary>The route says that each of its rows is looked for among those of the one before: by a call in its chain or around it, or a key of its own.</summary>
    public bool BindsWithin(EntryPoint entry, LibraryModels facts)
    {
        var file = program.Files[entry.At.File];
        var scopes = facts.For(Languages.Family(file.Source.Language)).BindingScopes;
        var scoped = file.Functions.SelectMany(f => f.NamedCalls.Where(n => scopes.Contains(n.Name)).Select(n => f.LocationOf(n.Instruction).Start)).ToHashSet();
        return program.Tree.TextOf(entry.At, MaxDeclared) is var text && text.Contains('{', StringComparison.Ordinal) && text[text.IndexOf('{', StringComparison.Ordinal)..].Split('{').Skip(2).Any(p => p.Split('}')[0].Contains(':', StringComparison.Ordinal))
            || (scoped.Count > 0 && (scoped.Contains(entry.At.Start) || file.Functions.Any(f => f.OutgoingCalls.Any(i => f.LocationOf(i) is var at && at.Start <= entry.At.Start && at.End >= entry.At.End && scoped.Contains(at.Start)))));
    }

    public IEnumerable<TableAccess> Bound(EntryPoint entry, LibraryModels facts)
    {
        if (entry.Handler is not { } handler || !facts.For(Languages.Family(handler.File.Source.Language)).FetchesParameters || !RoutePath.Parameters(entry.Path).Any())
        {
            yield break;
        }

        foreach (var parameter in handler.Parameters)
        {
            // What is found by another key than the number, the path says itself: {post:slug}.
            if (parameter.Type is { } declared && program.FindClass(declared.Name, handler.File) is { } type && schema.OfModel(type.ShortName) is { } table
                && !program.Tree.TextOf(entry.At, MaxDeclared).Contains("{" + parameter.Name.TrimStart('$') + ":", StringComparison.Ordinal))
            {
                yield return new TableAccess(table.Name, RecordAction.View, ["id"], $"{type.ShortName} {parameter.Name}", new Location(handler.File.Index, handler.Span.Start, handler.Span.Start), handler, false);
            }
        }
    }

    /// <summary>Each use of a table at a place once: the one that tells most of it.</summary>
    public static IReadOnlyList<TableAccess> Merged(IEnumerable<TableAccess> accesses)
    {
        var found = new Dictionary<(string, RecordAction, Location), TableAccess>();
        var all = accesses.ToList();
        var byStart = all.ToLookup(a => (a.At.File, a.At.Start));
        foreach (var access in all)
        {
            if (access.Action is RecordAction.List && byStart[(access.At.File, access.At.Start)].Any(o => IsInChainOf(access.At, o.At) && o.Table.Equals(access.Table, StringComparison.OrdinalIgnoreCase)))
            {
                // A call in the chain of another one, which says what becomes of the rows.
                continue;
            }

            var key = (access.Table.ToLowerInvariant(), access.Action, access.At);
            if (!found.TryGetValue(key, out var known) || known.Columns.Count < access.Columns.Count)
            {
                found[key] = access;
            }
        }

        return [.. found.Values];
    }

    /// <summary>The one call begins where the other does and ends before it: it is a link in that one's chain.</summary>
    internal static bool IsInChainOf(Location step, Location whole) => step.File == whole.File && step.Start == whole.Start && step.End < whole.End;

    /// <summary>A place that works with more models than this works with any: the first stands for them.</summary>
    private const int MostModels = 3;

    private IEnumerable<TableAccess> OfStatement(AnalysisEvent happening)
    {
        foreach (var statement in SqlTexts.Of(happening.Role("text")))
        {
            if (statement.Table is not { } table || table == "?" || table.Length == 0)
            {
                continue;
            }

            var text = string.Concat(statement.Pieces.Select(p => p.IsHole ? "…" : p.Literal));
            var how = string.Join(' ', text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
            how = how.Length > 140 ? string.Concat(how.AsSpan(0, 139), "…") : how;
            var chosen = statement.Slots.Where(s => s is { Clause: SqlClause.Where, Column: not null }).Select(s => s.Column!).Distinct(StringComparer.OrdinalIgnoreCase).ToList();
            var written = statement.Verb is "INSERT" or "REPLACE" ? statement.InsertColumns : [.. statement.Slots.Where(s => s is { Clause: SqlClause.Set, Column: not null }).Select(s => s.Column!).Distinct(StringComparer.OrdinalIgnoreCase)];
            RecordAction? action = statement.Verb switch
            {
                "SELECT" or "WITH" => IsOne(table, chosen) ? RecordAction.View : RecordAction.List,
                "INSERT" or "REPLACE" => RecordAction.Create,
                "UPDATE" => RecordAction.Edit,
                "DELETE" => RecordAction.Delete,
                _ => null,
            };
            if (action is { } known)
            {
                yield return new TableAccess(TableOf(table), known, known is RecordAction.Create or RecordAction.Edit ? written : chosen, how, happening.Place, happening.Function, false);
                if (known == RecordAction.List || known == RecordAction.View)
                {
                    foreach (var joined in statement.Tables.Skip(1))
                    {
                        yield return new TableAccess(TableOf(joined), RecordAction.List, [], how, happening.Place, happening.Function, false);
                    }
                }
            }
        }
    }

    /// <summary>Chosen by what tells one record from all others.</summary>
    private bool IsOne(string table, List<string> columns) =>
        schema.Find(table) is { } known
            ? known.Unique.Exists(u => u.Columns.All(c => columns.Contains(c, StringComparer.OrdinalIgnoreCase)))
            : columns.Exists(c => c.Equals("id", StringComparison.OrdinalIgnoreCase));

    private IEnumerable<TableAccess> OfMapper(AnalysisEvent happening)
    {
        var fact = happening.Fact!.Access!;
        var action = Enum.Parse<RecordAction>(fact.Action, ignoreCase: true);
        var columns = happening.Role(action is RecordAction.Create or RecordAction.Edit ? "fields" : "where").Fields?.Keys.Where(k => k.Length > 0 && (char.IsLetter(k[0]) || k[0] == '_')).ToList() ?? [];
        foreach (var table in NamesOf(happening.Role("model"), fact.Known).Select(n => TableOf(n, happening.Function.File)).Distinct(StringComparer.Ordinal))
        {
            yield return new TableAccess(table, action, columns, program.Tree.TextOf(happening.At, 140), happening.At, happening.Function, happening.Guessed);
        }
    }

    /// <summary>The models that it may be: a guard for any of several is given one at each place where it is used.</summary>
    private List<string> NamesOf(AbstractValue model, bool known)
    {
        List<string> names = [];
        foreach (var type in model.Types)
        {
            if (type[0] == FunctionAnalyzer.RecordsMark)
            {
                names.Add(type[(type.LastIndexOf('\\') is > 0 and var slash ? slash + 1 : 1)..]);
            }
            else if (names.Count == 0 && program.ClassOfType(type) is { } record)
            {
                // A form is not the record that it fills.
                return known && program.Kinds(record).Any(k => words.FillsRecord(IrClass.ShortOf(k))) ? [] : [record.ShortName];
            }
        }

        return names.Count is > 0 and <= MostModels ? names
            : names.Count > 0 ? names[..1]
            : model.Targets.OfType<IrClass>().FirstOrDefault()?.ShortName is { } target ? [target]
            : !known && model.Name is { Length: > 0 } label && char.IsLetter(label[0]) ? [label] : [];
    }

    /// <summary>The table that a class or model of the name stands for, by the names of the tables there are.</summary>
    internal string TableOf(string name, IrFile? file = null) =>
        schema.OfModel(name)?.Name ?? (words.RecordsOf(name) is { } record ? schema.OfModel(record)?.Name : null)
        ?? (file is not null && program.FindClass(name, file) is { } type ? _ofFamily.GetOrAdd(type.Primary, OfFamily) : null) ?? name;

    private readonly ConcurrentDictionary<IrClass, string?> _ofFamily = [];

    /// <summary>Classes that derive from one another share a table where only one of them has it: the nearest one above, or one below.</summary>
    private string? OfFamily(IrClass type)
    {
        var top = type;
        for (var above = program.BaseOf(type)?.Primary; above is not null && above != top; above = program.BaseOf(above)?.Primary)
        {
            if (schema.OfModel(above.ShortName) is { } table)
            {
                return table.Name;
            }

            top = above;
        }

        return program.Classes.Where(c => program.BaseOf(c)?.Primary == top).Select(c => schema.OfModel(c.ShortName)?.Name).OfType<string>().Order(StringComparer.Ordinal).FirstOrDefault();
    }
}
