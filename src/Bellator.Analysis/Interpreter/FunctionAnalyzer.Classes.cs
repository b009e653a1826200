using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Summaries;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Interpreter;

/// <summary>Objects made, and calls on classes.</summary>
internal sealed partial class FunctionAnalyzer
{
    private AbstractValue EvaluateNew(int index, in Instruction instruction)
    {
        var site = Site(index, in instruction, AbstractValue.Unknown);
        var text = _function.Instructions[instruction.A].Text?.TrimStart('\\');
        if (ClassOf(instruction.A) is { } type)
        {
            return WithInitial(index, in instruction, Instantiate(type.Primary, site));
        }

        foreach (var type2 in Get(instruction.A).Types)
        {
            if (type2[0] != '#' && _facts.Call("new " + type2) is { } ofModel)
            {
                return ApplyFact(ofModel, site with { Receiver = Get(instruction.A) }, false);
            }
        }

        var name = _php ? text : Get(instruction.A).Library;
        if (name is not null)
        {
            NoteMemberFilter(name, site);
            if (_facts.Call("new " + name) is { } fact)
            {
                return WithInitial(index, in instruction, ApplyFact(fact, site, false));
            }

            if (_facts.KnowsType(name))
            {
                return WithInitial(index, in instruction, AbstractValue.OfType(name));
            }
        }

        if (_function.List(instruction).ToArray().Any(o => o.Name is ['=', ..]))
        {
            return WithInitial(index, in instruction, AbstractValue.Unknown);
        }

        return AbstractValue.OfTaints([.. site.Arguments.SelectMany(a => a.Taints).Select(t => t with { Altered = true, Guessed = true }).Take(AbstractValue.MaxTaints)]);
    }

    /// <summary>An object that takes out of what is sent what its declared class does not have: handlers read that there is one.</summary>
    private void NoteMemberFilter(string library, CallSite site)
    {
        if (_facts.MemberFilters.TryGetValue(IrClass.ShortOf(library), out var option) && site.Option(option)?.Constant == "true")
        {
            _visit.Store(MemberFilterKey, AbstractValue.OfConstant(LiteralKind.Boolean, "true"));
        }
    }

    private bool DropsUndeclaredMembers => _facts.MemberFilters.Count > 0 && _visit.Load(MemberFilterKey) is not null;

    private static readonly StoreKey MemberFilterKey = new(StoreKind.Library, 0, "<declared members only>");

    private AbstractValue Instantiate(IrClass type, CallSite site)
    {
        if (_facts.Call("new " + type.ShortName) is { } own)
        {
            return ApplyFact(own, site, false);
        }

        var self = TypedValue("#" + type.Id);
        if (_program.Program.FindMethod(type, _php ? "__construct" : "constructor") is { } constructor)
        {
            ApplyFunction(constructor, site with { Receiver = self });
        }
        else if (self.Types.Count > 1 && _facts.Call("new " + self.Types[1]) is { } outside)
        {
            ApplyFact(outside, site with { Receiver = self }, false);
            if (outside.Access is { Unsaved: true })
            {
                // It is written when it is told to, with what it was made with.
                var given = site.Names.Select((n, i) => (Name: n, Value: i < site.Arguments.Count ? site.Arguments[i] : AbstractValue.Unknown)).Where(g => g.Name is { Length: > 0 });
                self = self.With(types: [.. self.Types, UnsavedRecord], carried: new AbstractValue { Fields = AbstractValue.Bounded(given.DistinctBy(g => g.Name).ToDictionary(g => g.Name!, g => g.Value, StringComparer.Ordinal)) });
            }
        }
        else
        {
            // A class that only lists its members is made from their values by name.
            for (var i = 0; i < site.Names.Count && i < site.Arguments.Count; i++)
            {
                if (site.Names[i] is { Length: > 0 } member && type.Fields.Any(f => f.Name == member))
                {
                    SetField(self, member, site.Arguments[i]);
                }
            }
        }

        return self;
    }

    /// <summary>Sets the members that stand in braces after the construction.</summary>
    private AbstractValue WithInitial(int index, in Instruction instruction, AbstractValue made)
    {
        foreach (var operand in _function.List(instruction))
        {
            if (operand.Name is ['=', .. var member])
            {
                var value = Get(operand.Value);
                SetField(made, member, value);
                // A constant stands where it is written, which is nearer than where the object begins.
                var at = operand.Value >= 0 && _function.Instructions[operand.Value].Op == Opcode.Constant && operand.Value < index ? operand.Value : index;
                made = SetByFact(at, made, value, operand.Value, member) ?? WithPart(made, member, value);
            }
        }

        return made;
    }

    /// <summary>A method called on the class itself.</summary>
    private AbstractValue? CallOnClass(IrClass type, string method, CallSite site)
    {
        if ((_program.Program.FindMethod(type, IrClass.OfClass + method) ?? _program.Program.FindMethod(type, method)) is { } function)
        {
            return ApplyFunction(function, site with { Receiver = TypedValue("#" + type.Id) });
        }

        if (ReadClassField(type.Id, method) is { Targets.Count: > 0 } defined)
        {
            return ApplyTargets(defined.Targets, site);
        }

        if (method == "new" && _rules.MembersAreCalls)
        {
            return FactOfBases(type, "new") is { } made ? AbstractValue.Join(TypedValue("#" + type.Id), ApplyFact(made, site, false)) : Instantiate(type, site);
        }

        return FactOfBases(type, method) is { } fact ? ApplyFact(fact, site, false) : null;
    }

    /// <summary>What the facts say of a method that a class has from outside of the program.</summary>
    private CallModel? FactOfBases(IrClass type, string method)
    {
        foreach (var name in _program.Program.Kinds(type))
        {
            if (_facts.Method(name, method) is { } fact)
            {
                return fact;
            }
        }

        return null;
    }

    /// <summary>A call without an object that the class does not have: its bases outside of the program, a function known everywhere, a library's.</summary>
    private AbstractValue? BareCall(string method, CallSite site)
    {
        if (_function.Class is { } owner)
        {
            if (_program.Program.FindMethod(owner.Primary, method) is { } own)
            {
                return ApplyFunction(own, site);
            }

            if (FactOfBases(owner.Primary, method) is { } inherited)
            {
                return ApplyFact(inherited, site, false);
            }

            if (method == "new" && _rules.MembersAreCalls)
            {
                return Instantiate(owner.Primary, site);
            }
        }

        if (_program.Program.FindFunction(method, _file) is { Class: null } function && function.File.Source.Language == _file.Source.Language)
        {
            return ApplyFunction(function, site);
        }

        if (_facts.Call(method) is { } fact)
        {
            return ApplyFact(fact, site, false);
        }

        // Templates see the helpers of the whole application.
        return IsTemplate && _program.Program.FindOnlyMethod(method) is { } helper && Languages.Family(helper.File.Source.Language) == _family ? ApplyFunction(helper, site) : null;
    }
}
