using System.Text.Json.Nodes;

namespace Bellator.Cli.Tests;

/// <summary><c>bellator access</c> as a person or a script calls it.</summary>
public sealed class AccessCommandTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("bellator-access").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    [Fact]
    public async Task It_prints_the_map_and_writes_it_as_JSON_and_CSV()
    {
        await File.WriteAllTextAsync(Path.Combine(_folder, "app.js"), """
            const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool();
            app.use((req, res, next) => { if (!req.session.member) { return res.sendStatus(401); } next(); });
            app.get('/hives', async (req, res) => { res.json((await pool.query('SELECT name FROM hives WHERE keeper_id = $1', [req.session.member])).rows); });
            app.get('/hives/:id', async (req, res) => { res.json((await pool.query('SELECT name FROM hives WHERE id = $1', [req.params.id])).rows); });
            """);
        var (code, output, errors) = await CommandRun.RunAsync(_folder, null, "access", "app.js", "--json", "map.json", "--csv", "map.csv");
        Assert.Equal((0, ""), (code, errors));
        Assert.Contains("hives, whose rows belong to people by keeper_id", output, StringComparison.Ordinal);
        Assert.Contains("GET    /hives: list own rows where record.keeper_id = subject.member", output, StringComparison.Ordinal);
        Assert.Contains("any row the request names where record.id = request.id", output, StringComparison.Ordinal);
        var map = JsonNode.Parse(await File.ReadAllTextAsync(Path.Combine(_folder, "map.json")))!;
        Assert.Equal(["own", "chosen"], map["uses"]!.AsArray().Select(u => u!["rows"]!.GetValue<string>()));
        Assert.StartsWith("table,action,method,path,sign_in,rows,condition,written,file,line", await File.ReadAllTextAsync(Path.Combine(_folder, "map.csv")), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_path_that_is_not_there_is_a_sentence()
    {
        var (code, _, errors) = await CommandRun.RunAsync(_folder, null, "access", "nowhere");
        Assert.Equal(2, code);
        Assert.Contains("nowhere", errors, StringComparison.Ordinal);
    }
}
