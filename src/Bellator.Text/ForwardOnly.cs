namespace Bellator.Text;

/// <summary>A reader stood still in its input: a defect of ours, met by material that nobody thought of.</summary>
public sealed class StalledException(string reader) : Exception($"{reader} made no headway");

/// <summary>
/// Watches the place of a hand-written reader in its input. Asked once in every round of a loop, it makes a loop that would never end
/// an error that can be reported: a place that is not beyond that of the round before throws.
/// </summary>
internal struct ForwardOnly(string reader)
{
    private int _last = int.MinValue;

    /// <summary>True, so that it can stand in front of a loop's own condition.</summary>
    /// <exception cref="StalledException">The place is not beyond the one of the last round.</exception>
    public bool At(int place)
    {
        if (place <= _last)
        {
            throw new StalledException(reader);
        }

        _last = place;
        return true;
    }
}
