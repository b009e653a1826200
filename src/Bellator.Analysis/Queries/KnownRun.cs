using System.Globalization;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Text;

namespace Bellator.Analysis.Queries;

/// <summary>One way through a function: the blocks it passes up to the call, and what was known when each call on it was made.</summary>
/// <param name="Unsettled">Those of the blocks that end with a condition which is not known.</param>
public sealed record KnownWay(IReadOnlySet<int> Blocks, IReadOnlyDictionary<int, object?[]> Calls, IReadOnlySet<int> Unsettled);

/// <summary>
/// Runs a function on what its code says by itself: constants, tables that are written out, and one row of such a table, which is assumed to
/// be the one that is looked up. A condition that this does not settle goes both ways. It tells on which ways a front controller comes to the
/// function that answers at an address, without running anything of the program.
/// </summary>
/// <param name="lookedUp">Tables of which the run assumes which row is looked up: the table, the row, and its key where it has one.</param>
public sealed class KnownRun(WrittenValues written, LibraryModels facts, IReadOnlyList<(WrittenTable Table, object Row, string? Key)> lookedUp)
{
    /// <summary>More ways than these are not followed: nothing is then said of any of them.</summary>
    private const int MostWays = 256;

    /// <summary>Instructions of all ways together.</summary>
    private const int MostSteps = 20_000;

    /// <summary>What is made of something that the row says: a class of that name, a method, a file.</summary>
    public static readonly object OfRow = new();

    private readonly HashSet<(IrFunction, int)> _keys = [];
    private int _steps;
    private int _ways;

    /// <summary>Instructions that were followed.</summary>
    public int Steps { get; private set; }

    /// <summary>Values by which the rows were looked up.</summary>
    public IEnumerable<(IrFunction Function, int Value)> Keys => _keys;

    /// <summary>True where not all ways were followed to their end.</summary>
    public bool IsCut { get; private set; }

    /// <summary>The ways on which a call is reached of which the question holds, asked with the values of callee, object and arguments.</summary>
    public IReadOnlyList<KnownWay> WaysTo(IrFunction function, Func<int, object?[], bool> isMeant)
    {
        var found = new List<KnownWay>();
        for (var known = -1; known < _keys.Count && function.Order.Length > 0;)
        {
            // What the row is looked up by is known from the start, once it is known which value that is.
            known = _keys.Count;
            (_steps, _ways) = (0, 0);
            found.Clear();
            Follow(function, function.Order[0], -1, new State(), found, isMeant);
            Steps += _steps;
        }

        return found;
    }

    private sealed class State
    {
        public Dictionary<int, object?> Values { get; init; } = [];

        public HashSet<int> Blocks { get; init; } = [];

        public HashSet<int> Unsettled { get; init; } = [];

        public Dictionary<int, object?[]> Calls { get; init; } = [];

        /// <summary>How often a loop has gone on, by what it goes over.</summary>
        public Dictionary<int, int> Turns { get; init; } = [];

        public State Copy() => new() { Values = new(Values), Blocks = [.. Blocks], Unsettled = [.. Unsettled], Calls = new(Calls), Turns = new(Turns) };
    }

    private void Follow(IrFunction function, int at, int from, State state, List<KnownWay> found, Func<int, object?[], bool> isMeant)
    {
        while (true)
        {
            var block = function.Blocks[at];
            state.Blocks.Add(at);
            var before = from < 0 ? -1 : PositionOf(block.Predecessors, from);
            foreach (var i in block.Instructions)
            {
                if (++_steps > MostSteps)
                {
                    IsCut = true;
                    return;
                }

                ref readonly var instruction = ref function.Instructions[i];
                if (instruction.Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic or Opcode.New or Opcode.Include)
                {
                    var given = GivenTo(function, instruction, state);
                    state.Calls[i] = given;
                    if (isMeant(i, given))
                    {
                        found.Add(new KnownWay(state.Blocks, state.Calls, state.Unsettled));
                        return;
                    }
                }

                state.Values[i] = ValueOf(function, i, instruction, before, state);
            }

            if (block.NeverContinues || block.Successors.Count == 0)
            {
                return;
            }

            from = at;
            if (block.Condition >= 0 && block.Successors.Count == 2 && Truth(state.Values.GetValueOrDefault(block.Condition)) is { } holds)
            {
                at = block.Successors[holds ? 0 : 1];
                continue;
            }

            // What is not known goes every way: a condition, what an error may interrupt. A loop is gone through once, or not at all.
            if (block.Condition >= 0)
            {
                state.Unsettled.Add(at);
            }

            var open = block.Successors.Where(s => !state.Blocks.Contains(s) || block.Successors.Count == 1).ToList();
            if (open.Count == 0)
            {
                return;
            }

            foreach (var other in open.Skip(1))
            {
                if (++_ways > MostWays)
                {
                    IsCut = true;
                    return;
                }

                Follow(function, other, at, state.Copy(), found, isMeant);
            }

            at = open[0];
        }
    }

    private static int PositionOf(IReadOnlyList<int> blocks, int block)
    {
        for (var i = 0; i < blocks.Count; i++)
        {
            if (blocks[i] == block)
            {
                return i;
            }
        }

        return -1;
    }

    /// <summary>The values of what is called, or of the object, and of the arguments.</summary>
    private object?[] GivenTo(IrFunction function, in Instruction call, State state)
    {
        var list = call.B < 0 ? default : function.List(call);
        var given = new object?[list.Length + 1];
        given[0] = call.A >= 0 ? state.Values.GetValueOrDefault(call.A) : null;
        for (var i = 0; i < list.Length; i++)
        {
            given[i + 1] = state.Values.GetValueOrDefault(list[i].Value);
        }

        return given;
    }

    private object? ValueOf(IrFunction function, int index, in Instruction instruction, int before, State state) =>
        _keys.Contains((function, index)) ? lookedUp[0].Key : FindValue(function, index, instruction, before, state) ?? (IsMadeOfRow(function, instruction, state) ? OfRow : null);

    /// <summary>Something of the row goes into it, and what comes out is not known.</summary>
    private bool IsMadeOfRow(IrFunction function, in Instruction instruction, State state)
    {
        bool Is(object? value) => ReferenceEquals(value, OfRow) || (value is string text && text.Length > 1 && IsSaid(text));
        object? At(int value) => value < 0 ? null : state.Values.GetValueOrDefault(value);
        switch (instruction.Op)
        {
            case Opcode.GetField:
                return ReferenceEquals(At(instruction.A), OfRow);
            case Opcode.GetItem:
                return ReferenceEquals(At(instruction.A), OfRow) || Is(At(instruction.B));
            case Opcode.Call or Opcode.CallMethod or Opcode.CallStatic or Opcode.New or Opcode.Concat:
                foreach (var operand in function.List(instruction))
                {
                    if (Is(At(operand.Value)))
                    {
                        return true;
                    }
                }

                return instruction.Op != Opcode.Concat && Is(At(instruction.A));
            default:
                return false;
        }
    }

    /// <summary>The row says the text, and it is not what the row is looked up by.</summary>
    private bool IsSaid(string text)
    {
        var (_, row, key) = lookedUp[^1];
        return text != key && (row as string == text || (row is WrittenTable parts && Enumerable.Range(0, CountOf(parts)).Any(i => ElementOf(parts, i) as string == text)));
    }

    private object? FindValue(IrFunction function, int index, in Instruction instruction, int before, State state)
    {
        object? Known(int value) => value < 0 ? null : state.Values.GetValueOrDefault(value);
        switch (instruction.Op)
        {
            case Opcode.Phi:
                return before >= 0 && before < instruction.C ? Known(function.List(instruction)[before].Value) : null;
            case Opcode.Unary when instruction.Text is "more":
                return More(instruction.A, Known(instruction.A), state);
            case Opcode.Unary when instruction.Text is "!" or "not":
                return Truth(Known(instruction.A)) is { } truth ? !truth : null;
            case Opcode.Cast:
                return Known(instruction.A);
            case Opcode.Element:
                return Known(instruction.A) is WrittenTable list ? Asked(list) is var (_, row, _) ? row : ElementOf(list, state.Turns.GetValueOrDefault(instruction.A) - 1) : null;
            case Opcode.ElementKey:
                return Known(instruction.A) is WrittenTable keyed ? Asked(keyed)?.Key : null;
            case Opcode.GetItem:
                return Item(function, Known(instruction.A), instruction.B, Known(instruction.B));
            case Opcode.GetField:
                return Known(instruction.A) is WrittenTable fields && Asked(fields) is null ? Named(fields, instruction.Text ?? "") : written.Of(function, index);
            case Opcode.Binary:
                return Compared(instruction.Text, Known(instruction.A), Known(instruction.B));
            case Opcode.Call or Opcode.CallMethod or Opcode.CallStatic:
                return Called(function, instruction, state.Calls[index]);
            default:
                return written.Of(function, index);
        }
    }

    /// <summary>A loop over the table of addresses comes to the row that is meant, once; one over another written list to each of its elements.</summary>
    private object? More(int over, object? source, State state)
    {
        if (source is not WrittenTable list)
        {
            return null;
        }

        var turn = state.Turns[over] = state.Turns.GetValueOrDefault(over) + 1;
        return turn <= (Asked(list) is not null ? 1 : CountOf(list));
    }

    private (WrittenTable Table, object Row, string? Key)? Asked(WrittenTable other)
    {
        foreach (var one in lookedUp)
        {
            if (one.Table == other)
            {
                return one;
            }
        }

        return null;
    }

    private object? Item(IrFunction function, object? of, int keyAt, object? asked)
    {
        if (of is not WrittenTable held)
        {
            return null;
        }

        if (Asked(held) is var (_, row, key) && (asked is not string other || other == key))
        {
            NoteKey(function, held, keyAt);
            return row;
        }

        return asked switch
        {
            string name => Named(held, name),
            double place => ElementOf(held, (int)place),
            _ => null,
        };
    }

    /// <summary>The row that is looked up is the one that is meant, so that what it is looked up by is its key.</summary>
    private void NoteKey(IrFunction function, WrittenTable held, int value)
    {
        if (value >= 0 && held == lookedUp[0].Table && lookedUp[0].Key is not null)
        {
            _keys.Add((function, value));
        }
    }

    private object? Called(IrFunction function, in Instruction call, object?[] given)
    {
        if (call.Op == Opcode.CallMethod && given[0] is WrittenTable held && Asked(held) is var (_, row, _))
        {
            // Whatever it is asked for: get, fetch, find.
            if (call.C > 0 && function.Instructions[function.List(call)[0].Value].Op != Opcode.Function)
            {
                NoteKey(function, held, function.List(call)[0].Value);
            }

            return row;
        }

        var name = call.Op == Opcode.Call ? function.Instructions[call.A].Text : call.Text;
        var first = given.Length > 1 ? given[1] : null;
        if (call.Op == Opcode.Call && name is "isset" or "empty")
        {
            return first is null ? null : ReferenceEquals(first, WrittenValues.Nothing) || (name == "empty" && Truth(first) == false) ? name == "empty" : name != "empty";
        }

        var models = facts.For(Languages.Family(function.File.Source.Language));
        return name is not null && (call.Op == Opcode.Call ? models.Call(name) : models.Method("*", name))?.Test is { } test ? Tested(function, call, test, given) : null;
    }

    /// <summary>What a test that the facts know says of values that are known.</summary>
    private object? Tested(IrFunction function, in Instruction call, TestModel test, object?[] given)
    {
        object? At(int? place) => place is { } p && p + 1 >= 0 && p + 1 < given.Length ? given[p + 1] : null;
        if (test.Kind == "prefix" && At(test.Value) is string whole && At(test.Pattern) is string start)
        {
            return whole.StartsWith(start, StringComparison.Ordinal) == test.Answer;
        }

        if (test.Kind == "allow" && At(test.List) is WrittenTable list)
        {
            if (Asked(list) is not null)
            {
                if (test.Value >= 0 && test.Value < call.C)
                {
                    NoteKey(function, list, function.List(call)[test.Value].Value);
                }

                return test.Answer;
            }

            if (At(test.Value) is string sought && Enumerable.Range(0, CountOf(list)).Select(i => ElementOf(list, i)).ToList() is var all && all.TrueForAll(a => a is string))
            {
                return all.Contains(sought) == test.Answer;
            }
        }

        return null;
    }

    private static object? Compared(string? sign, object? left, object? right)
    {
        if (left is null || right is null || left is WrittenTable || right is WrittenTable)
        {
            return null;
        }

        return sign switch
        {
            "==" or "===" or "eq" or "is" => Equal(left, right),
            "!=" or "!==" or "<>" or "is not" => !Equal(left, right),
            ">" or "<" or ">=" or "<=" when left is double l && right is double r => sign switch { ">" => l > r, "<" => l < r, ">=" => l >= r, _ => l <= r },
            _ => null,
        };
    }

    private static bool Equal(object left, object right) => left.Equals(right);

    /// <summary>Null where it is not known.</summary>
    private static bool? Truth(object? value) => value switch
    {
        null => null,
        bool truth => truth,
        double number => number != 0,
        string text => text.Length > 0,
        WrittenTable or IrFunction => true,
        _ => ReferenceEquals(value, WrittenValues.Nothing) ? false : null,
    };

    private static int CountOf(WrittenTable list) => list.In.Instructions[list.Instruction].C;

    private object? ElementOf(WrittenTable list, int place) =>
        place >= 0 && place < CountOf(list) ? written.Of(list.In, list.In.List(list.In.Instructions[list.Instruction])[place].Value) : WrittenValues.Nothing;

    private object? Named(WrittenTable held, string name)
    {
        var isList = held.In.Instructions[held.Instruction].Op == Opcode.List;
        if (isList)
        {
            return int.TryParse(name, CultureInfo.InvariantCulture, out var place) ? ElementOf(held, place) : null;
        }

        var all = held.Entries();
        var position = Array.FindIndex(all, o => o.Name == name);
        return position >= 0 ? written.Of(held.In, all[position].Value) : Array.Exists(all, o => o.Spread || o.Name is null) ? null : WrittenValues.Nothing;
    }
}
