namespace Bellator.Core.Flow;

/// <summary>
/// What holds at a point of a function besides its values: what the page may be at that point. Ways that come together leave what each of them
/// left (<see cref="Join"/> is commutative, associative and idempotent up to the bound), so that the order in which they are written decides nothing.
/// </summary>
internal sealed class BlockState : IEquatable<BlockState>
{
    /// <summary>Ways come together with no more different places in the page than this; what is beyond them is left out.</summary>
    public const int MaxPages = 12;

    public static readonly BlockState Initial = new([new PageState()]);

    private readonly PageState[] _pages;

    private BlockState(PageState[] pages)
    {
        _pages = pages;
    }

    /// <summary>Where in the page the next text may stand, each in the order of the ways that lead here.</summary>
    public IReadOnlyList<PageState> Pages => _pages;

    /// <summary>On one way at least what is sent is a page.</summary>
    public bool MayBePage => Array.Exists(_pages, p => p.IsPage);

    /// <summary>What holds where two ways come together; null for a way of which nothing is known yet.</summary>
    public static BlockState? Join(BlockState? left, BlockState? right) =>
        left is null || ReferenceEquals(left, right) ? right : right is null ? left : left.Of([.. left._pages, .. right._pages]);

    /// <summary>What holds after something was done to the page.</summary>
    public BlockState With(Func<PageState, PageState> change) => Of(Array.ConvertAll(_pages, p => change(p)));

    /// <summary>What holds after one of several things was done to the page.</summary>
    public BlockState WithAny(IEnumerable<Func<BlockState, BlockState>> changes) => changes.Select(c => c(this)).Aggregate((BlockState?)null, Join) ?? this;

    private BlockState Of(PageState[] pages)
    {
        PageState[] distinct = [.. pages.Distinct().Take(MaxPages)];
        return distinct.AsSpan().SequenceEqual(_pages) ? this : new BlockState(distinct);
    }

    public bool Equals(BlockState? other) => other is not null && (ReferenceEquals(this, other) || (_pages.Length == other._pages.Length && _pages.All(other._pages.Contains)));

    public override bool Equals(object? obj) => Equals(obj as BlockState);

    public override int GetHashCode() => _pages.Aggregate(0, (hash, page) => hash ^ page.GetHashCode());
}
