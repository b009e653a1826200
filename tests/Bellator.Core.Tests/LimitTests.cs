using System.Text.RegularExpressions;

namespace Bellator.Core.Tests;

/// <summary>docs/limits.md names every bound that the code has, with its value.</summary>
public sealed partial class LimitTests
{
    [Fact]
    public void Every_limit_is_documented()
    {
        var documented = File.ReadAllText(Path.Combine(Folders.Home, "docs", "limits.md"));
        var missing = new List<string>();
        foreach (var path in Directory.EnumerateFiles(Path.Combine(Folders.Home, "src"), "*.cs", SearchOption.AllDirectories).Where(p => !p.Contains("/obj/", StringComparison.Ordinal) && !p.Contains("/bin/", StringComparison.Ordinal)))
        {
            var name = path[(Path.Combine(Folders.Home, "src").Length + 1)..];
            var pattern = Path.GetFileName(path) is "SourceLimits.cs" or "SupervisorSettings.cs" ? Member() : Constant();
            foreach (Match match in pattern.Matches(File.ReadAllText(path)))
            {
                var row = $"| `{match.Groups[1].Value}` | {name} | `{match.Groups[2].Value.Replace("TimeSpan.From", "", StringComparison.Ordinal).Trim()}` |";
                if (!documented.Contains(row, StringComparison.Ordinal))
                {
                    missing.Add(row);
                }
            }
        }

        Assert.Empty(missing);
    }

    [GeneratedRegex("(?:const|static readonly) [A-Za-z]+ ((?:Max|Most|Longest|Largest|Deepest|Dearest)[A-Za-z]*) *= *([^;]+);")]
    private static partial Regex Constant();

    [GeneratedRegex("public (?:long|int|TimeSpan) ([A-Za-z]+)[^=\n]*= *([^;]+);")]
    private static partial Regex Member();
}
