namespace Bellator.Fuzz;

/// <summary>What mutations begin with: the project's own samples and test applications, by the ending of their files, and a few lines of each other kind.</summary>
public sealed class Corpus
{
    private const int LongestSeed = 6000;

    private static readonly string[] Endings = ["php", "js", "ts", "tsx", "py", "rb", "cs", "html.erb", "erb", "cshtml", "razor", "blade.php", "html", "vue", "ejs", "hbs", "sql", "prisma"];

    private readonly Dictionary<string, List<string>> _texts = new(StringComparer.Ordinal);

    /// <param name="project">The project's folder.</param>
    /// <param name="further">Folders of other code to begin with.</param>
    public Corpus(string project, params IEnumerable<string> further)
    {
        foreach (var folder in (IEnumerable<string>)[Path.Combine(project, "samples"), Path.Combine(project, "tests/applications"), .. further])
        {
            foreach (var path in Directory.EnumerateFiles(folder, "*", SearchOption.AllDirectories).Order(StringComparer.Ordinal))
            {
                if (Endings.FirstOrDefault(e => path.EndsWith("." + e, StringComparison.Ordinal)) is { } ending && new FileInfo(path).Length < LongestSeed)
                {
                    Add(ending, File.ReadAllText(path));
                }
            }
        }

        foreach (var path in Directory.EnumerateFiles(Path.Combine(project, "src/Bellator.Analysis/Libraries/Data"), "*.yaml", SearchOption.AllDirectories).Order(StringComparer.Ordinal).Where(p => new FileInfo(p).Length < LongestSeed))
        {
            Add("facts", File.ReadAllText(path));
        }

        Add("html", "<html>{% for a in b %}{{ a|safe }}{% endfor %}</html>");
        Add("ejs", "<% if (a) { %><%- b %><% } %>");
        Add("hbs", "{{#each a}}{{{b}}}{{/each}}");
        Add("vue", "<template><div v-html=\"a\">{{ b }}</div></template><script>export default { data() { return { a: this.b } } }</script>");
        Add("prisma", "model User {\n  id Int @id\n  email String @unique\n  @@index([email])\n}\n");
        Add("blade.php", "@if ($a)\n{!! $b !!}\n@endif");
        Add("sql", "create table t (a int references u (id), b varchar(60) not null default 'x', key k (a), constraint c unique (lower(b)));\nalter table t add column d int;\ncreate index i on t (lower(b));");
        Add("hash", "$2b$12$R9h/cIPz0gi.URNNX3kh2OPST9/PgBkqquzi.Ss7KIUgO2t0jWMUW\n$argon2id$v=19$m=65536,t=3,p=4$c29tZXNhbHQ$RdescudvJCsgt3ub+b5dWRWJTmaaJObG\n5f4dcc3b5aa765d61d8327deb882cf99\npbkdf2_sha256$600000$abc$def=\n{SSHA}AAAA\n$6$rounds=5000$salt$hash\nname,password\na,b\n");
    }

    public IReadOnlyList<string> Kinds => [.. _texts.Keys.Order(StringComparer.Ordinal), "tar", "tar.gz", "zip"];

    public IReadOnlyList<string> Of(string kind) => _texts[kind];

    private void Add(string kind, string text)
    {
        if (!_texts.TryGetValue(kind, out var texts))
        {
            _texts[kind] = texts = [];
        }

        texts.Add(text);
    }
}
