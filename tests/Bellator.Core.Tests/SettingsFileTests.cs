using Bellator.Text;

namespace Bellator.Core.Tests;

/// <summary>Keys that are committed with the settings (CWE-798), and names by which people sign in that two may have (CWE-694). Where frameworks read their settings is their documentation, from memory.</summary>
public sealed class SettingsFileTests
{
    private const string Program = "var app = WebApplication.Create();\nvar key = new SymmetricSecurityKey(Encoding.UTF8.GetBytes(app.Configuration[\"Tokens:Key\"]!));\napp.Run();\n";

    [Theory]
    [InlineData("appsettings.json", "{ \"Tokens\": { \"Key\": \"9f2c-hives-and-honey-77\" } }", true)]
    [InlineData("src/appsettings.json", "{ \"Tokens\": { \"Key\": \"9f2c-hives-and-honey-77\", \"Minutes\": 15 } }", true)]
    [InlineData("appsettings.json", "{ \"Tokens\": { \"Key\": \"\" } }", false)]
    [InlineData("appsettings.json", "{ \"Tokens\": { \"Key\": \"<change me before use>\" } }", false)]
    [InlineData("appsettings.json", "{ \"Tokens\": { \"Key\": \"${TOKEN_KEY}\" } }", false)]
    [InlineData("appsettings.json", "{ \"Mail\": { \"Key\": \"9f2c-hives-and-honey-77\" } }", false)]
    [InlineData("appsettings.json", "{ not JSON", false)]
    public void A_key_beside_the_code(string path, string settings, bool isWeak) => Check("sessions/secret-in-settings", isWeak, ("Program.cs", Program), (path, settings));

    /// <summary>Files for developers' machines, examples and texts are not how an application runs.</summary>
    [Theory]
    [InlineData("appsettings.Development.json")]
    [InlineData(".env.example")]
    [InlineData("config/locales/en.yml")]
    [InlineData("package.json")]
    public void Other_files_are_not_settings(string path) => Assert.Equal(Language.Unknown, Languages.Detect(path, default));

    [Theory]
    [InlineData(".env", "APP_KEY=base64:Zm9yIGZlcm5ob2xsb3cgb25seQ==\n", true)]
    [InlineData("config/secrets.yml", "production:\n  secret_key_base: 4be19f20aa73c1d0e5\n", true)]
    [InlineData("config/secrets.yml", "production:\n  secret_key_base: <%= ENV[\"SECRET_KEY_BASE\"] %>\n", false)]
    public void Keys_that_frameworks_read(string path, string settings, bool isWeak) => Check("sessions/secret-in-settings", isWeak, ("app.rb", "require 'sinatra'\n"), (path, settings));

    [Theory]
    [InlineData("public SymmetricSecurityKey Key { get; } = new(Encoding.UTF8.GetBytes(\"ring-the-tenor-1\"));", true)]
    [InlineData("private readonly SymmetricSecurityKey _key = new(Encoding.UTF8.GetBytes(\"ring-the-tenor-1\"));", true)]
    [InlineData("public SymmetricSecurityKey Key { get; } = new(RandomNumberGenerator.GetBytes(32));", false)]
    public void A_key_that_is_made_without_naming_its_class(string member, bool isWeak) => Check("sessions/secret-in-code", isWeak, ("Tokens.cs", "public class Tokens { " + member + " }"));

    [Theory]
    [InlineData("os.environ.get(\"HIVE_SECRET\", \"dev\")", true)]
    [InlineData("os.environ[\"HIVE_SECRET\"]", false)]
    public void A_key_in_a_class_that_lists_its_members(string secret, bool isWeak) => Check("sessions/secret-in-code", isWeak, ("app.py", $$"""
        import os, jwt
        from dataclasses import dataclass
        @dataclass(frozen=True)
        class Settings:
            dsn: str
            secret: str
        settings = Settings(dsn="x", secret={{secret}})
        def token(number):
            return jwt.encode({"sub": number, "exp": 1}, settings.secret, algorithm="HS256")
        """));

    [Theory]
    [InlineData("CREATE TABLE users (id int PRIMARY KEY, name varchar(40) NOT NULL, password_hash varchar(255) NOT NULL);", "", true)]
    [InlineData("CREATE TABLE users (id int PRIMARY KEY, name varchar(40) NOT NULL UNIQUE, password_hash varchar(255) NOT NULL);", "", false)]
    [InlineData("CREATE TABLE users (id int PRIMARY KEY, name varchar(40) NOT NULL, password_hash varchar(255) NOT NULL); CREATE UNIQUE INDEX u ON users (lower(name));", "", false)]
    [InlineData("CREATE TABLE users (id int PRIMARY KEY, name varchar(40) NOT NULL, password_hash varchar(255) NOT NULL);", "const taken = await pool.query('SELECT 1 FROM users WHERE name = $1', [req.body.name]); if (taken.rows[0]) { return res.sendStatus(409); }", false)]
    public void A_name_that_two_may_have(string schema, string look, bool isWeak) => Check("sessions/account-not-unique", isWeak, ("schema.sql", schema), ("app.js", $$"""
        const app = require('express')(); const bcrypt = require('bcrypt'); const { Pool } = require('pg'); const pool = new Pool();
        app.post('/register', async (req, res) => { {{look}} await pool.query('INSERT INTO users (name, password_hash) VALUES ($1, $2)', [req.body.name, await bcrypt.hash(req.body.password, 12)]); res.end(); });
        app.post('/sign-in', async (req, res) => { const { rows } = await pool.query('SELECT id, password_hash FROM users WHERE name = $1', [req.body.name]); if (!rows[0] || !(await bcrypt.compare(req.body.password, rows[0].password_hash))) { return res.sendStatus(401); } req.session.userId = rows[0].id; res.end(); });
        """));

    private static void Check(string check, bool isWeak, params (string Path, string Text)[] files) => Assert.Equal(isWeak, Auditor.Run(files).Findings.Any(f => f.CheckId == check));
}
