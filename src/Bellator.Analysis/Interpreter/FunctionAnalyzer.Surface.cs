using System.Globalization;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Interpreter;

/// <summary>Notes what tells of the application's surface: its addresses, what stands on the way to them, and the records that are used.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>Begins a type that stands for one object, by the place where it is made.</summary>
    internal const char OwnMark = '@';

    /// <summary>Records of a handle that puts conditions of its own on what is asked of it.</summary>
    public const string LimitedRecords = "limited";

    /// <summary>Records that belong to another record, and are reached from it.</summary>
    public const string RelatedRecords = "related";

    /// <summary>Begins a type that stands for the records of one table, by its name.</summary>
    internal const char RecordsMark = FieldAccess.RecordsMark;

    /// <summary>A type that begins like this is one or more whole records of a table, with all their columns.</summary>
    internal const char WholeMark = FieldAccess.WholeMark;

    /// <summary>The type of what has only some columns of its records.</summary>
    internal const string Projected = "projected";

    /// <summary>The same, but records that come along by relations have all of theirs.</summary>
    private const string SomeColumns = "narrowed";

    /// <summary>The type, as facts name it, of what declares the columns of a table.</summary>
    private const string DeclaredTable = "Migration.Table";

    /// <summary>The same for a column of it that was just declared.</summary>
    private const string DeclaredColumn = "Migration.Column";

    private void RaiseSurface(CallModel fact, CallSite site, CallSite named, bool guessed)
    {
        if (fact.Route is { } route && IsIn(route.Files))
        {
            RaiseRoute(route, fact, named);
        }

        if (fact.Mount is { } mount && IsIn(mount.Files))
        {
            RaiseMount(mount, fact, site, named);
        }

        if (fact.Guard is { } guard)
        {
            var (given, places) = guard.Field is not { } listing ? ArgumentsFrom(named, guard.From)
                : (named.Option(listing) is { } listed ? Listed([.. listed.Parts]) : AbstractValue.Unknown, []);
            RaisePlaced(EventKind.Guard, fact, site.Index, places, ("names", given), ("receiver", fact.Allocates ? AbstractValue.OfType(OwnType(site)) : guard.On is { } held ? site.Argument(held) : site.Receiver), ("only", named.Option(guard.Only ?? "") ?? AbstractValue.Unknown), ("except", named.Option(guard.Except ?? "") ?? AbstractValue.Unknown));
        }

        if (fact.Access is { SavesChanges: true })
        {
            RaiseTracked(fact, site);
        }
        else if (fact.Access is { } access)
        {
            RunHooks(access, site);
            if (access.EditsFetched && access.Fields is { } given && site.Argument(given) is var fetched && fetched.Types.Contains("row") && !fetched.Types.Contains(UnsavedRecord))
            {
                Raise(EventKind.Access, Changing, site, guessed, ("model", WithRecords(fetched, RecordsName(RecordsOf(site, access.Model)) is { } saved ? RecordsMark + saved : "row")), ("fields", ChangedOn(fetched)));
            }
            else if (!access.Unsaved && !RaiseMade(access, site, guessed))
            {
                Raise(EventKind.Access, fact, site, guessed, ("model", RecordsOf(site, access.Model)),
                    ("where", fact.HasConditions ? WithConditions(fact, named) : OnConditions(ConditionGiven(access, site), RecordsOf(site, access.Model))), ("fields", access.FieldsIn is { } option ? named.Option(option) ?? AbstractValue.Unknown : access.Fields is { } fields ? site.Argument(fields) : access is { Action: "edit", Model: -1 } ? ChangedOn(site.Receiver) : AbstractValue.Unknown));
            }
        }

        if (fact.Model is { Columns: { } columns } && site.Operand(columns) is >= 0 and var declared)
        {
            RaisePlaced(EventKind.Columns, fact, site.Index, [At(declared)], ("name", fact.Model.Name is { } at ? site.Argument(at) : AbstractValue.Unknown), ("columns", site.Argument(columns)), ("self", fact.Allocates ? AbstractValue.OfType(OwnType(site)) : AbstractValue.Unknown));
        }

        if (fact.Column is { } column && (column.Table is { } of ? site.Argument(of).Constant?.TrimStart(':') : RecordsName(site.Receiver)) is { } table)
        {
            RaiseColumn(fact, column, table, named);
        }

        if (fact.Key is { } key)
        {
            RaiseKey(fact, key, site, named);
        }

        if (fact.Change is { } change)
        {
            RaiseChange(fact, change, named);
        }

        if (fact.Random is { } random)
        {
            Raise(EventKind.Random, fact, site, guessed, ("size", random.At is { } size ? site.Argument(size) : AbstractValue.Unknown), ("low", random.Low is { } low ? site.Argument(low) : AbstractValue.Unknown), ("high", random.High is { } high ? site.Argument(high) : AbstractValue.Unknown));
        }

        if (fact.Provided.Count > 0)
        {
            Raise(EventKind.Provides, fact, site, guessed, ("given", Listed(site.Arguments)));
        }

        foreach (var act in fact.JourneySteps)
        {
            if (act.At is not { } at || site.Argument(at).Constant is { } given && given.Equals(act.Is, StringComparison.OrdinalIgnoreCase))
            {
                Raise(EventKind.Act, fact, site, guessed, ("act", AbstractValue.OfConstant(LiteralKind.Text, act.Step)), ("note", AbstractValue.OfConstant(LiteralKind.Text, act.Note)));
            }
        }
    }

    private static AbstractValue ConditionGiven(AccessModel access, CallSite site) =>
        access.Where is not { } at ? AbstractValue.Unknown
        : access.WhereIn is not { } option || site.Argument(at).Fields is not { } options ? site.Argument(at)
        : options.GetValueOrDefault(option) ?? AbstractValue.Unknown;

    private bool IsIn(List<string> files) => files.Count == 0 || files.Exists(f => ("/" + _file.Source.Path).EndsWith(f, StringComparison.Ordinal));

    private void RaiseRoute(RouteModel route, CallModel fact, CallSite site)
    {
        if (route.Options is { } at)
        {
            var options = site.Argument(at);
            var before = route.Path is { } under ? Named(route.Below + (route.Prefix is { } prefix ? Written(site.Argument(prefix)) + "/" : "") + Written(site.Argument(under))) : null;
            foreach (var one in options.Field(route.PathField ?? "") is not null || options.Field(route.HandlerField ?? "") is not null ? [options] : options.Parts.Where(v => before is null || v.Field(route.HandlerField ?? "") is not null))
            {
                var handlers = route.GuardFields.Append(route.HandlerField).Select(f => f is null ? null : one.Field(f)).OfType<AbstractValue>().ToList();
                RaisePlaced(EventKind.Route, fact, site.Index, [.. handlers.Select(_ => At(site.Index))],
                    ("path", before ?? one.Field(route.PathField ?? "") ?? AbstractValue.Unknown), ("method", one.Field(route.MethodField ?? "") ?? AbstractValue.Unknown), ("handlers", Listed(handlers)), ("receiver", site.Receiver), ("asks", Asked(route, one)));
            }

            return;
        }

        var path = route.Path == -1 ? site.Receiver.Payload : route.Path is { } position ? site.Argument(position) : null;
        path ??= site.Option(route.PathField ?? "");
        var asks = AbstractValue.Unknown;
        if (route.Texts.Count > 0)
        {
            if (path?.Constant is not { } name || route.Texts.Find(t => Between(t.Text, name) is not null) is not { } meant)
            {
                return;
            }

            path = Named(meant.Path.Replace("*", Between(meant.Text, name), StringComparison.Ordinal));
            asks = meant.Asks is { } needs ? Listed([Named(needs)]) : asks;
        }

        if (path?.Fields is { Count: 1 } pair && path.Constant is null)
        {
            // Ruby: one argument says both the path and where it leads.
            RaisePlaced(EventKind.Route, fact, site.Index, [At(site.Index)], ("path", AbstractValue.OfConstant(LiteralKind.Text, pair.Keys.First())), ("handlers", Listed([pair.Values.First()])), ("receiver", site.Receiver));
            return;
        }

        var (given, places) = ArgumentsFrom(site, route.Handlers, route.Named is null);
        if (route.HandlerField is { } field && site.Option(field) is { } handler)
        {
            (given, places) = (Listed([handler]), [At(site.Index)]);
        }

        var method = route.MethodAt is { } methodAt ? site.Argument(methodAt) : route.MethodField is { } option ? site.Option(option) : null;
        RaisePlaced(EventKind.Route, fact, site.Index, places, ("path", path ?? AbstractValue.Unknown), ("method", method ?? AbstractValue.Unknown), ("handlers", given), ("receiver", site.Receiver), ("self", fact.Allocates ? AbstractValue.OfType(OwnType(site)) : AbstractValue.Unknown),
            ("class", site.Option(route.ClassField ?? "") ?? AbstractValue.Unknown), ("only", site.Option(route.Only ?? "") ?? AbstractValue.Unknown), ("except", site.Option(route.Except ?? "") ?? AbstractValue.Unknown),
            ("asks", asks), ("outside", route.Outside.FirstOrDefault(o => site.Option(o.Key)?.Constant == o.Value) is { Key: { } } ? AbstractValue.OfConstant(LiteralKind.Text, "yes") : AbstractValue.Unknown));
    }

    private static AbstractValue Named(string text) => AbstractValue.OfConstant(LiteralKind.Text, text);

    /// <summary>A text, with an ellipsis for what is not known of it.</summary>
    private static string Written(AbstractValue text) => text.Constant ?? (text.Text is { } shape ? string.Concat(shape.Alternatives[0].Select(p => p.IsHole ? "{…}" : p.Literal)) : "{…}");

    /// <summary>What stands where the form has its asterisk; null where the name is not of the form.</summary>
    private static string? Between(string form, string name) =>
        form.Split('*') is [var start, var end] && name.Length > start.Length + end.Length && name.StartsWith(start, StringComparison.Ordinal) && name.EndsWith(end, StringComparison.Ordinal)
            ? name[start.Length..^end.Length] : null;

    /// <summary>What a route's options ask for.</summary>
    private static AbstractValue Asked(RouteModel route, AbstractValue options)
    {
        var asked = new List<AbstractValue>();
        foreach (var (option, asks) in route.Asks)
        {
            // With an equals sign it counts only where the option has the value.
            var (path, value) = option.Split('=') is [var named, var wanted] ? (named, wanted) : (option, null);
            if (path.Split('.').Aggregate((AbstractValue?)options, (at, part) => at?.Field(part)) is { } given && (value is null || given.Constant == value))
            {
                asked.Add(Named(given.Constant is "false" ? "open" : asks));
            }
        }

        return asked.Count == 0 ? AbstractValue.Unknown : Listed(asked);
    }

    private void RaiseMount(MountModel mount, CallModel fact, CallSite site, CallSite named)
    {
        var path = mount.Path is { } at && site.Argument(at) is { } first && (first.Constant is not null || first.Text is not null) ? first : AbstractValue.Unknown;
        path = named.Option(mount.PathField ?? "") ?? path;
        if (mount.Module && mount.From is { } module)
        {
            var file = site.Argument(module) is { Constant: { } name } ? _program.Program.Modules.Resolve(_file.Source.Path, name) : site.Argument(module).Module;
            RaisePlaced(EventKind.Mount, fact, site.Index, [At(site.Index)], ("path", path), ("children", Listed([new AbstractValue { Module = file }])), ("receiver", site.Receiver));
            return;
        }

        var self = fact.Allocates ? AbstractValue.OfType(OwnType(site)) : site.Receiver;
        var (children, places) = mount.From is { } from ? ArgumentsFrom(named, from) : (Listed([self]), [At(site.Index)]);
        RaisePlaced(EventKind.Mount, fact, site.Index, places, ("path", path), ("children", children), ("receiver", site.Receiver), ("self", fact.Allocates ? self : AbstractValue.Unknown));
    }

    /// <summary>What the call is given from a position on, and where each part stands.</summary>
    /// <param name="flat">Lists are taken apart: where a pair of class and method is no handler.</param>
    private (AbstractValue Given, IReadOnlyList<Location> Places) ArgumentsFrom(CallSite site, int from, bool flat = true)
    {
        var given = new List<AbstractValue>();
        var places = new List<Location>();
        for (var i = Math.Max(0, from); i < site.Arguments.Count; i++)
        {
            if (i < site.Names.Count && site.Names[i] is not null)
            {
                continue;
            }

            var operand = site.Operand(i);
            if (flat && site.Arguments[i] is { Fields: not null, Targets.Count: 0 } list && list.Types.Contains("list") && !(_php && IsMethodPair(list.Fields)))
            {
                var parts = operand >= 0 && _function.Instructions[operand].Op == Opcode.List ? _function.List(_function.Instructions[operand]).ToArray() : [];
                var at = 0;
                foreach (var part in list.Fields.Values)
                {
                    given.Add(part);
                    places.Add(at < parts.Length ? At(parts[at].At == default ? _function.Instructions[parts[at].Value].Span : parts[at].At) : GivenAt(site, operand));
                    at++;
                }

                continue;
            }

            given.Add(Unwrapped(site.Arguments[i], operand));
            places.Add(GivenAt(site, operand));
        }

        return (Listed(given), places);
    }

    /// <summary>PHP's way to name a method: its class or object, and its name.</summary>
    private static bool IsMethodPair(IReadOnlyDictionary<string, AbstractValue> list) =>
        list.Count == 2 && list.Values.Last() is { Constant: { Length: > 0 }, Fields: null } && list.Values.First() is var of && (of.Targets.Count > 0 || of.Types.Count > 0 || of.Constant is { Length: > 0 } name && char.IsLetter(name[0]) && char.IsUpper(name[name.LastIndexOf('\\') + 1]));

    /// <summary>The function that something outside of the program was given to make a handler of: <c>caught(async (req, res) => …)</c>.</summary>
    private AbstractValue Unwrapped(AbstractValue value, int operand)
    {
        if (operand < 0 || value is not { Targets.Count: 0, Types.Count: 0, Fields: null, Module: < 0 } || _function.Instructions[operand] is not { Op: Opcode.Call or Opcode.CallMethod } call)
        {
            return value;
        }

        foreach (var part in _function.List(call))
        {
            if (Get(part.Value) is { Targets: [.., IrFunction] } wrapped)
            {
                return wrapped;
            }
        }

        return value;
    }

    /// <summary>Where an argument stands in the call, not where its value was made.</summary>
    private Location GivenAt(CallSite site, int operand)
    {
        if (_function.Instructions[site.Index].Op is not (Opcode.Call or Opcode.CallMethod or Opcode.CallStatic or Opcode.New))
        {
            // An assignment.
            return operand >= 0 ? At(operand) : At(site.Index);
        }

        foreach (var given in _function.List(_function.Instructions[site.Index]))
        {
            if (given.Value == operand && given.At != default)
            {
                return At(given.At);
            }
        }

        return At(site.Index);
    }

    private static AbstractValue Listed(IReadOnlyList<AbstractValue> values)
    {
        var fields = new Dictionary<string, AbstractValue>(values.Count, StringComparer.Ordinal);
        for (var i = 0; i < values.Count; i++)
        {
            fields[i.ToString(CultureInfo.InvariantCulture)] = values[i];
        }

        return new AbstractValue { Fields = fields };
    }

    private void RaisePlaced(EventKind kind, CallModel fact, int index, IReadOnlyList<Location> places, params (string Name, AbstractValue Value)[] roles) => AddEvent(new AnalysisEvent
    {
        Kind = kind,
        Fact = fact,
        Function = _function,
        At = At(index),
        Places = places,
        Roles = roles.Where(r => !ReferenceEquals(r.Value, AbstractValue.Unknown)).ToDictionary(r => r.Name, r => r.Value, StringComparer.Ordinal),
    });

    private string OwnType(CallSite site) => string.Create(CultureInfo.InvariantCulture, $"{OwnMark}{_file.Index}:{_function.Instructions[site.Index].Span.End}");

    /// <summary>The value that stands for the records a call works on.</summary>
    private static AbstractValue RecordsOf(CallSite site, int position)
    {
        var model = site.Argument(position);
        return model.Constant is not null && model.Types.Count == 0 ? AbstractValue.OfType(RecordsMark + model.Constant) : model;
    }

    /// <summary>The result with what makes it an object of its own, or the records of a table.</summary>
    private AbstractValue Marked(CallModel fact, CallSite site, AbstractValue result)
    {
        if (fact.Allocates && !result.Types.Any(t => t[0] == OwnMark))
        {
            result = result.With(types: [.. result.Types, OwnType(site)]);
        }

        if (fact.Module is { } named && (site.Argument(named).Constant ?? site.Argument(named).Fields?.Values.FirstOrDefault()?.Constant) is { } module && _program.Program.Modules.Resolve(_file.Source.Path, module) is >= 0 and var file)
        {
            return new AbstractValue { Module = file };
        }

        if (fact.Column is { Name: { } column } && RecordsName(site.Receiver) is { } table && site.Argument(column).Constant is { } declared)
        {
            return new AbstractValue { Types = [DeclaredColumn, RecordsMark + table], Name = declared };
        }

        if (fact.Key is { Columns: { } begun } && RecordsName(site.Receiver) is { } of && site.Argument(begun).Constant is { } first)
        {
            return new AbstractValue { Types = [DeclaredColumn, RecordsMark + of], Name = first };
        }

        if (fact.Access is { Unsaved: true } made && !result.Types.Contains(UnsavedRecord))
        {
            result = result.With(types: [.. result.Types, UnsavedRecord], carried: made.Fields is { } given ? site.Argument(given) : null);
        }

        if (fact.StoresArgument is { } carried)
        {
            result = result.With(carried: site.Argument(carried));
        }

        if (fact.Model is { Name: { } at } && site.Argument(at).Constant is { } name && !name.Contains(' ', StringComparison.Ordinal))
        {
            result = WithRecords(result, RecordsMark + name.TrimStart(':'));
            return fact.Model.Related ? WithRecords(result, RelatedRecords) : result;
        }

        if ((fact.Model?.Of ?? fact.Access?.Model) is { } whose && RecordsOf(site, whose) is var model && (RecordsName(model) ?? (fact.Access is null ? null : model.Name)) is { Length: > 0 } records)
        {
            result = WithRecords(result, RecordsMark + records);
            result = model.Types.Contains(LimitedRecords) ? WithRecords(result, LimitedRecords) : result;

            // What a statement over the records asks for, its rows have.
            result = fact.Model?.Of is > -1 && result.Payload is null && model.Payload is { } conditions && conditions.Types.Contains(QueryConditions) ? result.With(carried: conditions) : result;
            result = fact.Model?.Given is { } given && _facts.AnswersRecords ? WithWhole(new AccessModel { ProjectionAt = given }, site, records, result) : result;
            return _facts.AnswersRecords && fact.Access is { } access && (access.Action is "view" or "list" || fact.ReturnTypes.Contains("row")) ? WithWhole(access, site, records, result) : result;
        }

        return result;
    }

    /// <summary>A value of a declared type; of a library's type over one class of the program, it stands for that class's records.</summary>
    private AbstractValue DeclaredValue(IrFile file, TypeName declared, string type)
    {
        var value = TypedValue(type);
        return type[0] != '#' && declared.Arguments is [var of] && _program.TypeNamed(file, of.Name) is ['#', ..] records
            ? WithRecords(value, RecordsMark + _program.Program.Classes[ClassNumber(records)].ShortName)
            : value;
    }

    /// <summary>Nothing says that only some columns are meant.</summary>
    private static bool IsWhole(AccessModel access, CallSite site) =>
        !site.Receiver.Types.Contains(Projected) && !site.Receiver.Types.Contains(SomeColumns) && !access.Projection.Exists(o => site.Option(o) is not null) && (access.ProjectionAt is not { } chosen || !site.Has(chosen) || site.Argument(chosen).Constant == EveryColumn);

    private const string EveryColumn = "*";

    private static AbstractValue WithRecords(AbstractValue result, string records) => result.Types.Contains(records) || (result.Types.Count == 0 && result.Fields is null) ? result : result.With(types: [.. result.Types, records]);

    private static readonly CallModel RelatedAll = new() { Access = new AccessModel { Action = "list" } };

    private static readonly CallModel RelatedOne = new() { Access = new AccessModel { Action = "view" } };

    private static readonly CallModel RelatedNew = new() { Access = new AccessModel { Action = "create", Fields = 0 } };

    /// <summary>The name stands for the query of the relation's records: <c>looms_dataset</c>.</summary>
    private bool IsQueryOf(string relation, string name) => name.Length > relation.Length && name.StartsWith(relation, StringComparison.Ordinal) && _facts.RelationEndings.Contains(name[relation.Length..]);

    /// <summary>The name is that of the method which makes a new record of the relation: <c>add_loom</c>.</summary>
    private bool Makes(string relation, string name) => _facts.RelationMakers.Count > 0 && IdentifierClassifier.Singular(relation) is var one && name.EndsWith(one, StringComparison.Ordinal) && _facts.RelationMakers.Contains(name[..^one.Length]);

    /// <summary>The records that belong to one, by the name its class has for them.</summary>
    private AbstractValue? Related(AbstractValue receiver, string name, CallSite site)
    {
        if (_facts.Relations.Count == 0)
        {
            return null;
        }

        var known = receiver.Types.FirstOrDefault(t => t[0] == RecordsMark) is { } record ? _program.Program.FindClass(record[1..], _file)
            : receiver.Types.FirstOrDefault(t => t[0] == '#') is { } own ? _program.Program.Classes[ClassNumber(own)]
            : PersonClass(receiver, _function.Instructions[site.Index].A);
        if ((known ?? (receiver is { Types.Count: 0, IsTainted: false, Constant: null, Targets.Count: 0 } && site.Arguments.Count == 0 ? _program.Relations.OnlyOwner(name, _file) : null)) is { } type)
        {
            foreach (var mark in type.Primary.Annotations)
            {
                if (_facts.Relations.TryGetValue(mark.Name, out var types) && mark.Arguments is [{ Name: null, Value: Literal { Text: { } named } }, ..] && (named == name || IsQueryOf(named, name) || Makes(named, name)))
                {
                    var of = RelatedClass(mark, named);
                    var related = new AbstractValue { Types = _facts.AnswersRecords ? [.. types, RecordsMark + of, WholeMark + of, RelatedRecords] : [.. types, RecordsMark + of, RelatedRecords], Taints = [.. receiver.Taints.Where(t => t.Selects || t.Origin.Kind == OriginKind.Subject)] };
                    if (known is null)
                    {
                        // Whose they are is for the object to say that they are reached from.
                        return related.With(types: [.. related.Types, LimitedRecords]);
                    }

                    if (Makes(named, name))
                    {
                        Raise(EventKind.Access, RelatedNew, site, false, ("model", related), ("fields", site.Argument(0)));
                        return AbstractValue.OfType("row");
                    }

                    Raise(EventKind.Access, types.Contains("rows") ? RelatedAll : RelatedOne, site, false, ("model", related));
                    return related;
                }
            }
        }

        return null;
    }

    /// <summary>The class that the person is of, by the name under which it is known: <c>current_user</c> is a User.</summary>
    private IrClass? PersonClass(AbstractValue person, int at) =>
        person.Taints.FirstOrDefault(t => !t.Selects && t.Origin.Kind == OriginKind.Subject) is { } subject
            ? new[] { subject.Origin.Name, person.Name, at >= 0 && _function.Instructions[at].Op is Opcode.Call or Opcode.CallMethod ? CalledName(at) : null }.OfType<string>().Where(n => n.Length > 0).Select(n => _program.Program.FindClass(_program.Vocabulary.OfCurrent(n) ?? Pascal(n), _file)).FirstOrDefault(c => c is not null)
            : null;

    /// <summary>The class of related records: as the mark says, or by the relation's name, which may be for one or for many.</summary>
    private string RelatedClass(Annotation mark, string name)
    {
        if (mark.Arguments.FirstOrDefault(a => a.Name is { } option && _facts.RelationClasses.Contains(option)) is { Value: Literal { Text: { Length: > 0 } said } })
        {
            return IrClass.ShortOf(said);
        }

        var one = Pascal(IdentifierClassifier.Singular(name));
        return _program.Program.FindClass(one, _file)?.ShortName ?? name;
    }

    private string? RecordsName(AbstractValue model)
    {
        foreach (var type in model.Types)
        {
            if (type[0] == RecordsMark)
            {
                return type[1..];
            }

            if (type[0] == '#')
            {
                return _program.Program.Classes[ClassNumber(type)].ShortName;
            }
        }

        return model.Targets.OfType<IrClass>().FirstOrDefault()?.ShortName;
    }
}
