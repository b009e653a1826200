namespace Bellator.Text;

/// <summary>Decides from a path, and then from content, what an audit leaves out. Common practice; no published source.</summary>
public static class SkipRules
{
    private static readonly HashSet<string> VendoredFolders = new(StringComparer.OrdinalIgnoreCase)
    {
        "node_modules", "bower_components", "vendor", "vendors", "third_party", "third-party", "jspm_packages",
        ".git", ".hg", ".svn", ".yarn", ".idea", ".vscode", "site-packages", "__pycache__",
    };

    private static readonly HashSet<string> GeneratedFolders = new(StringComparer.OrdinalIgnoreCase)
    {
        "dist", ".next", ".nuxt", ".output", "coverage", ".cache", "built",
    };

    private static readonly HashSet<string> TestFolders = new(StringComparer.OrdinalIgnoreCase)
    {
        "test", "tests", "__tests__", "spec", "specs", "cypress", "e2e", "__mocks__", "fixtures",
    };

    /// <summary>Folder names after which nothing below needs to be opened.</summary>
    public static SkipReason? FolderReason(string name, SourceLimits limits)
    {
        if (VendoredFolders.Contains(name))
        {
            return SkipReason.Vendored;
        }

        if (GeneratedFolders.Contains(name))
        {
            return SkipReason.Generated;
        }

        return !limits.IncludeTests && TestFolders.Contains(name) ? SkipReason.Test : null;
    }

    public static SkipReason? PathReason(string path, SourceLimits limits)
    {
        var parts = path.Split('/');
        for (var i = 0; i < parts.Length - 1; i++)
        {
            if (FolderReason(parts[i], limits) is { } reason)
            {
                return reason;
            }
        }

        var file = parts[^1];
        if (file.EndsWith(".min.js", StringComparison.OrdinalIgnoreCase) || file.EndsWith("-min.js", StringComparison.OrdinalIgnoreCase))
        {
            return SkipReason.Minified;
        }

        if (file.EndsWith(".bundle.js", StringComparison.OrdinalIgnoreCase) || file.EndsWith(".d.ts", StringComparison.OrdinalIgnoreCase))
        {
            return SkipReason.Generated;
        }

        if (!limits.IncludeTests && (file.Contains(".test.", StringComparison.OrdinalIgnoreCase)
            || file.Contains(".spec.", StringComparison.OrdinalIgnoreCase) || file.EndsWith("Test.php", StringComparison.Ordinal)))
        {
            return SkipReason.Test;
        }

        return Languages.CouldBe(path) ? null : SkipReason.UnknownLanguage;
    }

    public static SkipReason? ContentReason(ReadOnlySpan<byte> content, Language language)
    {
        if (content[..Math.Min(content.Length, 8000)].IndexOf((byte)0) >= 0)
        {
            return SkipReason.Binary;
        }

        if (language == Language.Unknown)
        {
            return SkipReason.UnknownLanguage;
        }

        var lines = 1 + content.Count((byte)'\n');
        if (language != Language.Php && content.Length > 4096)
        {
            // Machine-made scripts pack whole programs into few lines; people keep lines near 100 characters.
            if (content.Length / lines > 400)
            {
                return SkipReason.Minified;
            }

            // A bundler's loader at the top marks a file put together from others.
            var head = content[..Math.Min(content.Length, 4096)];
            if (head.IndexOf("__webpack_require__"u8) >= 0 || head.IndexOf("webpackBootstrap"u8) >= 0 || head.IndexOf("webpackChunk"u8) >= 0)
            {
                return SkipReason.Generated;
            }
        }

        var start = content[..Math.Min(content.Length, 600)];
        return start.IndexOf("@generated"u8) >= 0 || start.IndexOf("DO NOT EDIT"u8) >= 0 ? SkipReason.Generated : null;
    }
}
