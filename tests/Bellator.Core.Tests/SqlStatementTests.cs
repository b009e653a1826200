using Bellator.Analysis.Domain;
using Bellator.Audit.Sql;

namespace Bellator.Core.Tests;

/// <summary>The reader of statement shapes: where each value stands and which column it belongs to.</summary>
public sealed class SqlStatementTests
{
    // In these texts the sign ¤ is a hole.
    [Theory]
    [InlineData("SELECT * FROM t WHERE a = ¤", OutputContext.SqlUnquoted, "a", null)]
    [InlineData("SELECT * FROM t WHERE a = '¤'", OutputContext.SqlString, "a", null)]
    [InlineData("SELECT * FROM t WHERE t.a = 'it''s ¤'", OutputContext.SqlString, "a", null)]
    [InlineData("SELECT * FROM t WHERE a = '\\'¤'", OutputContext.SqlString, "a", null)]
    [InlineData("SELECT * FROM t ORDER BY `¤`", OutputContext.SqlIdentifier, null, null)]
    [InlineData("SELECT 'x' AS b FROM t -- '\nWHERE a = ¤", OutputContext.SqlUnquoted, "a", null)]
    [InlineData("SELECT 1 /* ' */ FROM t WHERE b = '¤'", OutputContext.SqlString, "b", null)]
    [InlineData("UPDATE users SET name = 'n', password = MD5('¤') WHERE id = 1", OutputContext.SqlString, "password", "MD5")]
    [InlineData("INSERT INTO users (id, name, password) VALUES (1, NOW(), SHA1(¤))", OutputContext.SqlUnquoted, "password", "SHA1")]
    [InlineData("INSERT INTO `users` (`name`, `password`) VALUES ('a', '¤')", OutputContext.SqlString, "password", null)]
    [InlineData("SELECT * FROM users WHERE (name = 'x' OR mail = 'y') AND pass = ¤", OutputContext.SqlUnquoted, "pass", null)]
    public void A_hole_has_a_position_and_a_column(string text, OutputContext position, string? column, string? function)
    {
        var pieces = text.Split('¤').SelectMany((part, i) => i == 0 ? new[] { Piece.Text(part) } : [Piece.Hole([Taint()], default), Piece.Text(part)]).ToList();
        var slot = Assert.Single(SqlStatement.Parse(pieces).Slots);
        Assert.Equal((position, column, function), (slot.Position, slot.Column, slot.Function));
    }

    [Theory]
    [InlineData("INSERT INTO m (name, email, password) VALUES (?, ?, ?)", "0:name 1:email 2:password")]
    [InlineData("INSERT INTO m (name, password) VALUES ($1, crypt($2, gen_salt('bf')))", "0:name 1:password")]
    [InlineData("UPDATE m SET name = :name, password = :pw WHERE id = :id", "name:name pw:password id:id")]
    [InlineData("SELECT id FROM m WHERE email = @mail AND password = @pw", "mail:email pw:password")]
    [InlineData("SELECT '?' FROM m WHERE a LIKE ?", "0:a")]
    [InlineData("SELECT a::text FROM m WHERE b = ?", "0:b")]
    public void A_placeholder_has_a_column(string text, string expected)
    {
        var statement = SqlStatement.Parse([Piece.Text(text)]);
        Assert.Equal(expected, string.Join(' ', statement.Slots.Select(s => s.Placeholder + ":" + s.Column)));
    }

    private static Taint Taint() => new(new Origin(OriginKind.Request, "query", "a", 0, -1), OutputContext.None, PasswordTransform.Plain, false, false, new Trace(StepKind.Source, default, "", null));
}
