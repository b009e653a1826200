using System.Globalization;

namespace Bellator.Analysis.Domain;

/// <summary>A named part of the request as a program can overwrite it: <c>$_GET['id'] = (int) $_GET['id']</c>.</summary>
/// <param name="Part">The part of the request, as facts name it (query, form, …).</param>
/// <param name="Name">The field's name, <see cref="Origin.AnyName"/> for all of them, or a parameter that brings the name.</param>
public readonly record struct RequestPart(string Part, string Name)
{
    private const char ByParameter = '\u0001';

    /// <summary>The part whose name the function's parameter brings; where it brings a list or an object, each of the names in it.</summary>
    public static RequestPart NamedBy(string part, int parameter) => new(part, ByParameter + parameter.ToString(CultureInfo.InvariantCulture));

    /// <summary>The parameter that brings the name, or null.</summary>
    public int? Parameter => Name is [ByParameter, .. var digits] ? int.Parse(digits, CultureInfo.InvariantCulture) : null;

    /// <summary>The same parts were overwritten by the same.</summary>
    public static bool AreSame(IReadOnlyDictionary<RequestPart, AbstractValue>? left, IReadOnlyDictionary<RequestPart, AbstractValue>? right) => ReferenceEquals(left, right)
        || ((left?.Count ?? 0) == (right?.Count ?? 0) && (left is null || left.All(r => right!.TryGetValue(r.Key, out var theirs) && r.Value.SameAs(theirs))));

    /// <summary>All of a part of the request.</summary>
    public bool IsWhole => Name == Origin.AnyName;
}
