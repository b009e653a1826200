namespace Bellator.Core.Tests;

/// <summary>An object that is changed in place is another one afterwards, and only there: not before, and not on the ways that do not lead through the change.</summary>
public sealed class ObjectVersionTests
{
    [Theory]
    [InlineData("if (some) { Run(sql.ToString()); } else { sql.Append(q); }", false)]
    [InlineData("if (some) { sql.Append(q); } else { Run(sql.ToString()); }", false)]
    [InlineData("Run(sql.ToString()); sql.Append(q);", false)]
    [InlineData("if (some) { sql.Append(q); return; } Run(sql.ToString());", false)]
    [InlineData("sql.Append(q); Run(sql.ToString());", true)]
    [InlineData("if (some) { sql.Append(q); } Run(sql.ToString());", true)]
    [InlineData("if (some) { sql.Append('x'); } else { sql.Append(q); } Run(sql.ToString());", true)]
    [InlineData("foreach (var i in new[] { 1, 2 }) { sql.Append(q); } Run(sql.ToString());", true)]
    [InlineData("foreach (var i in new[] { 1, 2 }) { Run(sql.ToString()); sql.Append(q); }", true)]
    [InlineData("foreach (var i in new[] { 1, 2 }) { var own = new StringBuilder(); Run(own.ToString()); own.Append(q); }", false)]
    [InlineData("sql.Append(\"'\").Append(q).Append(\"'\"); Run(sql.ToString());", true)]
    public void A_builder_of_text(string body, bool isFound)
    {
        var code = $$"""
            using Microsoft.AspNetCore.Mvc;
            using System.Text;
            using Npgsql;
            public class HivesController(NpgsqlConnection db) : Controller
            {
                [HttpGet("/hives")]
                public void Hives(string q, bool some)
                {
                    var sql = new StringBuilder("SELECT * FROM hive WHERE tag = ");
                    {{body}}
                }

                private void Run(string text) => new NpgsqlCommand(text, db).ExecuteNonQuery();
            }
            """;
        Assert.Equal(isFound, Auditor.Run(("HivesController.cs", code)).Findings.Any(f => f.CheckId == "injection/sql"));
    }

    [Theory]
    [InlineData("if (req.query.some) { await pool.query(parts.join(' ')); } else { parts.push(req.query.q); }", false)]
    [InlineData("await pool.query(parts.join(' ')); parts.push(req.query.q);", false)]
    [InlineData("parts.push(req.query.q); await pool.query(parts.join(' '));", true)]
    [InlineData("if (req.query.some) { parts.push(req.query.q); } await pool.query(parts.join(' '));", true)]
    [InlineData("for (const x of [1, 2]) { parts.push(req.query.q); } await pool.query(parts.join(' '));", true)]
    public void A_list_that_grows(string body, bool isFound)
    {
        var code = $$"""
            const app = require('express')();
            const { Pool } = require('pg');
            const pool = new Pool();
            app.get('/hives', async (req, res) => {
              const parts = ['SELECT * FROM hive WHERE tag = '];
              {{body}}
              res.end();
            });
            """;
        Assert.Equal(isFound, Auditor.Run(("app.js", code)).Findings.Any(f => f.CheckId == "injection/sql"));
    }
}
