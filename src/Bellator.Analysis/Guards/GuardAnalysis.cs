using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Syntax;

namespace Bellator.Analysis.Guards;

/// <summary>A value that a test vouches for, and the positions in which it is then harmless.</summary>
/// <param name="Value">The instruction that made the value; -1 where only the origin says which it is.</param>
/// <param name="Of">Set where the test is about a part of the value: where that part comes from.</param>
internal readonly record struct GuardFact(int Value, OutputContext Safe = OutputContext.All, Origin? Of = null);

/// <summary>Finds which values have been tested, and found harmless, on every way to a block.</summary>
internal sealed class GuardAnalysis(IrFunction function, AbstractValue?[] values)
{
    private readonly Dictionary<int, IReadOnlyList<GuardFact>> _byBlock = [];
    private readonly Dictionary<(int Call, bool Answer), List<GuardFact>> _tests = [];
    private readonly Dictionary<int, List<GuardFact>> _passed = [];
    private readonly List<GuardFact> _assumed = [];
    private readonly HashSet<int> _lookedAt = [];

    /// <summary>Values that a test looked at, wherever what it says holds.</summary>
    public IReadOnlyCollection<int> LookedAt => _lookedAt;

    /// <summary>Notes what is vouched for before the function begins.</summary>
    public void Assume(IEnumerable<GuardFact> tests) => _assumed.AddRange(tests.Except(_assumed));

    /// <summary>Notes what is vouched for once the block has been passed, since something in it would have stopped.</summary>
    public void NotePassed(int block, IReadOnlyList<GuardFact> tests)
    {
        Add(_passed, block, tests, block);

        // It holds in the rest of its own block too.
        _byBlock.Remove(block);
    }

    /// <summary>Notes that this answer vouches for all of these.</summary>
    public void NoteTests(int call, bool answer, IReadOnlyList<GuardFact> tests) => Add(_tests, (call, answer), tests, function.BlockOf[call]);

    /// <summary>Notes that this answer of a call vouches for the value.</summary>
    /// <param name="isLook">It looks at what the value is, not only at whether there is one.</param>
    public void NoteTest(int call, int tested, bool answer = true, OutputContext safe = OutputContext.All, bool isLook = true)
    {
        if (tested >= 0)
        {
            if (isLook && safe == OutputContext.All)
            {
                _lookedAt.Add(tested);
            }

            NoteTests(call, answer, [new GuardFact(tested, safe)]);
        }
    }

    private void Add<TKey>(Dictionary<TKey, List<GuardFact>> notes, TKey key, IReadOnlyList<GuardFact> tests, int block)
        where TKey : notnull
    {
        var known = notes.TryGetValue(key, out var list) ? list : notes[key] = [];
        var before = known.Count;
        foreach (var test in tests)
        {
            if (!known.Contains(test))
            {
                known.Add(test);
            }
        }

        if (known.Count > before)
        {
            ForgetAfter(block);
        }
    }

    /// <summary>A test changes what is known of the blocks behind its own. Those before it, nearly all that are known so far, stay.</summary>
    private void ForgetAfter(int block)
    {
        if (_lastKnown > PositionOf(block))
        {
            _byBlock.Clear();
            _lastKnown = -1;
        }
    }

    private int PositionOf(int block)
    {
        if (_positions is null)
        {
            _positions = new int[function.Blocks.Length];
            for (var i = 0; i < function.Order.Length; i++)
            {
                _positions[function.Order[i]] = i;
            }
        }

        return _positions[block];
    }

    private int[]? _positions;

    /// <summary>Position, in the order of evaluation, of the last block of which it is known what is vouched for.</summary>
    private int _lastKnown = -1;

    /// <summary>Values vouched for in the block.</summary>
    public IReadOnlyList<GuardFact> InBlock(int block)
    {
        if (_byBlock.TryGetValue(block, out var known))
        {
            return known;
        }

        // What holds in a block holds in those behind it: only the part of the way that is new is walked.
        var way = new Stack<int>();
        IReadOnlyList<GuardFact> holds = _assumed;
        for (var at = block; at >= 0 && way.Count < MaxWay; at = function.Blocks[at].Dominator)
        {
            if (_byBlock.TryGetValue(at, out var before))
            {
                holds = before;
                break;
            }

            way.Push(at);
        }

        foreach (var at in way)
        {
            holds = _byBlock[at] = With(holds, at);
            _lastKnown = Math.Max(_lastKnown, PositionOf(at));
        }

        return holds;
    }

    /// <summary>Ways longer than this are not followed to their beginning.</summary>
    private const int MaxWay = 4000;

    /// <summary>What holds, and what the step into the block and the block itself add.</summary>
    private IReadOnlyList<GuardFact> With(IReadOnlyList<GuardFact> holds, int block)
    {
        List<GuardFact>? added = null;
        if (function.Blocks[block].Dominator is >= 0 and var dominator)
        {
            foreach (var value in function.Blocks[block].Predecessors.Count > 1 ? OnEveryEdge(block, dominator) : OnEdge(dominator, block))
            {
                (added ??= []).Add(value);
            }
        }

        if (_passed.Count > 0 && _passed.TryGetValue(block, out var passed))
        {
            (added ??= []).AddRange(passed);
        }

        return added is null ? holds : holds.Count == 0 ? added : [.. holds, .. added];
    }

    /// <summary>Values that every way into a block vouches for: "one of these, or else stop" joins several tests.</summary>
    private List<GuardFact> OnEveryEdge(int block, int dominator)
    {
        List<GuardFact>? common = null;
        foreach (var predecessor in function.Blocks[block].Predecessors)
        {
            if (!function.Blocks[predecessor].IsReachable)
            {
                continue;
            }

            var here = OnEdge(predecessor, block, onlyWay: false).ToList();
            var at = predecessor;
            for (var depth = 0; depth < 12 && at != dominator && function.Blocks[at].Predecessors is [var only]; depth++)
            {
                here.AddRange(OnEdge(only, at));
                at = only;
            }

            common = common is null ? here : [.. common.Where(c => here.Exists(h => Agree(c, h)))];
            if (common.Count == 0)
            {
                break;
            }
        }

        return common ?? [];
    }

    /// <summary>Two tests say the same of the same value, though it may have been read twice.</summary>
    private bool Agree(GuardFact one, GuardFact other) => one == other || AreDecidedBySettings(one, other)
        || (one is { Of: null, Value: >= 0 } && other is { Of: null, Value: >= 0 } && one.Safe == other.Safe && values[one.Value] is { Taints: [{ Altered: false } mine] }
            && values[other.Value] is { Taints: [{ Altered: false } theirs] } && mine.Origin.IsSameValue(theirs.Origin));

    /// <summary>Settings decide on both ways; not where the two sides of one test come together again, as after <c>setting || "default"</c>.</summary>
    private static bool AreDecidedBySettings(GuardFact one, GuardFact other) =>
        one.Of is { Kind: OriginKind.Error } mine && other.Of is { Kind: OriginKind.Error } theirs && (mine.Function != theirs.Function || mine.Index == theirs.Index);

    /// <summary>Values vouched for by taking the edge, if the block can be entered by no other.</summary>
    public IEnumerable<GuardFact> OnEdge(int from, int to, bool onlyWay = true)
    {
        var block = function.Blocks[from];
        if (block.Condition < 0 || block.Successors.Count < 2 || block.Successors[0] == block.Successors[1] || (onlyWay && function.Blocks[to].Predecessors.Count != 1))
        {
            return [];
        }

        return to == block.Successors[0] ? TestedBy(block.Condition, true) : to == block.Successors[1] ? TestedBy(block.Condition, false) : [];
    }

    /// <summary>Values that the condition vouches for if it turns out as given.</summary>
    public IEnumerable<GuardFact> TestedBy(int condition, bool truth, int depth = 0)
    {
        if (condition < 0 || depth > 4)
        {
            return [];
        }

        // Whoever installs the program decides what it tells of itself.
        var tested = TestedByItself(condition, truth, depth);
        var instruction = function.Instructions[condition];
        return IsSetting(condition) || (instruction.Op == Opcode.Binary && (IsSetting(instruction.A) || IsSetting(instruction.B))) ? [.. tested, DecidedBySetting(condition, truth)] : tested;
    }

    private IEnumerable<GuardFact> TestedByItself(int condition, bool truth, int depth)
    {
        var instruction = function.Instructions[condition];
        switch (instruction.Op)
        {
            case Opcode.Call or Opcode.CallMethod or Opcode.CallStatic:
                return _tests.TryGetValue((condition, truth), out var tested) ? tested : [];
            case Opcode.Unary when instruction.Text == "!":
                return TestedBy(instruction.A, !truth, depth + 1);
            case Opcode.Cast:
                return TestedBy(instruction.A, truth, depth + 1);
            case Opcode.GetItem when truth && instruction.B >= 0 && IsMap(instruction.A):
                return [new GuardFact(instruction.B)];
            case Opcode.Binary:
                return TestedByComparison(instruction, truth, depth);
            default:
                // What is empty does no harm.
                var noted = _tests.TryGetValue((condition, truth), out var known) ? known : [];
                return truth ? noted : [.. noted, new GuardFact(condition)];
        }
    }

    private IEnumerable<GuardFact> TestedByComparison(in Instruction instruction, bool truth, int depth)
    {
        if (instruction.Text == "in")
        {
            return truth && IsMap(instruction.B) ? [new GuardFact(instruction.A)] : [];
        }

        if (instruction.Text == "instanceof")
        {
            // Nothing that a visitor sends is an object of the program's.
            return truth ? [new GuardFact(instruction.A)] : [];
        }

        var equal = instruction.Text is "==" or "===";
        if (!equal && instruction.Text is not ("!=" or "!==" or ">"))
        {
            return [];
        }

        var left = IsUndefined(instruction.A) ? Undefined : values[instruction.A];
        var right = IsUndefined(instruction.B) ? Undefined : values[instruction.B];
        var (constant, other) = IsConstant(right) ? (right, instruction.A) : IsConstant(left) ? (left, instruction.B) : (null, -1);
        if (constant is null)
        {
            return [];
        }

        if (function.Instructions[other] is { Op: Opcode.Unary, Text: "typeof" } kind && instruction.Text != ">")
        {
            return equal == truth && constant.Constant is "string" or "number" or "boolean"
                ? [new GuardFact(kind.A, constant.Constant == "string" ? OutputContext.Object : OutputContext.All)]
                : [];
        }

        if (function.Instructions[other].Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic or Opcode.GetItem or Opcode.GetField && values[other] is not { IsTainted: true })
        {
            // A test compared with its answer: in_array(…) === false, preg_match(…) === 1, map[x] !== undefined.
            var positive = !(constant.ConstantKind is LiteralKind.Null || constant.Constant is "false" or "0" or "undefined" or "-1");
            if (instruction.Text == ">")
            {
                positive = true;
                equal = true;
            }

            var answered = TestedBy(other, positive == (equal == truth), depth + 1);
            return instruction.Text != ">" && equal == truth && constant.ConstantKind != LiteralKind.Null ? [.. answered, new GuardFact(other)] : answered;
        }

        return instruction.Text != ">" && equal == truth && constant.ConstantKind != LiteralKind.Null ? [new GuardFact(other)] : [];
    }

    /// <summary>A container whose keys the program has chosen.</summary>
    private bool IsMap(int value) => values[value] is { IsTainted: false, Fields: not null };

    private static GuardFact DecidedBySetting(int condition, bool truth) => new(-1, OutputContext.All, new Origin(OriginKind.Error, "", null, condition, truth ? 1 : 0));

    /// <summary>A setting: the facts say so, or it is a constant that no file of the program binds.</summary>
    private bool IsSetting(int value) => value >= 0
        && (values[value] is { IsConfiguration: true } || (function.Instructions[value] is { Op: Opcode.Global, Text: { Length: > 2 } name } && name.All(c => char.IsAsciiLetterUpper(c) || char.IsAsciiDigit(c) || c == '_')));

    private static readonly AbstractValue Undefined = AbstractValue.OfConstant(LiteralKind.Null, "undefined");

    /// <summary>A language's name for no value at all, where nothing else has that name.</summary>
    private bool IsUndefined(int value) => function.Instructions[value] is { Op: Opcode.Global, Text: "undefined" };

    private static bool IsConstant(AbstractValue? value) => value is { Constant: not null, Taints.Count: 0 };
}
