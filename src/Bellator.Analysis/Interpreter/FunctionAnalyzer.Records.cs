using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Summaries;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>Records as objects of the program's own classes: their methods, what runs when a member is set, and when they are written.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>The class of the one record that a value is.</summary>
    private IrClass? RecordClass(AbstractValue record) =>
        record.Types.Contains("row") && record.Types.FirstOrDefault(t => t[0] == RecordsMark) is { } named ? _program.Program.FindClass(named[1..], _file) : null;

    /// <summary>The type by which the facts know objects of a class that stands for sets of records; null if it is no such class.</summary>
    private string? SetType(IrClass type) =>
        _facts.RecordSets.Count > 0 && _program.Program.OutsideBase(type.Primary) is { } outside ? _facts.RecordSets.GetValueOrDefault(OutsideName("#" + type.Primary.Id, outside)) : null;

    private static StoreKey RecordsOfSet(IrClass type) => new(StoreKind.Library, 0, "<records of> " + type.Primary.Id.ToString(System.Globalization.CultureInfo.InvariantCulture));

    /// <summary>An object of the class; of one that stands for the records of a mapped class, it stands for these.</summary>
    private AbstractValue SetOfRecords(IrClass type)
    {
        var self = TypedValue("#" + type.Id);
        return SetType(type) is { } kind ? new AbstractValue { Types = [.. _visit.Load(RecordsOfSet(type)) is { Types: [var only] } ? [only] : Array.Empty<string>(), .. self.Types, kind] } : self;
    }

    /// <summary>A mapped class’s member that holds an object of the program’s own class for sets of records: <c>objects = HiveQuerySet.as_manager()</c>.</summary>
    private AbstractValue? OwnSetOfRecords(IrClass model, AbstractValue member)
    {
        if (_facts.RecordSets.Count == 0 || member.Types.FirstOrDefault(t => t[0] == '#') is not { } own || _program.Program.Classes[ClassNumber(own)].Primary is not { } type || SetType(type) is not { } kind)
        {
            return null;
        }

        var records = RecordsMark + model.ShortName;
        _visit.Store(RecordsOfSet(type), AbstractValue.OfType(records));
        var set = new AbstractValue { Types = [records, own, kind, "rows"] };

        // What the class always asks for holds for all that begins with it.
        return (_facts.RecordSetRows is { } begins ? _program.Program.FindMethod(type, begins) : null) is not { } initial ? set
            : _visit.SummaryOf(initial)?.Returns is { Payload: { Fields.Count: > 0 } conditions } && conditions.Types.Contains(QueryConditions) ? set.With(carried: conditions)
            : set.With(types: [.. set.Types, LimitedRecords]);
    }

    /// <summary>The first of the arguments that stands for records of a known class, with the conditions that the first one carries.</summary>
    private AbstractValue FirstRecords(CallSite site)
    {
        var known = site.Arguments.FirstOrDefault(a => RecordsName(a) is not null) ?? AbstractValue.Unknown;
        var records = known.Targets.Count > 0 && RecordsName(known) is { } name ? new AbstractValue { Types = [RecordsMark + name, "rows"] } : known;
        return ReferenceEquals(known, site.Argument(0)) || site.Argument(0) is not { } first ? records
            : records.With(taints: AbstractValue.Union(records.Taints, first.Taints), carried: first.Payload ?? records.Payload);
    }

    /// <summary>A method that the record's class has. Where it writes the record, as the mapper's own of that name does, both hold.</summary>
    /// <summary>Noted of a class's method that is called on a selection of its records.</summary>
    internal const string OnSelection = "<on a selection>";

    private AbstractValue? OnRecord(AbstractValue receiver, string method, CallSite site)
    {
        if (_rules.ImplicitReceiver && receiver.Types.Contains("rows") && receiver.Types.FirstOrDefault(t => t[0] == RecordsMark) is { } set && _program.Program.FindClass(set[1..], _file) is { } type
            && _program.Program.FindMethod(type.Primary, method) is { IsStatic: true } ofClass)
        {
            // A class's own method works on any selection of its records, and mostly gives back a part of it.
            Keep(new StoreKey(StoreKind.Library, ofClass.Id, OnSelection), AbstractValue.OfType("rows"));
            var selected = ApplyFunction(ofClass, site with { Receiver = TypedValue("#" + type.Primary.Id) });
            return selected.Types.Contains("rows") ? receiver : selected;
        }

        if (RecordClass(receiver) is not { } owner || _program.Program.FindMethod(owner, method) is not { } function)
        {
            return null;
        }

        var given = ApplyFunction(function, site with { Receiver = TypedValue("#" + owner.Primary.Id) });
        return _facts.Method("*", method) is { Access: not null } written ? ApplyFact(written, site, false) : given;
    }

    /// <summary>True for a member that a mark of the class, or of one it derives from, declares: an object of the program has it, its table has not.</summary>
    private bool IsMember(IrClass type, string name)
    {
        for (var at = _facts.MemberMarks.Count > 0 ? type.Primary : null; at is not null; at = _program.Program.BaseOf(at)?.Primary)
        {
            if (at.Annotations.Any(a => _facts.MemberMarks.Contains(a.Name) && Names(a, name)))
            {
                return true;
            }
        }

        return false;
    }

    private static bool Names(Annotation mark, string name) => mark.Arguments.Any(a => a is { Name: null, Value: Literal { Text: var text } } && text == name);

    /// <summary>Runs the method that the class of an object has for setting the member.</summary>
    private void CallSetter(int index, AbstractValue target, string name, int operand)
    {
        if (_facts.SetterNames.Count == 0 || (target.Types.FirstOrDefault(t => t[0] == '#') is { } own ? _program.Program.Classes[ClassNumber(own)] : RecordClass(target)) is not { } type)
        {
            return;
        }

        foreach (var form in _facts.SetterNames)
        {
            // Between other words a member's name is written as they are.
            var called = form.Replace("*", form[0] != '*' && form[^1] != '*' ? Pascal(name) : name, StringComparison.Ordinal);
            if (_program.Program.FindMethod(type, called) is { } setter && setter != _function)
            {
                ApplyFunction(setter, new CallSite(index, TypedValue("#" + type.Primary.Id), [Get(operand)], [operand]));
            }
        }
    }

    private static string Pascal(string name) => string.Concat(name.Split('_', StringSplitOptions.RemoveEmptyEntries).Select(p => char.ToUpperInvariant(p[0]) + p[1..]));

    /// <summary>Runs what a class wants to have run when one of its records is written.</summary>
    private void RunHooks(AccessModel access, CallSite site)
    {
        if (_facts.Hooks.Count == 0 || access is { Action: not ("create" or "edit") } or { Unsaved: true } || ClassOfRecords(RecordsOf(site, access.Model)) is not { } owner)
        {
            return;
        }

        var ran = 0;
        for (var type = owner.Primary; type is not null && ran < MaxHooks; type = _program.Program.BaseOf(type)?.Primary)
        {
            foreach (var mark in type.Annotations.Where(a => _facts.Hooks.Contains(a.Name)))
            {
                foreach (var argument in mark.Arguments)
                {
                    if (argument is { Name: null, Value: Literal { Text: { Length: > 0 } named } } && _program.Program.FindMethod(owner, named) is { } hook)
                    {
                        ran += RunHook(hook, owner, site);
                    }
                }
            }

            foreach (var method in type.Methods.Values.Where(m => m.Annotations.Any(a => _facts.Hooks.Contains(IrClass.ShortOf(a.Name)))))
            {
                ran += RunHook(method, owner, site);
            }
        }
    }

    private const int MaxHooks = 40;

    /// <summary>The type of a record that was made and not written yet.</summary>
    private const string UnsavedRecord = "unsaved";

    private static readonly CallModel Changing = new() { Access = new AccessModel { Action = "edit" } };

    private static readonly CallModel Making = new() { Access = new AccessModel { Action = "create" } };

    /// <summary>Writing a record that was only made before creates it, with what it was made with and what was set since.</summary>
    private bool RaiseMade(AccessModel access, CallSite site, bool guessed)
    {
        if (access is not { Action: "edit", Model: -1, Fields: null } || !site.Receiver.Types.Contains(UnsavedRecord) || (site.Receiver.Types.Contains("row") && !MakesOneHere(site)))
        {
            return false;
        }

        var fields = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
        foreach (var (name, value) in (site.Receiver.Payload?.Fields ?? []).Concat(site.Receiver.Fields ?? []))
        {
            fields[name] = value;
        }

        Raise(EventKind.Access, Making, site, guessed, ("model", site.Receiver), ("fields", new AbstractValue { Fields = AbstractValue.Bounded(fields) }));
        return true;
    }

    private int RunHook(IrFunction hook, IrClass owner, CallSite site)
    {
        if (hook != _function)
        {
            ApplyFunction(hook, new CallSite(site.Index, TypedValue("#" + owner.Primary.Id), [], []));
        }

        return 1;
    }

    /// <summary>The object's variable may hold what another function fetched; here it is what this function made before.</summary>
    private bool MakesOneHere(CallSite site)
    {
        foreach (var i in _function.OutgoingCalls)
        {
            if (i < site.Index && _function.Instructions[i].Op == Opcode.CallMethod && Get(i) is var made && made.Types.Contains(UnsavedRecord) && ClassOfRecords(made) is { } type && type == ClassOfRecords(site.Receiver))
            {
                return true;
            }
        }

        return false;
    }

    private IrClass? ClassOfRecords(AbstractValue model)
    {
        foreach (var type in model.Types)
        {
            if (type[0] == '#')
            {
                return _program.Program.Classes[ClassNumber(type)];
            }

            if (type[0] == RecordsMark && _program.Program.FindClass(type[1..], _file) is { } named)
            {
                return named;
            }
        }

        return model.Targets.OfType<IrClass>().FirstOrDefault();
    }
}
