namespace Bellator.Core.Tests;

/// <summary>Templates with a tag: what the tag makes of its pieces and values is what counts.</summary>
public sealed class TaggedTemplateTests
{
    [Theory]
    [InlineData("String.raw`SELECT * FROM hive WHERE tag = '${req.query.tag}'`")]
    [InlineData("dedent`SELECT * FROM hive WHERE tag = '${req.query.tag}'`")]
    [InlineData("oneLine`SELECT * FROM hive WHERE tag = '${req.query.tag}'`")]
    [InlineData("glue`SELECT * FROM hive WHERE tag = '${req.query.tag}'`")]
    [InlineData("first`${req.query.tag}`")]
    public void A_tag_that_only_lays_text_out_makes_nothing_harmless(string statement) => Assert.Contains("injection/sql", Checks(statement));

    [Theory]
    [InlineData("sql`SELECT * FROM hive WHERE tag = ${req.query.tag}`")]
    [InlineData("number`SELECT * FROM hive WHERE tag = ${req.query.tag}`")]
    [InlineData("String.raw`SELECT * FROM hive WHERE tag = ${Number(req.query.tag)}`")]
    public void A_tag_that_keeps_values_apart_or_makes_them_harmless_is_quiet(string statement) => Assert.Empty(Checks(statement));

    private static IEnumerable<string> Checks(string statement) => Auditor.Run((
        "app.js",
        $$"""
        const app = require('express')();
        const { Pool } = require('pg');
        const pool = new Pool();
        const dedent = require('dedent');
        const { oneLine } = require('common-tags');
        const { sql } = require('@fernhollow/statements');
        function glue(pieces, ...values) { let text = ''; for (let i = 0; i < pieces.length; i++) { text += pieces[i] + (values[i] || ''); } return text; }
        const first = (pieces, value) => value;
        const number = (pieces, value) => pieces[0] + parseInt(value, 10);
        app.get('/hives', async (req, res) => res.json(await pool.query({{statement}})));
        """)).Findings.Select(f => f.CheckId);
}
