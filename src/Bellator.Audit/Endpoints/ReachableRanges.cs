using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>
/// The code of some functions. What members of objects hold is followed over the whole program, so a value that one address puts into
/// a record seems to come to all that use such records: only what is read in the code that an address comes to is its own.
/// </summary>
public sealed class ReachableRanges
{
    private readonly Dictionary<int, List<Span>> _spans = [];

    private readonly ReachableRanges? _shared;

    /// <param name="shared">Code that runs before all of them, such as what takes the request apart for the program's own router.</param>
    public ReachableRanges(IEnumerable<IrFunction> functions, ReachableRanges? shared = null)
    {
        _shared = shared;
        foreach (var function in functions)
        {
            if (!_spans.TryGetValue(function.File.Index, out var spans))
            {
                _spans[function.File.Index] = spans = [];
            }

            spans.Add(function.Span);
        }
    }

    /// <summary>True for a place in the code, and for one that nobody knows.</summary>
    public bool Has(Location? place) =>
        place is not { } at || at == Location.None || (_spans.TryGetValue(at.File, out var spans) && spans.Exists(s => s.Start <= at.Start && at.End <= s.End)) || _shared?.Has(place) == true;

    /// <summary>The value is read in the code.</summary>
    public bool Has(Taint taint) => Has(SourceOf(taint));

    /// <summary>Where a value came in.</summary>
    public static Location SourceOf(Taint taint)
    {
        var first = taint.Trace;
        while (first?.Previous is { } earlier)
        {
            first = earlier;
        }

        return first?.At ?? Location.None;
    }
}
