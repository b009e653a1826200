using System.Globalization;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Queries;

/// <summary>An object or list as it is written in the code.</summary>
public sealed record WrittenTable(IrFunction In, int Instruction);

/// <summary>One way through a function: the blocks it passes up to the call, and what was known when each call on it was made.</summary>
public sealed record KnownWay(IReadOnlySet<int> Blocks, IReadOnlyDictionary<int, object?[]> Calls);

/// <summary>
/// Runs a function on what its code says by itself: constants, tables that are written out, and one row of such a table, which is assumed to
/// be the one that is looked up. A condition that this does not settle goes both ways. It tells on which ways a front controller comes to the
/// function that answers at an address, without running anything of the program.
/// </summary>
public sealed class KnownRun(ProgramModel program, LibraryModels facts, WrittenTable table, object? row, string? key)
{
    /// <summary>More ways than these are not followed; what is not known then is said to be open.</summary>
    private const int MostWays = 256;

    /// <summary>Instructions of all ways together.</summary>
    private const int MostSteps = 60_000;

    private const int MaxDepth = 6;

    /// <summary>What is nothing: null, undefined, an element that a table has not.</summary>
    private static readonly object Nothing = new();

    private int _steps;
    private int _ways;

    /// <summary>True where not all ways were followed to their end.</summary>
    public bool IsCut { get; private set; }

    /// <summary>The ways on which a call is reached of which the question holds, asked with the values of callee, object and arguments.</summary>
    public IReadOnlyList<KnownWay> WaysTo(IrFunction function, Func<int, object?[], bool> isMeant)
    {
        var found = new List<KnownWay>();
        if (function.Order.Length > 0)
        {
            Follow(function, function.Order[0], -1, new State(), found, isMeant);
        }

        return found;
    }

    private sealed class State
    {
        public Dictionary<int, object?> Values { get; init; } = [];

        public HashSet<int> Blocks { get; init; } = [];

        public Dictionary<int, object?[]> Calls { get; init; } = [];

        /// <summary>How often a loop has gone on, by the instruction that asks whether it does.</summary>
        public Dictionary<int, int> Turns { get; init; } = [];

        public State Copy() => new() { Values = new(Values), Blocks = [.. Blocks], Calls = new(Calls), Turns = new(Turns) };
    }

    private void Follow(IrFunction function, int at, int from, State state, List<KnownWay> found, Func<int, object?[], bool> isMeant)
    {
        while (true)
        {
            var block = function.Blocks[at];
            state.Blocks.Add(at);
            var before = from < 0 ? -1 : block.Predecessors.ToList().IndexOf(from);
            foreach (var i in block.Instructions)
            {
                if (++_steps > MostSteps)
                {
                    IsCut = true;
                    return;
                }

                ref readonly var instruction = ref function.Instructions[i];
                if (instruction.Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic or Opcode.New)
                {
                    var given = GivenTo(function, instruction, state);
                    state.Calls[i] = given;
                    if (isMeant(i, given))
                    {
                        found.Add(new KnownWay(state.Blocks, state.Calls));
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

    /// <summary>The values of what is called, or of the object, and of the arguments.</summary>
    private object?[] GivenTo(IrFunction function, in Instruction call, State state)
    {
        var list = function.List(call);
        var given = new object?[list.Length + 1];
        given[0] = call.A >= 0 ? state.Values.GetValueOrDefault(call.A) : null;
        for (var i = 0; i < list.Length; i++)
        {
            given[i + 1] = state.Values.GetValueOrDefault(list[i].Value);
        }

        return given;
    }

    private object? ValueOf(IrFunction function, int index, in Instruction instruction, int before, State state)
    {
        object? Known(int value) => value < 0 ? null : state.Values.GetValueOrDefault(value);
        switch (instruction.Op)
        {
            case Opcode.Phi:
                return before >= 0 && before < instruction.C ? Known(function.List(instruction)[before].Value) : null;
            case Opcode.Unary when instruction.Text is "more":
                return More(index, Known(instruction.A), state);
            case Opcode.Unary when instruction.Text is "!" or "not":
                return Truth(Known(instruction.A)) is { } truth ? !truth : null;
            case Opcode.Cast:
                return Known(instruction.A);
            case Opcode.Element:
                return Known(instruction.A) is WrittenTable list ? IsAsked(list) ? row : ElementOf(list, state.Turns.GetValueOrDefault(TurnOf(function, instruction.A)) - 1) : null;
            case Opcode.ElementKey:
                return Known(instruction.A) is WrittenTable keyed && IsAsked(keyed) ? key : null;
            case Opcode.GetItem:
                return Item(Known(instruction.A), instruction.B, Known(instruction.B), state);
            case Opcode.GetField:
                return Known(instruction.A) is WrittenTable fields && !IsAsked(fields) ? Named(fields, instruction.Text ?? "") : null;
            case Opcode.Binary:
                return Compared(instruction.Text, Known(instruction.A), Known(instruction.B));
            case Opcode.Call or Opcode.CallMethod or Opcode.CallStatic:
                return Called(function, instruction, state.Calls[index]);
            default:
                return Written(function, index, 0);
        }
    }

    /// <summary>The instruction that asks whether the loop over the list goes on.</summary>
    private static int TurnOf(IrFunction function, int list)
    {
        for (var i = 0; i < function.Instructions.Length; i++)
        {
            if (function.Instructions[i] is { Op: Opcode.Unary, Text: "more", A: var source } && source == list)
            {
                return i;
            }
        }

        return -1;
    }

    /// <summary>A loop over the table of addresses comes to the row that is meant, once; one over another written list to each of its elements.</summary>
    private object? More(int index, object? source, State state)
    {
        if (source is not WrittenTable list)
        {
            return null;
        }

        var turn = state.Turns[index] = state.Turns.GetValueOrDefault(index) + 1;
        return turn <= (IsAsked(list) ? 1 : CountOf(list));
    }

    private bool IsAsked(WrittenTable other) => other == table;

    private object? Item(object? of, int keyAt, object? asked, State state)
    {
        if (of is not WrittenTable held)
        {
            return null;
        }

        if (IsAsked(held))
        {
            // The row that is looked up is the one that is meant, so that what it is looked up by is its key.
            if (keyAt >= 0 && key is not null && asked is null)
            {
                state.Values[keyAt] = key;
            }

            return row;
        }

        return asked switch
        {
            string name => Named(held, name),
            double place => ElementOf(held, (int)place),
            _ => null,
        };
    }

    private object? Called(IrFunction function, in Instruction call, object?[] given)
    {
        if (call.Op == Opcode.CallMethod && given[0] is WrittenTable held && IsAsked(held))
        {
            // Whatever it is asked for: get, fetch, find.
            return row;
        }

        var name = call.Op == Opcode.Call ? function.Instructions[call.A].Text : call.Text;
        var first = given.Length > 1 ? given[1] : null;
        if (call.Op == Opcode.Call && name is "isset" or "empty")
        {
            return first is null ? null : ReferenceEquals(first, Nothing) || (name == "empty" && Truth(first) == false) ? name == "empty" : name != "empty";
        }

        var models = facts.For(Languages.Family(function.File.Source.Language));
        return name is not null && (call.Op == Opcode.Call ? models.Call(name) : models.Method("*", name))?.Test is { } test ? Tested(test, given) : null;
    }

    /// <summary>What a test that the facts know says of values that are known.</summary>
    private object? Tested(TestModel test, object?[] given)
    {
        object? At(int? place) => place is { } p && p + 1 >= 0 && p + 1 < given.Length ? given[p + 1] : null;
        if (test.Kind == "prefix" && At(test.Value) is string whole && At(test.Pattern) is string start)
        {
            return whole.StartsWith(start, StringComparison.Ordinal) == test.Answer;
        }

        if (test.Kind == "allow" && At(test.List) is WrittenTable list)
        {
            if (IsAsked(list))
            {
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
        _ => ReferenceEquals(value, Nothing) ? false : null,
    };

    private static int CountOf(WrittenTable list) => list.In.Instructions[list.Instruction].C;

    private object? ElementOf(WrittenTable list, int place) =>
        place >= 0 && place < CountOf(list) ? Written(list.In, list.In.List(list.In.Instructions[list.Instruction])[place].Value, 0) : Nothing;

    private object? Named(WrittenTable held, string name)
    {
        var isList = held.In.Instructions[held.Instruction].Op == Opcode.List;
        if (isList)
        {
            return int.TryParse(name, CultureInfo.InvariantCulture, out var place) ? ElementOf(held, place) : null;
        }

        var all = held.In.List(held.In.Instructions[held.Instruction]).ToArray();
        var position = Array.FindIndex(all, o => o.Name == name);
        return position >= 0 ? Written(held.In, all[position].Value, 0) : Array.Exists(all, o => o.Spread || o.Name is null) ? null : Nothing;
    }

    /// <summary>The value of an instruction that says it by itself; null if it does not.</summary>
    public object? Written(IrFunction function, int index, int depth)
    {
        if (index < 0 || depth > MaxDepth)
        {
            return null;
        }

        var instruction = function.Instructions[index];
        switch (instruction.Op)
        {
            case Opcode.Undefined:
                return Nothing;
            case Opcode.Constant:
                return (LiteralKind)instruction.A switch
                {
                    LiteralKind.Text => instruction.Text ?? "",
                    LiteralKind.Number => double.TryParse(instruction.Text, NumberStyles.Float, CultureInfo.InvariantCulture, out var number) ? number : null,
                    LiteralKind.Boolean => instruction.Text is "true" or "True" or "TRUE",
                    LiteralKind.Null => Nothing,
                    _ => null,
                };
            case Opcode.Object or Opcode.List:
                return new WrittenTable(function, index);
            case Opcode.Function:
                return function.File.Functions[instruction.A];
            case Opcode.Cast:
                return Written(function, instruction.A, depth + 1);
            case Opcode.LoadCell:
                return OfCell(function.File, instruction.A, depth);
            case Opcode.Include:
                return program.Modules.IncludeTarget(function.File, function, instruction.A) is >= 0 and var included ? Returned(program.Files[included].Functions[0], depth) : null;
            case Opcode.Import:
                return program.Modules.Resolve(function.File.Source.Path, instruction.Text ?? "") is >= 0 and var module ? Exported(program.Files[module], function.Operands[instruction.B].Name, depth) : null;
            default:
                return null;
        }
    }

    private object? Returned(IrFunction function, int depth)
    {
        var returns = function.Instructions.Where(i => i is { Op: Opcode.Return, A: >= 0 }).ToList();
        return returns.Count == 1 ? Written(function, returns[0].A, depth + 1) : null;
    }

    /// <summary>What a variable of the file is set to, where that is done once.</summary>
    private object? OfCell(IrFile file, int cell, int depth)
    {
        (IrFunction Function, int Value)? only = null;
        foreach (var function in file.Functions)
        {
            foreach (var instruction in function.Instructions)
            {
                if (instruction.Op == Opcode.StoreCell && instruction.A == cell)
                {
                    if (only is not null)
                    {
                        return null;
                    }

                    only = (function, instruction.B);
                }
            }
        }

        return only is var (owner, value) ? Written(owner, value, depth + 1) : null;
    }

    private object? Exported(IrFile file, string? name, int depth)
    {
        var top = file.Functions[0];
        foreach (var instruction in top.Instructions)
        {
            if (instruction.Op == Opcode.Export && (instruction.Text == name || (name is "*" or "" or null && instruction.Text is "default" or "module.exports")))
            {
                return Written(top, instruction.A, depth + 1);
            }
        }

        return null;
    }
}
