using System.Text;
using Bellator.Analysis.Ir;
using Bellator.Audit.Auditing;
using Bellator.Syntax;
using Bellator.Syntax.Parsing;
using Bellator.Text;

namespace Bellator.Core.Tests;

/// <summary>Audits small programs given as text.</summary>
internal static class Auditor
{
    public static SourceTree Tree(params (string Path, string Code)[] files) =>
        new("test", [.. files.Select(f => File(f.Path, f.Code))], []);

    public static SourceFile File(string path, string code)
    {
        var content = Encoding.UTF8.GetBytes(code);
        return new SourceFile(path, content, Languages.Detect(path, content));
    }

    public static AuditResult Run(params (string Path, string Code)[] files)
    {
        var result = AuditPipeline.Run(Tree(files), new AuditOptions { Threads = 2 });

        // What could not be read is quiet for the wrong reason.
        Assert.DoesNotContain(result.Notes, n => n.Text.StartsWith(AuditPipeline.UnreadNote, StringComparison.Ordinal));
        return result;
    }

    /// <summary>The audit of the demo, which several tests look at.</summary>
    public static AuditResult Demo => DemoAudit.Value;

    private static readonly Lazy<AuditResult> DemoAudit = new(() => AuditPipeline.Run(SourceLoader.Load(Path.Combine(Folders.Home, "samples", "fernhollow"), SourceLimits.Default), new AuditOptions { Threads = 1 }));

    /// <summary>Findings of a PHP page, as check and line.</summary>
    public static IReadOnlyList<string> Php(string code) => Places(Run(("page.php", "<?php\n" + code)));

    /// <summary>Findings of an Express module whose <c>app</c>, <c>pool</c>, <c>bcrypt</c> and <c>crypto</c> are set up on the first line.</summary>
    public static IReadOnlyList<string> Js(string code) => Places(Run((
        "app.js",
        "const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool(); const bcrypt = require('bcrypt'); const crypto = require('crypto');\n" + code)));

    public static FileUnit Read(string path, string code)
    {
        var file = File(path, code);
        using var parser = new SyntaxParser();
        using var tree = parser.Parse(file)!;
        return Reader.Read(tree, file);
    }

    public static IrFile Lower(string path, string code) => Lowering.Lower(Read(path, code));

    private static IReadOnlyList<string> Places(AuditResult result) =>
        [.. result.Findings.Select(f => f.CheckId + "@" + f.Region.StartLine).Order(StringComparer.Ordinal)];
}
