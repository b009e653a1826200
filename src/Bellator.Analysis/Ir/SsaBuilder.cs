using System.Globalization;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Ir;

/// <summary>
/// Builds one function in single-assignment form while its syntax is walked, without a separate dominance pass:
/// Braun, Buchwald, Hack, Leißa, Mallon, Zwinkau, "Simple and Efficient Construction of Static Single Assignment Form" (CC 2013).
/// </summary>
internal sealed class SsaBuilder
{
    private readonly List<Instruction> _instructions = [];
    private readonly List<Operand> _operands = [];
    private readonly List<BlockBuilder> _blocks = [];
    private readonly List<int> _replacedBy = [];
    private readonly HashSet<Variable> _written = [];
    private int _open;
    private readonly Dictionary<int, string> _names = [];

    public SsaBuilder(FunctionDeclaration? declaration)
    {
        Declaration = declaration;
        Current = NewBlock();
        Seal(Current);
    }

    /// <summary>Null for a file's top level and a class's initial values.</summary>
    public FunctionDeclaration? Declaration { get; }

    /// <summary>Where all of the function is shown, if its own code is not part of the file.</summary>
    public Span? At { get; init; }

    public BlockBuilder Current { get; private set; }

    public BlockBuilder NewBlock()
    {
        var block = new BlockBuilder(_blocks.Count);
        _blocks.Add(block);
        return block;
    }

    public int Emit(Opcode op, Span span, int a = -1, int b = -1, int c = -1, string? text = null)
    {
        var index = Add(new Instruction(op, a, b, c, text, At ?? span));
        Current.Instructions.Add(index);
        return index;
    }

    public int EmitList(Opcode op, Span span, IReadOnlyList<Operand> list, int a = -1, string? text = null)
    {
        var start = _operands.Count;
        _operands.AddRange(list);
        return Emit(op, span, a, start, list.Count, text);
    }

    public int Constant(LiteralKind kind, string text, Span span) => Emit(Opcode.Constant, span, (int)kind, text: text);

    public int Number(int value, Span span) => Constant(LiteralKind.Number, value.ToString(CultureInfo.InvariantCulture), span);

    public void Jump(BlockBuilder target)
    {
        if (!Current.Ended && !Current.IsDead)
        {
            Current.Ended = true;
            Current.Successors.Add(target);
            target.Predecessors.Add(Current);
        }
    }

    public void Branch(int condition, BlockBuilder then, BlockBuilder otherwise)
    {
        if (!Current.Ended && !Current.IsDead)
        {
            Current.Ended = true;
            Current.Condition = condition;
            Current.Successors.Add(then);
            then.Predecessors.Add(Current);
            Current.Successors.Add(otherwise);
            otherwise.Predecessors.Add(Current);
        }
    }

    /// <summary>An edge that may be taken anywhere in the current block, as to a handler of exceptions.</summary>
    public void MayGoTo(BlockBuilder target)
    {
        if (Current.IsDead)
        {
            return;
        }

        Current.Successors.Add(target);
        target.Predecessors.Add(Current);
    }

    /// <summary>Ends the current block without a successor; what follows is unreachable until the next block starts.</summary>
    public void End() => Current.Ended = true;

    public void Start(BlockBuilder block)
    {
        Current = block;
        if (!block.Sealed && !block.Open)
        {
            block.Open = true;
            _open++;
        }
    }

    public bool IsWritten(Variable variable) => _written.Contains(variable);

    public void Write(Variable variable, int value)
    {
        _written.Add(variable);
        if (variable.Name.Length > 0)
        {
            _names.TryAdd(value, variable.Name);
        }

        Current.Definitions[variable] = value;
    }

    /// <summary>The value that the variable has here. One that nothing has written so far, and no loop around may write, has its first value.</summary>
    public int Read(Variable variable) => Read(variable, _open == 0 && !_written.Contains(variable) ? _blocks[0] : Current);

    public void Seal(BlockBuilder block)
    {
        block.Sealed = true;
        if (block.Open)
        {
            block.Open = false;
            _open--;
        }

        foreach (var (variable, phi) in block.Incomplete)
        {
            AddPhiOperands(variable, phi, block);
        }

        block.Incomplete.Clear();
    }

    public void Finish(IrFunction function)
    {
        var instructions = _instructions.ToArray();
        for (var i = 0; i < instructions.Length; i++)
        {
            instructions[i] = Resolve(instructions[i]);
        }

        for (var i = 0; i < _operands.Count; i++)
        {
            _operands[i] = _operands[i] with { Value = Final(_operands[i].Value) };
        }

        function.Instructions = instructions;
        function.Operands = [.. _operands];
        function.BlockOf = new int[instructions.Length];
        function.Blocks = new BasicBlock[_blocks.Count];
        foreach (var block in _blocks)
        {
            block.Phis.RemoveAll(p => _replacedBy[p] >= 0);
            var all = new int[block.Phis.Count + block.Instructions.Count];
            block.Phis.CopyTo(all);
            block.Instructions.CopyTo(all, block.Phis.Count);
            foreach (var index in all)
            {
                function.BlockOf[index] = block.Index;
            }

            function.Blocks[block.Index] = new BasicBlock(block.Index)
            {
                Instructions = all,
                Predecessors = [.. block.Predecessors.Select(p => p.Index)],
                Successors = [.. block.Successors.Select(s => s.Index)],
                Condition = block.Condition < 0 ? -1 : Final(block.Condition),
            };
        }

        function.Names = _names;
        DominatorTree.Compute(function);
    }

    private Instruction Resolve(Instruction i) => i.Op switch
    {
        Opcode.Constant or Opcode.Parameter or Opcode.LoadCell or Opcode.Function or Opcode.Class => i,
        Opcode.StoreCell => i with { B = Final(i.B) },
        Opcode.StoreShared => i with { B = Final(i.B) },
        Opcode.Call or Opcode.CallMethod or Opcode.CallStatic or Opcode.New or Opcode.TaggedTemplate => i with { A = Final(i.A) },
        Opcode.Concat or Opcode.Object or Opcode.List or Opcode.Phi or Opcode.Output or Opcode.Opaque or Opcode.Import => i,
        Opcode.OutArgument => i with { A = Final(i.A) },
        _ => i with { A = Final(i.A), B = Final(i.B), C = Final(i.C) },
    };

    private int Final(int value)
    {
        while (value >= 0 && _replacedBy[value] >= 0)
        {
            value = _replacedBy[value];
        }

        return value;
    }

    private int Add(Instruction instruction)
    {
        _instructions.Add(instruction);
        _replacedBy.Add(-1);
        return _instructions.Count - 1;
    }

    private int Read(Variable variable, BlockBuilder block)
    {
        if (block.Definitions.TryGetValue(variable, out var value))
        {
            return value;
        }

        // Straight chains are followed in a loop: generated code has thousands of blocks in a row.
        var passed = new List<BlockBuilder>();
        var at = block;
        while (at.Sealed && at.Predecessors.Count == 1 && !at.Definitions.ContainsKey(variable))
        {
            if (passed.Count > _blocks.Count)
            {
                // A loop that nothing leads into: code after a return.
                return Undefined(at);
            }

            passed.Add(at);
            at = at.Predecessors[0];
        }

        if (!at.Definitions.TryGetValue(variable, out value))
        {
            if (!at.Sealed)
            {
                value = NewPhi(at);
                at.Incomplete.Add((variable, value));
            }
            else if (at.Predecessors.Count == 0)
            {
                value = Add(variable.Shared && at.Index == 0
                    ? new Instruction(Opcode.LoadShared, -1, -1, -1, variable.Name, Span.None)
                    : new Instruction(Opcode.Undefined, -1, -1, -1, null, Span.None));
                at.Phis.Add(value);
            }
            else
            {
                value = NewPhi(at);
                at.Definitions[variable] = value;
                value = AddPhiOperands(variable, value, at);
            }

            at.Definitions[variable] = value;
        }

        foreach (var between in passed)
        {
            between.Definitions[variable] = value;
        }

        return value;
    }

    private int Undefined(BlockBuilder block)
    {
        var value = Add(new Instruction(Opcode.Undefined, -1, -1, -1, null, Span.None));
        block.Phis.Add(value);
        return value;
    }

    private int NewPhi(BlockBuilder block)
    {
        var phi = Add(new Instruction(Opcode.Phi, -1, 0, 0, null, Span.None));
        block.Phis.Add(phi);
        return phi;
    }

    private int AddPhiOperands(Variable variable, int phi, BlockBuilder block)
    {
        var values = block.Predecessors.ConvertAll(p => Read(variable, p));
        var same = -1;
        var trivial = true;
        foreach (var value in values)
        {
            var final = Final(value);
            if (final == phi || final == same)
            {
                continue;
            }

            if (same >= 0)
            {
                trivial = false;
                break;
            }

            same = final;
        }

        if (trivial && same >= 0)
        {
            _replacedBy[phi] = same;
            return same;
        }

        var start = _operands.Count;
        foreach (var value in values)
        {
            _operands.Add(new Operand(value, variable.Name));
        }

        _instructions[phi] = _instructions[phi] with { B = start, C = values.Count, Text = variable.Name };
        return phi;
    }

    internal sealed class BlockBuilder(int index)
    {
        public int Index { get; } = index;

        public List<int> Phis { get; } = [];

        public List<int> Instructions { get; } = [];

        public List<BlockBuilder> Predecessors { get; } = [];

        public List<BlockBuilder> Successors { get; } = [];

        public Dictionary<Variable, int> Definitions { get; } = [];

        public List<(Variable Variable, int Phi)> Incomplete { get; } = [];

        public int Condition { get; set; } = -1;

        public bool Sealed { get; set; }

        /// <summary>Begun before it is known what leads to it: the head of a loop.</summary>
        public bool Open { get; set; }

        public bool Ended { get; set; }

        /// <summary>Nothing leads here: code after a return. Its edges would blur what is known on the ways that exist.</summary>
        public bool IsDead => Sealed && Index != 0 && Predecessors.Count == 0;
    }
}
