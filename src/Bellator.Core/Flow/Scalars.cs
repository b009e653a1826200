namespace Bellator.Core.Flow;

/// <summary>Types whose values are a number, a date or the like, whatever the visitor sends.</summary>
internal static class Scalars
{
    private static readonly HashSet<string> Names = new(StringComparer.OrdinalIgnoreCase)
    {
        "int", "float", "bool", "number", "boolean", "double", "decimal", "long", "short", "byte", "uint", "ulong", "ushort", "Int32", "Int64", "bigint", "integer", "Guid", "uuid", "UUID",
        "DateTime", "DateOnly", "TimeOnly", "DateTimeOffset", "TimeSpan", "date", "datetime", "Decimal", "UuidInterface", "DateTimeImmutable", "DateTimeInterface", "Uuid", "char",
    };

    public static bool Is(string? type)
    {
        if (string.IsNullOrEmpty(type))
        {
            return false;
        }

        var name = type.Trim('?');
        return Names.Contains(name[(name.LastIndexOfAny(['.', '\\']) + 1)..]);
    }
}
