using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Guards;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Summaries;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>Functions that are handed over, and tests that vouch for values.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>What becomes of the elements when a function runs on each.</summary>
    private AbstractValue? MappedBy(AbstractValue mapper, CallSite site, int list)
    {
        var name = mapper.Library ?? mapper.Constant;
        var element = FieldAccess.Element(site.Argument(list));
        if (name is not null && _facts.Call(name) is { } fact)
        {
            return ApplyFact(fact, new CallSite(site.Index, AbstractValue.Unknown, [element], [-1]), false);
        }

        if (mapper.Targets.Count > 0)
        {
            return ApplyTargets(mapper.Targets, new CallSite(site.Index, AbstractValue.Unknown, [element], [-1]));
        }

        return name is not null && _php && _program.Program.FindFunction(name, _file) is { } function
            ? ApplyFunction(function, new CallSite(site.Index, AbstractValue.Unknown, [element], [-1]))
            : null;
    }

    /// <summary>Stands for the table that the call is about, and for nothing else.</summary>
    private static AbstractValue WithRecordsOf(CallModel fact, CallSite site) =>
        fact.Model?.Name is { } at && site.Argument(at).Constant is { } name ? new AbstractValue { Types = [DeclaredTable, RecordsMark + name] } : AbstractValue.Unknown;

    private void NoteTest(TestModel test, CallSite site)
    {
        var held = test.Kind == "pattern" ? PatternAndValue(test, site) : null;
        var tested = held?.Value ?? (test.Value == -1 ? _function.Instructions[site.Index].A : site.Operand(test.Value));
        var accepted = test.Kind switch
        {
            "allow" => test.List is not { } list || !FieldAccess.DeepTaints(site.Argument(list)).Any(t => !t.IsParameter),
            "text" => true,
            "prefix" => true,
            "fullmatch" => test.Pattern is { } whole && site.Argument(whole).Constant is { } expression && RegexSafety.IsWholeAndHarmless("^" + expression.TrimStart('^').TrimEnd('$') + "$"),
            "pattern" => held is { } text && RegexSafety.IsWholeAndHarmless(text.Pattern),
            _ => true,
        };
        if (accepted && tested >= 0 && test.Throws)
        {
            _guards.NotePassed(_function.BlockOf[site.Index], [new GuardFact(tested, SafeAfter(test, site))]);
        }
        else if (accepted && tested >= 0)
        {
            _guards.NoteTest(site.Index, tested, test.Answer, SafeAfter(test, site));
        }
        else if (held is { } local && RegexSafety.IsLocalPath(local.Pattern))
        {
            _guards.NoteTest(site.Index, tested, true, OutputContext.Redirect | OutputContext.Address);
        }
        else if (test.Pattern is { } forbidding && site.Argument(forbidding).Constant is { } negative && RegexSafety.FindsForbidden(negative))
        {
            _guards.NoteTest(site.Index, tested, false);
        }
    }

    /// <summary>The pattern of a test and the value that is held against it: either may be the object.</summary>
    private (string Pattern, int Value)? PatternAndValue(TestModel test, CallSite site)
    {
        var receiver = _function.Instructions[site.Index].A;
        return test.Pattern is { } at && site.Argument(at).Constant is { } pattern ? (pattern, test.Value == -1 ? receiver : site.Operand(test.Value))
            : test is { Value: -1, Pattern: 0 } && site.Receiver is { ConstantKind: LiteralKind.Pattern, Constant: { } own } ? (own, site.Operand(0))
            : null;
    }

    /// <summary>Where a value is harmless once it passed the test. A path that begins as it should stays on the site, or in its folder.</summary>
    private static OutputContext SafeAfter(TestModel test, CallSite site) => test.Kind switch
    {
        _ when test.For.Count > 0 => test.For.Aggregate(OutputContext.None, (all, name) => all | OutputContexts.Named(name)),
        "text" => OutputContext.Object,
        "prefix" => site.Argument(test.Pattern ?? 0).Constant is { } prefix
            ? prefix.Length > 1 && (prefix.StartsWith('/') || prefix.Contains("://", StringComparison.Ordinal)) ? OutputContext.Redirect | OutputContext.Path | WithinHost(prefix) : prefix == "/" ? OutputContext.Redirect : OutputContext.None
            : OutputContext.Path | OutputContext.Redirect | OutputContext.ServerAddress,
        _ => OutputContext.All,
    };

    /// <summary>What begins so names the host, to its end: <c>https://api.fernhollow.example</c> could go on as another one's name.</summary>
    private static OutputContext WithinHost(string prefix) =>
        prefix.IndexOf("://", StringComparison.Ordinal) is > 0 and var at && prefix.IndexOf('/', at + 3) > 0 ? OutputContext.ServerAddress : OutputContext.None;

    private AbstractValue? ApplyCallback(CallModel fact, CallbackModel callback, CallSite site)
    {
        AbstractValue? result = null;
        var declared = DeclaredInput(callback, site);
        IReadOnlyList<InputCheck> passed = callback.Inputs is null ? [] : declared;
        var from = callback.From == -2 ? Math.Max(0, site.Arguments.Count - 1) : callback.From;
        for (var i = from; i < site.Arguments.Count; i++)
        {
            var argument = site.Arguments[i];
            foreach (var function in callback.Entry is null ? FunctionsIn(argument, 0) : [.. FunctionsIn(argument, 0), .. NamedHandlers(argument)])
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
                var given = ApplyFunction(function, new CallSite(site.Index, AbstractValue.Unknown, values, []));
                if (callback.ReturnsResponse)
                {
                    NoteAnswer(function, given, Answer);
                }

                result = AbstractValue.Join(result, given);
                if (_visit.SummaryOf(function) is { ValidatedInputs: { Count: > 0 } passes })
                {
                    passed = [.. passed.Concat(passes.SelectMany(p => p == InputCheck.Declared ? declared : [p])).Distinct()];
                }
            }

            if (argument.Library is { } library && _facts.Call(library) is { Callback: null } named)
            {
                return ApplyFact(named, new CallSite(site.Index, AbstractValue.Unknown, callback.Parameters.ConvertAll(p => CallbackArgument(p, fact, site)), []), false);
            }
        }

        return result;
    }

    /// <summary>What a function gives back goes somewhere, from its last return: to the visitor, or into the session.</summary>
    private void NoteAnswer(IrFunction handler, AbstractValue answer, SinkModel place)
    {
        var at = Array.FindLastIndex(handler.Instructions, i => i.Op == Opcode.Return && i.A >= 0);
        if (at < 0 || (answer.Fields is null && !IsOfRecords(answer)))
        {
            return;
        }

        _visit.NotePlaces(handler.File);
        AddEvent(new AnalysisEvent
        {
            Kind = EventKind.Sink,
            Fact = null,
            Sink = place,
            Function = handler,
            At = handler.LocationOf(at),
            Roles = new Dictionary<string, AbstractValue>(StringComparer.Ordinal) { ["value"] = answer },
        });
    }

    private static readonly SinkModel Answer = new() { Kind = "response", Parts = true };

    private static readonly SinkModel IntoSession = new() { Kind = "session", Parts = true };

    /// <summary>The functions that a value is or holds: handlers stand in lists and among options.</summary>
    /// <summary>The method that a list of a class and a name stands for, or a name of both, or a class that is called itself: <c>[HiveController::class, 'show']</c>.</summary>
    private IEnumerable<IrFunction> NamedHandlers(AbstractValue handler)
    {
        var (of, method) = handler.Fields is { Count: 2 } pair && pair.TryGetValue("0", out var first) && pair.TryGetValue("1", out var second) ? (first, second.Constant)
            : handler.Constant?.Split(['@', ':'], StringSplitOptions.RemoveEmptyEntries) is [{ Length: > 0 } named, { Length: > 0 } after] ? (AbstractValue.OfConstant(LiteralKind.Text, named), after)
            : (handler, "__invoke");
        var type = of.Targets.OfType<IrClass>().FirstOrDefault() ?? (of.Constant is { Length: > 0 } name ? _program.Program.FindClass(name.TrimStart('\\'), _file)?.Primary : null);
        if (_php && type is not null && method is { Length: > 0 } && _program.Program.FindMethod(type, method) is { } function)
        {
            yield return function;
        }
    }

    private static List<IrFunction> FunctionsIn(AbstractValue value, int depth)
    {
        var functions = value.Targets.OfType<IrFunction>().ToList();
        if (functions.Count > 0 && value.Payload is { Targets.Count: > 0 } wrapped && depth < AbstractValue.MaxDepth)
        {
            // What stands around a function mostly hands it what it got itself.
            functions.AddRange(FunctionsIn(wrapped, depth + 1));
        }

        if (value.Fields is not null && depth < AbstractValue.MaxDepth)
        {
            foreach (var field in value.Fields.Values)
            {
                functions.AddRange(FunctionsIn(field, depth + 1));
            }
        }

        return functions;
    }

    private AbstractValue CallbackArgument(string kind, CallModel fact, CallSite site) => kind switch
    {
        "_" => AbstractValue.Unknown,
        "error" => _facts.KnowsType(ErrorType) ? AbstractValue.OfType(ErrorType) : AbstractValue.Unknown,
        "receiver" => site.Receiver,
        "element" => FieldAccess.Element(site.Receiver),
        "records" => WithRecordsOf(fact, site),
        "digest" => fact.Hash is null ? AbstractValue.Unknown : HashResult(fact, site),
        _ => WithStatement(fact, site, AbstractValue.OfType(kind)),
    };
}
