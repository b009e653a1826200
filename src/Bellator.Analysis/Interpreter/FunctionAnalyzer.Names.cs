using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Summaries;

namespace Bellator.Analysis.Interpreter;

/// <summary>What names mean: globals, imports, members without an object, the object itself.</summary>
internal sealed partial class FunctionAnalyzer
{
    private AbstractValue TypedValue(string type)
    {
        if (type[0] == '#')
        {
            return _program.TypedObjects.GetOrAdd(type, ObjectOfType);
        }

        return AbstractValue.OfType(type);
    }

    private AbstractValue ObjectOfType(string type)
    {
        var own = _program.Program.Classes[int.Parse(type.AsSpan(1), System.Globalization.CultureInfo.InvariantCulture)];
        var kinds = new List<string> { type };
        if (_program.Program.OutsideBase(own) is { } outside)
        {
            kinds.Add(OutsideName(type, outside));
        }

        if (_program.Program.BroughtKind(own) is { } brought)
        {
            kinds.Add(brought);
        }

        return new AbstractValue { Types = kinds };
    }

    private string OutsideName(string type, string name)
    {
        if (_rules.GlobalClasses)
        {
            return name;
        }

        var file = _program.Program.Classes[int.Parse(type.AsSpan(1), System.Globalization.CultureInfo.InvariantCulture)].File;
        var root = name.Split('.')[0];
        return file.Imports.TryGetValue(root, out var import) && !(_rules.ExportsAll && _program.Program.Modules.Resolve(file.Source.Path, import.Module) >= 0)
            ? _facts.Canonical(import.Module) + (import.Name is "default" or "*" ? "" : "." + import.Name) + name[root.Length..]
            : name;
    }

    /// <summary>The name under which facts say what <c>this</c> is in a page's code that belongs to no class.</summary>
    private const string PageObject = "<this>";

    private AbstractValue ThisValue()
    {
        var owner = _function;
        while (owner.IsArrow && owner.Outer is not null && owner.Class is null)
        {
            owner = owner.Outer;
        }

        if (owner.Class is null && IsTemplate && _program.Views.ControllerOf(_file) is { } controller)
        {
            return TypedValue("#" + controller.Id);
        }

        if (owner.Class is null && IsTemplate && _facts.Global(PageObject) is { Type: { } page })
        {
            return AbstractValue.OfType(page);
        }

        if (owner.Class is null && IsTemplate && _facts.SharedWithPages.TryGetValue("this", out var self))
        {
            return FromView(self);
        }

        return owner.Class is null ? _rules.CommonJs ? _visit.Load(new StoreKey(StoreKind.Library, owner.Id, CalledOn)) ?? AbstractValue.Unknown : AbstractValue.Unknown : SetOfRecords(owner.Class.ActsFor ?? owner.Class.Primary);
    }

    private AbstractValue EvaluateGlobal(int index, string name)
    {
        if (name == ModelName)
        {
            return FromView(name);
        }

        if (IsTemplate && _facts.SharedWithPages.TryGetValue(name, out var shared) && FromView(shared) is { Fields.Count: > 0 } given)
        {
            return given;
        }

        if (_facts.Global(name) is { } fact)
        {
            return OfFact(fact, index, name);
        }

        if (_php)
        {
            if (_visit.ConstantOf(name[(name.LastIndexOf('\\') + 1)..]) is { } constant)
            {
                return constant;
            }

            return new AbstractValue { Library = name.TrimStart('\\') };
        }

        if (_rules.ImplicitReceiver)
        {
            return BareName(index, name);
        }

        if (IsTemplate && _facts.Call(name) is null)
        {
            return FromView(name);
        }

        return _facts.Roots.Contains(name) ? new AbstractValue { Library = _facts.Canonical(name) } : AbstractValue.Unknown;
    }

    /// <summary>A name that no variable has: a member of the object, a class, or a library's.</summary>
    private AbstractValue BareName(int index, string name)
    {
        var self = ThisValue();
        if (HasMember(self, name))
        {
            return ReadField(index, self, name);
        }

        if (_program.Program.FindClass(name, _file) is { } type)
        {
            return new AbstractValue { Targets = [type.Primary], Library = name };
        }

        if (_rules.MembersAreCalls && name.Length > 0 && char.IsUpper(name[0]) && _visit.LoadAnyShared(name) is { } constant)
        {
            return constant;
        }

        return name.Length > 0 && char.IsUpper(name[0]) || _facts.Roots.Contains(name) ? new AbstractValue { Library = _facts.Canonical(name), Name = name } : new AbstractValue { Name = name };
    }

    private AbstractValue OfFact(ValueModel fact, int index, string name)
    {
        if (fact.StackTrace)
        {
            return ErrorDetail(index, name);
        }

        if (fact.Source is { } part)
        {
            return new AbstractValue { Taints = [SourceTaint(part, fact.SourceName ?? (fact.IsAny ? name : null), fact.SafeFor, index, name)], Types = fact.Types, Fact = fact, Name = name };
        }

        return new AbstractValue
        {
            Types = fact is { Configuration: true, Labelled: true, MissingFails: false } ? [AbstractValue.MayBeMissing] : fact.Types,
            Name = fact.Labelled ? name : null,
            Constant = fact.Constant,
            IsConfiguration = fact.Configuration,
            Fact = fact,
        };
    }

    private AbstractValue ErrorDetail(int index, string name) =>
        new() { Taints = [new Taint(new Origin(OriginKind.Error, "", name, _file.Index, -1), OutputContext.None, PasswordTransform.Plain, false, false, new Trace(StepKind.Source, At(index), name, null))], Name = name };

    private AbstractValue EvaluateImport(int index, in Instruction instruction)
    {
        var module = instruction.Text!;
        var name = _function.List(instruction)[0].Name ?? "*";
        var file = module == "." && _rules.CommonJs ? _file.Index : _program.Program.Modules.Resolve(_file.Source.Path, module);
        if (file >= 0 && _rules.ExportsAll && _facts.Call(_facts.Canonical(module) + "." + name) is { Route: not null })
        {
            // A framework that is audited itself declares its own routes by these.
            return new AbstractValue { Library = _facts.Canonical(module) + "." + name };
        }

        if (file >= 0)
        {
            var exported = ReadExport(file, name);
            return ReferenceEquals(exported, AbstractValue.Unknown) && _rules.ExportsAll && _program.Program.Modules.Resolve(_file.Source.Path, module.TrimEnd('.').Length == 0 ? module + name : module + "." + name) is >= 0 and var part
                ? new AbstractValue { Module = part }
                : exported;
        }

        // A package need not have a file of its own.
        if (_rules.ExportsAll && _program.Program.Modules.Resolve(_file.Source.Path, module.TrimEnd('.').Length == 0 ? module + name : module + "." + name) is >= 0 and var inner)
        {
            return new AbstractValue { Module = inner };
        }

        var library = _facts.Canonical(module);
        var path = name is "*" or "default" ? library : _facts.Canonical(library + "." + name);
        return new AbstractValue { Library = path, Taints = IsSubject(path) ? [SubjectTaint(index, name)] : [] };
    }

    private AbstractValue ReadExport(int file, string name)
    {
        if (name == "*")
        {
            var whole = _visit.Load(new StoreKey(StoreKind.Export, file, "module.exports"));
            return AbstractValue.Join(whole, new AbstractValue { Module = file });
        }

        var value = _visit.Load(new StoreKey(StoreKind.Export, file, name));
        if (value is null && _visit.Load(new StoreKey(StoreKind.Export, file, "module.exports")) is { } exports)
        {
            value = name == "default" ? exports : FieldAccess.Read(exports, name);
        }

        return value ?? _visit.Load(new StoreKey(StoreKind.Export, file, "*")) ?? AbstractValue.Unknown;
    }
}
