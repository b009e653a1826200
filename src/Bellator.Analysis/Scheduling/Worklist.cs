namespace Bellator.Analysis.Scheduling;

/// <summary>The functions that are still to be looked at, by their numbers.</summary>
/// <param name="inOrder">All functions, in the order in which they are to be looked at.</param>
/// <param name="bound">Higher than all their numbers.</param>
internal sealed class Worklist(int[] inOrder, int bound)
{
    private readonly bool[] _marks = new bool[bound];

    public int Count { get; private set; }

    public void Add(int function)
    {
        if (!_marks[function])
        {
            _marks[function] = true;
            Count++;
        }
    }

    public void Add(List<int>? functions)
    {
        if (functions is null)
        {
            return;
        }

        foreach (var function in functions)
        {
            Add(function);
        }
    }

    public void Remove(int function)
    {
        if (_marks[function])
        {
            _marks[function] = false;
            Count--;
        }
    }

    /// <summary>All of them in order, after which none is left.</summary>
    public int[] Take()
    {
        int[] taken = [.. inOrder.Where(f => _marks[f])];
        Array.Clear(_marks);
        Count = 0;
        return taken;
    }
}
