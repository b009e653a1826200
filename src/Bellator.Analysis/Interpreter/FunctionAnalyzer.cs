using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Guards;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Scheduling;
using Bellator.Analysis.Summaries;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Interpreter;

/// <summary>Evaluates one function against what is known of the rest of the program.</summary>
internal sealed partial class FunctionAnalyzer
{
    private const int MaxPasses = 4;

    /// <summary>The type, as facts name it, of what is caught and of what a handler of errors is given.</summary>
    private const string ErrorType = "Error";

    /// <summary>Facts tell by this name what the elements of a library's object are.</summary>
    private const string ElementsMember = "<element>";

    /// <summary>The type, as facts name it, of an object that holds a text and grows.</summary>
    private const string TextType = "text";

    private const int MaxOpenStores = 12;

    /// <summary>Setters lie one or two calls below those who use them.</summary>
    private const int MaxStoreDepth = 2;

    private readonly ProgramAnalysis _program;

    private readonly StoreView _visit;

    private readonly IrFunction _function;

    private readonly IrFile _file;

    private readonly bool _php;

    private readonly LanguageSemantics _rules;

    private readonly string _family;

    private readonly LanguageModels _facts;

    private readonly AbstractValue?[] _values;

    private readonly List<AnalysisEvent> _events = [];

    private readonly HashSet<CallEdge> _edges = [];

    private readonly Dictionary<StoreKey, (AbstractValue Value, int Depth)> _openStores = [];

    private readonly GuardAnalysis _guards;

    private AbstractValue? _returns;

    /// <summary>By the clock, which is quickly asked, and by the thread’s own time, which counts.</summary>
    private long _end;
    private TimeSpan _endOfWork;

    private HashSet<int>? _vouches;

    public FunctionAnalyzer(ProgramAnalysis program, StoreView visit)
    {
        var function = visit.Function;
        _program = program;
        _visit = visit;
        _function = function;
        _file = function.File;
        _php = _file.Source.Language == Language.Php;
        _family = Languages.Family(_file.Source.Language);
        _rules = LanguageSemantics.For(_file.Source.Language);
        _facts = program.Facts.For(_family);
        _values = new AbstractValue?[function.Instructions.Length];
        _states = new BlockState?[function.Blocks.Length];
        _guards = new GuardAnalysis(function, _values);
    }

    /// <summary>The limit was reached: the summary is a coarse one.</summary>
    public bool IsCutShort { get; private set; }

    /// <param name="begun">The processor time of the thread when the function's turn began.</param>
    /// <param name="limit">How long it may take.</param>
    public FunctionSummary Analyse(TimeSpan begun, TimeSpan limit)
    {
        _end = Environment.TickCount64 + (long)limit.TotalMilliseconds;
        _endOfWork = begun + limit;
        var repeats = HasLoop();
        AssumeChecked();
        NoteListedProviders();
        for (var pass = 0; pass < MaxPasses; pass++)
        {
            ForgetEvents();
            _repeated.Clear();
            _changed.Clear();
            _edges.Clear();
            _givenCalls.Clear();
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
            return new FunctionSummary { Returns = AnyParameter(), Events = [.. _events], DroppedEvents = _droppedEvents, Calls = [.. _edges] };
        }

        return new FunctionSummary
        {
            Returns = _returns is null ? null : MarkHalfEscaped(WithoutOperators(AsFiltered(_returns))),
            Events = [.. _events],
            DroppedEvents = _droppedEvents,
            ValidatesParameters = _vouches is null ? [] : [.. _vouches.Order()],
            ValidatedInputs = _passes ?? [],
            IsNotPage = IsNeverPage(),
            ContentTypeParameter = _announces,
            Reads = RequestReads(),
            Calls = [.. _edges],
            Condition = StatedCondition(),
            AddedConditions = AddedConditions(),
            Rewrites = RewritesAtEnd(),
            GivenCalls = [.. _givenCalls.Take(MaxGivenCalls)],
            Stores = [.. _openStores.Take(MaxOpenStores).Select(s => new OpenStore(s.Key, s.Value.Value, s.Value.Depth))],
        };
    }

    private IReadOnlyList<(string Part, string Name)> RequestReads()
    {
        List<(string, string)>? reads = null;
        foreach (var value in _values)
        {
            foreach (var taint in value?.Taints ?? [])
            {
                if (taint.Origin is { Kind: OriginKind.Request, Name: { } name and not Origin.AnyName } origin && origin.Function == _file.Index && !(reads?.Contains((origin.Part, name)) ?? false))
                {
                    (reads ??= []).Add((origin.Part, name));
                }
            }
        }

        return reads ?? (IReadOnlyList<(string, string)>)[];
    }

    private bool EvaluateBlocks()
    {
        var changed = false;
        foreach (var block in _function.Order)
        {
            if (Environment.TickCount64 >= _end && ThreadTime.Now >= _endOfWork)
            {
                IsCutShort = true;
                return false;
            }

            _state = StateBefore(block);
            foreach (var index in _function.Blocks[block].Instructions)
            {
                if (_state.Object(index) is not null)
                {
                    // Made anew, in a loop, it is not yet what became of it the last time.
                    _state = _state.WithoutObject(index);
                }

                var value = Evaluate(index, in _function.Instructions[index]);
                var known = _values[index];
                if (known is null || !value.SameAs(known))
                {
                    _values[index] = value;
                    changed = true;
                }
            }

            changed |= !_state.Equals(_states[block]);
            _states[block] = _state;
        }

        return changed;
    }

    /// <summary>What a function gives back of which nothing is known: perhaps something of what it got.</summary>
    private AbstractValue? AnyParameter() => _function.Parameters.Count == 0 ? null : AbstractValue.OfTaints([.. Enumerable.Range(0, Math.Min(_function.Parameters.Count, AbstractValue.MaxTaints)).Select(i => new Taint(
        new Origin(OriginKind.Parameter, "", _function.Parameters[i].Name.TrimStart('$'), _function.Id, i), OutputContext.None, PasswordTransform.Plain, true, true,
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

    /// <summary>What an instruction made, as it is by now.</summary>
    private AbstractValue Get(int index) => index < 0 ? AbstractValue.Unknown : _state.Object(ObjectOf(index)) ?? _values[index] ?? AbstractValue.Unknown;

    private Location At(int index) => _function.LocationOf(index);

    private Location At(Span span) => new(_file.Index, span.Start, span.End);

    private AbstractValue Evaluate(int index, in Instruction instruction)
    {
        switch (instruction.Op)
        {
            case Opcode.Constant:
                return AbstractValue.OfConstant((LiteralKind)instruction.A, instruction.Text ?? "");
            case Opcode.Parameter:
                return EvaluateParameter(index, instruction.A);
            case Opcode.This:
                return ThisValue();
            case Opcode.Global:
                return EvaluateGlobal(index, instruction.Text!);
            case Opcode.LoadCell:
                return _visit.Load(CellKey(instruction.A)) ?? AbstractValue.Unknown;
            case Opcode.StoreCell:
                Keep(CellKey(instruction.A), Get(instruction.B));
                return AbstractValue.Unknown;
            case Opcode.LoadShared:
                return (_facts.Global(instruction.Text!) is { } known ? OfFact(known, index, instruction.Text!) : null)
                    ?? (IsTemplate ? FromView(instruction.Text!) : SharedValue(instruction.Text!)) ?? AbstractValue.Unknown;
            case Opcode.StoreShared when _facts.Global(instruction.Text!) is { Source: not (null or SubjectPart) and var whole }:
                Rewrite(new RequestPart(whole, Origin.AnyName), Get(instruction.B));
                return AbstractValue.Unknown;
            case Opcode.StoreShared:
                if (!_function.IsTopLevel || !Get(instruction.B).IsTainted || IsSeenAfter(_function.BlockOf[index], instruction.Text!))
                {
                    Keep(new StoreKey(StoreKind.Shared, _file.Index, instruction.Text!), Get(instruction.B));
                }

                return AbstractValue.Unknown;
            case Opcode.GetField when IsTemplate && _rules.CommonJs && _function.Instructions[instruction.A].Op == Opcode.This && FromView(instruction.Text!) is var shown && !ReferenceEquals(shown, AbstractValue.Unknown):
                return shown;
            case Opcode.GetField when _ownMembers.Count > 0 && _function.Instructions[instruction.A].Op == Opcode.This && OwnMember(instruction.Text!) is { } own:
                return own.Name is null ? own.With(label: instruction.Text) : own;
            case Opcode.GetField:
                return AsRewritten(ReadField(index, Get(instruction.A), instruction.Text!), Get(instruction.A));
            case Opcode.SetField when IsTemplate && _function.Instructions[instruction.A].Op == Opcode.This:
                // A component's own member: its page shows it.
                Keep(new StoreKey(StoreKind.View, _file.Index, instruction.Text!), Get(instruction.B));
                return AbstractValue.Unknown;
            case Opcode.SetField:
                if (_function.Class is not null && _function.Instructions[instruction.A].Op == Opcode.This)
                {
                    SetOwnMember(instruction.Text!, Get(instruction.B));
                }

                SetField(Get(instruction.A), instruction.Text!, Get(instruction.B));
                CallSetter(index, Get(instruction.A), instruction.Text!, instruction.B);
                NoteRewrittenMember(Get(instruction.A), instruction.Text!, instruction.B);
                SetByFact(index, instruction.A, instruction.B, instruction.Text!);
                return AbstractValue.Unknown;
            case Opcode.WithField:
                NoteRewrittenMember(Get(instruction.A), instruction.Text!, instruction.B);
                SetField(Get(instruction.A), instruction.Text!, Get(instruction.B));
                CallSetter(index, Get(instruction.A), instruction.Text!, instruction.B);
                return SetByFact(index, instruction.A, instruction.B, instruction.Text!) ?? WithPart(Get(instruction.A), instruction.Text!, AsTested(index, instruction.B));
            case Opcode.GetItem:
                return AsRewritten(ReadItem(index, Get(instruction.A), instruction.B), Get(instruction.A));
            case Opcode.SetItem:
                NoteRewritten(Get(instruction.A), instruction.B, instruction.C);
                KeepRequestMember(Get(instruction.A), KeyName(instruction), Get(instruction.C));
                SetByFact(index, Get(instruction.A), Get(instruction.C), instruction.C, KeyName(instruction));
                return AbstractValue.Unknown;
            case Opcode.WithItem:
                NoteRewritten(Get(instruction.A), instruction.B, instruction.C);
                KeepRequestMember(Get(instruction.A), KeyName(instruction), Get(instruction.C));
                SetByFact(index, Get(instruction.A), Get(instruction.C), instruction.C, KeyName(instruction));
                return WithPart(Get(instruction.A), KeyName(instruction), AsTested(index, instruction.C));
            case Opcode.GetStatic:
                return ReadStatic(instruction);
            case Opcode.SetStatic:
                if (ClassOf(instruction.A) is { } owner)
                {
                    Keep(new StoreKey(StoreKind.Field, owner.Id, instruction.Text!), Get(instruction.B));
                }

                return AbstractValue.Unknown;
            case Opcode.Call:
                return EvaluateCall(index, in instruction);
            case Opcode.CallMethod:
                return EvaluateMethodCall(index, in instruction);
            case Opcode.CallStatic:
                return EvaluateStaticCall(index, in instruction);
            case Opcode.New:
                return EvaluateNew(index, in instruction);
            case Opcode.Binary:
                EvaluateComparison(index, in instruction);
                if (instruction.Text is "&" or "|" && Combined(instruction.Text == "&", Get(instruction.A), Get(instruction.B)) is { } combined)
                {
                    return combined;
                }

                foreach (var type in Get(instruction.A).Types)
                {
                    // Some types give an operator a meaning of their own.
                    if (type[0] != '#' && _facts.Method(type, instruction.Text!) is { } fact)
                    {
                        return ApplyFact(fact, new CallSite(index, Get(instruction.A), [Get(instruction.B)], [instruction.B]), false);
                    }
                }

                if (_php && instruction.Text == "+" && _function.Instructions[instruction.B].Op is Opcode.List or Opcode.Object && Get(instruction.B).PartNames.All(n => n.Length > 0 && char.IsAsciiDigit(n[0])))
                {
                    return WithMissing(Get(instruction.A), Get(instruction.B));
                }

                return instruction.Text == "%" && _rules.PercentFormats && Get(instruction.A) is { Constant: not null, ConstantKind: LiteralKind.Text } or { Text: not null }
                    ? FormattedByOperator(index, in instruction)
                    : Condition(in instruction);
            case Opcode.Unary:
                return instruction.Text == "@" ? Get(instruction.A) : AbstractValue.Unknown;
            case Opcode.Concat:
                return EvaluateConcat(index, in instruction);
            case Opcode.Cast:
                return EvaluateCast(in instruction);
            case Opcode.Object or Opcode.List:
                return EvaluateObject(index, in instruction);
            case Opcode.Function:
                return EvaluateFunction(index, instruction.A);
            case Opcode.Class:
                return new AbstractValue { Targets = [_file.Classes[instruction.A]] };
            case Opcode.Phi:
                return EvaluatePhi(index, in instruction);
            case Opcode.Element:
                return Get(instruction.A) is { Types.Count: > 0 } several && several.Types.Any(t => _facts.Field(t, ElementsMember) is not null) ? ReadField(index, several, ElementsMember) : FieldAccess.Element(Get(instruction.A));
            case Opcode.ElementKey:
                // The visitor names the fields of a whole form; further in, keys are numbers and row names.
                return AbstractValue.OfTaints([.. Get(instruction.A).Taints.Where(t => t.Origin.NamesItsParts)]).With(types: [.. Get(instruction.A).Types.Where(t => t[0] == '#')]);
            case Opcode.OutArgument:
                return EvaluateOutArgument(index, in instruction);
            case Opcode.Caught:
                return _facts.KnowsType(ErrorType) ? AbstractValue.OfType(ErrorType) : AbstractValue.Unknown;
            case Opcode.Import:
                return EvaluateImport(index, in instruction);
            case Opcode.Export:
                NoteSetting(index, instruction.A, instruction.Text!);
                Keep(new StoreKey(StoreKind.Export, _file.Index, instruction.Text!), Get(instruction.A));
                return AbstractValue.Unknown;
            case Opcode.Output:
                NoteOutput(index, in instruction);
                return AbstractValue.Unknown;
            case Opcode.Include:
                NoteSink(IncludedPath, index, Get(instruction.A), null);
                ShareWithIncluded(in instruction);
                RepeatRewritesOfIncluded(index, in instruction);
                return AbstractValue.Unknown;
            case Opcode.Return:
                EvaluateReturn(index, instruction.A, _function.BlockOf[index]);
                return AbstractValue.Unknown;
            case Opcode.TaggedTemplate:
                return EvaluateTagged(index, in instruction);
            case Opcode.Opaque:
                return EvaluateOpaque(index, in instruction);
            case Opcode.Throw or Opcode.Exit or Opcode.Undefined:
                // Where they lead is for the graph to say; a variable that nothing was put into has nothing.
                return AbstractValue.Unknown;
            default:
                throw new System.Diagnostics.UnreachableException($"nothing says what {instruction.Op} does");
        }
    }

    private StoreKey CellKey(int cell) => new(StoreKind.Cell, _file.FirstCell + cell, "");

    /// <summary>Keeps a value outside of the function. What depends on the function's own parameters is kept once its callers are known.</summary>
    private void Keep(StoreKey key, AbstractValue value, int depth = 0)
    {
        value = WithoutOwnNames(value.WidenedForStore());
        if (!value.HasParameters || key.Kind == StoreKind.Cell)
        {
            _visit.Store(key, value);
            return;
        }

        _visit.Store(key, value.With(taints: [.. value.Taints.Where(t => !t.IsParameter)]));
        if (depth <= MaxStoreDepth && (key.Kind != StoreKind.Field || value.Taints.Count > 0))
        {
            _openStores[key] = _openStores.TryGetValue(key, out var known) ? (AbstractValue.Join(known.Value, value), Math.Min(known.Depth, depth)) : (value, depth);
        }
    }

    private AbstractValue EvaluateParameter(int index, int position)
    {
        var parameter = _function.Parameters[position];
        var info = _visit.ParameterInfo(position);
        if (EntryValue(index, parameter) is { } entering)
        {
            return info is null ? entering : AbstractValue.Join(entering, info);
        }

        if (parameter.Type is { } declared && _program.TypeNamed(_file, declared.Name) is { } type)
        {
            info = AbstractValue.Join(info, DeclaredValue(_file, declared, type));
        }

        if (info is null && ParameterShapes.TypeOf(_function, position, _facts) is { } used)
        {
            info = AbstractValue.OfType(used);
        }

        // What is known to be a text may still be anybody's, and an object of the program's own that the caller found.
        if (info is not null && !info.Types.Any(t => t[0] == '#') && info.Types.Any(t => t != TextType && _facts.KnowsType(t)))
        {
            return info;
        }

        var scalar = _program.Vocabulary.IsScalarType(parameter.Type?.Name);
        var name = parameter.Name.TrimStart('$');
        var origin = new Origin(OriginKind.Parameter, "", name.Length == 0 ? null : name, _function.Id, position);
        var taint = new Taint(origin, OutputContext.None, PasswordTransform.Plain, false, false, new Trace(StepKind.Parameter, At(index), name, null));
        return scalar ? AsNumber([taint]) : (info ?? AbstractValue.Unknown).With(taints: [taint]);
    }

    private AbstractValue EvaluatePhi(int index, in Instruction instruction)
    {
        AbstractValue? joined = null;
        var block = _function.Blocks[_function.BlockOf[index]];
        var operands = _function.List(instruction);
        List<AbstractValue>? queries = null;
        List<AbstractValue>? objects = null;
        for (var i = 0; i < operands.Length; i++)
        {
            var value = (i < block.Predecessors.Count ? _states[block.Predecessors[i]]?.Object(ObjectOf(operands[i].Value)) : null) ?? _values[operands[i].Value];
            if (value is null || (i < block.Predecessors.Count && !_function.Blocks[block.Predecessors[i]].IsReachable))
            {
                continue;
            }

            if (value.IsTainted && i < block.Predecessors.Count)
            {
                value = RefineOnEdge(value, block.Predecessors[i], block.Index, operands[i].Value);
            }

            if (IsQuery(value))
            {
                (queries ??= []).Add(value);
            }
            else if (value.Fields is not null)
            {
                (objects ??= []).Add(value);
            }

            joined = AbstractValue.Join(joined, value);
        }

        if (joined is not null && objects is { Count: > 1 } && WithSometimes(joined, objects, block) is { } sometimes)
        {
            joined = sometimes;
        }

        if (joined is not null && queries is { Count: > 1 } && LimitedOnOneWay(joined, queries, block) is { } open)
        {
            return open;
        }

        joined = joined is null ? null : WithChoice(joined, block, operands);
        return joined is null ? AbstractValue.Unknown : joined.IsTainted ? WithReplacedSubject(joined, block, operands) : joined;
    }
}
