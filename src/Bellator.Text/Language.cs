namespace Bellator.Text;

/// <summary>Languages that a reader exists for, and those that are only recognised.</summary>
public enum Language
{
    Unknown,
    Php,
    JavaScript,
    TypeScript,
    Tsx,
    Python,
    Ruby,
    CSharp,

    /// <summary>Page templates, each read as code of its host language.</summary>
    Erb,
    Ejs,
    Jinja,
    Blade,
    Razor,
    Handlebars,
    Vue,
    Angular,

    /// <summary>Statements that are built to be compared; schemas.</summary>
    Sql,

    /// <summary>Models of a mapper, in a language of their own.</summary>
    Prisma,

    /// <summary>Settings of a framework, kept in YAML.</summary>
    Settings,
}

public static class Languages
{
    private static readonly Dictionary<string, Language> ByExtension = new(StringComparer.OrdinalIgnoreCase)
    {
        [".php"] = Language.Php,
        [".phtml"] = Language.Php,
        [".inc"] = Language.Php,
        [".module"] = Language.Php,
        [".php5"] = Language.Php,
        [".php7"] = Language.Php,
        [".js"] = Language.JavaScript,
        [".mjs"] = Language.JavaScript,
        [".cjs"] = Language.JavaScript,
        [".jsx"] = Language.JavaScript,
        [".ts"] = Language.TypeScript,
        [".mts"] = Language.TypeScript,
        [".cts"] = Language.TypeScript,
        [".tsx"] = Language.Tsx,
        [".py"] = Language.Python,
        [".rb"] = Language.Ruby,
        [".rake"] = Language.Ruby,
        [".ru"] = Language.Ruby,
        [".cs"] = Language.CSharp,
        [".erb"] = Language.Erb,
        [".ejs"] = Language.Ejs,
        [".hbs"] = Language.Handlebars,
        [".handlebars"] = Language.Handlebars,
        [".mustache"] = Language.Handlebars,
        [".jinja"] = Language.Jinja,
        [".jinja2"] = Language.Jinja,
        [".j2"] = Language.Jinja,
        [".twig"] = Language.Jinja,
        [".html"] = Language.Jinja,
        [".htm"] = Language.Jinja,
        [".vue"] = Language.Vue,
        [".cshtml"] = Language.Razor,
        [".razor"] = Language.Razor,
        [".sql"] = Language.Sql,
        [".prisma"] = Language.Prisma,
    };

    /// <summary>Files with settings of an application, by their whole names.</summary>
    private static readonly HashSet<string> SettingsFiles = new(StringComparer.OrdinalIgnoreCase)
    {
        "security.yaml", "security.yml", "secrets.yml", "parameters.yml", "parameters.yaml", "application.yml", "application.yaml", "appsettings.json", "appsettings.production.json", "settings.json", "config.json", ".env", ".env.production", ".env.prod",
    };

    /// <summary>Other files of these kinds are many, and say nothing of how an application runs: only those that stand right in such a folder count.</summary>
    private static readonly HashSet<string> SettingsFolders = new(StringComparer.OrdinalIgnoreCase) { "config", "conf", "settings" };

    private static readonly HashSet<string> SettingsEndings = new(StringComparer.OrdinalIgnoreCase) { ".json", ".yml", ".yaml" };

    private static bool IsSettings(string path)
    {
        var parts = path.Split('/');
        return SettingsFiles.Contains(parts[^1]) || (parts.Length > 1 && SettingsFolders.Contains(parts[^2]) && SettingsEndings.Contains(Path.GetExtension(parts[^1])));
    }

    /// <summary>The language of a file, from its name and, where the name does not settle it, its first bytes.</summary>
    public static Language Detect(string path, ReadOnlySpan<byte> content)
    {
        var extension = Path.GetExtension(path);
        if (path.EndsWith(".blade.php", StringComparison.OrdinalIgnoreCase))
        {
            return Language.Blade;
        }

        if (IsSettings(path))
        {
            return Language.Settings;
        }

        if (ByExtension.TryGetValue(extension, out var language))
        {
            if (extension is ".html" && (path.EndsWith(".component.html", StringComparison.OrdinalIgnoreCase) || content.IndexOf("*ngIf"u8) >= 0 || content.IndexOf("*ngFor"u8) >= 0))
            {
                return Language.Angular;
            }

            // A page without a template's signs has no code; binding in the browser uses the same signs with attributes of its own.
            if (extension is ".html" or ".htm" && ((content.IndexOf("{%"u8) < 0 && !IsServedTemplate(path, content)) || content.IndexOf("ng-app"u8) >= 0))
            {
                return Language.Unknown;
            }

            // ".inc" and ".module" belong to several languages; only PHP starts with its opening tag.
            if (extension is ".inc" or ".module" && content.IndexOf("<?php"u8) < 0)
            {
                return Language.Unknown;
            }

            return language;
        }

        if (extension.Length == 0 && content.StartsWith("#!"u8))
        {
            var line = content[..Math.Max(0, content.IndexOf((byte)'\n'))];
            return line.IndexOf("node"u8) >= 0 ? Language.JavaScript : line.IndexOf("php"u8) >= 0 ? Language.Php
                : line.IndexOf("python"u8) >= 0 ? Language.Python : line.IndexOf("ruby"u8) >= 0 ? Language.Ruby : Language.Unknown;
        }

        return Language.Unknown;
    }

    /// <summary>Outputs alone make a page a template where it lies among templates, and nothing in it is bound in the browser.</summary>
    private static bool IsServedTemplate(string path, ReadOnlySpan<byte> content) =>
        content.IndexOf("{{"u8) >= 0 && path.Split('/')[..^1].Contains("templates", StringComparer.OrdinalIgnoreCase)
        && content.IndexOf(" v-"u8) < 0 && content.IndexOf(" ng-"u8) < 0 && content.IndexOf(" x-data"u8) < 0 && content.IndexOf(" data-ng-"u8) < 0;

    public static bool CouldBe(string path) => ByExtension.ContainsKey(Path.GetExtension(path)) || Path.GetExtension(path).Length == 0 || IsSettings(path);

    /// <summary>The family whose facts and mending advice apply: TypeScript is read with JavaScript's.</summary>
    public static string Family(Language language) => language switch
    {
        Language.Php or Language.Blade => "php",
        Language.JavaScript or Language.TypeScript or Language.Tsx or Language.Ejs or Language.Handlebars or Language.Vue or Language.Angular => "javascript",
        Language.Python or Language.Jinja => "python",
        Language.Ruby or Language.Erb => "ruby",
        Language.CSharp or Language.Razor => "csharp",
        _ => "",
    };

    /// <summary>Nothing in it is followed: it declares tables, or sets something.</summary>
    public static bool IsDeclarations(Language language) => language is Language.Sql or Language.Prisma or Language.Settings;

    public static bool IsTemplate(Language language) => language is Language.Erb or Language.Ejs or Language.Handlebars or Language.Jinja or Language.Blade or Language.Razor or Language.Vue or Language.Angular;

    /// <summary>The language whose parser reads it.</summary>
    public static Language Host(Language language) => language switch
    {
        Language.Erb => Language.Ruby,
        Language.Ejs or Language.Handlebars => Language.JavaScript,
        Language.Vue or Language.Angular => Language.TypeScript,
        Language.Jinja => Language.Python,
        Language.Blade => Language.Php,
        Language.Razor => Language.CSharp,
        _ => language,
    };

    public static string Title(Language language) => language switch
    {
        Language.Php => "PHP",
        Language.JavaScript => "JavaScript",
        Language.TypeScript or Language.Tsx => "TypeScript",
        Language.Python => "Python",
        Language.Ruby => "Ruby",
        Language.CSharp => "C#",
        Language.Erb => "ERB",
        Language.Ejs => "EJS",
        Language.Handlebars => "Handlebars",
        Language.Vue => "Vue",
        Language.Angular => "Angular",
        Language.Sql => "SQL",
        Language.Prisma => "Prisma",
        Language.Settings => "settings",
        Language.Jinja => "template",
        Language.Blade => "Blade",
        Language.Razor => "Razor",
        _ => "other",
    };
}
