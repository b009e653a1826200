using Bellator.Analysis.Domain;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Auditing;

namespace Bellator.Core.Tests;

public sealed class FactsTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("bellator-facts").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    [Fact]
    public void A_library_is_added_by_adding_a_file()
    {
        const string code = "const store = require('fern-store'); const app = require('express')(); app.get('/', (req, res) => store.ask('a = ' + req.query.a));";
        Assert.Empty(Auditor.Run(("a.js", code)).Findings);
        File.WriteAllText(Path.Combine(_folder, "fern.yaml"), "library: fern-store\nlanguage: javascript\ncalls:\n  fern-store.ask: { query: { text: 0 } }\n");
        var result = AuditPipeline.Run(Auditor.Tree(("a.js", code)), new AuditOptions { Facts = LibraryModels.Load(_folder) });
        Assert.Equal("injection/sql", Assert.Single(result.Findings).CheckId);
    }

    /// <summary>What ships for a language is read when its code is there; words hold for all of them, and must not depend on who asked first.</summary>
    [Fact]
    public void Words_that_ship_stand_in_files_of_their_own()
    {
        var assembly = typeof(LibraryModels).Assembly;
        var names = assembly.GetManifestResourceNames().Where(n => n.StartsWith("facts/", StringComparison.Ordinal)).ToList();
        Assert.True(names.Count > 40);
        foreach (var name in names)
        {
            using var reader = new StreamReader(assembly.GetManifestResourceStream(name)!);
            var text = reader.ReadToEnd();
            var isWords = name.EndsWith("/words.yaml", StringComparison.Ordinal);
            Assert.True(text.Contains("\nwords:", StringComparison.Ordinal) == isWords, name);
            Assert.True(isWords || text.Contains($"\nlanguage: {name.Split('/')[1]}\n", StringComparison.Ordinal), name);
        }
    }

    [Fact]
    public void A_wrong_file_is_an_error_with_line_and_reason()
    {
        File.WriteAllText(Path.Combine(_folder, "bad.yaml"), "library: x\nlanguage: php\ncalls:\n  f: { quarry: { text: 0 } }\n");
        var error = Assert.Throws<LibraryModelException>(() => LibraryModels.Load(_folder));
        Assert.Contains("bad.yaml, line 4", error.Message, StringComparison.Ordinal);
        Assert.Contains("quarry", error.Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("library: x\nlanguage: cobol\n", "line 2", "cobol")]
    [InlineData("library: x\nlanguage: php\ncalls:\n  f: { escape: { value: 0, for: [sql-txt] } }\n", "line 4", "sql-txt")]
    [InlineData("library: x\nlanguage: php\ncalls:\n  f: { sanitizes: number }\n  g: { sinks: [{ kind: shell, at: 0 }] }\n", "line 5", "shell")]
    [InlineData("library: x\nlanguage: php\ncalls:\n  f: { source: everywhere }\n", "line 4", "everywhere")]
    public void A_word_that_nothing_knows_is_an_error_too(string text, string line, string word)
    {
        File.WriteAllText(Path.Combine(_folder, "bad.yaml"), text);
        var error = Assert.Throws<LibraryModelException>(() => LibraryModels.Load(_folder));
        Assert.Contains(line, error.Message, StringComparison.Ordinal);
        Assert.Contains(word, error.Message, StringComparison.Ordinal);
    }

    /// <summary>docs/facts.schema.json is made from the classes that read facts; BELLATOR_REFRESH=1 writes it anew.</summary>
    [Fact]
    public void The_schema_is_that_of_the_files()
    {
        var settings = new NJsonSchema.Generation.SystemTextJsonSchemaGeneratorSettings
        {
            SerializerOptions = new() { PropertyNamingPolicy = System.Text.Json.JsonNamingPolicy.CamelCase },
            AlwaysAllowAdditionalObjectProperties = false,
            UseXmlDocumentation = false,
        };
        var schema = NJsonSchema.JsonSchema.FromType<LibraryModelFile>(settings).ToJson().ReplaceLineEndings("\n") + "\n";
        var path = Path.Combine(Folders.Home, "docs", "facts.schema.json");
        if (Environment.GetEnvironmentVariable("BELLATOR_REFRESH") is not null)
        {
            File.WriteAllText(path, schema);
        }

        Assert.Equal(File.ReadAllText(path), schema);
    }

    [Fact]
    public void Every_word_that_facts_may_use_means_something()
    {
        Assert.All(ModelValidator.Positions, name => Assert.NotEqual(OutputContext.None, OutputContexts.Named(name)));
        Assert.All(ModelValidator.Sinks.Where(s => s is not ("sql" or "response" or "session" or "log" or "mail" or "link-host" or "throttle-key" or "signing-key" or "token" or "token-algorithm" or "log-format") && !ModelValidator.Switches.Contains(s)), kind => Assert.NotEqual(OutputContext.None, OutputContexts.OfSink(kind)));
    }

    [Theory]
    [InlineData("library: a\nlanguage: php\nrules:", "line 3")]
    [InlineData("library: a\nlanguage: php\ncalls:\n  f:\n", "f")]
    [InlineData("library: a\nlanguage: php\nbases:\n  A:\n", "A")]
    [InlineData("library: a\nlanguage: php\nreceivers:\n  a: [b, ]\n  c: [~]\n", "c")]
    public void What_is_named_and_left_empty_is_a_clear_error(string text, string named)
    {
        File.WriteAllText(Path.Combine(_folder, "empty.yaml"), text);
        Assert.Contains(named, Assert.Throws<LibraryModelException>(() => LibraryModels.Load(_folder)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void A_missing_folder_is_a_clear_error() => Assert.Throws<LibraryModelException>(() => LibraryModels.Load(Path.Combine(_folder, "none")));
}
