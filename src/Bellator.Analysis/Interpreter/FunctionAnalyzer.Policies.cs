using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Summaries;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>Classes of the program's own that a framework asks whether the person may do something to a record.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>Stands for the record's class in the names of the classes that answer.</summary>
    private const string AnyRecord = "*";

    /// <summary>Before the name of what may be done to records, where the program keeps the function that says who may.</summary>
    private static StoreKey AbilityKey(string name) => new(StoreKind.Library, 0, "<ability>" + name);

    private void DefineAbility(CallModel fact, CallSite site)
    {
        if (fact.DefinesAbility is [var name, var decides] && site.Argument(name).Constant is { } ability)
        {
            Keep(AbilityKey(ability), site.Argument(decides));
        }
    }

    /// <summary>What the class or function answers that decides about the record; null where none of the program was found to.</summary>
    private AbstractValue? AskPolicy(PolicyCallModel asked, CallSite site)
    {
        var record = site.Argument(asked.Record);
        var ability = asked.Ability is { } at ? site.Argument(at).Constant : null;
        if (ability is not null && _visit.Load(AbilityKey(ability)) is { } kept && kept.Targets.OfType<IrFunction>().FirstOrDefault() is { } defined)
        {
            return Judged(defined, new CallSite(site.Index, AbstractValue.Unknown, [SubjectValue(site.Index, "user"), record], [-1, site.Operand(asked.Record)]), site);
        }

        if (asked.Base.Length > 0 && !site.Has(asked.Record))
        {
            // What is asked of no record is a role, which the framework knows itself.
            return null;
        }

        var name = asked.Method.Length > 0 ? asked.Method : MethodOf(ability ?? _function.Name, asked.Suffix);
        if (PolicyOf(asked, record, name) is not { } policy)
        {
            return null;
        }

        AbstractValue[] given = [.. asked.Gets.Select(g => g switch
        {
            "subject" => SubjectValue(site.Index, "user"),
            "record" => record,
            "ability" when ability is not null => AbstractValue.OfConstant(LiteralKind.Text, ability),
            _ => AbstractValue.Unknown,
        })];
        var to = new CallSite(site.Index, TypedValue("#" + policy.Primary.Id), given, [.. asked.Gets.Select(g => g == "record" ? site.Operand(asked.Record) : -1)]);
        if (asked.Constructs)
        {
            to = new CallSite(site.Index, Instantiate(policy.Primary, to), [], []);
        }

        return asked.Gives ? to.Receiver : _program.Program.FindMethod(policy.Primary, name) is { } method ? Judged(method, to, site) is var answer && asked.GivesRecord ? record : answer : null;
    }

    /// <summary>What the function answers. Where nothing of the person is seen in it, it still may decide by what was not understood.</summary>
    private AbstractValue Judged(IrFunction function, CallSite asked, CallSite site)
    {
        var answer = ApplyFunction(function, asked);
        if (!StandsForSubject(answer) && _visit.SummaryOf(function) is { } summary && !IsDecidedIn(summary, 0))
        {
            NoteDecision(site, CalledName(site.Index));
        }

        return answer;
    }

    /// <summary>Policies ask each other: <c>update?</c> what <c>owner?</c> says.</summary>
    private bool IsDecidedIn(FunctionSummary summary, int depth) =>
        summary.Events.Any(e => e.Kind == EventKind.Decision) || (depth < MaxPolicyDepth && summary.Calls.Any(c => _visit.SummaryOf(c.Target) is { } inner && IsDecidedIn(inner, depth + 1)));

    /// <summary>Calls between a policy's method and the one that decides.</summary>
    private const int MaxPolicyDepth = 3;

    /// <summary>The method's name as the language writes it: <c>view-any</c> is <c>viewAny</c> in PHP, and <c>update</c> is <c>update?</c> in Ruby.</summary>
    private static string MethodOf(string ability, string suffix)
    {
        var parts = ability.Split('-');
        var name = parts.Length == 1 ? ability : parts[0] + string.Concat(parts.Skip(1).Select(p => p.Length == 0 ? p : char.ToUpperInvariant(p[0]) + p[1..]));
        return name.EndsWith(suffix, StringComparison.Ordinal) ? name : name + suffix;
    }

    private IrClass? PolicyOf(PolicyCallModel asked, AbstractValue record, string method)
    {
        List<string> named = [.. record.Targets.OfType<IrClass>().Concat(record.Types.Select(_program.Program.ClassOfType).Append(RecordClass(record)).OfType<IrClass>()).Select(c => c.ShortName).Distinct()];
        if (asked.Class.Length > 0)
        {
            var found = named.Select(n => _program.Program.FindClass(asked.Class.Replace(AnyRecord, n, StringComparison.Ordinal), _file)).FirstOrDefault(c => c is not null);

            // Nothing tells of what class the record is: the only class of the kind that has the method.
            return found ?? (named.Count > 0 ? null : Only(_program.Program.ClassesEndingWith(asked.Class.Replace(AnyRecord, "", StringComparison.Ordinal), _file).Where(c => c.Methods.ContainsKey(method))));
        }

        var derived = _program.Program.DerivedFrom(asked.Base);
        return Only(derived.Where(c => named.Exists(n => c.ShortName.StartsWith(n, StringComparison.Ordinal)))) ?? Only(derived);
    }

    private static IrClass? Only(IEnumerable<IrClass> candidates) => candidates.Take(2).ToList() is [var one] ? one : null;
}
