using System.Text;
using System.Text.RegularExpressions;
using Bellator.Analysis.Domain;

namespace Bellator.Audit.Endpoints;

/// <summary>Paths of routes in one form for all frameworks: parameters in braces, as OpenAPI writes them.</summary>
internal static partial class RoutePath
{
    /// <summary>The text of a path; what is not known of it becomes an ellipsis.</summary>
    public static string? TextOf(AbstractValue path)
    {
        if (path.Constant is { } constant)
        {
            return constant;
        }

        if (path.Text is { } text)
        {
            return string.Concat(text.Alternatives[0].Select(p => p.IsHole ? "{…}" : p.Literal));
        }

        return path.Fields is { Count: > 0 } several && several.Values.First().Constant is { } first ? first : null;
    }

    /// <summary>One path below another.</summary>
    public static string Below(string prefix, string path) => prefix.Length == 0 ? path : path.Length == 0 || path == "/" ? prefix : prefix.TrimEnd('/') + "/" + path.TrimStart('/');

    public static string Normal(string path)
    {
        path = Named().Replace(path, "{$1}");                      // (?P<id>\d+)
        path = Braced().Replace(path, "{$1}");                     // {id:int}, {id?}, {*rest}, {id<\d+>}
        path = Typed().Replace(path, "{$1}");                      // <int:id>
        path = Colon().Replace(path, "{$1}");                      // :id
        path = Bracketed().Replace(path, "{$1}");                  // [id], [...rest]
        path = path.Replace("^", "", StringComparison.Ordinal).TrimEnd('$').Replace("\\Z", "", StringComparison.Ordinal).Replace("(?:", "", StringComparison.Ordinal).Replace("(.:format)", "", StringComparison.Ordinal).Replace("\\", "", StringComparison.Ordinal);
        path = "/" + path.Trim('~').TrimStart('/');
        while (path.Contains("//", StringComparison.Ordinal))
        {
            path = path.Replace("//", "/", StringComparison.Ordinal);
        }

        return path.Length > 1 ? path.TrimEnd('/') : path;
    }

    /// <summary>A name as a path writes it: <c>ForgotPassword</c> becomes <c>forgot-password</c>.</summary>
    public static string Hyphened(string name)
    {
        var text = new StringBuilder();
        for (var i = 0; i < name.Length; i++)
        {
            if (char.IsUpper(name[i]) && i > 0 && !char.IsUpper(name[i - 1]))
            {
                text.Append('-');
            }

            text.Append(char.ToLowerInvariant(name[i]));
        }

        return text.ToString();
    }

    /// <summary>The names of a path's parameters.</summary>
    public static IEnumerable<string> Parameters(string path) => Parameter().Matches(path).Select(m => m.Groups[1].Value);

    [GeneratedRegex(@"\(\?P?<(\w+)>(?:[^()]|\([^()]*\))*\)", RegexOptions.None, 200)]
    private static partial Regex Named();

    [GeneratedRegex(@"<(?:\w+(?:\([^)]*\))?:)?(\w+)>", RegexOptions.None, 200)]
    private static partial Regex Typed();

    [GeneratedRegex(@"(?<=^|/|-|\.):(\w+)(?:\([^)]*\))?[?*+]?", RegexOptions.None, 200)]
    private static partial Regex Colon();

    [GeneratedRegex(@"\[+(?:\.\.\.)?(\w+)\]+", RegexOptions.None, 200)]
    private static partial Regex Bracketed();

    [GeneratedRegex(@"\{\**(\w+)(?:[:=?<][^}]*)?\}", RegexOptions.None, 200)]
    private static partial Regex Braced();

    [GeneratedRegex(@"\{(\w+)\}", RegexOptions.None, 200)]
    private static partial Regex Parameter();
}
