using System.Globalization;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Summaries;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>Reading and writing fields, items and class members.</summary>
internal sealed partial class FunctionAnalyzer
{
    private AbstractValue ReadField(int index, AbstractValue target, string name)
    {
        if (target.Module >= 0 && ReadExport(target.Module, name) is var exported && !ReferenceEquals(exported, AbstractValue.Unknown))
        {
            return exported;
        }

        if (OfSubject(index, target, name) is { } ofPerson)
        {
            return ofPerson;
        }

        if (target.Fields is not null && target.Fields.ContainsKey(name))
        {
            // What lives as long as the request is filled elsewhere too, whatever this code has put there.
            return OfKind(target, name, AbstractValue.Join(FieldAccess.Read(target, name), StateOfRequest(index, target, name)));
        }

        foreach (var type in target.Types)
        {
            if (type[0] == '#')
            {
                if (target.IsTainted && IsScalarField(ClassNumber(type), name))
                {
                    // A number does no harm, but may be the person's, or the one that the request names.
                    // What a parameter brings counts where it is a key: other numbers would only make summaries longer.
                    var scalar = target.Taints.All(t => t.IsParameter) && !IsKey(name) ? AbstractValue.Unknown : AsNumber(FieldAccess.Read(target.With(fields: new Dictionary<string, AbstractValue>(), types: []), name).Taints);
                    return !IsRecord(_program.Program.Classes[ClassNumber(type)].Primary) && ReadClassField(ClassNumber(type), name) is { } number && StandsForSubject(number) ? AbstractValue.Join(scalar, number) : scalar;
                }

                if (target.IsTainted && _program.Program.Classes[ClassNumber(type)].Primary is var record && ChecksItself(record))
                {
                    var member = FieldAccess.Read(target.With(fields: new Dictionary<string, AbstractValue>(), types: []), name);
                    return SafeMember(record, name) is not OutputContext.None and var safe ? WithCheck(member, safe, index, name) : member;
                }

                if (ReadClassField(ClassNumber(type), name) is { } field)
                {
                    if (target.IsTainted)
                    {
                        return AbstractValue.Join(FieldAccess.Read(target.With(fields: new Dictionary<string, AbstractValue>(), types: []), name), field);
                    }

                    return field.Name is null ? field.With(label: name) : field;
                }

                if (_program.Program.OutsideBase(_program.Program.Classes[ClassNumber(type)].Primary) is { } outside && _facts.Field(OutsideName(type, outside), name) is { Records: false, Source: null, Type: not null } ofBase)
                {
                    return OfFact(ofBase, index, name);
                }
            }
            else if (_facts.Field(type, name) is { } fact)
            {
                NoteAbsence(fact, index);
                if (fact.Verdict is { } accepting)
                {
                    NoteVerdict(index, accepting, fact.Declared);
                }

                if (fact.Members)
                {
                    return MembersOf(target, fact.Source ?? "input", index);
                }

                if (fact.ReturnsReceiver && _function.Instructions[index] is { Op: Opcode.GetField, A: >= 0 and var whose })
                {
                    _self[index] = ObjectOf(whose);
                }

                return fact.ReturnsReceiver ? target : FoundBy(target, WithStatementOf(target, OfFact(fact, index, name)));
            }
            else if (ReadApplicationMember(type, name) is { } member)
            {
                return member.Name is null ? member.With(label: name) : member;
            }
        }

        if (target.Module >= 0 && _rules.ExportsAll && _program.Program.Modules.Resolve(_program.Program.Files[target.Module].Source.Path, "." + name) is >= 0 and var part)
        {
            return new AbstractValue { Module = part };
        }

        if (target.Targets.OfType<IrClass>().FirstOrDefault() is { } type2)
        {
            if (ReadClassField(type2.Primary.Id, name) is { } ofClass)
            {
                return OwnSetOfRecords(type2.Primary, ofClass) ?? ofClass;
            }

            if (_program.Program.OutsideBase(type2.Primary) is { } outside && _facts.Field(OutsideName("#" + type2.Primary.Id, outside), name) is { } inherited)
            {
                var provided = OfFact(inherited, index, name);
                return inherited.Records ? WithRecords(provided, RecordsMark + type2.ShortName) : provided;
            }
        }

        if (target.Library is { } library)
        {
            if (_facts.Global(_facts.Canonical(library)) is { Type: { } kind } && ReadOfLibrary(index, kind, name) is { } ofLibrary)
            {
                return ofLibrary;
            }

            var path = _facts.Canonical(library + "." + name);
            if (_visit.Load(new StoreKey(StoreKind.Library, 0, path)) is { } set)
            {
                return set;
            }

            return _facts.Global(path) is { } fact ? OfFact(fact, index, path) : new AbstractValue { Library = path, Name = name, IsConfiguration = target.IsConfiguration };
        }

        if (ReadRequestMember(index, target, name) is { } ofRequest)
        {
            return ofRequest;
        }

        if ((target.IsTainted || target.Field("*") is not null) && _facts.Field("*", name) is not null)
        {
            return AbstractValue.Unknown;
        }

        if (_facts.OwnMembers.Count > 0 && _function.Instructions[index] is { Op: Opcode.GetField, A: var of } && _function.Instructions[of].Op == Opcode.This && _facts.OwnMembers.TryGetValue(name, out var given) && _file.Imports.Values.Any(i => _facts.Brings.Any(b => b.Imports.Contains(i.Module.Split('.', 2)[0]))))
        {
            // A mixin reads what the base class has that its users put beside it.
            return _facts.Field(given, name) is { } known ? OfFact(known, index, name) : AbstractValue.OfType(given);
        }

        return StoredPart(index, target, name) ?? FieldAccess.Read(target, name);
    }

    /// <summary>A part of what a library provides under a name, by the type that its facts give it.</summary>
    private AbstractValue? ReadOfLibrary(int index, string type, string name) =>
        _facts.Field(type, name) is { } known ? OfFact(known, index, name) : ReadRequestMember(index, AbstractValue.OfType(type), name);

    /// <summary>Where a part turns out empty, what it is a part of may be harmless: an address without a host stays on the site.</summary>
    private void NoteAbsence(ValueModel fact, int index)
    {
        var instruction = _function.Instructions[index];
        if (fact.Absent.Count > 0 && instruction.Op == Opcode.GetField && _function.Instructions[instruction.A] is { Op: Opcode.Call or Opcode.CallMethod or Opcode.New, C: > 0 } made)
        {
            _guards.NoteTest(index, _function.Operands[made.B].Value, false, fact.Absent.Aggregate(OutputContext.None, (p, n) => p | OutputContexts.Named(n)));
        }
    }

    private bool IsScalarField(int number, string name) => _program.Vocabulary.IsScalarType(_program.Program.Classes[number].Fields.FirstOrDefault(f => f.Name == name)?.Type?.Name);

    /// <summary>A column of a database row.</summary>
    private AbstractValue? StoredPart(int index, AbstractValue target, string name)
    {
        if (!target.Types.Contains("row"))
        {
            if (!target.Types.Contains("rows") && !target.Types.Contains("result"))
            {
                return null;
            }

            // A list of rows, or an answer that holds one.
            return int.TryParse(name, out _) || name is "*" ? RowOf(target) : name == "rows" ? RowOf(target, "rows") : null;
        }

        if (int.TryParse(name, out _))
        {
            // Some drivers answer with the rows first and their description second.
            return RowOf(target).With(label: name);
        }

        if (target.Types.Contains("rows") && _program.Vocabulary.SaysHowMany(name))
        {
            return AbstractValue.Unknown;
        }

        // A row that is known to be the person's own, or is the person.
        IReadOnlyList<Taint> person = target.Taints.Any(t => t.Origin.Kind == OriginKind.Subject && !t.Selects) ? [SubjectTaint(index, name)] : [];
        return new AbstractValue { Taints = [StoredTaint(index, name), .. person, .. target.Taints.Where(t => t.Selects)], Name = name };
    }

    private static AbstractValue RowOf(AbstractValue rows, string type = "row") => new() { Types = FieldAccess.OneOf(rows.Types, type), Taints = rows.Taints, Payload = rows.Payload };

    private Taint StoredTaint(int index, string name)
    {
        var origin = new Origin(OriginKind.Stored, "", name, _file.Index, -1);
        return new Taint(origin, OutputContext.None, PasswordTransform.Plain, false, false, new Trace(StepKind.Source, At(index), name, null));
    }

    private AbstractValue ReadItem(int index, AbstractValue target, int key)
    {
        if (key < 0)
        {
            return FieldAccess.Element(target);
        }

        var by = Get(key);
        if (by.Constant is { } name)
        {
            if (target.Types.Select(t => t[0] == '#' ? null : _facts.Method(t, "[]")).FirstOrDefault(f => f?.Model is not null) is { } records)
            {
                return ApplyFact(records, new CallSite(index, target, [by], [key]), false);
            }

            return ReadField(index, target, name);
        }

        if (by.Text is not null || by.IsTainted)
        {
            foreach (var type in target.Types)
            {
                // Some types run what stands between the brackets.
                if (type[0] != '#' && _facts.Method(type, "[]") is { Query: not null } fact)
                {
                    return ApplyFact(fact, new CallSite(index, target, [by], [key]), false);
                }
            }
        }

        if (target.Types.Contains("row"))
        {
            return AbstractValue.OfTaints([StoredTaint(index, "*")]);
        }

        var element = FieldAccess.Element(target);
        return element.Taints.Any(t => t.Origin is { Kind: OriginKind.Request, Name: null })
            ? element.With(taints: [.. element.Taints.Select(t => t.Origin is { Kind: OriginKind.Request, Name: null } ? t with { Origin = t.Origin with { Name = Origin.AnyName, Index = OwnParameter(by) ?? -1 } } : t)])
            : element;
    }

    private string KeyName(in Instruction instruction)
    {
        if (instruction.B < 0)
        {
            return "+";
        }

        return Get(instruction.B).Constant ?? "*";
    }

    private static AbstractValue WithPart(AbstractValue target, string name, AbstractValue value)
    {
        var fields = target.Fields is null ? new Dictionary<string, AbstractValue>(StringComparer.Ordinal) : new Dictionary<string, AbstractValue>(target.Fields, StringComparer.Ordinal);
        if (name == "+")
        {
            var next = 0;
            while (fields.ContainsKey(Position(next)))
            {
                next++;
            }

            // What a function adds each time it runs is there again and again: three of a kind say no more than that it is in the list.
            name = next < 8 && !(next > 1 && value.SameAs(fields[Position(next - 1)]) && value.SameAs(fields[Position(next - 2)])) ? Position(next) : "*";
        }

        if (name == "*" && fields.TryGetValue("*", out var any))
        {
            value = AbstractValue.Join(any, value);
        }

        if (fields.Count < AbstractValue.MaxFields || fields.ContainsKey(name))
        {
            fields[name] = Shallow(value, 0);
        }

        var bounded = AbstractValue.Bounded(fields)!;
        return target.Constant is not null || target.Text is not null ? new AbstractValue { Fields = bounded } : target.With(fields: bounded);
    }

    /// <summary>A list, and what another one gives where the first has nothing: <c>explode('.', $text) + ['', '']</c>.</summary>
    private static AbstractValue WithMissing(AbstractValue list, AbstractValue otherwise) =>
        otherwise.Fields is null ? list : list.With(fields: otherwise.Fields.ToDictionary(f => f.Key, f => AbstractValue.Join(FieldAccess.Read(list, f.Key), f.Value), StringComparer.Ordinal)
            .Concat((list.Fields ?? []).Where(f => !otherwise.Fields.ContainsKey(f.Key))).ToDictionary(StringComparer.Ordinal));

    private static string Position(int index) => index.ToString(CultureInfo.InvariantCulture);

    /// <summary>Cuts what lies deeper than is followed, so that structures that contain themselves come to an end.</summary>
    private static AbstractValue Shallow(AbstractValue value, int depth)
    {
        if (value.Fields is null)
        {
            return value;
        }

        if (depth >= AbstractValue.MaxDepth - 1)
        {
            return value.With(taints: FieldAccess.DeepTaints(value), fields: new Dictionary<string, AbstractValue>());
        }

        return value.Fields.Values.Any(f => f.Fields is not null)
            ? value.With(fields: value.Fields.ToDictionary(f => f.Key, f => Shallow(f.Value, depth + 1), StringComparer.Ordinal))
            : value;
    }

    private void SetField(AbstractValue target, string name, AbstractValue value)
    {
        NoteChange(target, name, value);
        KeepRequestMember(target, name, value);
        KeepApplicationMember(target, name, value);
        if (target.Library is { } library && value.Constant is not null)
        {
            // A setting of a library, read elsewhere by its path.
            _visit.Store(new StoreKey(StoreKind.Library, 0, _facts.Canonical(library + "." + name)), value);
        }

        foreach (var type in target.Types)
        {
            if (type[0] == '#')
            {
                Keep(new StoreKey(StoreKind.Field, ClassNumber(type), name), value);
            }
            else if (type[0] == RecordsMark && RecordClass(target) is { } record && IsMember(record, name))
            {
                Keep(new StoreKey(StoreKind.Field, record.Primary.Id, name), value);
            }
        }
    }

    private static int ClassNumber(string type) => int.Parse(type.AsSpan(1), CultureInfo.InvariantCulture);

    private AbstractValue? ReadClassField(int number, string name)
    {
        var at = _program.Program.Classes[number];
        AbstractValue? value = null;
        for (var depth = 0; at is not null && depth < 10; depth++)
        {
            var kept = _visit.Load(new StoreKey(StoreKind.Field, at.Id, name));
            at = at.Primary;
            var bound = BoundField(at, name);

            // What another action kept there for its page is not there when the next request comes: the framework fills it anew.
            if (kept is not null && (bound is null || IsTemplate))
            {
                value = AbstractValue.Join(value, kept);
            }

            if (bound is not null)
            {
                value = AbstractValue.Join(value, new AbstractValue { Taints = [bound], Name = name });
            }

            if (at.Fields.FirstOrDefault(f => f.Name == name)?.Type is { } declared && _program.TypeNamed(at.File, declared.Name) is { } type)
            {
                value = AbstractValue.Join(value, DeclaredValue(at.File, declared, type));
            }

            if (!_php && at.Methods.TryGetValue(name, out var method))
            {
                value = AbstractValue.Join(value, new AbstractValue { Targets = [method] });
            }

            if (at.Kind == ClassKind.Interface)
            {
                // A property that is promised is read from those that keep the promise.
                foreach (var promised in _program.Program.ImplementationsOf(at).Take(MaxImplementations).Select(c => _visit.Load(new StoreKey(StoreKind.Field, c.Id, name))).OfType<AbstractValue>())
                {
                    value = AbstractValue.Join(value, promised);
                }
            }

            at = _program.Program.BaseOf(at);
        }

        return value;
    }

    /// <summary>Of so many classes that implement an interface the properties are read.</summary>
    private const int MaxImplementations = 6;

    private AbstractValue ReadStatic(in Instruction instruction)
    {
        var name = instruction.Text!;
        if (name == "class" && _php)
        {
            return AbstractValue.OfConstant(LiteralKind.Text, _function.Instructions[instruction.A].Text ?? "");
        }

        if (ClassOf(instruction.A) is { } owner)
        {
            return ReadClassField(owner.Id, name) ?? new AbstractValue { Name = name };
        }

        return new AbstractValue { Library = (_function.Instructions[instruction.A].Text ?? "") + "::" + name, Name = name };
    }

    /// <summary>The class that the operand of a static access or <c>new</c> means.</summary>
    private IrClass? ClassOf(int operand)
    {
        var instruction = _function.Instructions[operand];
        if (instruction.Op == Opcode.Global && instruction.Text is { } name)
        {
            switch (name)
            {
                case "self" or "static":
                    return _function.Class;
                case "parent":
                    return _function.Class is null ? null : _program.Program.BaseOf(_function.Class);
            }

            if (_rules.GlobalClasses)
            {
                return _program.Program.FindClass(name.TrimStart('\\'), _file)?.Primary;
            }
        }

        var value = Get(operand);
        return value.Targets.OfType<IrClass>().FirstOrDefault()
            ?? (value.Types.FirstOrDefault(t => t[0] == '#') is { } type ? _program.Program.Classes[ClassNumber(type)] : null);
    }

    /// <summary>What a file of settings sets for a framework.</summary>
    private void NoteSetting(int index, int value, string name)
    {
        if (_function.IsTopLevel && _facts.SettingVariable(_file.Source.Path, name) is { } setting)
        {
            ApplyFact(setting, new CallSite(index, AbstractValue.Unknown, [Get(value)], [value]), false);
        }
    }
}
