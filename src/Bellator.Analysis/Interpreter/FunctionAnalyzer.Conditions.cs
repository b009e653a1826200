using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>Conditions that a mapper is given as expressions over its columns, and that a query carries until it is run.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>The type of what a query carries: its fields are columns, with what they are held against.</summary>
    private const string QueryConditions = "conditions";

    /// <summary>Under this name stands a condition that was not understood.</summary>
    private const string UnknownCondition = "unknown";

    /// <summary>A column that is held against something else than one value.</summary>
    private static readonly AbstractValue Tested = AbstractValue.OfConstant(LiteralKind.Text, "");

    /// <summary>What the query carries after the call.</summary>
    private AbstractValue WithConditions(CallModel fact, CallSite site)
    {
        var columns = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
        if (fact.Alternative)
        {
            columns[UnknownCondition] = AbstractValue.Unknown;
            if (fact.Widens)
            {
                AddWidening(site, columns);
            }
        }
        else if (site.Receiver.Payload is { Fields: { } before } carried && carried.Types.Contains(QueryConditions))
        {
            foreach (var (column, value) in before)
            {
                columns[column] = value;
            }
        }

        if (fact.ColumnCondition)
        {
            AddColumn(site, columns);
        }

        if (fact.TextCondition)
        {
            AddText(site, columns);
        }

        var about = RecordsName(site.Receiver);
        for (var i = 0; fact.Conditions && i < site.Arguments.Count; i++)
        {
            if (i < site.Names.Count && site.Names[i] is { } named)
            {
                columns[ColumnNamed(named)] = site.Arguments[i];
            }
            else if (site.Operand(i) < 0 && NamesSubject(site.Arguments[i]))
            {
                // Names that are put together elsewhere: a column is held against the person, whichever it is.
                columns["?"] = site.Arguments[i];
            }
            else if (site.Arguments[i].Targets.Count > 0)
            {
                AddStated(site.Arguments[i], "", columns);
            }
            else if (!AddCondition(site.Operand(i), about, columns, 0))
            {
                columns[UnknownCondition] = AbstractValue.Unknown;
            }
        }

        return new AbstractValue { Fields = AbstractValue.Bounded(columns), Types = [QueryConditions], Targets = AbstractValue.Union(site.Receiver.Payload?.Targets ?? [], Stated(site.Arguments)) };
    }

    /// <summary>The functions that are the condition: what they hold against the person is in the columns.</summary>
    private static List<object> Stated(IEnumerable<AbstractValue> given) => [.. given.SelectMany(a => a.Targets).Where(t => t is IrFunction f && StatesCondition(f))];

    /// <summary>The condition of a use of records, with what its query carries.</summary>
    private AbstractValue OnConditions(AbstractValue where, AbstractValue records)
    {
        if (where is { Fields: null, Targets.Count: > 0 } && where.Targets.OfType<IrFunction>().Any(StatesCondition))
        {
            var stated = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
            AddStated(where, "", stated);
            where = where.With(fields: AbstractValue.Bounded(stated));
        }

        where = where.Types.Contains(QueryConditions) ? OfTable(where, RecordsName(records) ?? records.Name) : where;
        if (records.Payload is not { Fields: { Count: > 0 } carried } payload || !payload.Types.Contains(QueryConditions))
        {
            return where;
        }

        var columns = new Dictionary<string, AbstractValue>(carried, StringComparer.Ordinal);
        foreach (var (column, value) in where.Fields ?? [])
        {
            columns[column] = value;
        }

        return new AbstractValue { Fields = AbstractValue.Bounded(columns), Taints = where.Taints, Types = where.Types, Targets = AbstractValue.Union(payload.Targets, where.Targets) };
    }

    /// <summary>It may be a condition on records: it is written in place, and answers from what it is given.</summary>
    private static bool StatesCondition(IrFunction function) => function is { Outer: not null, Name.Length: 0, Parameters.Count: 1 } && function.Instructions.Length <= MaxConditionLength;

    /// <summary>Conditions are short; what is longer is other code.</summary>
    private const int MaxConditionLength = 64;

    /// <summary>How deep the parts of a condition are nested that is followed.</summary>
    private const int MaxConditionDepth = 16;

    /// <summary>What the function says of the columns of its only parameter, where it is a condition on records: <c>h => h.KeeperId == me.Id</c>.</summary>
    private AbstractValue? StatedCondition()
    {
        if (!StatesCondition(_function) || AnswerOf(_function) is not (>= 0 and var answer))
        {
            return null;
        }

        var columns = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
        var isKnown = AddCondition(answer, null, columns, 0);
        if (columns.Count == 0)
        {
            return null;
        }

        if (!isKnown)
        {
            columns[UnknownCondition] = AbstractValue.Unknown;
        }

        return new AbstractValue { Fields = AbstractValue.Bounded(columns), Types = [QueryConditions] };
    }

    /// <summary>The one value that the function gives back; -1 if there are several ways.</summary>
    private static int AnswerOf(IrFunction function)
    {
        var answer = -1;
        foreach (var i in function.Blocks.Where(b => b.IsReachable).SelectMany(b => b.Instructions).Where(i => function.Instructions[i].Op == Opcode.Return))
        {
            if (answer >= 0)
            {
                return -1;
            }

            answer = function.Instructions[i].A;
        }

        return answer;
    }

    /// <summary>Adds what functions say that are given as a condition; of several, only one is meant, so that nothing is sure.</summary>
    private void AddStated(AbstractValue given, string prefix, Dictionary<string, AbstractValue> columns)
    {
        var functions = given.Targets.OfType<IrFunction>().ToList();
        foreach (var function in functions)
        {
            _visit.NoteCall(function);
        }

        if (functions is not [var one] || _visit.SummaryOf(one)?.Condition is not { Fields: { } stated })
        {
            columns[prefix + UnknownCondition] = AbstractValue.Unknown;
            return;
        }

        foreach (var (column, value) in stated)
        {
            columns[prefix + column] = value;
        }
    }

    /// <summary>Adds the columns that an expression holds against something; false if it was not understood.</summary>
    private bool AddCondition(int at, string? about, Dictionary<string, AbstractValue> columns, int depth)
    {
        if (at < 0 || depth > MaxConditionDepth)
        {
            return false;
        }

        var instruction = _function.Instructions[at];
        switch (instruction.Op)
        {
            case Opcode.Binary when instruction.Text is "&" or "and" or "&&":
                return AddCondition(instruction.A, about, columns, depth + 1) & AddCondition(instruction.B, about, columns, depth + 1);
            case Opcode.Binary when instruction.Text is "|" or "or" or "||":
                return AddAlternative(instruction.A, instruction.B, about, columns, depth);
            case Opcode.Phi when ShortCircuit(at) is var (first, second, both):
                return both ? AddCondition(first, about, columns, depth + 1) & AddCondition(second, about, columns, depth + 1) : AddAlternative(first, second, about, columns, depth);
            case Opcode.Binary when instruction.Text is "==" or "===" && (ColumnAt(instruction.A, about) ?? ColumnAt(instruction.B, about)) is { } column:
                columns[column] = TestedValue(Get(ColumnAt(instruction.A, about) is null ? instruction.A : instruction.B));
                return true;
            case Opcode.Binary when instruction.Text is "!=" or "<" or ">" or "<=" or ">=" && (ColumnAt(instruction.A, about) ?? ColumnAt(instruction.B, about)) is { } column:
                columns[column] = Tested;
                return true;
            case Opcode.Unary when ColumnAt(instruction.A, about) is { } column:
                columns[column] = Tested;
                return true;
            case Opcode.Unary when instruction.Text is "!" or "not":
                return AddNegated(instruction.A, about, columns, depth);
            case Opcode.CallMethod when ColumnAt(instruction.A, about) is { } column && instruction.C > 0 && Get(_function.Operands[instruction.B].Value) is { Targets.Count: > 0 } inner:
                AddStated(inner, column + ".", columns);
                return true;
            case Opcode.CallMethod when instruction.C > 0 && ColumnAt(_function.Operands[instruction.B].Value, about) is { } column && ColumnAt(instruction.A, about) is null:
                columns[column] = TestedValue(Get(instruction.A));
                return true;
            case Opcode.CallMethod when ColumnAt(instruction.A, about) is { } column:
                columns[column] = instruction is { C: > 0, Text: { } method } && _program.Vocabulary.HoldsValue(method) ? Get(_function.Operands[instruction.B].Value) : Tested;
                return true;
            case Opcode.GetField when ColumnAt(at, about) is { } column:
                columns[column] = Tested;
                return true;
            case Opcode.Call when Get(instruction.A).Library is { } library && _facts.Call(library) is { Conditions: true }:
                return AddGiven(instruction, about, columns, depth);
            default:
                return false;
        }
    }

    /// <summary>A condition that is made of others, and of columns by name: <c>Q(keeper=me, gone=False)</c>.</summary>
    private bool AddGiven(in Instruction call, string? about, Dictionary<string, AbstractValue> columns, int depth)
    {
        var isKnown = true;
        foreach (var operand in _function.List(call).ToArray())
        {
            if (operand.Name is { Length: > 0 } named && named[0] != '=')
            {
                columns[ColumnNamed(named)] = TestedValue(Get(operand.Value));
            }
            else
            {
                isKnown &= !operand.Spread && AddCondition(operand.Value, about, columns, depth + 1);
            }
        }

        return isKnown;
    }

    /// <summary>The column that the name of a condition means: <c>client__tuner_id__in</c> is the client’s tuner, <c>client.tuner_id</c>.</summary>
    private string ColumnNamed(string name)
    {
        if (_facts.Lookups.Count == 0 || !name.Contains("__", StringComparison.Ordinal))
        {
            return name;
        }

        var parts = name.Split("__", StringSplitOptions.RemoveEmptyEntries);
        while (parts.Length > 1 && _facts.Lookups.Contains(parts[^1]))
        {
            parts = parts[..^1];
        }

        return string.Join('.', parts);
    }

    /// <summary>The operands of <c>&amp;&amp;</c> and <c>||</c>, of which the second is reached only where the first does not decide.</summary>
    private (int First, int Second, bool Both)? ShortCircuit(int phi)
    {
        var block = _function.BlockOf[phi];
        var operands = _function.List(_function.Instructions[phi]);
        if (operands.Length != 2 || _function.Blocks[block].Predecessors is not { Count: 2 } before)
        {
            return null;
        }

        for (var i = 0; i < 2; i++)
        {
            var deciding = _function.Blocks[before[i]];
            if (deciding.Condition >= 0 && deciding.Condition == operands[i].Value && deciding.Successors.Count == 2)
            {
                return (operands[i].Value, operands[1 - i].Value, deciding.Successors[0] != block);
            }
        }

        return null;
    }

    /// <summary>Both ways must be the person's own for the rows to be; a column that only one of them tests says nothing.</summary>
    private bool AddAlternative(int first, int second, string? about, Dictionary<string, AbstractValue> columns, int depth)
    {
        var left = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
        var right = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
        if (!AddCondition(first, about, left, depth + 1) | !AddCondition(second, about, right, depth + 1))
        {
            return false;
        }

        // What a parameter brings may turn out to be the person, where both ways have the same one.
        var given = left.Values.SelectMany(ParametersIn).Intersect(right.Values.SelectMany(ParametersIn)).ToHashSet();
        bool IsTied(AbstractValue value) => NamesSubject(value) || ParametersIn(value).Any(given.Contains);
        if (left.Values.Any(IsTied) && right.Values.Any(IsTied))
        {
            foreach (var (column, value) in left.Concat(right).Where(c => IsTied(c.Value)))
            {
                columns[column] = value;
            }

            return true;
        }

        foreach (var (column, value) in left.Where(c => right.ContainsKey(c.Key)))
        {
            columns[column] = AbstractValue.Join(value, right[column]);
        }

        if (left.Values.Any(NamesSubject) || right.Values.Any(NamesSubject))
        {
            // The person's own rows, and others: which ones is decided by what stands beside.
            columns[UnknownCondition] = AbstractValue.Unknown;
            var others = (left.Values.Any(NamesSubject) ? right : left).Keys.Where(c => c != UnknownCondition).ToList();
            if (others.Count > 0)
            {
                columns[WidenedBy + string.Join(", ", others)] = Tested;
            }
        }

        return true;
    }

    /// <summary>
    /// Two sets of records, or two classes of rules, of which both or one must hold. Of sets one of which is the person’s, the other’s rows
    /// come along; of rules one of which is a library’s that asks nothing, nothing is left. Null for anything else.
    /// </summary>
    private static AbstractValue? Combined(bool both, AbstractValue left, AbstractValue right)
    {
        if (IsQuery(left) && IsQuery(right))
        {
            var joined = AbstractValue.Join(left, right);
            var (limited, other) = IsLimited(left) ? (left, right) : (right, left);
            if (both || !IsLimited(limited) || IsLimited(other))
            {
                return both && IsLimited(limited) ? limited : joined;
            }

            var columns = new Dictionary<string, AbstractValue>(StringComparer.Ordinal) { [UnknownCondition] = AbstractValue.Unknown };
            if (other.Payload?.Fields is { Count: > 0 } wider)
            {
                columns[WidenedBy + string.Join(", ", wider.Keys)] = Tested;
            }

            return joined.With(taints: [.. joined.Taints.Where(t => t.Origin.Kind != OriginKind.Subject && !t.Selects)], carried: new AbstractValue { Fields = columns, Types = [QueryConditions] });
        }

        if (left.Targets.OfType<IrClass>().Any() || right.Targets.OfType<IrClass>().Any())
        {
            return both || (left.Targets.Count > 0 && right.Targets.Count > 0) ? AbstractValue.Join(left, right) : AbstractValue.Unknown;
        }

        return null;
    }

    private static IEnumerable<int> ParametersIn(AbstractValue value) => FieldAccess.DeepTaints(value).Where(t => t.IsParameter).Select(t => t.Origin.Index);

    /// <summary>Begins the key under which a condition has the columns of an alternative that is not tied to the person, where another one is.</summary>
    public const string WidenedBy = "or:";

    /// <summary>Begins the key of a column that holds rows against the person only where the request asks for that.</summary>
    public const string OnlyIfAsked = "asked:";

    /// <summary>It stands for records that are still to be fetched.</summary>
    private static bool IsQuery(AbstractValue value) => value.Types.Any(t => t[0] == RecordsMark) || (value.Payload?.Types.Contains(QueryConditions) ?? false);

    private static bool IsLimited(AbstractValue query) => StandsForSubject(query) || (query.Payload is { } conditions && conditions.Types.Contains(QueryConditions) && conditions.Parts.Any(NamesSubject));

    /// <summary>
    /// The query where a condition on the person was put on one way and not on another: it holds on neither then. Where the request decides
    /// which way is taken, whoever asks chooses. Null where all ways are limited, or none.
    /// </summary>
    private AbstractValue? LimitedOnOneWay(AbstractValue joined, List<AbstractValue> queries, BasicBlock block)
    {
        var limited = queries.Where(IsLimited).ToList();
        if (limited.Count == 0 || limited.Count == queries.Count)
        {
            return null;
        }

        var columns = new Dictionary<string, AbstractValue>(StringComparer.Ordinal) { [UnknownCondition] = AbstractValue.Unknown };
        if (block.Dominator >= 0 && _function.Blocks[block.Dominator].Condition is >= 0 and var test && IsAskedByRequest(test, 0))
        {
            var names = limited.SelectMany(q => q.Payload?.Fields ?? []).Where(f => NamesSubject(f.Value)).Select(f => f.Key).Distinct().ToList();
            columns[OnlyIfAsked + (names.Count > 0 ? string.Join(", ", names) : "?")] = Tested;
        }

        return joined.With(taints: [.. joined.Taints.Where(t => t.Origin.Kind != OriginKind.Subject && !t.Selects)], carried: new AbstractValue { Fields = columns, Types = [QueryConditions] });
    }

    /// <summary>Begins a type that names a member which an object has on some ways only, where it is one of the person.</summary>
    public const string SometimesMark = "~";

    /// <summary>The same, where the request decides whether it has it, or what it is.</summary>
    public const string IfAskedMark = "~?";

    /// <summary>The object with marks for those of its members that name the person on one way and are missing on another.</summary>
    private AbstractValue? WithSometimes(AbstractValue joined, List<AbstractValue> objects, BasicBlock block)
    {
        List<string>? marks = null;
        foreach (var (name, value) in joined.Fields ?? [])
        {
            if (name.Length > 0 && char.IsLetter(name[0]) && NamesSubject(value) && objects.Exists(o => !o.Fields!.ContainsKey(name)) && objects.Exists(o => o.Fields!.TryGetValue(name, out var own) && NamesSubject(own)))
            {
                var asked = block.Dominator >= 0 && _function.Blocks[block.Dominator].Condition is >= 0 and var test && IsAskedByRequest(test, 0);
                (marks ??= []).Add((asked ? IfAskedMark : SometimesMark) + name);
            }
        }

        return marks is null ? null : joined.With(types: [.. joined.Types, .. marks.Where(m => !joined.Types.Contains(m))]);
    }

    /// <summary>What is tested comes from the request, and is not about the person.</summary>
    private bool IsAskedByRequest(int test, int depth)
    {
        var (value, instruction) = (Get(test), _function.Instructions[test]);
        if (value.Taints.Any(t => t.Origin.Kind == OriginKind.Subject) || depth > 2)
        {
            return false;
        }

        return value.Taints.Any(t => t.IsSent) || instruction.Op switch
        {
            Opcode.Binary => IsAskedByRequest(instruction.A, depth + 1) || IsAskedByRequest(instruction.B, depth + 1),
            Opcode.Unary or Opcode.Cast => IsAskedByRequest(instruction.A, depth + 1),
            Opcode.Call => instruction.C > 0 && IsAskedByRequest(_function.List(instruction)[0].Value, depth + 1),
            _ => false,
        };
    }

    /// <summary>The alternative lets more rows through than those of the person that were asked for so far.</summary>
    private void AddWidening(CallSite site, Dictionary<string, AbstractValue> columns)
    {
        var isLimited = site.Receiver.Payload?.Parts.Any(NamesSubject) ?? false;
        if ((isLimited || StandsForSubject(site.Receiver) || site.Receiver.Types.Contains(LimitedRecords)) && !site.Arguments.Any(NamesSubject)
            && (site.Argument(0) is { Constant: { Length: > 0 } column } ? column : site.Argument(0) is { Constant: null, Fields: { Count: > 0 } several } ? string.Join(", ", several.Keys) : null) is { } other)
        {
            columns[WidenedBy + other] = Tested;
        }
    }

    /// <summary>What is not equal to a value is still tested.</summary>
    private bool AddNegated(int at, string? about, Dictionary<string, AbstractValue> columns, int depth)
    {
        var negated = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
        var isKnown = AddCondition(at, about, negated, depth + 1);
        foreach (var column in negated.Keys)
        {
            columns.TryAdd(column, Tested);
        }

        return isKnown;
    }

    private static AbstractValue TestedValue(AbstractValue value) => value is { Constant: null, IsTainted: false, Fields: null } ? AbstractValue.Unknown : value;

    /// <summary>
    /// The column of the records in question that the expression is: of a mapped class by its name, or of the parameter of a condition
    /// that is given as a function; over a relation with the names on the way, <c>Loan.KeeperId</c>.
    /// </summary>
    private string? ColumnAt(int at, string? about)
    {
        if (at < 0)
        {
            return null;
        }

        var instruction = _function.Instructions[at];
        switch (instruction.Op)
        {
            case Opcode.Cast:
            case Opcode.CallMethod when instruction.C == 0:
                return ColumnAt(instruction.A, about);
            case Opcode.GetField when instruction.Text is { } column:
                return Get(instruction.A).Targets.OfType<IrClass>().FirstOrDefault() is { } type && (about is null || type.ShortName == about) ? column
                    : !StatesCondition(_function) ? null
                    : _function.Instructions[instruction.A].Op == Opcode.Parameter ? column
                    : ColumnAt(instruction.A, about) is { } over ? over + "." + column : null;
            default:
                return null;
        }
    }
}
