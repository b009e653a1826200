using Bellator.Analysis.Libraries;

namespace Bellator.Analysis.Domain;

/// <summary>Reads parts of values by what the values themselves hold.</summary>
internal static class FieldAccess
{
    /// <summary>Parts of an uploaded file that the server makes itself, in every library that takes uploads.</summary>
    private static readonly HashSet<string> MadeByServer = new(StringComparer.Ordinal) { "tmp_name", "path", "tempfile", "filepath", "destination", "size", "error", "buffer", "fieldname", "Length" };

    /// <summary>A named part: the field if it is known, otherwise the same origins with the name noted.</summary>
    public static AbstractValue Read(AbstractValue value, string name)
    {
        if (value.Fields is { } fields)
        {
            if (fields.TryGetValue(name, out var field))
            {
                return field.Name is null ? field.With(label: name) : field;
            }

            if (fields.TryGetValue("*", out var any))
            {
                // Under the name of what the server itself says of a file, that is what is there.
                return MadeByServer.Contains(name) && IsUpload(any) ? new AbstractValue { Name = name }
                    : any is { Fields: null, Text: null, Taints.Count: > 0 } && any.Taints.Any(t => t.Origin is { Kind: OriginKind.Request, Name: null }) && !name.All(char.IsAsciiDigit) ? any.With(taints: [.. any.Taints.Select(t => t.Origin is { Kind: OriginKind.Request, Name: null } ? t with { Origin = t.Origin.PartOf(name) } : t)], label: name)
                    : any;
            }
        }

        if (value.Fact is { } fact && !Allows(fact, name))
        {
            return new AbstractValue { Name = name };
        }

        var taints = value.Taints.Count == 0 ? value.Taints : [.. value.Taints.Where(t => !MadeByServer.Contains(name) || !IsUpload(t)).Select(t => t with { Origin = t.Origin.PartOf(name) })];
        return new AbstractValue { Taints = taints, Name = value is { Name.Length: 0, IsTainted: false } ? "" : name, IsConfiguration = value.IsConfiguration, Types = value.IsConfiguration && value.Fact is not { MissingFails: true } ? [AbstractValue.MayBeMissing] : [], Fact = value.Fact is { Except.Count: > 0 } nested ? nested : null };
    }

    private static bool IsUpload(AbstractValue value) => value.Taints.Count > 0 && value.Taints.All(IsUpload);

    private static bool IsUpload(Taint taint) => taint.Origin is { Kind: OriginKind.Request, Part: "upload" };

    /// <summary>Any of the parts.</summary>
    public static AbstractValue Element(AbstractValue value)
    {
        AbstractValue? joined = null;
        if (value.Fields is { Count: > 0 } fields)
        {
            foreach (var field in fields.Values)
            {
                joined = AbstractValue.Join(joined, field);
            }
        }

        if (value.Taints.Count > 0)
        {
            joined = AbstractValue.Join(joined, AbstractValue.OfTaints(value.Taints));
        }

        if (value.Types.Contains("rows"))
        {
            joined = AbstractValue.Join(joined, new AbstractValue { Types = OneOf(value.Types), Payload = value.Payload });
        }

        return joined ?? AbstractValue.Unknown;
    }

    /// <summary>The types of one of several rows: of which table it is, and whether it is whole, holds for each.</summary>
    public static IReadOnlyList<string> OneOf(IReadOnlyList<string> rows, string kind = "row") => rows.Any(IsOfRecords) ? [kind, .. rows.Where(IsOfRecords)] : [kind];

    private static bool IsOfRecords(string type) => type[0] is RecordsMark or WholeMark;

    /// <summary>Begins a type that says of which table or class records are.</summary>
    public const char RecordsMark = '&';

    /// <summary>Begins a type that says of which table or class records are given with all their columns.</summary>
    public const char WholeMark = '=';

    /// <summary>The value without its parts: where they come from is said of the whole.</summary>
    public static AbstractValue Flattened(AbstractValue value) => value.Fields is null ? value : new AbstractValue { Taints = DeepTaints(value), Types = value.Types, Name = value.Name };

    /// <summary>All taints of the value and its parts.</summary>
    public static IReadOnlyList<Taint> DeepTaints(AbstractValue value, int depth = 0)
    {
        var taints = value.Taints;
        if (value.Fields is not null && depth < AbstractValue.MaxDepth)
        {
            foreach (var field in value.Fields.Values)
            {
                taints = AbstractValue.Union(taints, DeepTaints(field, depth + 1));
            }
        }

        return taints;
    }

    private static bool Allows(ValueModel fact, string name)
    {
        if (fact.Except.Contains(name))
        {
            return false;
        }

        return fact.Keys.Count == 0 || fact.Keys.Exists(k => k.EndsWith('*') ? name.StartsWith(k[..^1], StringComparison.Ordinal) : k == name);
    }
}
