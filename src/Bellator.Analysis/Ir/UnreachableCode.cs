namespace Bellator.Analysis.Ir;

/// <summary>Ends a function's blocks after calls that never come back, so that tests before such calls guard what follows.</summary>
internal static class UnreachableCode
{
    /// <summary>True if every way through the function ends with an exception or the end of the program.</summary>
    public static bool NeverReturns(IrFunction function)
    {
        if (function.IsTopLevel || function.Order.Length == 0)
        {
            return false;
        }

        foreach (var index in function.Order)
        {
            var block = function.Blocks[index];
            var ended = false;
            foreach (var instruction in block.Instructions)
            {
                switch (function.Instructions[instruction].Op)
                {
                    case Opcode.Return:
                        return false;
                    case Opcode.Throw or Opcode.Exit:
                        ended = true;
                        break;
                }
            }

            if (!ended && !block.NeverContinues && block.Successors.Count == 0)
            {
                return false;
            }
        }

        return true;
    }

    /// <summary>Removes the ordinary ways out of the blocks in which one of the calls stands; ways to handlers of exceptions stay.</summary>
    public static void Cut(IrFunction function, IReadOnlyList<int> calls)
    {
        function.NotePruned(calls);
        foreach (var block in calls.Select(c => function.Blocks[function.BlockOf[c]]).Distinct())
        {
            var ordinary = Math.Min(block.Successors.Count, block.Condition >= 0 ? 2 : 1);
            var kept = block.Successors.Take(block.Successors.Count - ordinary).ToArray();
            foreach (var successor in block.Successors.Skip(kept.Length))
            {
                RemoveEdge(function, block.Index, function.Blocks[successor]);
            }

            block.Successors = kept;
            block.Condition = -1;
            block.NeverContinues = true;
        }

        foreach (var block in function.Blocks)
        {
            block.IsReachable = false;
            block.Dominator = -1;
        }

        DominatorTree.Compute(function);
    }

    private static void RemoveEdge(IrFunction function, int from, BasicBlock to)
    {
        var position = to.Predecessors.ToList().IndexOf(from);
        if (position < 0)
        {
            return;
        }

        to.Predecessors = [.. to.Predecessors.Where((_, i) => i != position)];
        foreach (var index in to.Instructions)
        {
            var phi = function.Instructions[index];
            if (phi.Op != Opcode.Phi || position >= phi.C)
            {
                continue;
            }

            for (var i = position; i + 1 < phi.C; i++)
            {
                function.Operands[phi.B + i] = function.Operands[phi.B + i + 1];
            }

            function.Instructions[index] = phi with { C = phi.C - 1 };
        }
    }
}
