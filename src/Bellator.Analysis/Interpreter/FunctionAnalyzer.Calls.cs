using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Guards;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Summaries;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>Finds what a call calls, and what comes back.</summary>
internal sealed partial class FunctionAnalyzer
{
    private CallSite Site(int index, in Instruction instruction, AbstractValue receiver)
    {
        var list = _function.List(instruction);
        var block = _function.BlockOf[index];
        var arguments = new List<AbstractValue>(list.Length);
        var operands = new List<int>(list.Length);
        var spread = false;
        List<string?>? names = null;
        foreach (var operand in list)
        {
            if (operand.Name is { Length: > 0 } named && named[0] != '=')
            {
                names ??= [.. arguments.Select(_ => (string?)null)];
                names.Add(named);
            }
            else if (operand.Name is null)
            {
                names?.Add(null);
            }
            else
            {
                continue;
            }

            var value = Get(operand.Value);
            if (value.IsTainted || value.Fields is not null)
            {
                value = Refine(value, block, operand.Value);
            }

            if (operand.Spread || spread)
            {
                // After a spread positions are unknown: every later parameter may get any of its elements.
                spread = true;
                value = FieldAccess.Element(value);
                for (var i = 0; i < 4; i++)
                {
                    arguments.Add(value);
                    operands.Add(-1);
                }

                names?.AddRange([null, null, null]);

                continue;
            }

            arguments.Add(value);
            operands.Add(operand.Value);
        }

        return new CallSite(index, receiver, arguments, operands) { Names = names ?? (IReadOnlyList<string?>)[] };
    }

    private AbstractValue EvaluateCall(int index, in Instruction instruction)
    {
        var callee = Get(instruction.A);
        var site = Site(index, in instruction, AbstractValue.Unknown);
        if (_function.Instructions[instruction.A].Op == Opcode.Parameter && site.Arguments.Count == 0)
        {
            NoteNext(index);
        }

        NoteGivenCall(instruction.A, site.Arguments);
        var name = callee.Library ?? (callee is { Constant: not null, ConstantKind: LiteralKind.Text, IsTainted: false } ? callee.Constant : null);
        if (name is not null && _facts.Call(name) is { } fact)
        {
            // One of several things may be called: a library's, or the program's own.
            var ofLibrary = ApplyFact(fact, site, false);
            return callee is { Library: not null, Targets.Count: > 0 } ? AbstractValue.Join(ofLibrary, ApplyTargets(callee.Targets, site)) : ofLibrary;
        }

        if (callee.Targets.Count == 0 && CalledObject(callee) is { } itself)
        {
            // An object of a library's that is called as a function is.
            return ApplyFact(itself, site with { Receiver = callee }, false);
        }

        if (_php && name is not null)
        {
            var shortName = name[(name.LastIndexOf('\\') + 1)..];
            if (_facts.Call(shortName) is { } builtIn)
            {
                return ApplyFact(builtIn, site, false);
            }

            switch (shortName.ToLowerInvariant())
            {
                case "define" when site.Argument(0).Constant is { } constant:
                    _visit.DefineConstant(constant, site.Argument(1));
                    return AbstractValue.Unknown;
                case "isset" when site.Operand(0) is >= 0 and var operand && _function.Instructions[operand] is { Op: Opcode.GetItem } item && Get(item.A) is { IsTainted: false }:
                    _guards.NoteTest(index, item.B);
                    return AbstractValue.Unknown;
                case "empty" when site.Operand(0) is >= 0 and var tested:
                    _guards.NoteTest(index, tested, true, isLook: false);
                    return AbstractValue.Unknown;
                case "isset" or "empty" or "is_string" or "is_array" or "function_exists" or "defined":
                    return AbstractValue.Unknown;
                case "dirname" or "realpath" or "__":
                    return site.Argument(0);
                case "func_get_args":
                    return AbstractValue.Unknown;
            }

            if (_program.Program.FindFunction(shortName, _file) is { } function)
            {
                return ApplyFunction(function, site);
            }
        }

        if (callee.Targets.Count > 0)
        {
            if (IsDecoratedFunction(instruction.A))
            {
                // What each of the decorated functions does is no matter of the decorator, nor of the others.
                Inform(callee.Targets, 0, site);
                return AbstractValue.Unknown;
            }

            return ApplyTargets(callee.Targets, site);
        }

        if (_rules.CommonJs && _function.Instructions[instruction.A] is { Op: Opcode.Global, Text: "super" } && _function.Class is { } derived && SuperCall(derived, site) is { } made)
        {
            return made;
        }

        if (_rules.CommonJs && _function.Instructions[instruction.A] is { Op: Opcode.Global, Text: { } unbound })
        {
            // Build tools bring names into scope by themselves: a fact, or the program's own function of that name.
            if (_facts.Call(unbound) is { } known)
            {
                return ApplyFact(known, site, false);
            }

            if (_program.Program.FindFunction(unbound, _file) is { Outer.IsTopLevel: true } imported)
            {
                return ApplyFunction(imported, site);
            }
        }

        if (IsTemplate && _function.Instructions[instruction.A] is { Op: Opcode.Global, Text: { } helper } && TemplateFunction(helper) is { } ofPages)
        {
            return ApplyFunction(ofPages, site);
        }

        if (name is not null && _facts.Call("new " + name) is { } constructor)
        {
            return ApplyFact(constructor, site, false);
        }

        // A helper of templates makes markup and escapes what it puts in. What a call gave is called here: what that does with its arguments is anybody's guess.
        return UnknownCall(site, passArguments: !IsTemplate && (name is not null || (!_php && CalledName(index).Length > 0)));
    }

    /// <summary>The constructor of the class above: the program's own, or a library's that the facts know.</summary>
    private AbstractValue? SuperCall(IrClass derived, CallSite site)
    {
        if (_program.Program.BaseOf(derived)?.Primary is { } above)
        {
            return _program.Program.FindMethod(above, "constructor") is { } constructor ? ApplyFunction(constructor, site with { Receiver = ThisValue() }) : null;
        }

        return _program.Program.OutsideBase(derived.Primary) is { } outside && _facts.Call("new " + OutsideName("#" + derived.Primary.Id, outside)) is { } fact ? ApplyFact(fact, site, false) : null;
    }

    /// <summary>What readers of templates put before the name of a filter.</summary>
    private const string FilterMark = "<filter>";

    /// <summary>A function of the program's own that pages may call: as a filter, or by a tag.</summary>
    private IrFunction? TemplateFunction(string name) =>
        _program.Program.TemplateFunction(name.StartsWith(FilterMark, StringComparison.Ordinal) ? name[FilterMark.Length..] : name, _program.Vocabulary.ServesTemplates);

    private string? NameOf(int value, AbstractValue known)
    {
        var instruction = _function.Instructions[value];
        var name = instruction.Op switch
        {
            Opcode.GetField or Opcode.GetStatic or Opcode.LoadCell or Opcode.LoadShared or Opcode.Parameter or Opcode.Global or Opcode.CallMethod or Opcode.CallStatic => instruction.Text,
            Opcode.Call => _function.Names.GetValueOrDefault(value) ?? _function.Instructions[instruction.A].Text,
            _ => _function.Names.GetValueOrDefault(value),
        };
        return (name ?? known.Name)?.TrimStart('$', '_');
    }

    private AbstractValue EvaluateStaticCall(int index, in Instruction instruction)
    {
        var method = instruction.Text!;
        var site = Site(index, in instruction, ThisValue());
        var name = _function.Instructions[instruction.A].Text;
        if (ClassOf(instruction.A) is { } owner)
        {
            if (name is not ("self" or "static" or "parent"))
            {
                site = site with { Receiver = TypedValue("#" + owner.Primary.Id) };
            }

            if (_program.Program.FindMethod(owner, method) is { } function)
            {
                return ApplyFunction(function, site);
            }

            if (FactOfBases(owner, method) is { } inherited)
            {
                return ApplyFact(inherited, site, false);
            }

            name = _program.Program.OutsideBase(owner) ?? name;
        }
        else if (name is "parent" && method == _facts.RecordSetRows && _function.Class is { } set && SetType(set) is not null)
        {
            // What a set of records begins with is the set itself, without what its class adds.
            return SetOfRecords(set.Primary) is var all ? all.With(types: [.. all.Types.Where(t => t[0] != '#'), "rows"]) : all;
        }
        else if (name is "parent" && _function.Class?.Brought?.Methods.GetValueOrDefault(method) is { } brought)
        {
            return ApplyFunction(brought, site);
        }
        else if (name is "parent" && _facts.Call("parent::" + method) is { } ofAnyBase)
        {
            return ApplyFact(ofAnyBase, site, false);
        }
        else if (name is "parent" && _function.Class is { } self)
        {
            name = _program.Program.OutsideBase(self) ?? name;
        }

        if (name is not null)
        {
            name = name.TrimStart('\\');
            var fact = _facts.Call(name + "::" + method) ?? _facts.Method(name, method) ?? (method == "__construct" ? _facts.Call("new " + name) : _facts.Method("*", method));
            if (fact is not null)
            {
                return ApplyFact(fact, site, false);
            }
        }

        return UnknownCall(site, passArguments: false);
    }

    /// <summary>What the facts say of assigning a member; null if nothing.</summary>
    private AbstractValue? SetByFact(int index, int target, int value, string member) => SetByFact(index, Get(target), Get(value), value, member);

    private AbstractValue? SetByFact(int index, AbstractValue target, AbstractValue value, int operand, string member)
    {
        CallModel? fact = null;
        foreach (var type in target.Types)
        {
            fact ??= type[0] != '#' ? _facts.Setter(type, member)
                : _program.Program.Kinds(_program.Program.Classes[ClassNumber(type)]).Select(k => _facts.Setter(k.TrimStart('\\'), member)).FirstOrDefault(f => f is not null);
        }

        fact ??= (target.Library is { } path && _facts.Global(path)?.Type is { } known ? _facts.Setter(known, member) : null) ?? _facts.Setter("*", member);
        if (fact is null)
        {
            return null;
        }

        if (fact.DefinedOn is { } on)
        {
            DefineMembers(member, value, on);
        }

        ApplyFact(fact, new CallSite(index, target, [value], [operand]), false);
        return fact.Query is { Prepare: true } ? target.With(carried: value) : null;
    }

    private AbstractValue ApplyTargets(IReadOnlyList<object> targets, CallSite site)
    {
        // What all of them do is too much to follow for one call; what each of them gets is known to it.
        Inform(targets, MaxApplied, site);
        AbstractValue? result = null;
        foreach (var target in targets.Take(MaxApplied))
        {
            if (target is IrFunction function)
            {
                result = AbstractValue.Join(result, ApplyFunction(function, site));
            }
            else if (target is IrClass type)
            {
                result = AbstractValue.Join(result, Instantiate(type.Primary, site));
            }
        }

        return result ?? AbstractValue.Unknown;
    }

    /// <summary>Those of the functions from a position on get to know what they are called with.</summary>
    private void Inform(IReadOnlyList<object> targets, int from, CallSite site)
    {
        foreach (var function in targets.Skip(from).OfType<IrFunction>())
        {
            _visit.NoteCall(function);
            for (var i = 0; i < site.Arguments.Count; i++)
            {
                _visit.InformParameter(function, i, site.Arguments[i]);
            }
        }
    }

    /// <summary>What is called is the function that a decorator of the program's was put on.</summary>
    private bool IsDecoratedFunction(int callee) =>
        _function.Instructions[callee].Op is Opcode.LoadCell or Opcode.Parameter && _function.Outer is { IsTopLevel: false } outer && _file.Source.Language == Bellator.Text.Language.Python
        && (_program.Program.IsDecorator(outer) || (outer.Outer is { IsTopLevel: false } maker && _program.Program.IsDecorator(maker)));

    /// <summary>Functions of those that a call may be of whose doings are followed.</summary>
    private const int MaxApplied = 12;

    /// <summary>Applies what is known of a function of the program to one call of it.</summary>
    private AbstractValue ApplyFunction(IrFunction function, CallSite site)
    {
        site = site.Names.Count == 0 ? site : site.Arranged([.. function.Parameters.Select(p => p.Name.TrimStart('$'))]);
        var arguments = site.Arguments;
        if (function.Parameters is [.., { Variadic: true }] && arguments.Count >= function.Parameters.Count)
        {
            var fixedCount = function.Parameters.Count - 1;
            var rest = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
            for (var i = fixedCount; i < arguments.Count && rest.Count < 8; i++)
            {
                rest[(i - fixedCount).ToString(System.Globalization.CultureInfo.InvariantCulture)] = arguments[i];
            }

            arguments = [.. arguments.Take(fixedCount), new AbstractValue { Fields = rest, Types = ["list"] }];
        }

        if (function.Class is not null && function.Class == _function.Class)
        {
            ForgetOwnMembers();
        }

        _visit.NoteCall(function);
        _edges.Add(new CallEdge(site.Index, function, _state.Rewritten));
        foreach (var act in _program.ModelledFunctions.JourneyStepsOf(function))
        {
            Raise(EventKind.Act, null, site.Index, false, ("act", AbstractValue.OfConstant(LiteralKind.Text, act.Step)), ("note", AbstractValue.OfConstant(LiteralKind.Text, act.Note)));
        }

        for (var i = 0; i < arguments.Count; i++)
        {
            _visit.InformParameter(function, i, arguments[i]);
        }

        if (_visit.SummaryOf(function) is not { } summary)
        {
            return _program.Stated.Of(function) is { } known ? ApplyFact(known, site, false) : AbstractValue.Unknown;
        }

        var call = At(site.Index);
        var substitution = new Substitution(function, arguments, call);
        AbstractValue? statement = null;
        foreach (var open in summary.OpenEvents)
        {
            if (open.Depth < (open.Kind == EventKind.Decision ? MaxDecisionDepth : MaxEventDepth) && !WasRepeated(open, function, arguments) && open.Instantiate(substitution, call) is { } repeated)
            {
                AddEvent(repeated);
                statement = StatementGiven(open, repeated) ?? statement;
            }
        }

        foreach (var store in summary.Stores)
        {
            Keep(store.Key, substitution.Apply(store.Value), store.Depth + 1);
        }

        foreach (var givenCall in summary.GivenCalls)
        {
            RunGiven(givenCall, arguments, site.Index);
        }

        NoteAnnouncedBy(summary, arguments);
        foreach (var vouched in summary.ValidatesParameters)
        {
            _guards.NoteTest(site.Index, site.Operand(vouched));
        }

        var returned = summary.Returns is { } given ? Asked(given, arguments) : null;
        RepeatRewrites(summary, substitution, site, arguments);
        return _program.Stated.Of(function) is { } stated ? ApplyFact(stated, site, false)
            : returned is null ? AbstractValue.Unknown : OfSubjectsOwn(site.Receiver, Wrapping(function, AsRows(function, statement, Recognised(substitution.Apply(returned))), arguments));
    }

    /// <summary>A function that another one made around the one it was given carries that: <c>wrap(async (req, res) => …)</c> does what the inner one does.</summary>
    private static AbstractValue Wrapping(IrFunction maker, AbstractValue made, IReadOnlyList<AbstractValue> arguments)
    {
        if (made is not { Payload: null, Targets.Count: > 0 } || !made.Targets.OfType<IrFunction>().Any(f => f.Outer == maker))
        {
            return made;
        }

        for (var i = arguments.Count - 1; i >= 0; i--)
        {
            if (arguments[i].Targets.OfType<IrFunction>().Any())
            {
                return made.With(carried: arguments[i]);
            }
        }

        return made;
    }

    /// <summary>A call of something outside the program that no facts describe: the data may come through, and this is a guess.</summary>
    private AbstractValue UnknownCall(CallSite site, bool passArguments)
    {
        if (RunsStatement(site, CalledName(site.Index)) is { } rows)
        {
            return rows;
        }

        NoteDecision(site, CalledName(site.Index));
        if (site.Receiver.Taints.Count == 0 && NamesCurrentPerson(site))
        {
            return SubjectValue(site.Index, CalledName(site.Index));
        }

        var taints = site.Receiver.Taints;
        if (passArguments)
        {
            foreach (var argument in site.Arguments)
            {
                taints = AbstractValue.Union(taints, argument.Taints);
            }
        }

        if (taints.Count == 0)
        {
            return AbstractValue.Unknown;
        }

        var name = CalledName(site.Index);
        return AbstractValue.OfTaints([.. taints.Select(t => t with { Altered = true, Guessed = true, Trace = Trace.Add(t.Trace, StepKind.Guessed, At(site.Index), name) })]);
    }

    private string CalledName(int call)
    {
        var instruction = _function.Instructions[call];
        return instruction.Op == Opcode.Call && instruction.A >= 0 ? _function.Instructions[instruction.A].Text ?? _function.Names.GetValueOrDefault(instruction.A) ?? "" : instruction.Text ?? "";
    }

    /// <summary>The pattern that a call holds a text against, where its facts say so and it is known.</summary>
    private string? PatternOf(int index, in Instruction call) =>
        call.Op == Opcode.Call && Get(call.A) is { Library: { } name } && _facts.Call(name[(name.LastIndexOf('\\') + 1)..]) is { Test: { Kind: "pattern", Pattern: >= 0 and var at } }
            && at < call.C ? Get(_function.Operands[call.B + at].Value).Constant : null;

    private AbstractValue EvaluateOutArgument(int index, in Instruction instruction)
    {
        var call = _function.Instructions[instruction.A];
        var name = _function.Names.GetValueOrDefault(index)?.TrimStart('$');
        if (call.Op == Opcode.CallMethod && call.Text == "bind_result" && name is not null)
        {
            return new AbstractValue { Taints = [StoredTaint(index, name)], Name = name };
        }

        if (PatternOf(instruction.A, in call) is { } pattern && RegexSafety.IsHarmless(pattern))
        {
            return AbstractValue.Unknown;
        }

        if (call.Op == Opcode.CallMethod && call.C > 0)
        {
            var receiver = Get(call.A);
            if (receiver.Library is { } owner && _facts.Call(_facts.Canonical(owner) + "." + call.Text) is { Test.Kind: "number" })
            {
                return AsNumber(Get(_function.Operands[call.B].Value).Taints);
            }

            if (_facts.Method("*", call.Text!) is { FillsElement: true })
            {
                return Get(_function.Operands[call.B].Value).Constant is { } key ? ReadField(index, receiver, key) : FieldAccess.Element(receiver);
            }
        }

        IReadOnlyList<Taint> taints = [];
        foreach (var operand in _function.List(call))
        {
            taints = AbstractValue.Union(taints, Get(operand.Value).Taints);
        }

        return AbstractValue.OfTaints([.. taints.Select(t => t with { Altered = true, Guessed = true })]);
    }
}
