using Bellator.Core.Code;
using Bellator.Core.Facts;
using Bellator.Core.Sources;
using Bellator.Core.Syntax;

namespace Bellator.Core.Flow;

/// <summary>Evaluates one function against what is known of the rest of the program.</summary>
internal sealed partial class FunctionFlow
{
    private const int MaxPasses = 4;

    private const int MaxOpenStores = 12;

    /// <summary>Setters lie one or two calls below those who use them.</summary>
    private const int MaxStoreDepth = 2;

    private readonly ProgramFlow _program;

    private readonly CodeFunction _function;

    private readonly FileCode _file;

    private readonly bool _php;

    private readonly LanguageRules _rules;

    private readonly string _family;

    private readonly LanguageFacts _facts;

    private readonly Value?[] _values;

    private readonly List<FlowEvent> _events = [];

    private readonly Dictionary<StoreKey, (Value Value, int Depth)> _openStores = [];

    private readonly GuardFinder _guards;

    private Value? _returns;

    private long _end;

    private HashSet<int>? _vouches;

    public FunctionFlow(ProgramFlow program, CodeFunction function)
    {
        _program = program;
        _function = function;
        _file = function.File;
        _php = _file.Source.Language == Language.Php;
        _family = Languages.Family(_file.Source.Language);
        _rules = LanguageRules.For(_file.Source.Language);
        _facts = program.Facts.For(_family);
        _values = new Value?[function.Instructions.Length];
        _guards = new GuardFinder(function, _values);
    }

    /// <summary>The limit was reached: the summary is a coarse one.</summary>
    public bool IsCutShort { get; private set; }

    /// <param name="limit">How long it may take.</param>
    public Summary Analyse(TimeSpan limit)
    {
        _end = Environment.TickCount64 + (long)limit.TotalMilliseconds;
        var repeats = HasLoop();
        AssumeChecked();
        for (var pass = 0; pass < MaxPasses; pass++)
        {
            _events.Clear();
            _page = new PageState();
            _openStores.Clear();
            _returns = null;
            _vouches = null;
            _passes = null;
            if (!EvaluateBlocks() || !repeats)
            {
                break;
            }
        }

        if (IsCutShort)
        {
            return new Summary { Returns = AnyParameter(), Events = [.. _events] };
        }

        return new Summary
        {
            Returns = _returns is null ? null : MarkHalfEscaped(_returns),
            Events = [.. _events],
            Vouches = _vouches is null ? [] : [.. _vouches.Order()],
            Passes = _passes ?? [],
            IsNotPage = _notPage,
            Announces = _announces,
            Stores = [.. _openStores.Take(MaxOpenStores).Select(s => new OpenStore(s.Key, s.Value.Value, s.Value.Depth))],
        };
    }

    private bool EvaluateBlocks()
    {
        var changed = false;
        foreach (var block in _function.Order)
        {
            if (Environment.TickCount64 >= _end)
            {
                IsCutShort = true;
                return false;
            }

            foreach (var index in _function.Blocks[block].Instructions)
            {
                var value = Evaluate(index, in _function.Instructions[index]);
                var known = _values[index];
                if (known is null || !value.SameAs(known))
                {
                    _values[index] = value;
                    changed = true;
                }
            }
        }

        return changed;
    }

    /// <summary>What a function gives back of which nothing is known: perhaps something of what it got.</summary>
    private Value? AnyParameter() => _function.Parameters.Count == 0 ? null : Value.OfTaints([.. Enumerable.Range(0, Math.Min(_function.Parameters.Count, Value.MaxTaints)).Select(i => new Taint(
        new Origin(OriginKind.Parameter, "", _function.Parameters[i].Name.TrimStart('$'), _function.Id, i), Position.None, Hiding.Plain, true, true,
        new Trace(StepKind.Guessed, new Location(_file.Index, _function.Span.Start, _function.Span.Start), _function.Name, null)))]);

    private bool HasLoop()
    {
        var position = new int[_function.Blocks.Length];
        for (var i = 0; i < _function.Order.Length; i++)
        {
            position[_function.Order[i]] = i;
        }

        foreach (var block in _function.Order)
        {
            foreach (var successor in _function.Blocks[block].Successors)
            {
                if (position[successor] <= position[block])
                {
                    return true;
                }
            }
        }

        return false;
    }

    private Value Get(int index) => index < 0 ? Value.Unknown : _values[index] ?? Value.Unknown;

    private Location At(int index) => _function.LocationOf(index);

    private Location At(Span span) => new(_file.Index, span.Start, span.End);

    private Value Evaluate(int index, in Instruction instruction)
    {
        switch (instruction.Op)
        {
            case Op.Constant:
                return Value.OfConstant((LiteralKind)instruction.A, instruction.Text ?? "");
            case Op.Parameter:
                return EvaluateParameter(index, instruction.A);
            case Op.This:
                return ThisValue();
            case Op.Global:
                return EvaluateGlobal(index, instruction.Text!);
            case Op.LoadCell:
                return _program.Load(CellKey(instruction.A), _function) ?? Value.Unknown;
            case Op.StoreCell:
                Keep(CellKey(instruction.A), Get(instruction.B));
                return Value.Unknown;
            case Op.LoadShared:
                return (_facts.Global(instruction.Text!) is { } known ? OfFact(known, index, instruction.Text!) : null)
                    ?? (IsTemplate ? FromView(instruction.Text!) : SharedValue(instruction.Text!)) ?? Value.Unknown;
            case Op.StoreShared:
                Keep(new StoreKey(StoreKind.Shared, _file.Index, instruction.Text!), Get(instruction.B));
                return Value.Unknown;
            case Op.GetField when IsTemplate && _rules.CommonJs && _function.Instructions[instruction.A].Op == Op.This && FromView(instruction.Text!) is var shown && !ReferenceEquals(shown, Value.Unknown):
                return shown;
            case Op.GetField:
                return ReadField(index, Get(instruction.A), instruction.Text!);
            case Op.SetField when IsTemplate && _function.Instructions[instruction.A].Op == Op.This:
                // A component's own member: its page shows it.
                Keep(new StoreKey(StoreKind.View, _file.Index, instruction.Text!), Get(instruction.B));
                return Value.Unknown;
            case Op.SetField:
                SetField(Get(instruction.A), instruction.Text!, Get(instruction.B));
                SetByFact(index, instruction.A, instruction.B, instruction.Text!);
                return Value.Unknown;
            case Op.WithField:
                SetField(Get(instruction.A), instruction.Text!, Get(instruction.B));
                return SetByFact(index, instruction.A, instruction.B, instruction.Text!) ?? WithPart(Get(instruction.A), instruction.Text!, Get(instruction.B));
            case Op.GetItem:
                return ReadItem(index, Get(instruction.A), instruction.B);
            case Op.SetItem:
                return Value.Unknown;
            case Op.WithItem:
                return WithPart(Get(instruction.A), KeyName(instruction), Get(instruction.C));
            case Op.GetStatic:
                return ReadStatic(instruction);
            case Op.SetStatic:
                if (ClassOf(instruction.A) is { } owner)
                {
                    Keep(new StoreKey(StoreKind.Field, owner.Id, instruction.Text!), Get(instruction.B));
                }

                return Value.Unknown;
            case Op.Call:
                return EvaluateCall(index, in instruction);
            case Op.CallMethod:
                return EvaluateMethodCall(index, in instruction);
            case Op.CallStatic:
                return EvaluateStaticCall(index, in instruction);
            case Op.New:
                return EvaluateNew(index, in instruction);
            case Op.Binary:
                EvaluateComparison(index, in instruction);
                foreach (var type in Get(instruction.A).Types)
                {
                    // Some types give an operator a meaning of their own.
                    if (type[0] != '#' && _facts.Method(type, instruction.Text!) is { } fact)
                    {
                        return ApplyFact(fact, new CallSite(index, Get(instruction.A), [Get(instruction.B)], [instruction.B]), false);
                    }
                }

                return instruction.Text == "%" && _rules.PercentFormats && Get(instruction.A) is { Constant: not null, ConstantKind: LiteralKind.Text } or { Text: not null }
                    ? FormattedByOperator(index, in instruction)
                    : Value.Unknown;
            case Op.Unary:
                return instruction.Text == "@" ? Get(instruction.A) : Value.Unknown;
            case Op.Concat:
                return EvaluateConcat(index, in instruction);
            case Op.Cast:
                return EvaluateCast(in instruction);
            case Op.Object or Op.List:
                return EvaluateObject(in instruction);
            case Op.Function:
                return EvaluateFunction(instruction.A);
            case Op.Class:
                return new Value { Targets = [_file.Classes[instruction.A]] };
            case Op.Phi:
                return EvaluatePhi(index, in instruction);
            case Op.Element:
                return FieldAccess.Element(Get(instruction.A));
            case Op.ElementKey:
                // The visitor names the fields of a whole form; further in, keys are numbers and row names.
                return Value.OfTaints([.. Get(instruction.A).Taints.Where(t => t.Origin.NamesItsParts)]);
            case Op.OutArgument:
                return EvaluateOutArgument(index, in instruction);
            case Op.Import:
                return EvaluateImport(in instruction);
            case Op.Export:
                Keep(new StoreKey(StoreKind.Export, _file.Index, instruction.Text!), Get(instruction.A));
                return Value.Unknown;
            case Op.Output:
                NoteOutput(index, in instruction);
                return Value.Unknown;
            case Op.Include:
                NoteSink(IncludedPath, index, Get(instruction.A), null);
                ShareWithIncluded(in instruction);
                return Value.Unknown;
            case Op.Return:
                EvaluateReturn(index, instruction.A, _function.BlockOf[index]);
                return Value.Unknown;
            case Op.Opaque:
                return EvaluateOpaque(index, in instruction);
            default:
                return Value.Unknown;
        }
    }

    private StoreKey CellKey(int cell) => new(StoreKind.Cell, _file.FirstCell + cell, "");

    /// <summary>Keeps a value outside of the function. What depends on the function's own parameters is kept once its callers are known.</summary>
    private void Keep(StoreKey key, Value value, int depth = 0)
    {
        value = value.Outside();
        if (!value.HasParameters || key.Kind == StoreKind.Cell)
        {
            _program.Store(key, value);
            return;
        }

        _program.Store(key, value.With(taints: [.. value.Taints.Where(t => !t.IsParameter)]));
        if (depth <= MaxStoreDepth && (key.Kind != StoreKind.Field || value.Taints.Count > 0))
        {
            _openStores[key] = _openStores.TryGetValue(key, out var known) ? (Value.Join(known.Value, value), Math.Min(known.Depth, depth)) : (value, depth);
        }
    }

    private Value EvaluateParameter(int index, int position)
    {
        var parameter = _function.Parameters[position];
        var info = _program.ParameterInfo(_function, position);
        if (EntryValue(index, parameter) is { } entering)
        {
            return info is null ? entering : Value.Join(entering, info);
        }

        if (parameter.Type is { } declared && _program.TypeNamed(_file, declared.Name) is { } type)
        {
            info = Value.Join(info, TypedValue(type));
        }

        if (info is null && !_php && _facts.Receivers.TryGetValue(parameter.Name, out var guessed) && guessed == "express.Request" && _function.Parameters.Count >= 2
            && _function.Parameters[position == 0 ? 1 : 0].Name.StartsWith("res", StringComparison.Ordinal) && position == 0)
        {
            info = Value.OfType(guessed);
        }

        if (info is not null && info.Types.Any(t => t[0] != '#' && _facts.KnowsType(t)))
        {
            return info;
        }

        if (_program.Words.IsScalarType(parameter.Type?.Name))
        {
            return Value.Unknown;
        }

        var name = parameter.Name.TrimStart('$');
        var origin = new Origin(OriginKind.Parameter, "", name.Length == 0 ? null : name, _function.Id, position);
        var taint = new Taint(origin, Position.None, Hiding.Plain, false, false, new Trace(StepKind.Parameter, At(index), name, null));
        return (info ?? Value.Unknown).With(taints: [taint]);
    }

    private void EvaluateReturn(int index, int value, int block)
    {
        if (value < 0)
        {
            return;
        }

        if (Get(value).Text is { } page && _program.Entries.Of(_function) is { Returns: "page" } && page.Alternatives.Any(a => a.Any(p => p.Literal?.Contains('<', StringComparison.Ordinal) == true)))
        {
            _page = new PageState();
            WriteText(index, page.Alternatives[0]);
        }

        _returns = Value.Join(_returns, Refine(Get(value), block, value)).Outside();
        foreach (var tested in _guards.TestedBy(value, true).Where(t => t.Safe == Position.All && t.Of is null))
        {
            if (Get(tested.Value).WholeParameter is { } parameter && parameter.Origin.Function == _function.Id && parameter.Origin.Part.Length == 0)
            {
                (_vouches ??= []).Add(parameter.Origin.Index);
            }
        }
    }

    /// <summary>
    /// A function that gives back its parameter escaped on one way and as it was on another is an escaper with a case in which
    /// there is nothing to escape (no connection yet, an asterisk for a name): what comes raw counts as escaped, as a guess.
    /// </summary>
    private static Value MarkHalfEscaped(Value value)
    {
        var escaped = (value.Text is null ? value.Taints : value.Text.Alternatives.SelectMany(a => a).SelectMany(p => p.Taints))
            .Where(t => t is { Hiding: Hiding.Plain, IsRaw: false } && t.Safe != Position.All && t.Origin.Kind != OriginKind.Stored).ToList();
        if (escaped.Count == 0)
        {
            return value;
        }

        // An escaper that also sets the quotes stands without any in the case where it does nothing.
        var quotes = value.Text?.Alternatives.Any(a => a is [{ IsHole: false, Literal: "`" or "'" or "\"" }, ..]) ?? false;
        Taint Mark(Taint taint)
        {
            if (taint is not { IsRaw: true } || taint.Origin.Kind == OriginKind.Stored)
            {
                return taint;
            }

            var safe = escaped.Where(e => e.Origin == taint.Origin).Aggregate(Position.None, (p, e) => p | e.Safe);
            if (safe != Position.None && quotes)
            {
                safe |= Position.SqlBare;
            }

            return safe == Position.None ? taint : taint with { Safe = taint.Safe | safe, Guessed = true };
        }

        return value.Text is null
            ? value.With(taints: [.. value.Taints.Select(Mark)])
            : Value.OfText(value.Text.Map(p => [[Piece.Hole([.. p.Taints.Select(Mark)], p.At)]]));
    }

    private Value EvaluatePhi(int index, in Instruction instruction)
    {
        Value? joined = null;
        var block = _function.Blocks[_function.BlockOf[index]];
        var operands = _function.List(instruction);
        for (var i = 0; i < operands.Length; i++)
        {
            var value = _values[operands[i].Value];
            if (value is null || (i < block.Predecessors.Count && !_function.Blocks[block.Predecessors[i]].IsReachable))
            {
                continue;
            }

            if (value.IsTainted && i < block.Predecessors.Count)
            {
                value = RefineOnEdge(value, block.Predecessors[i], block.Index, operands[i].Value);
            }

            joined = Value.Join(joined, value);
        }

        return joined ?? Value.Unknown;
    }

    private Value EvaluateConcat(int index, in Instruction instruction)
    {
        TextShape? shape = null;
        var block = _function.BlockOf[index];
        foreach (var operand in _function.List(instruction))
        {
            var at = At(operand.At == default ? instruction.Span : operand.At);
            var value = Get(operand.Value);
            var part = PartOfText(value.IsTainted ? Refine(value, block, operand.Value) : value, at);
            shape = shape is null ? part : TextShape.Concat(shape, part);
        }

        return Value.OfText(shape ?? TextShape.OfLiteral(""));
    }

    private static TextShape PartOfText(Value value, Location at)
    {
        if (value is { Text.IsOnlyWrapping: true, IsTainted: true })
        {
            Taint Step(Taint t) => t with { Trace = Trace.Add(t.Trace, StepKind.Joined, at, "") };
            return value.Text.Map(p => [[p.PutInto(at, Step, true)]]);
        }

        if (value.Text is not null || value.Taints.Count == 0)
        {
            return value.AsText(at);
        }

        var joined = value.Taints.Select(t => t with { Trace = Trace.Add(t.Trace, StepKind.Joined, at, "") });
        return TextShape.Of([Piece.Hole([.. joined], at)]);
    }

    private Value EvaluateCast(in Instruction instruction)
    {
        var value = Get(instruction.A);
        var type = instruction.Text ?? "";
        if (type is "int" or "float" or "bool" or "unset")
        {
            return value.Constant is not null && value.Taints.Count == 0 ? value : Value.Unknown;
        }

        if (type == "string")
        {
            return MadeSafe(value, ["object"]);
        }

        return type.StartsWith("as:", StringComparison.Ordinal) && type.Length > 3 && _program.TypeNamed(_file, type[3..]) is { } named
            ? Value.Join(value, TypedValue(named))
            : value;
    }

    private Value EvaluateObject(in Instruction instruction)
    {
        var fields = new Dictionary<string, Value>(StringComparer.Ordinal);
        IReadOnlyList<Taint> spread = [];
        foreach (var operand in _function.List(instruction))
        {
            var value = Get(operand.Value);
            if (operand.Name is null)
            {
                spread = Value.Union(spread, value.Taints);
                foreach (var (name, field) in value.Fields ?? new Dictionary<string, Value>())
                {
                    fields[name] = field;
                }
            }
            else if (fields.Count < Value.MaxFields)
            {
                fields[operand.Name] = operand.Name == "*" && fields.TryGetValue("*", out var any) ? Value.Join(any, value) : value;
            }
        }

        return new Value { Fields = Value.Bounded(fields), Taints = spread, Types = instruction.Op == Op.List ? ["list"] : [] };
    }

    private Value EvaluateFunction(int position)
    {
        var function = _file.Functions[position];

        // What the inner function does with this function's parameters is this function's to resolve.
        if (_program.SummaryOf(function, _function) is { } summary)
        {
            foreach (var inner in summary.Events)
            {
                if (inner.Roles.Values.Any(v => FieldAccess.DeepTaints(v).Any(t => t.IsParameter && t.Origin.Function != function.Id)))
                {
                    AddEvent(inner);
                }
            }
        }

        return new Value { Targets = [function] };
    }

    private Value EvaluateOpaque(int index, in Instruction instruction)
    {
        IReadOnlyList<Taint> taints = [];
        if (instruction.Text == "markup")
        {
            foreach (var operand in _function.List(instruction))
            {
                if (operand.Name is { } attribute && _facts.Setter("markup", attribute) is { } fact)
                {
                    ApplyFact(fact, new CallSite(index, Value.Unknown, [Get(operand.Value)], [operand.Value]), false);
                }
            }
        }
        else
        {
            foreach (var operand in _function.List(instruction))
            {
                taints = Value.Union(taints, Get(operand.Value).Taints);
            }
        }

        return Value.OfTaints([.. taints.Select(t => t with { Guessed = true, Altered = true })]);
    }
}
