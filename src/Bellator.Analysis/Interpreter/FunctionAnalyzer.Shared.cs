using Bellator.Analysis.Ir;

namespace Bellator.Analysis.Interpreter;

/// <summary>Who sees a variable of the whole program after it was set.</summary>
internal sealed partial class FunctionAnalyzer
{
    private bool[]? _comesToItsEnd;

    /// <summary>
    /// Somebody sees a variable that is set in the block: the file goes on to its end, or includes another one, or calls a function that reads
    /// the variable before the program ends. A redirect with an exit behind it hands nothing on.
    /// </summary>
    private bool IsSeenAfter(int block, string name)
    {
        if ((_comesToItsEnd ??= ComesToItsEnd())[block])
        {
            return true;
        }

        var seen = new HashSet<int> { block };
        var open = new Stack<int>(seen);
        while (open.TryPop(out var at))
        {
            foreach (var index in _function.Blocks[at].Instructions)
            {
                ref readonly var instruction = ref _function.Instructions[index];
                if (instruction.Op is Opcode.Include or Opcode.CallMethod or Opcode.CallStatic or Opcode.New || (instruction.Op == Opcode.Call && Reads(index, name)))
                {
                    return true;
                }
            }

            foreach (var next in _function.Blocks[at].Successors)
            {
                if (seen.Add(next))
                {
                    open.Push(next);
                }
            }
        }

        return false;
    }

    private bool Reads(int call, string name)
    {
        if (_program.Program.FindFunction(_function.NameAt(call), _file) is not { } called)
        {
            return false;
        }

        // Should its code change, this has to be looked at again.
        _visit.NotePlaces(called.File);
        return called.Instructions.Any(i => i.Op == Opcode.LoadShared && i.Text == name);
    }

    /// <summary>The function comes back to its caller at the end of the block: it neither throws there nor ends the program.</summary>
    private bool ComesBackFrom(int block) => _function.Blocks[block] is { Successors.Count: 0, NeverContinues: false } last
        && !last.Instructions.Any(i => _function.Instructions[i].Op is Opcode.Exit or Opcode.Throw);

    /// <summary>Of each block, whether a way from it leads to the end of the function and not only to that of the program.</summary>
    private bool[] ComesToItsEnd()
    {
        var comes = new bool[_function.Blocks.Length];
        var open = new Stack<int>(_function.Order.Where(ComesBackFrom));
        while (open.TryPop(out var at))
        {
            if (!comes[at])
            {
                comes[at] = true;
                foreach (var before in _function.Blocks[at].Predecessors)
                {
                    open.Push(before);
                }
            }
        }

        return comes;
    }
}
