using Bellator.Core.Code;
using Bellator.Core.Facts;
using Bellator.Core.Sources;
using Bellator.Core.Syntax;

namespace Bellator.Core.Flow;

/// <summary>Functions that are handed over, and tests that vouch for values.</summary>
internal sealed partial class FunctionFlow
{
    /// <summary>What becomes of the elements when a function runs on each.</summary>
    private Value? MappedBy(Value mapper, CallSite site, int list)
    {
        var name = mapper.Library ?? mapper.Constant;
        var element = FieldAccess.Element(site.Argument(list));
        if (name is not null && _facts.Call(name) is { } fact)
        {
            return ApplyFact(fact, new CallSite(site.Index, Value.Unknown, [element], [-1]), false);
        }

        if (mapper.Targets.Count > 0)
        {
            return ApplyTargets(mapper.Targets, new CallSite(site.Index, Value.Unknown, [element], [-1]));
        }

        return name is not null && _php && _program.Program.FindFunction(name, _file) is { } function
            ? ApplyFunction(function, new CallSite(site.Index, Value.Unknown, [element], [-1]))
            : null;
    }

    /// <summary>Stands for the table that the call is about, and for nothing else.</summary>
    private static Value WithRecordsOf(CallFact fact, CallSite site) =>
        fact.Model?.Name is { } at && site.Argument(at).Constant is { } name ? new Value { Types = [DeclaredTable, RecordsMark + name] } : Value.Unknown;

    private void NoteTest(TestFact test, CallSite site)
    {
        var held = test.Kind == "pattern" ? PatternAndValue(test, site) : null;
        var tested = held?.Value ?? (test.Value == -1 ? _function.Instructions[site.Index].A : site.Operand(test.Value));
        var accepted = test.Kind switch
        {
            "allow" => test.List is not { } list || !FieldAccess.DeepTaints(site.Argument(list)).Any(t => !t.IsParameter),
            "text" => true,
            "prefix" => true,
            "fullmatch" => test.Pattern is { } whole && site.Argument(whole).Constant is { } expression && RegularText.IsWholeAndHarmless("^" + expression.TrimStart('^').TrimEnd('$') + "$"),
            "pattern" => held is { } text && RegularText.IsWholeAndHarmless(text.Pattern),
            _ => true,
        };
        if (accepted && tested >= 0 && test.Throws)
        {
            _guards.NotePassed(_function.BlockOf[site.Index], [new Tested(tested, SafeAfter(test, site))]);
        }
        else if (accepted && tested >= 0)
        {
            _guards.NoteTest(site.Index, tested, test.Answer, SafeAfter(test, site));
        }
        else if (held is { } local && RegularText.IsLocalPath(local.Pattern))
        {
            _guards.NoteTest(site.Index, tested, true, Position.Redirect | Position.Address);
        }
        else if (test.Pattern is { } forbidding && site.Argument(forbidding).Constant is { } negative && RegularText.FindsForbidden(negative))
        {
            _guards.NoteTest(site.Index, tested, false);
        }
    }

    /// <summary>The pattern of a test and the value that is held against it: either may be the object.</summary>
    private (string Pattern, int Value)? PatternAndValue(TestFact test, CallSite site)
    {
        var receiver = _function.Instructions[site.Index].A;
        return test.Pattern is { } at && site.Argument(at).Constant is { } pattern ? (pattern, test.Value == -1 ? receiver : site.Operand(test.Value))
            : test is { Value: -1, Pattern: 0 } && site.Receiver is { ConstantKind: LiteralKind.Pattern, Constant: { } own } ? (own, site.Operand(0))
            : null;
    }

    /// <summary>Where a value is harmless once it passed the test. A path that begins as it should stays on the site, or in its folder.</summary>
    private static Position SafeAfter(TestFact test, CallSite site) => test.Kind switch
    {
        _ when test.For.Count > 0 => test.For.Aggregate(Position.None, (all, name) => all | Positions.Named(name)),
        "text" => Position.Object,
        "prefix" => site.Argument(test.Pattern ?? 0).Constant is { } prefix
            ? prefix.Length > 1 && (prefix.StartsWith('/') || prefix.Contains("://", StringComparison.Ordinal)) ? Position.Redirect | Position.Path : prefix == "/" ? Position.Redirect : Position.None
            : Position.Path | Position.Redirect,
        _ => Position.All,
    };

    private Value? ApplyCallback(CallFact fact, CallbackFact callback, CallSite site)
    {
        Value? result = null;
        var declared = DeclaredInput(callback, site);
        IReadOnlyList<InputCheck> passed = callback.Inputs is null ? [] : declared;
        var from = callback.From == -2 ? Math.Max(0, site.Arguments.Count - 1) : callback.From;
        for (var i = from; i < site.Arguments.Count; i++)
        {
            var argument = site.Arguments[i];
            foreach (var function in FunctionsIn(argument, 0))
            {
                if (declared.Count > 0 || passed.Count > 0)
                {
                    _visit.NoteInputChecks(function, (_function.Id, site.Index), new InputChecks(declared, passed));
                }

                var parameters = callback.Parameters;
                if (callback.Entry is { } entry && _visit.NoteEntry(function, entry))
                {
                    continue;
                }

                if (callback.Errors is { } count && function.Parameters.Count == count)
                {
                    parameters = ["error", .. parameters];
                }

                var values = parameters.ConvertAll(p => CallbackArgument(p, fact, site));
                var given = ApplyFunction(function, new CallSite(site.Index, Value.Unknown, values, []));
                if (callback.Answers)
                {
                    NoteAnswer(function, given, Answer);
                }

                result = Value.Join(result, given);
                if (_visit.SummaryOf(function) is { Passes: { Count: > 0 } passes })
                {
                    passed = [.. passed.Concat(passes.SelectMany(p => p == InputCheck.Declared ? declared : [p])).Distinct()];
                }
            }

            if (argument.Library is { } library && _facts.Call(library) is { Callback: null } named)
            {
                return ApplyFact(named, new CallSite(site.Index, Value.Unknown, callback.Parameters.ConvertAll(p => CallbackArgument(p, fact, site)), []), false);
            }
        }

        return result;
    }

    /// <summary>What a function gives back goes somewhere, from its last return: to the visitor, or into the session.</summary>
    private void NoteAnswer(CodeFunction handler, Value answer, SinkFact place)
    {
        var at = Array.FindLastIndex(handler.Instructions, i => i.Op == Op.Return && i.A >= 0);
        if (at < 0 || (answer.Fields is null && !answer.Types.Any(t => t[0] == WholeMark)))
        {
            return;
        }

        _visit.NotePlaces(handler.File);
        AddEvent(new FlowEvent
        {
            Kind = EventKind.Sink,
            Fact = null,
            Sink = place,
            Function = handler,
            At = handler.LocationOf(at),
            Roles = new Dictionary<string, Value>(StringComparer.Ordinal) { ["value"] = answer },
        });
    }

    private static readonly SinkFact Answer = new() { Kind = "response", Parts = true };

    private static readonly SinkFact IntoSession = new() { Kind = "session", Parts = true };

    /// <summary>The functions that a value is or holds: handlers stand in lists and among options.</summary>
    private static List<CodeFunction> FunctionsIn(Value value, int depth)
    {
        var functions = value.Targets.OfType<CodeFunction>().ToList();
        if (value.Fields is not null && depth < Value.MaxDepth)
        {
            foreach (var field in value.Fields.Values)
            {
                functions.AddRange(FunctionsIn(field, depth + 1));
            }
        }

        return functions;
    }

    private Value CallbackArgument(string kind, CallFact fact, CallSite site) => kind switch
    {
        "_" => Value.Unknown,
        "error" => _facts.KnowsType(ErrorType) ? Value.OfType(ErrorType) : Value.Unknown,
        "receiver" => site.Receiver,
        "element" => FieldAccess.Element(site.Receiver),
        "records" => WithRecordsOf(fact, site),
        "digest" => fact.Hash is null ? Value.Unknown : HashResult(fact, site),
        _ => Value.OfType(kind),
    };
}
