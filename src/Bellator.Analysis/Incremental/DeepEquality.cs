using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Summaries;

namespace Bellator.Analysis.Incremental;

/// <summary>
/// Whether two pieces of knowledge are just the same, the ways that values came included. That is more than being equal in all that
/// matters to the analysis: one may stand for the other in everything that is reported.
/// </summary>
internal static class DeepEquality
{
    public static bool Same(AbstractValue? left, AbstractValue? right)
    {
        if (ReferenceEquals(left, right))
        {
            return true;
        }

        return left is not null && right is not null
            && left.Constant == right.Constant && left.ConstantKind == right.ConstantKind && left.Library == right.Library && left.Module == right.Module
            && left.Name == right.Name && left.IsConfiguration == right.IsConfiguration && left.Fallback == right.Fallback && ReferenceEquals(left.Fact, right.Fact)
            && All(left.Types, right.Types, string.Equals) && All(left.Targets, right.Targets, ReferenceEquals) && All(left.Taints, right.Taints, Same)
            && Same(left.Text, right.Text) && Same(left.Payload, right.Payload) && Same(left.Hash, right.Hash) && Same(left.Fields, right.Fields);
    }

    /// <summary>All that callers and the functions around it can see of a function.</summary>
    public static bool SameInterface(FunctionSummary left, FunctionSummary right) =>
        ReferenceEquals(left, right)
        || (Same(left.Returns, right.Returns) && Same(left.Condition, right.Condition) && Same(left.AddedConditions, right.AddedConditions) && left.ValidatesParameters.SequenceEqual(right.ValidatesParameters) && left.ValidatedInputs.SequenceEqual(right.ValidatedInputs)
            && Same(left.Rewrites, right.Rewrites) && left.IsNotPage == right.IsNotPage && left.ContentTypeParameter == right.ContentTypeParameter
            && All(left.GivenCalls, right.GivenCalls, (a, b) => a.Parameter == b.Parameter && All(a.Arguments, b.Arguments, Same))
            && All(left.Stores, right.Stores, (a, b) => a.Key == b.Key && a.Depth == b.Depth && Same(a.Value, b.Value))
            && All([.. left.Events.Where(IsSeen)], [.. right.Events.Where(IsSeen)], Same));

    /// <summary>Others repeat events that speak of parameters, and read decisions of a condition that they are given; the rest stays with the function.</summary>
    private static bool IsSeen(AnalysisEvent happening) => happening.IsOpen || happening.Kind == EventKind.Decision || happening.Roles.Values.Any(v => FieldAccess.DeepTaints(v).Any(t => t.IsParameter));

    private static bool Same(AnalysisEvent left, AnalysisEvent right) =>
        ReferenceEquals(left, right)
        || (left.Kind == right.Kind && ReferenceEquals(left.Fact, right.Fact) && ReferenceEquals(left.Sink, right.Sink) && left.Context == right.Context
            && ReferenceEquals(left.Function, right.Function) && left.At == right.At && left.Place == right.Place && left.Guessed == right.Guessed
            && left.Depth == right.Depth && Same(left.Roles, right.Roles));

    private static bool Same(Dictionary<string, AbstractValue>? left, Dictionary<string, AbstractValue>? right)
    {
        if (ReferenceEquals(left, right))
        {
            return true;
        }

        // The order counts as well: where there is too much to follow, the first are kept.
        return left is not null && right is not null && left.Count == right.Count
            && left.Zip(right).All(p => p.First.Key == p.Second.Key && Same(p.First.Value, p.Second.Value));
    }

    private static bool Same(IReadOnlyDictionary<RequestPart, AbstractValue>? left, IReadOnlyDictionary<RequestPart, AbstractValue>? right) => ReferenceEquals(left, right)
        || (left is not null && right is not null && left.Count == right.Count && left.All(r => right.TryGetValue(r.Key, out var theirs) && Same(r.Value, theirs)));

    private static bool Same(PendingDigest? left, PendingDigest? right) =>
        ReferenceEquals(left, right) || (left is not null && right is not null && ReferenceEquals(left.Fact, right.Fact) && All(left.Arguments, right.Arguments, Same));

    private static bool Same(StringPattern? left, StringPattern? right) =>
        ReferenceEquals(left, right)
        || (left is not null && right is not null && All(left.Alternatives, right.Alternatives, (a, b) => All(a, b, Same)));

    private static bool Same(Piece left, Piece right) =>
        ReferenceEquals(left, right) || (left.Literal == right.Literal && left.At == right.At && All(left.Taints, right.Taints, Same));

    private static bool Same(Taint left, Taint right) => ReferenceEquals(left, right) || (left.SameAs(right) && Trace.Same(left.Trace, right.Trace));

    private static bool All<T>(IReadOnlyList<T> left, IReadOnlyList<T> right, Func<T, T, bool> same)
    {
        if (ReferenceEquals(left, right))
        {
            return true;
        }

        if (left.Count != right.Count)
        {
            return false;
        }

        for (var i = 0; i < left.Count; i++)
        {
            if (!same(left[i], right[i]))
            {
                return false;
            }
        }

        return true;
    }
}
