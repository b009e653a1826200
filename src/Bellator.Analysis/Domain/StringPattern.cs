using Bellator.Text;

namespace Bellator.Analysis.Domain;

/// <summary>A piece of a text: literal, or a hole where a value stands.</summary>
public sealed class Piece
{
    private Piece(string? literal, IReadOnlyList<Taint> taints, Location at)
    {
        Literal = literal;
        Taints = taints;
        At = at;
    }

    /// <summary>Null for a hole.</summary>
    public string? Literal { get; }

    public IReadOnlyList<Taint> Taints { get; }

    /// <summary>Where the value was put into the text.</summary>
    public Location At { get; }

    public bool IsHole => Literal is null;

    public static Piece Text(string literal) => new(literal, [], Location.None);

    /// <summary>The hole as it stands after the text around it was put into another text there.</summary>
    /// <param name="moves">True if the place that counts is the new one.</param>
    public Piece PutInto(Location at, Func<Taint, Taint> step, bool moves) => IsHole ? new(null, [.. Taints.Select(step)], moves ? at : At) : this;

    public static Piece Hole(IReadOnlyList<Taint> taints, Location at) => new(null, taints, at);

    public bool SameAs(Piece other)
    {
        return ReferenceEquals(this, other) || (Literal == other.Literal && At == other.At && AbstractValue.SameTaints(Taints, other.Taints));
    }
}

/// <summary>
/// The forms a text may have, each as literal pieces and holes. Branches give alternatives; loops would give endlessly many, so
/// only the first few are kept: where a hole stands depends on what precedes it, and repetition adds no new places.
/// </summary>
public sealed class StringPattern
{
    public const int MaxAlternatives = 4;
    public const int MaxPieces = 32;

    /// <summary>Longer texts are pages and messages; they do not travel between functions with their pieces.</summary>
    public const int MaxKeptPieces = 24;

    private const int MaxLiteral = 2000;

    private IReadOnlyList<Taint>? _taints;

    private StringPattern(IReadOnlyList<IReadOnlyList<Piece>> alternatives) => Alternatives = alternatives;

    public IReadOnlyList<IReadOnlyList<Piece>> Alternatives { get; }

    /// <summary>Nothing stands around the values but signs, such as the percent signs of a search pattern: the statement itself begins elsewhere.</summary>
    public bool IsOnlyWrapping => Alternatives.All(a => a.All(p => p.IsHole || !p.Literal!.Any(char.IsLetter)));

    /// <summary>Origins of all its holes.</summary>
    public IReadOnlyList<Taint> Taints => _taints ??= CollectTaints();

    public bool IsLong => Alternatives.Sum(a => a.Count) > MaxKeptPieces;

    public static StringPattern Of(IReadOnlyList<Piece> pieces) => new([Merge(pieces)]);

    public static StringPattern OfLiteral(string text) => new([[Piece.Text(text)]]);

    public static StringPattern Concat(StringPattern left, StringPattern right)
    {
        if (left.Alternatives.Count == 1 && right.Alternatives.Count == 1)
        {
            return new([Merge([.. left.Alternatives[0], .. right.Alternatives[0]])]);
        }

        var list = new List<IReadOnlyList<Piece>>();
        foreach (var a in left.Alternatives)
        {
            // A quote chosen by a condition is the same before and after the value.
            var closing = right.Alternatives.Count > 1 && a is [{ IsHole: false } opening, ..]
                ? right.Alternatives.Where(b => b is [{ IsHole: false, Literal: "\"" or "'" or "`" } only] && opening.Literal!.StartsWith(only.Literal, StringComparison.Ordinal)).ToList()
                : [];
            foreach (var b in closing.Count > 0 ? closing : right.Alternatives)
            {
                if (list.Count < MaxAlternatives)
                {
                    list.Add(Merge([.. a, .. b]));
                }
            }
        }

        return new(list);
    }

    public static StringPattern Join(StringPattern left, StringPattern right)
    {
        if (left.SameAs(right))
        {
            return left;
        }

        if (left.Alternatives.Count >= MaxAlternatives)
        {
            return left;
        }

        List<IReadOnlyList<Piece>>? list = null;
        foreach (var alternative in right.Alternatives)
        {
            var known = list ?? left.Alternatives;
            var found = false;
            for (var i = 0; i < known.Count && !found; i++)
            {
                found = Same(known[i], alternative);
            }

            if (!found && known.Count < MaxAlternatives)
            {
                (list ??= [.. left.Alternatives]).Add(alternative);
            }
        }

        return list is null ? left : new(list);
    }

    /// <summary>The shape with every hole replaced by what the function makes of it, null for nothing else; itself where nothing changes.</summary>
    public StringPattern Map(Func<Piece, IReadOnlyList<IReadOnlyList<Piece>>?> replace)
    {
        List<IReadOnlyList<Piece>>? result = null;
        for (var i = 0; i < Alternatives.Count; i++)
        {
            var mapped = MapOne(Alternatives[i], replace);
            if (result is null && mapped is not null)
            {
                result = [.. Alternatives.Take(i)];
            }

            if (mapped is null)
            {
                result?.Add(Alternatives[i]);
            }
            else
            {
                result!.AddRange(mapped);
            }

            if (result?.Count >= MaxAlternatives)
            {
                break;
            }
        }

        return result is null ? this : new(result.Count > MaxAlternatives ? result.GetRange(0, MaxAlternatives) : result);
    }

    /// <summary>The forms that one alternative takes, or null if it stays as it is.</summary>
    private static List<List<Piece>>? MapOne(IReadOnlyList<Piece> alternative, Func<Piece, IReadOnlyList<IReadOnlyList<Piece>>?> replace)
    {
        List<List<Piece>>? forms = null;
        for (var i = 0; i < alternative.Count; i++)
        {
            var piece = alternative[i];
            var options = piece.IsHole ? replace(piece) : null;
            if (options is null || options is [[var same]] && ReferenceEquals(same, piece))
            {
                for (var k = 0; k < (forms?.Count ?? 0); k++)
                {
                    Append(forms![k], piece);
                }

                continue;
            }

            if (forms is null)
            {
                var start = new List<Piece>(alternative.Count + options[0].Count);
                start.AddRange(alternative.Take(i));
                forms = [start];
            }

            if (options.Count == 1)
            {
                for (var k = 0; k < forms.Count; k++)
                {
                    AppendAll(forms[k], options[0]);
                }

                continue;
            }

            var split = new List<List<Piece>>();
            foreach (var form in forms)
            {
                foreach (var option in options)
                {
                    if (split.Count < MaxAlternatives)
                    {
                        var grown = new List<Piece>(form);
                        AppendAll(grown, option);
                        split.Add(grown);
                    }
                }
            }

            forms = split;
        }

        return forms;
    }

    private IReadOnlyList<Taint> CollectTaints()
    {
        IReadOnlyList<Taint> all = [];
        for (var i = 0; i < Alternatives.Count; i++)
        {
            var alternative = Alternatives[i];
            for (var j = 0; j < alternative.Count; j++)
            {
                var piece = alternative[j];
                if (piece.Taints.Count > 0 && !ReferenceEquals(piece.Taints, all))
                {
                    all = AbstractValue.Union(all, piece.Taints);
                    if (all.Count >= AbstractValue.MaxTaints)
                    {
                        return all;
                    }
                }
            }
        }

        return all;
    }

    public bool SameAs(StringPattern other)
    {
        if (ReferenceEquals(this, other))
        {
            return true;
        }

        if (Alternatives.Count != other.Alternatives.Count)
        {
            return false;
        }

        for (var i = 0; i < Alternatives.Count; i++)
        {
            if (!Same(Alternatives[i], other.Alternatives[i]))
            {
                return false;
            }
        }

        return true;
    }

    private static bool Same(IReadOnlyList<Piece> a, IReadOnlyList<Piece> b)
    {
        if (ReferenceEquals(a, b))
        {
            return true;
        }

        if (a.Count != b.Count)
        {
            return false;
        }

        for (var i = 0; i < a.Count; i++)
        {
            if (!a[i].SameAs(b[i]))
            {
                return false;
            }
        }

        return true;
    }

    private static List<Piece> Merge(IReadOnlyList<Piece> pieces)
    {
        var list = new List<Piece>(Math.Min(pieces.Count, MaxPieces));
        AppendAll(list, pieces);
        return list;
    }

    private static void AppendAll(List<Piece> list, IReadOnlyList<Piece> pieces)
    {
        for (var i = 0; i < pieces.Count; i++)
        {
            Append(list, pieces[i]);
        }
    }

    /// <summary>Adds a piece; neighbouring literals become one.</summary>
    private static void Append(List<Piece> list, Piece piece)
    {
        if (list.Count > 0 && !piece.IsHole && !list[^1].IsHole)
        {
            if (list[^1].Literal!.Length < MaxLiteral)
            {
                list[^1] = Piece.Text(list[^1].Literal + piece.Literal);
            }
        }
        else if (list.Count < MaxPieces)
        {
            list.Add(piece);
        }
    }
}
