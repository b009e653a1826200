using Bellator.Analysis.Libraries;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Domain;

/// <summary>
/// What is known about a value: where it comes from, the text it makes, what kind of thing it is. Immutable; nothing known is
/// <see cref="Unknown"/>, not yet computed is null.
/// </summary>
public sealed class AbstractValue
{
    /// <summary>The type of an object into which another one was spread of which not all is known.</summary>
    public const string OpenObject = "…";

    public const int MaxTaints = 6;
    public const int MaxDepth = 3;
    public const int MaxFields = 24;

    /// <summary>Values within values that one may hold in all; beyond that only the origins are kept.</summary>
    private const int MaxWeight = 60;
    private const int MaxTargets = 8;

    /// <summary>Functions that a value may be: a router of the application’s own holds all of its handlers.</summary>
    private const int MaxFunctions = 96;
    private static readonly Dictionary<string, AbstractValue> Nothing = [];
    private readonly ColdFields? _cold;
    private readonly byte _constantKind;

    /// <summary>0 while it is not known, then one more than no or yes: a byte, which threads cannot see half set.</summary>
    private byte _hasParameters;
    private int _weight;

    public static readonly AbstractValue Unknown = new();

    public string? Constant { get; init; }

    public LiteralKind ConstantKind { get => (LiteralKind)_constantKind; init => _constantKind = (byte)value; }

    public IReadOnlyList<Taint> Taints { get; init; } = [];

    /// <summary>Set for a text put together from pieces.</summary>
    public StringPattern? Text { get; init; }

    /// <summary>Type names: of a library as its facts have them, of the program as <c>#</c> and the class's number.</summary>
    public IReadOnlyList<string> Types { get; init; } = [];

    /// <summary>Functions and classes it may be.</summary>
    public IReadOnlyList<object> Targets { get => _cold?.Targets ?? []; init => _cold = value.Count == 0 ? _cold : (_cold ?? ColdFields.None) with { Targets = value }; }

    /// <summary>What is known of its parts, not to be changed. Its type is exact since going through it by an interface costs an object each time.</summary>
    public Dictionary<string, AbstractValue>? Fields { get; init; }

    public Dictionary<string, AbstractValue>.ValueCollection Parts => (Fields ?? Nothing).Values;

    public Dictionary<string, AbstractValue>.KeyCollection PartNames => (Fields ?? Nothing).Keys;

    /// <summary>Dotted path of something a library or global provides.</summary>
    public string? Library { get => _cold?.Library; init => _cold = value is null ? _cold : (_cold ?? ColdFields.None) with { Library = value }; }

    /// <summary>File whose exports it is, or -1.</summary>
    public int Module { get => _cold?.Module ?? -1; init => _cold = value < 0 ? _cold : (_cold ?? ColdFields.None) with { Module = value }; }

    /// <summary>The statement's text that a prepared statement carries, or what a digest was fed.</summary>
    public AbstractValue? Payload { get; init; }

    /// <summary>For a digest or salt in the making: the call that began it.</summary>
    public PendingDigest? Hash { get => _cold?.Hash; init => _cold = value is null ? _cold : (_cold ?? ColdFields.None) with { Hash = value }; }

    /// <summary>The field or column it was last read from.</summary>
    public string? Name { get; init; }

    /// <summary>What the facts say of the global or field it is.</summary>
    public ValueModel? Fact { get => _cold?.Fact; init => _cold = value is null ? _cold : (_cold ?? ColdFields.None) with { Fact = value }; }

    /// <summary>It is a setting from outside the code.</summary>
    public bool IsConfiguration { get => _cold?.IsConfiguration ?? false; init => _cold = !value ? _cold : (_cold ?? ColdFields.None) with { IsConfiguration = value }; }

    /// <summary>Type of a setting that is nothing where nobody made it: the program does not stop there.</summary>
    public const string MayBeMissing = "missing?";

    /// <summary>The text that takes the place of a setting which nobody made: <c>getenv('KEY') ?: 'dev'</c>.</summary>
    public string? Fallback { get => _cold?.Fallback; init => _cold = value is null ? _cold : (_cold ?? ColdFields.None) with { Fallback = value }; }

    private ColdFields? Others { init => _cold = value; }

    /// <summary>What few values have, apart, so that the others are small: a program has millions.</summary>
    private sealed record ColdFields
    {
        public static readonly ColdFields None = new();

        public IReadOnlyList<object> Targets { get; init; } = [];

        public string? Library { get; init; }

        public int Module { get; init; } = -1;

        public PendingDigest? Hash { get; init; }

        public ValueModel? Fact { get; init; }

        public bool IsConfiguration { get; init; }

        public string? Fallback { get; init; }
    }

    public bool HasParameters => (_hasParameters != 0 ? _hasParameters : _hasParameters = (byte)(FindParameters() ? 2 : 1)) == 2;

    public bool IsTainted => Taints.Count > 0;

    /// <summary>The value is exactly one parameter, unchanged.</summary>
    public Taint? WholeParameter => Taints is [{ IsParameter: true, Altered: false, Transform: PasswordTransform.Plain, IsRaw: true } only] && Text is null ? only : null;

    public static AbstractValue OfConstant(LiteralKind kind, string text) => new() { Constant = text, ConstantKind = kind };

    public static AbstractValue OfType(string type) => new() { Types = [type] };

    public static AbstractValue OfTaints(IReadOnlyList<Taint> taints) => taints.Count == 0 ? Unknown : new() { Taints = taints };

    public static AbstractValue OfText(StringPattern shape)
    {
        if (shape.Alternatives is [[{ IsHole: false } only]])
        {
            return OfConstant(LiteralKind.Text, only.Literal!);
        }

        return new() { Text = shape, Taints = shape.Taints };
    }

    public AbstractValue With(
        IReadOnlyList<Taint>? taints = null,
        Dictionary<string, AbstractValue>? fields = null,
        IReadOnlyList<string>? types = null,
        AbstractValue? carried = null,
        PendingDigest? hash = null,
        string? label = null) => new()
        {
            Constant = Constant,
            ConstantKind = ConstantKind,
            Taints = taints ?? Taints,
            Text = taints is null ? Text : null,
            Types = types ?? Types,
            Fields = fields ?? Fields,
            Payload = carried ?? Payload,
            Name = label ?? Name,
            Others = _cold,
            Hash = hash,
        };

    /// <summary>The value as a text: its own shape, its constant, or one hole.</summary>
    public StringPattern AsText(Location at) =>
        Text ?? (Constant is not null && Taints.Count == 0 && ConstantKind != LiteralKind.Null ? StringPattern.OfLiteral(Constant) : StringPattern.Of([Piece.Hole(Taints, at)]));

    /// <summary>The value as other functions see it: a long text only by where its parts come from.</summary>
    public AbstractValue WidenedForStore() => Weight > MaxWeight / 2 && Fields is not null ? With(fields: Fields.ToDictionary(f => f.Key, f => f.Value.Fields is null ? f.Value : OfTaints([.. FieldAccess.DeepTaints(f.Value).Select(Merged)]))) : Text is { IsLong: true } ? OfTaints([.. Taints.Select(Collapsed)]) : this;

    /// <summary>A part that is no longer told apart from those beside it: of a record, which column it is has become a guess.</summary>
    private static Taint Merged(Taint taint) => Collapsed(taint is { Guessed: false, Origin.Kind: OriginKind.Stored } ? taint with { Guessed = true } : taint);

    /// <summary>A part of a text too long to be kept. What was escaped for a text or a name stands in one: programs escape it for that.</summary>
    internal static Taint Collapsed(Taint taint)
    {
        var safe = (taint.Safe & (OutputContext.SqlString | OutputContext.SqlIdentifier)) != 0 ? taint.Safe | OutputContext.SqlString | OutputContext.SqlIdentifier | OutputContext.SqlUnquoted : taint.Safe;
        return taint.Altered && safe == taint.Safe ? taint : taint with { Altered = true, Safe = safe };
    }

    /// <summary>The fields, or fewer of them if there are more values in them than can be followed.</summary>
    public static Dictionary<string, AbstractValue>? Bounded(Dictionary<string, AbstractValue>? fields)
    {
        if (fields is null || fields.Values.Sum(f => f.Weight) <= MaxWeight)
        {
            return fields;
        }

        // What lies deeper is given up first: its origins stay.
        var flat = fields.ToDictionary(f => f.Key, f => f.Value.Fields is null ? f.Value : OfTaints([.. FieldAccess.DeepTaints(f.Value).Select(Merged)]), StringComparer.Ordinal);
        return flat;
    }

    /// <summary>How many values this one consists of.</summary>
    public int Weight => _weight > 0 ? _weight : _weight = 1 + (Fields?.Values.Sum(f => f.Weight) ?? 0);

    private bool FindParameters()
    {
        foreach (var taint in Taints)
        {
            if (taint.IsParameter)
            {
                return true;
            }
        }

        if (Fields is not null)
        {
            foreach (var field in Fields.Values)
            {
                if (field.HasParameters)
                {
                    return true;
                }
            }
        }

        return Payload?.HasParameters ?? false;
    }

    public AbstractValue? Field(string name) => Fields?.GetValueOrDefault(name);

    /// <summary>Either of two values.</summary>
    public static AbstractValue Join(AbstractValue? left, AbstractValue? right, int depth = 0)
    {
        if (left is null || ReferenceEquals(left, right))
        {
            return right ?? left ?? Unknown;
        }

        if (right is null)
        {
            return left;
        }

        if (ReferenceEquals(left, Unknown) && right.Constant is null && right.Text is null)
        {
            return right;
        }

        if (ReferenceEquals(right, Unknown) && left.Constant is null && left.Text is null)
        {
            return left;
        }

        if (left.SameAs(right, depth))
        {
            return left;
        }

        var sameConstant = left.Constant is not null && left.Constant == right.Constant && left.ConstantKind == right.ConstantKind;
        StringPattern? text = null;
        if (!sameConstant && (IsTextual(left) || IsTextual(right)) && (left.Text is not null || right.Text is not null || (IsTextual(left) && IsTextual(right))))
        {
            text = StringPattern.Join(left.AsText(Location.None), right.AsText(Location.None));
        }

        return new AbstractValue
        {
            Constant = sameConstant ? left.Constant : null,
            ConstantKind = left.ConstantKind,
            Text = text,
            Taints = Union(left.Taints, right.Taints),
            Types = Union(left.Types, right.Types),
            Targets = Union(left.Targets, right.Targets, MaxFunctions),
            Fields = depth == 0 ? Bounded(JoinFields(left.Fields, right.Fields, depth)) : JoinFields(left.Fields, right.Fields, depth),
            Library = left.Library ?? right.Library,
            Module = left.Module >= 0 ? left.Module : right.Module,
            Payload = left.Payload is null || right.Payload is null || depth > 1 ? left.Payload ?? right.Payload : Join(left.Payload, right.Payload, depth + 1),
            Hash = left.Hash ?? right.Hash,
            Name = left.Name ?? right.Name,
            IsConfiguration = left.IsConfiguration || right.IsConfiguration,
            Fallback = left.Fallback ?? right.Fallback ?? FallbackOf(left, right) ?? FallbackOf(right, left),
        };
    }

    private static string? FallbackOf(AbstractValue setting, AbstractValue otherwise) =>
        setting is { IsConfiguration: true, Constant: null } && otherwise is { Constant.Length: > 0, ConstantKind: LiteralKind.Text, Taints.Count: 0 } ? otherwise.Constant : null;

    /// <summary>It is a text whose words are known, or some of them.</summary>
    internal static bool IsTextual(AbstractValue value) => value.Text is not null || value is { Constant: not null, ConstantKind: LiteralKind.Text };

    /// <summary>The fields of both; the left one itself where the right adds nothing, which is the common case once analysis settles.</summary>
    private static Dictionary<string, AbstractValue>? JoinFields(Dictionary<string, AbstractValue>? left, Dictionary<string, AbstractValue>? right, int depth)
    {
        if (left is null || right is null || depth >= MaxDepth || ReferenceEquals(left, right))
        {
            return left ?? right;
        }

        Dictionary<string, AbstractValue>? joined = null;
        foreach (var (name, value) in right)
        {
            if (left.TryGetValue(name, out var known))
            {
                if (!ReferenceEquals(known, value) && Join(known, value, depth + 1) is var both && !ReferenceEquals(both, known))
                {
                    (joined ??= new Dictionary<string, AbstractValue>(left, StringComparer.Ordinal))[name] = both;
                }
            }
            else if ((joined?.Count ?? left.Count) < MaxFields)
            {
                (joined ??= new Dictionary<string, AbstractValue>(left, StringComparer.Ordinal))[name] = value;
            }
        }

        return joined ?? left;
    }

    public static IReadOnlyList<Taint> Union(IReadOnlyList<Taint> left, IReadOnlyList<Taint> right) =>
        left.Count == 0 ? right : right.Count == 0 || ReferenceEquals(left, right) || (left.Count >= MaxTaints && right.Count <= MaxTaints) ? left : Merged(left, right);

    /// <summary>The left list itself where the right adds nothing, which is the common case.</summary>
    private static IReadOnlyList<Taint> Merged(IReadOnlyList<Taint> left, IReadOnlyList<Taint> right)
    {
        List<Taint>? list = null;
        for (var i = 0; i < right.Count && (list?.Count ?? left.Count) < MaxTaints; i++)
        {
            var known = false;
            for (var j = 0; j < left.Count && !known; j++)
            {
                known = left[j].SameAs(right[i]);
            }

            if (!known && !(list?.Exists(t => t.SameAs(right[i])) ?? false))
            {
                list ??= [.. left];
                list.Add(right[i]);
            }
        }

        return list ?? left;
    }

    public static IReadOnlyList<Taint> Union(IEnumerable<Taint> taints)
    {
        List<Taint>? list = null;
        foreach (var taint in taints)
        {
            list ??= [];
            if (!list.Exists(t => t.SameAs(taint)))
            {
                list.Add(taint);
                if (list.Count >= MaxTaints)
                {
                    break;
                }
            }
        }

        return list ?? (IReadOnlyList<Taint>)[];
    }

    public static IReadOnlyList<T> Union<T>(IReadOnlyList<T> left, IReadOnlyList<T> right, int most = MaxTargets)
        where T : class
    {
        if (left.Count == 0 || right.Count == 0 || ReferenceEquals(left, right))
        {
            return left.Count == 0 ? right : left;
        }

        List<T>? list = null;
        foreach (var item in right)
        {
            if (!left.Contains(item) && left.Count + (list?.Count ?? 0) < most)
            {
                (list ??= []).Add(item);
            }
        }

        return list is null ? left : [.. left, .. list];
    }

    /// <summary>The same taints in any order.</summary>
    public static bool SameTaints(IReadOnlyList<Taint> left, IReadOnlyList<Taint> right)
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
            if (left[i].SameAs(right[i]))
            {
                continue;
            }

            var found = false;
            for (var j = 0; j < right.Count && !found; j++)
            {
                found = left[i].SameAs(right[j]);
            }

            if (!found)
            {
                return false;
            }
        }

        return true;
    }

    /// <summary>Short lists of which each holds a thing once; which way of the code is looked at first decides their order.</summary>
    private static bool SameInAnyOrder<T>(IReadOnlyList<T> left, IReadOnlyList<T> right)
        where T : class
    {
        if (ReferenceEquals(left, right))
        {
            return true;
        }

        for (var i = 0; i < left.Count; i++)
        {
            if (!left[i].Equals(right[i]) && !right.Contains(left[i]))
            {
                return false;
            }
        }

        return true;
    }

    /// <summary>Equal in all that matters; the ways that values came are not compared, so that analysis comes to rest.</summary>
    public bool SameAs(AbstractValue? other, int depth = 0)
    {
        if (ReferenceEquals(this, other))
        {
            return true;
        }

        if (other is null || Constant != other.Constant || Taints.Count != other.Taints.Count || Types.Count != other.Types.Count || Targets.Count != other.Targets.Count
            || Library != other.Library || Module != other.Module || Name != other.Name || Fallback != other.Fallback || (Fields?.Count ?? 0) != (other.Fields?.Count ?? 0)
            || (Text is null) != (other.Text is null) || (Payload is null) != (other.Payload is null))
        {
            return false;
        }

        if (!SameTaints(Taints, other.Taints))
        {
            return false;
        }

        if (!SameInAnyOrder(Types, other.Types) || !SameInAnyOrder(Targets, other.Targets) || (Text is not null && !Text.SameAs(other.Text!)))
        {
            return false;
        }

        if (depth >= MaxDepth + 1)
        {
            return true;
        }

        if (Payload is not null && !Payload.SameAs(other.Payload, depth + 1))
        {
            return false;
        }

        if (Fields is not null && other.Fields is not null && !ReferenceEquals(Fields, other.Fields))
        {
            foreach (var (name, value) in Fields)
            {
                if (!other.Fields.TryGetValue(name, out var theirs) || !value.SameAs(theirs, depth + 1))
                {
                    return false;
                }
            }
        }

        return true;
    }
}

/// <summary>A digest object: the call that made it and its arguments.</summary>
public sealed record PendingDigest(CallModel Fact, IReadOnlyList<AbstractValue> Arguments);
