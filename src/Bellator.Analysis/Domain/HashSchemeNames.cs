namespace Bellator.Analysis.Domain;

/// <summary>Hash functions made to be fast, which makes them unfit for passwords: MD, SHA and their kin.</summary>
public static class HashSchemeNames
{
    private static readonly string[] FastPrefixes = ["md", "sha", "ripemd", "rmd", "whirlpool", "tiger", "crc", "adler", "fnv", "xxh", "murmur", "blake", "sm3", "gost", "haval", "snefru"];

    public static bool IsFast(string scheme) => scheme.Length > 0 && FastPrefixes.Any(p => scheme.StartsWith(p, StringComparison.OrdinalIgnoreCase));
}
