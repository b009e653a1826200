using System.Collections.Concurrent;
using System.Globalization;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Endpoints;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Accounts;

/// <summary>What a rule for an input field asks for.</summary>
public enum RuleKind
{
    /// <summary>Something that is not known further.</summary>
    Other,
    Required,
    Minimum,
    Maximum,
    Pattern,
    Email,
}

/// <summary>A rule that code has for an input field.</summary>
/// <param name="Number">For a length; null where the program reads it from somewhere.</param>
/// <param name="Pattern">A regular expression, as the language writes it.</param>
public sealed record InputRule(string Field, RuleKind Kind, int? Number, string? Pattern, Location At, string Text);

/// <summary>
/// Reads the rules for input fields: schemas, marks on the fields of classes, rule texts, validations of models, and conditions in the
/// code that handles them.
/// </summary>
public sealed class InputRules(AccountContext context)
{
    private const int MaxDepth = 8;

    /// <summary>A length compared with more than this is one that may not be passed.</summary>
    private const int LongestMinimum = 24;

    /// <summary>No field has a longer name.</summary>
    private const int LongestName = 40;

    private static readonly string[] Lengths = ["length", "len", "size", "strlen", "mb_strlen", "Length", "count", "iconv_strlen", "grapheme_strlen"];
    private static readonly string[] Matching = ["preg_match", "test", "match", "match?", "matches", "IsMatch", "fullmatch", "search", "=~"];
    private readonly ConcurrentDictionary<IrFunction, Conditions> _conditions = [];
    private readonly Lazy<DeclaredRule[]> _declared = new(() => Declared(context));

    /// <param name="Table">The table whose records the rule is for; null for input of any kind.</param>
    private sealed record DeclaredRule(InputRule Rule, string Field, string Family, string? Table);

    private static DeclaredRule[] Declared(AccountContext context)
    {
        var declared = new DeclaredRules(context.Program, context.Words);
        DeclaredRule Of(InputRule rule, string? table) => new(rule, Plain(rule.Field), Languages.Family(context.Program.Files[rule.At.File].Source.Language), table);
        return [.. context.Program.Classes.SelectMany(c => declared.OfClass(c).Select(r => Of(r, null)))
            .Concat(context.Program.Classes.SelectMany(c => declared.OfModel(c).Select(r => Of(r, context.Surface.TableOf(c)))))
            .Concat(context.Program.Functions.SelectMany(declared.Of).Select(r => Of(r, null)))];
    }

    /// <summary>What the classes of the accounts an entry point uses say of all their fields, sent by name or not.</summary>
    public IEnumerable<InputRule> OfAccounts(JourneyEvidence evidence) =>
        _declared.Value.Where(d => d.Table is not null && evidence.OnAccounts(RecordAction.Create, RecordAction.Edit).Any(a => a.Table == d.Table)).Select(d => d.Rule);

    /// <summary>Rules for the fields that an entry point reads.</summary>
    public IReadOnlyList<InputRule> For(JourneyEvidence evidence)
    {
        var fields = evidence.Fields.Select(Plain).ToHashSet(StringComparer.Ordinal);
        if (evidence.Fields.Any(context.Words.IsPassword))
        {
            // A model calls it so, whatever the form does.
            fields.Add("password");
        }

        if (fields.Count == 0 && evidence.TakesWholeBody)
        {
            fields = [.. _declared.Value.Select(d => d.Field)];
        }

        var family = evidence.Entry.Handler is { } handler ? Languages.Family(handler.File.Source.Language) : "";
        var declared = _declared.Value.Where(d => d.Family == family && fields.Contains(d.Field) && (d.Table is null || evidence.Details.Accesses.Any(a => a.Table == d.Table))).Select(d => d.Rule);
        var own = evidence.Functions.Select(f => _conditions.GetOrAdd(f, ConditionsOf)).ToList();
        var made = own.SelectMany(c => c.Made).Where(r => fields.Contains(Plain(r.Field)));
        return [.. declared.Concat(made).Concat(own.SelectMany(c => OfConditions(c, fields))).DistinctBy(r => (Plain(r.Field), r.At, r.Kind))];
    }

    public static string Plain(string name) => string.Concat(IdentifierClassifier.Parts(name));

    /// <summary>What a function asks of values, and the names that each condition speaks of; and the rules that it makes.</summary>
    private sealed record Conditions(IrFunction Function, (int Value, string[] Names)[] All, InputRule[] Made);

    private Conditions ConditionsOf(IrFunction function) => new(
        function,
        [.. function.Blocks.Where(b => b is { IsReachable: true, Condition: >= 0 }).Select(b => (b.Condition, Mentioned(function, b.Condition, 0).Distinct(StringComparer.OrdinalIgnoreCase).ToArray()))],
        [.. new RuleObjects(context).In(function, (f, value) => Mentioned(f, value, 0))]);

    /// <summary>Conditions that speak of the fields; those that only ask the database are no rules.</summary>
    private IEnumerable<InputRule> OfConditions(Conditions conditions, HashSet<string> fields)
    {
        foreach (var (value, names) in conditions.All)
        {
            foreach (var field in names.Where(m => fields.Contains(Plain(m))))
            {
                var at = conditions.Function.LocationOf(value);
                yield return OfCondition(field, conditions.Function, value, at, 0) ?? new InputRule(field, RuleKind.Other, null, null, at, context.TextOf(at));
            }
        }
    }

    private InputRule? OfCondition(string field, IrFunction function, int value, Location at, int depth)
    {
        if (value < 0 || depth > MaxDepth)
        {
            return null;
        }

        var instruction = function.Instructions[value];
        switch (instruction.Op)
        {
            case Opcode.Unary or Opcode.Cast:
                return OfCondition(field, function, instruction.A, at, depth + 1);
            case Opcode.Binary when instruction.Text is "&&" or "||" or "and" or "or":
                return OfCondition(field, function, instruction.A, at, depth + 1) is { Kind: not RuleKind.Required } left ? left : OfCondition(field, function, instruction.B, at, depth + 1);
            case Opcode.Phi:
                return function.List(instruction).ToArray().Where(o => o.Value < value).Select(o => OfCondition(field, function, o.Value, at, depth + 1)).OfType<InputRule>().OrderBy(r => r.Kind == RuleKind.Required).FirstOrDefault();
            case Opcode.Binary when instruction.Text is "<" or "<=" or ">" or ">=":
                var isLeft = IsLength(function, instruction.A);
                var constant = isLeft ? instruction.B : IsLength(function, instruction.B) ? instruction.A : -1;
                var sign = isLeft ? instruction.Text! : instruction.Text! switch { "<" => ">", "<=" => ">=", ">" => "<", _ => "<=" };
                if (constant < 0 || function.Instructions[constant] is not { Op: Opcode.Constant, Text: { } text } || !int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number))
                {
                    return constant < 0 ? null : new InputRule(field, sign is "<" or ">=" ? RuleKind.Minimum : RuleKind.Maximum, null, null, at, context.TextOf(at));
                }

                // Short lengths are lower bounds and long ones upper bounds, whether the condition is for those who pass or for those who do not.
                return number > LongestMinimum
                    ? new InputRule(field, RuleKind.Maximum, sign is ">" or "<=" ? number : number - 1, null, at, context.TextOf(at))
                    : new InputRule(field, RuleKind.Minimum, sign is "<" or ">=" ? number : number + 1, null, at, context.TextOf(at));
            case Opcode.Binary when instruction.Text is "!=" or "!==" or "==" or "===":
                return new InputRule(field, RuleKind.Required, null, null, at, context.TextOf(at));
            case Opcode.Call or Opcode.CallMethod or Opcode.CallStatic:
                var name = IrClass.ShortOf((instruction.Op == Opcode.Call ? function.Instructions[instruction.A].Text : instruction.Text) ?? "");
                var operands = function.List(instruction).ToArray().Select(o => o.Value).Prepend(instruction.Op == Opcode.CallMethod ? instruction.A : -1).Where(v => v >= 0).Select(v => function.Instructions[v]).ToList();
                if (Matching.Contains(name) && operands.Find(o => o.Op == Opcode.Constant && o.Text is { Length: > 1 }) is { Text: { } pattern })
                {
                    return new InputRule(field, RuleKind.Pattern, null, pattern, at, context.TextOf(at));
                }

                return name is "filter_var" or "validate_email" or "isEmail" or "isValidEmail" ? new InputRule(field, RuleKind.Email, null, null, at, context.TextOf(at))
                    : name is "isset" or "empty" or "is_string" or "blank?" or "present?" or "IsNullOrEmpty" or "IsNullOrWhiteSpace" ? new InputRule(field, RuleKind.Required, null, null, at, context.TextOf(at)) : null;
            default:
                return null;
        }
    }

    private static bool IsLength(IrFunction function, int value) => value >= 0 && function.Instructions[value] is var instruction && instruction.Op switch
    {
        Opcode.GetField or Opcode.CallMethod => Lengths.Contains(instruction.Text),
        Opcode.Call => Lengths.Contains(IrClass.ShortOf(function.Instructions[instruction.A].Text ?? "")),
        _ => false,
    };

    /// <summary>Names of variables, parameters, keys and members that a value is made of; calls that ask the database are left out.</summary>
    private IEnumerable<string> Mentioned(IrFunction function, int value, int depth)
    {
        if (value < 0 || depth > MaxDepth)
        {
            yield break;
        }

        if (function.Names.TryGetValue(value, out var variable))
        {
            yield return variable.TrimStart('$');
        }

        var instruction = function.Instructions[value];
        IEnumerable<int> inner = [];
        switch (instruction.Op)
        {
            case Opcode.Parameter:
                yield return function.Parameters[instruction.A].Name.TrimStart('$');
                break;
            case Opcode.LoadCell or Opcode.LoadShared when instruction.Text is { } text:
                yield return text.TrimStart('$');
                break;
            case Opcode.GetField:
                yield return instruction.Text!;
                inner = [instruction.A];
                break;
            case Opcode.GetItem:
                if (instruction.B >= 0 && function.Instructions[instruction.B] is { Op: Opcode.Constant, Text: { } key })
                {
                    yield return key;
                }

                inner = [instruction.A];
                break;
            case Opcode.Unary or Opcode.Cast:
                inner = [instruction.A];
                break;
            case Opcode.Binary:
                inner = [instruction.A, instruction.B];
                break;
            case Opcode.Phi:
                inner = function.List(instruction).ToArray().Select(o => o.Value).Where(v => v < value);
                break;
            case Opcode.CallMethod when instruction.C == 0 && !AsksDatabase(function, value):
                // Where a part of an object is read by a call.
                yield return instruction.Text!;
                inner = [instruction.A];
                break;
            case Opcode.Call or Opcode.CallMethod or Opcode.CallStatic when !AsksDatabase(function, value):
                if (instruction.C is 1 or 2 && function.Instructions[function.List(instruction)[0].Value] is { Op: Opcode.Constant, A: (int)LiteralKind.Text, Text: { Length: > 0 and < LongestName } asked })
                {
                    // A part of the request, asked for by its name: $request->request->get('password').
                    yield return asked;
                }

                inner = function.List(instruction).ToArray().Select(o => o.Value).Concat(instruction.Op == Opcode.CallMethod ? [instruction.A] : []);
                break;
        }

        foreach (var part in inner)
        {
            foreach (var name in Mentioned(function, part, depth + 1))
            {
                yield return name;
            }
        }
    }

    private bool AsksDatabase(IrFunction function, int call)
    {
        var at = function.LocationOf(call);
        var summary = context.Flow.SummaryOf(function);
        return summary.Events.Any(e => e.Place == at && e.Kind is EventKind.Query or EventKind.Run or EventKind.Access or EventKind.Verify)
            || summary.Calls.Any(c => c.Instruction == call && context.Flow.SummaryOf(c.Target).Events.Any(e => e.Kind is EventKind.Query or EventKind.Run or EventKind.Access or EventKind.Verify));
    }
}
