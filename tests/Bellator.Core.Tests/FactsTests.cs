using Bellator.Core.Auditing;
using Bellator.Core.Facts;

namespace Bellator.Core.Tests;

public sealed class FactsTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("bellator-facts").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    [Fact]
    public void A_library_is_added_by_adding_a_file()
    {
        const string code = "const store = require('fern-store'); const app = require('express')(); app.get('/', (req, res) => store.ask('SELECT * FROM t WHERE a = ' + req.query.a));";
        Assert.Empty(Auditor.Run(("a.js", code)).Findings);
        File.WriteAllText(Path.Combine(_folder, "fern.yaml"), "library: fern-store\nlanguage: javascript\ncalls:\n  fern-store.ask: { query: { text: 0 } }\n");
        var result = Audit.Run(Auditor.Tree(("a.js", code)), new AuditOptions { Facts = FactBase.Load(_folder) });
        Assert.Equal("injection/sql", Assert.Single(result.Findings).CheckId);
    }

    [Fact]
    public void A_wrong_file_is_an_error_with_line_and_reason()
    {
        File.WriteAllText(Path.Combine(_folder, "bad.yaml"), "library: x\nlanguage: php\ncalls:\n  f: { quarry: { text: 0 } }\n");
        var error = Assert.Throws<FactsException>(() => FactBase.Load(_folder));
        Assert.Contains("bad.yaml, line 4", error.Message, StringComparison.Ordinal);
        Assert.Contains("quarry", error.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void A_missing_folder_is_a_clear_error() => Assert.Throws<FactsException>(() => FactBase.Load(Path.Combine(_folder, "none")));
}
