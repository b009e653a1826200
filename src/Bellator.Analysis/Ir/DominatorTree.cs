namespace Bellator.Analysis.Ir;

/// <summary>Orders the blocks and finds dominators: Cooper, Harvey, Kennedy, "A Simple, Fast Dominance Algorithm" (2001).</summary>
internal static class DominatorTree
{
    public static void Compute(IrFunction function)
    {
        var blocks = function.Blocks;
        var order = ReversePostorder(blocks);
        var position = new int[blocks.Length];
        Array.Fill(position, -1);
        for (var i = 0; i < order.Length; i++)
        {
            position[order[i]] = i;
            blocks[order[i]].IsReachable = true;
        }

        var dominator = new int[blocks.Length];
        Array.Fill(dominator, -1);
        dominator[order[0]] = order[0];
        for (var changed = true; changed;)
        {
            changed = false;
            for (var i = 1; i < order.Length; i++)
            {
                var best = -1;
                foreach (var predecessor in blocks[order[i]].Predecessors)
                {
                    if (position[predecessor] >= 0 && dominator[predecessor] >= 0)
                    {
                        best = best < 0 ? predecessor : Intersect(best, predecessor, dominator, position);
                    }
                }

                if (best != dominator[order[i]])
                {
                    dominator[order[i]] = best;
                    changed = true;
                }
            }
        }

        for (var i = 1; i < order.Length; i++)
        {
            blocks[order[i]].Dominator = dominator[order[i]];
        }

        function.Order = order;
    }

    private static int Intersect(int a, int b, int[] dominator, int[] position)
    {
        while (a != b)
        {
            while (position[a] > position[b])
            {
                a = dominator[a];
            }

            while (position[b] > position[a])
            {
                b = dominator[b];
            }
        }

        return a;
    }

    private static int[] ReversePostorder(BasicBlock[] blocks)
    {
        var seen = new bool[blocks.Length];
        var done = new List<int>(blocks.Length);
        var stack = new Stack<(int Block, int Next)>();
        stack.Push((0, 0));
        seen[0] = true;
        while (stack.Count > 0)
        {
            var (block, next) = stack.Pop();
            if (next >= blocks[block].Successors.Count)
            {
                done.Add(block);
                continue;
            }

            stack.Push((block, next + 1));
            var successor = blocks[block].Successors[next];
            if (!seen[successor])
            {
                seen[successor] = true;
                stack.Push((successor, 0));
            }
        }

        done.Reverse();
        return [.. done];
    }
}
