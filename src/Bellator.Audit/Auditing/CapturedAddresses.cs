using Bellator.Audit.Endpoints;

namespace Bellator.Audit.Auditing;

/// <param name="Entry">The entry point of the code that answers there; null where none was found.</param>
/// <param name="Count">How many requests went there.</param>
public sealed record CapturedAddress(string Method, string Path, int Count, ReportedEntry? Entry);

/// <summary>Holds the addresses of captured traffic against those of the code.</summary>
public static class CapturedAddresses
{
    /// <param name="requests">Method and path of each request, pictures and scripts left out.</param>
    public static IReadOnlyList<CapturedAddress> Match(ReportedSurface surface, IEnumerable<(string Method, string Path)> requests)
    {
        var entries = surface.Entries.Select(e => (Entry: e, Parts: Parts(RoutePath.Normal(e.Path)))).ToList();
        return [.. requests.GroupBy(r => r).OrderBy(g => g.Key.Path, StringComparer.Ordinal).Select(g =>
        {
            var parts = Parts(g.Key.Path);

            // Of several that fit, the one with fewer parts that take anything is meant.
            var entry = entries.Where(e => IsMethod(e.Entry.Method, g.Key.Method) && Fits(e.Parts, parts)).OrderBy(e => e.Parts.Count(IsAny)).Select(e => e.Entry).FirstOrDefault();
            return new CapturedAddress(g.Key.Method, g.Key.Path, g.Count(), entry);
        })];
    }

    private static string[] Parts(string path) => path.Split('/', StringSplitOptions.RemoveEmptyEntries);

    private static bool IsMethod(string declared, string sent) => declared is "*" or "ALL" or "ANY" || declared.Equals(sent, StringComparison.OrdinalIgnoreCase) || (declared == "GET" && sent == "HEAD");

    private static bool IsAny(string part) => part.Contains('{', StringComparison.Ordinal) || part == "*";

    private static bool Fits(string[] route, string[] path) =>
        route.Length == path.Length && route.Zip(path).All(p => IsAny(p.First) || p.First.Equals(p.Second, StringComparison.OrdinalIgnoreCase));
}
