using Bellator.Audit.Auditing;

namespace Bellator.Audit.Comparison;

/// <summary>An archive's own folder is called otherwise in every release: what all paths begin with is no part of where a file is.</summary>
/// <param name="Before">What paths began with before; empty, or ending in a slash.</param>
/// <param name="After">What they begin with now.</param>
public sealed record PathRoots(string Before, string After)
{
    public static readonly PathRoots Same = new("", "");

    /// <summary>So large a part of the findings that are recognised without a doubt must agree.</summary>
    private const double Agreed = 0.8;

    /// <summary>A path of before as it would be called now.</summary>
    public string Rooted(string path) => path.StartsWith(Before, StringComparison.Ordinal) ? After + path[Before.Length..] : path;

    /// <summary>The root that findings of two versions show which have the same code, of which there is one only.</summary>
    public static PathRoots Find(IReadOnlyList<ReportedFinding> before, IReadOnlyList<ReportedFinding> after)
    {
        var old = Unique(before);
        var pairs = Unique(after).Where(p => old.ContainsKey(p.Key)).Select(p => RootOf(old[p.Key], p.Value)).ToList();
        var best = pairs.GroupBy(p => p).OrderByDescending(g => g.Count()).FirstOrDefault();
        return best is not null && best.Count() >= pairs.Count * Agreed ? best.Key : Same;
    }

    /// <summary>The same of the files of two trees, where those are known.</summary>
    public static PathRoots Find(IReadOnlyList<string> before, IReadOnlyList<string> after)
    {
        var (old, now) = (FolderOf(before), FolderOf(after));
        return new PathRoots(old, now);
    }

    private static Dictionary<(string, string, string), string> Unique(IReadOnlyList<ReportedFinding> findings) => findings
        .Where(f => f.Traits is not null)
        .GroupBy(f => (f.CheckId, f.Traits!.Code, f.Traits.Way))
        .Where(g => g.Count() == 1)
        .ToDictionary(g => g.Key, g => g.First().Path);

    private static PathRoots RootOf(string before, string after)
    {
        var (b, a) = (before.Split('/'), after.Split('/'));
        var same = 0;
        while (same < b.Length && same < a.Length && b[^(same + 1)] == a[^(same + 1)])
        {
            same++;
        }

        return same == 0 ? Same : new PathRoots(string.Concat(b[..^same].Select(p => p + "/")), string.Concat(a[..^same].Select(p => p + "/")));
    }

    private static string FolderOf(IReadOnlyList<string> paths)
    {
        if (paths.Count == 0)
        {
            return "";
        }

        var common = paths[0][..(paths[0].LastIndexOf('/') + 1)];
        foreach (var path in paths)
        {
            while (!path.StartsWith(common, StringComparison.Ordinal))
            {
                common = common[..(common.TrimEnd('/').LastIndexOf('/') + 1)];
            }
        }

        return common;
    }
}
