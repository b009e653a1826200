using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Summaries;
using Bellator.Text;

namespace Bellator.Analysis.Interpreter;

/// <summary>Calls of methods on objects: by the types that are known, and at last by names.</summary>
internal sealed partial class FunctionAnalyzer
{
    private AbstractValue EvaluateMethodCall(int index, in Instruction instruction)
    {
        var receiver = Get(instruction.A);
        var method = instruction.Text!;
        var site = Site(index, in instruction, receiver);
        if (site.Arguments.Count == 0 && StateOfClass(index, receiver, method) is { } state)
        {
            return state;
        }

        if (_facts.Method("*", method) is { OverridesProgram: true } before)
        {
            return ApplyFact(receiver.Library is { } whole && _facts.Call(_facts.Canonical(whole) + "." + method) is { } special ? special : before, site, false);
        }

        if (_rules.MembersAreCalls && _function.Instructions[instruction.A].Op == Opcode.This && _facts.Call(method) is { } usual && (usual.Guard is { Guards.Count: > 0 } || usual is { IsOnlyOfSurface: true, JourneySteps.Count: > 0 }))
        {
            // The program's own way to say it, under the usual name.
            RaiseSurface(usual, site, site.Arranged([]), false);
        }

        if (receiver.Types.Count > 1 && receiver.Types.Count(t => t[0] == '#') > 1)
        {
            // Which of several classes it is was decided elsewhere: what follows is one way among others.
            site = site with { Arguments = [.. site.Arguments.Select(AsDoubted)] };
        }

        // Of what an object may be, the program's own classes say most.
        foreach (var type in receiver.Types is [not ['#', ..], _, ..] mixed && mixed.Any(t => t[0] == '#') ? mixed.OrderBy(t => t[0] != '#') : (IEnumerable<string>)receiver.Types)
        {
            if (type[0] == '#')
            {
                var owner = _program.Program.Classes[ClassNumber(type)];
                if (_facts.Method(owner.ShortName, method) is { } own)
                {
                    return ApplyFact(own, site, false);
                }

                if (_program.Program.FindMethod(owner, method) is { } function)
                {
                    if (_facts.Method("*", method) is { Render: { } render })
                    {
                        // The program's own way to show a template, under the usual name.
                        HandToView(render, site);
                    }

                    return ApplyFunction(function, site);
                }

                if (ReadClassField(owner.Id, method) is { Targets.Count: > 0 } callable)
                {
                    return ApplyTargets(callable.Targets, site);
                }
            }
            else if (_facts.Method(type, method) is { } fact)
            {
                return ApplyFact(fact, site, false);
            }
        }

        if (!receiver.Types.Any(t => t[0] == '#') && PersonClass(receiver, instruction.A) is { } person)
        {
            // The person is an object of the accounts' class: what its methods or its mapper do with a record they do with this one.
            var asRecord = site with { Receiver = receiver.With(types: ["#" + person.Primary.Id.ToString(System.Globalization.CultureInfo.InvariantCulture)]) };
            if (_program.Program.FindMethod(person, method) is { } own)
            {
                return ApplyFunction(own, asRecord);
            }

            if (FactOfBases(person, method) is { Sinks.Count: > 0 } ofPerson)
            {
                return ApplyFact(ofPerson, asRecord, false);
            }
        }

        if (Related(receiver, method, site) is { } related)
        {
            return related;
        }

        if (OnRecord(receiver, method, site) is { } ofRecord)
        {
            return ofRecord;
        }

        if (receiver.Targets.OfType<IrClass>().FirstOrDefault() is { } called && CallOnClass(called.Primary, method, site) is { } ofClass)
        {
            return ofClass;
        }

        if (IsTemplate && _rules.MembersAreCalls && site.Arguments.Count == 0 && _function.Instructions[instruction.A].Op == Opcode.This && FromView(method) is var local && !ReferenceEquals(local, AbstractValue.Unknown))
        {
            // What the page was given under the name.
            return local;
        }

        if (_rules.ImplicitReceiver && _function.Instructions[instruction.A].Op == Opcode.This && BareCall(method, site) is { } bare)
        {
            return bare;
        }

        if (receiver.Module >= 0 && ReadExport(receiver.Module, method) is { } exported && (exported.Targets.Count > 0 || exported.Library is not null))
        {
            return exported.Targets.Count > 0 ? ApplyTargets(exported.Targets, site)
                : _facts.Call(exported.Library!) is { } passedOn ? ApplyFact(passedOn, site, false) : UnknownCall(site, true);
        }

        if (receiver.Field(method) is { Targets.Count: > 0 } member)
        {
            return ApplyTargets(member.Targets, site);
        }

        if (CallMember(index, receiver, method, site) is { } ofMember)
        {
            return ofMember;
        }

        if (receiver.Library is { } library)
        {
            if (_facts.Call(_facts.Canonical(library) + "." + method) is { } fact)
            {
                return ApplyFact(fact, site, false);
            }

            if (_rules.MembersAreCalls && site.Arguments.Count == 0 && _facts.Method("*", method) is null)
            {
                // Without arguments a call reads like a member.
                return ReadField(index, receiver, method);
            }
        }
        else if (receiver.Targets.Count > 0 && method is "call" or "apply" or "bind" && !_php)
        {
            return method == "call" ? ApplyTargets(receiver.Targets, site with { Arguments = [.. site.Arguments.Skip(1)], Operands = [.. site.Operands.Skip(1)] })
                : method == "bind" ? receiver : UnknownCall(site, false);
        }

        if (_rules.MembersAreCalls && site.Arguments.Count == 0 && _function.Instructions[instruction.A].Op == Opcode.This && _function.Class is { } around && IsMember(around, method) && ReadClassField(around.Primary.Id, method) is { } held)
        {
            // A member of the object itself, read without naming the object.
            return held.Name is null ? held.With(label: method) : held;
        }

        return GuessMethod(site, in instruction, receiver, method);
    }

    /// <summary>What the program has put on the request or the application is called: <c>ctx.db('hives')</c>.</summary>
    private AbstractValue? CallMember(int index, AbstractValue receiver, string method, CallSite site)
    {
        var kept = LivesWithRequest(receiver) ? ReadRequestMember(index, receiver, method) : receiver.Types.Select(t => ReadApplicationMember(t, method)).FirstOrDefault(v => v is not null);
        if (kept is null)
        {
            return null;
        }

        var called = site with { Receiver = kept };
        return kept.Targets.Count > 0 ? ApplyTargets(kept.Targets, site)
            : CalledObject(kept) is { } itself ? ApplyFact(itself, called, false)
            : kept.Library is { } library && _facts.Call(_facts.Canonical(library)) is { } fact ? ApplyFact(fact, called, false)
            : null;
    }

    /// <summary>What the facts say of an object of a library's that is called as a function is.</summary>
    private CallModel? CalledObject(AbstractValue callee) => callee.Types.Select(t => t[0] == '#' ? null : _facts.Method(t, CalledItself)).FirstOrDefault(m => m is not null);

    /// <summary>Arguments that a function cannot do without, as far as its head says.</summary>
    private static int Required(IrFunction function) => function.Parameters.Count(p => !p.HasDefault && !p.Variadic);

    /// <summary>The receiver's type is not known: take it by its name, or the method by being the only one of its name.</summary>
    private AbstractValue GuessMethod(CallSite site, in Instruction instruction, AbstractValue receiver, string method)
    {
        var named = receiver.Types.Count == 0 && receiver.Library is null && receiver.Fields is null ? NameOf(instruction.A, receiver) : null;
        if (named is not null && _facts.Receivers.TryGetValue(named, out var guessed) && _facts.Method(guessed, method) is { } fact)
        {
            return ApplyFact(fact, site, true);
        }

        if (_facts.Method("*", method) is { NeverGuessed: true } usual)
        {
            return ApplyFact(usual, site, true);
        }

        if (receiver.Library is null && _program.Program.FindOnlyMethod(method) is { Class: not null } only && only.Class.Primary.Brought?.Methods.ContainsKey(method) != true && Languages.Family(only.File.Source.Language) == _family)
        {
            // An extension method's first parameter is the object before the dot.
            var extends = only.Annotations.Any(a => a.Name == "<extension>");
            if (extends)
            {
                return ApplyFunction(only, site with { Arguments = [receiver, .. site.Arguments], Operands = [instruction.A, .. site.Operands], Names = site.Names.Count == 0 ? [] : [null, .. site.Names] });
            }

            // What a request brings is no object of the program's.
            if (receiver.Types.Count == 0 && only.Parameters.Count >= site.Arguments.Count && (site.Arguments.Count >= Required(only) || _facts.Method("*", method) is null) && !receiver.Taints.Any(t => t is { IsSent: true, IsParameter: false }))
            {
                return ApplyFunction(only, site);
            }
        }

        if (_visit.Load(new StoreKey(StoreKind.Library, 0, Defined + method)) is { Targets.Count: > 0 } defined)
        {
            return ApplyTargets(defined.Targets, site);
        }

        if (_facts.Method("*", method) is { } general)
        {
            return ApplyFact(general, site, false);
        }

        // In Ruby a part of an object is read by a call without arguments.
        // What is called on a named request value is a method of text.
        return _rules.MembersAreCalls && site.Arguments.Count == 0 && _function.Instructions[instruction.A].Op != Opcode.This && !receiver.Taints.Any(t => t.Origin is { Kind: OriginKind.Request, Name: not null })
            ? ReadField(site.Index, receiver, method)
            : UnknownCall(site, passArguments: false);
    }

    /// <summary>Whether it gets where it is seen depends on more than what stands on its way.</summary>
    private static AbstractValue AsDoubted(AbstractValue value)
    {
        static Taint Mark(Taint taint) => taint.Doubted ? taint : taint with { Doubted = true };
        return !value.Taints.Any(t => !t.Doubted && t.Safe != OutputContext.All) ? value
            : value.Text is null ? value.With(taints: [.. value.Taints.Select(Mark)])
            : AbstractValue.OfText(value.Text.Map(p => p.IsHole ? [[Piece.Hole([.. p.Taints.Select(Mark)], p.At)]] : null));
    }
}
