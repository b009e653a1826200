using Bellator.Analysis.Domain;
using Bellator.Analysis.Html;

namespace Bellator.Analysis.Interpreter;

/// <summary>
/// What holds at a point of a function besides the values that its instructions made: what the page may be, and what has become of objects that
/// were changed in place. Ways that come together leave what each of them left (<see cref="Join"/> is commutative, associative and idempotent up
/// to the bounds), so that the order in which they are written decides nothing.
/// </summary>
internal sealed class BlockState : IEquatable<BlockState>
{
    /// <summary>Ways come together with no more different places in the page than this; what is beyond them is left out.</summary>
    public const int MaxPages = 12;

    public static readonly BlockState Initial = new([new PageState()], null, null);

    private readonly PageState[] _pages;
    private readonly Dictionary<int, AbstractValue>? _objects;

    private BlockState(PageState[] pages, Dictionary<int, AbstractValue>? objects, IReadOnlyDictionary<RequestPart, AbstractValue>? rewritten)
    {
        (_pages, _objects, Rewritten) = (pages, objects, rewritten);
    }

    /// <summary>Parts of the request that the program has overwritten on every way that leads here, with what stands there now; null for none.</summary>
    public IReadOnlyDictionary<RequestPart, AbstractValue>? Rewritten { get; }

    /// <summary>Where in the page the next text may stand, each in the order of the ways that lead here.</summary>
    public IReadOnlyList<PageState> Pages => _pages;

    /// <summary>On one way at least what is sent is a page.</summary>
    public bool MayBePage => Array.Exists(_pages, p => p.IsPage);

    /// <summary>On one way at least it was announced as one.</summary>
    public bool MayBeAnnouncedPage => Array.Exists(_pages, p => p.IsAnnouncedPage);

    /// <summary>What has become of the object that an instruction made; null if it was not changed in place. Numbers below zero are members of the object itself.</summary>
    public AbstractValue? Object(int made) => _objects is null ? null : _objects.GetValueOrDefault(made);

    /// <summary>What holds where two ways come together; null for a way of which nothing is known yet.</summary>
    /// <param name="made">What an object was when it was made: on a way that left it alone it still is that.</param>
    /// <param name="united">What else there is to say of an object that two ways left differently: of what it is now, after the one and after the other.</param>
    /// <param name="isIdle">A part of the request may be left alone on one way: there was nothing in it there.</param>
    public static BlockState? Join(BlockState? left, BlockState? right, Func<int, AbstractValue?>? made = null, Func<AbstractValue, AbstractValue, AbstractValue, AbstractValue>? united = null, Func<RequestPart, bool>? isIdle = null) =>
        left is null || ReferenceEquals(left, right) ? right : right is null ? left : left.Of([.. left._pages, .. right._pages], Joined(left._objects, right._objects, made, united), Joined(left.Rewritten, right.Rewritten, isIdle));

    /// <summary>What holds after something was done to the page.</summary>
    public BlockState With(Func<PageState, PageState> change) => Of(Array.ConvertAll(_pages, p => change(p)), _objects, Rewritten);

    /// <summary>What holds after one of several things was done to the page.</summary>
    public BlockState WithAny(IEnumerable<Func<BlockState, BlockState>> changes) => changes.Select(c => c(this)).Aggregate((BlockState?)null, (all, one) => Join(all, one)) ?? this;

    /// <summary>What holds after the object that an instruction made was changed in place.</summary>
    public BlockState WithObject(int made, AbstractValue now) => new(_pages, new Dictionary<int, AbstractValue>(_objects ?? []) { [made] = now }, Rewritten);

    public BlockState WithoutObject(int made) => new(_pages, _objects is null || _objects.Count == 1 ? null : new Dictionary<int, AbstractValue>(_objects.Where(o => o.Key != made)), Rewritten);

    /// <summary>What holds after a part of the request was overwritten. All of it anew, nothing of what was put there by name is left.</summary>
    public BlockState WithRewritten(RequestPart part, AbstractValue now)
    {
        var kept = (Rewritten ?? Nothing).Where(r => !part.IsWhole || r.Key.Part != part.Part).ToDictionary();
        if (kept.Count < MaxRewritten || kept.ContainsKey(part))
        {
            kept[part] = now;
        }

        return new(_pages, _objects, kept);
    }

    /// <summary>So many parts of the request are followed that a function overwrites.</summary>
    public const int MaxRewritten = 64;

    private static readonly Dictionary<RequestPart, AbstractValue> Nothing = [];

    private BlockState Of(PageState[] pages, Dictionary<int, AbstractValue>? objects, IReadOnlyDictionary<RequestPart, AbstractValue>? rewritten)
    {
        PageState[] distinct = [.. pages.Distinct().Take(MaxPages)];
        return ReferenceEquals(objects, _objects) && ReferenceEquals(rewritten, Rewritten) && distinct.AsSpan().SequenceEqual(_pages) ? this : new BlockState(distinct, objects, rewritten);
    }

    private static IReadOnlyDictionary<RequestPart, AbstractValue>? Joined(IReadOnlyDictionary<RequestPart, AbstractValue>? left, IReadOnlyDictionary<RequestPart, AbstractValue>? right, Func<RequestPart, bool>? isIdle)
    {
        if (ReferenceEquals(left, right))
        {
            return left;
        }

        Dictionary<RequestPart, AbstractValue>? joined = null;
        foreach (var (part, value) in (left ?? Nothing).Concat(right ?? Nothing))
        {
            if (left is not null && right is not null && left.TryGetValue(part, out var mine) && right.TryGetValue(part, out var theirs))
            {
                (joined ??= [])[part] = AbstractValue.Join(mine, theirs);
            }
            else if (isIdle?.Invoke(part) ?? false)
            {
                (joined ??= [])[part] = value;
            }
        }

        return joined;
    }

    private static Dictionary<int, AbstractValue>? Joined(Dictionary<int, AbstractValue>? left, Dictionary<int, AbstractValue>? right, Func<int, AbstractValue?>? made, Func<AbstractValue, AbstractValue, AbstractValue, AbstractValue>? united)
    {
        if (ReferenceEquals(left, right))
        {
            return left;
        }

        var joined = new Dictionary<int, AbstractValue>();
        foreach (var key in (left?.Keys ?? Enumerable.Empty<int>()).Union(right?.Keys ?? Enumerable.Empty<int>()))
        {
            var mine = left?.GetValueOrDefault(key);
            var theirs = right?.GetValueOrDefault(key);
            if (key < 0 && (mine is null || theirs is null))
            {
                // A member that one way did not set is what it was before, which is not known here.
                continue;
            }

            mine ??= made?.Invoke(key);
            theirs ??= made?.Invoke(key);
            joined[key] = mine is not null && theirs is not null && mine.SameAs(theirs) ? mine
                : AbstractValue.Join(mine, theirs ?? AbstractValue.Unknown) is var both && united is not null && mine is { Fields: not null } && theirs is { Fields: not null } ? united(both, mine, theirs) : both;
        }

        return joined;
    }

    public bool Equals(BlockState? other) => other is not null
        && (ReferenceEquals(this, other) || (_pages.Length == other._pages.Length && _pages.All(other._pages.Contains) && HasSameObjects(other) && RequestPart.AreSame(Rewritten, other.Rewritten)));

    private bool HasSameObjects(BlockState other) => ReferenceEquals(_objects, other._objects)
        || ((_objects?.Count ?? 0) == (other._objects?.Count ?? 0) && (_objects ?? []).All(o => other._objects!.TryGetValue(o.Key, out var theirs) && o.Value.SameAs(theirs)));

    public override bool Equals(object? obj) => Equals(obj as BlockState);

    public override int GetHashCode() => _pages.Aggregate(0, (hash, page) => hash ^ page.GetHashCode());
}
