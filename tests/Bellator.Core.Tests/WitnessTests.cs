using Bellator.Audit.Auditing;
using Bellator.Audit.Checks;

namespace Bellator.Core.Tests;

/// <summary>Concrete witnesses: made by parsing and resolving, never claimed without.</summary>
public sealed class WitnessTests
{
    private const string App = "const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool(); const fs = require('fs'), path = require('path');\n";

    [Theory]
    [InlineData("pool.query(`SELECT * FROM t WHERE a = '${req.query.a}' AND b = $1`, [1])", "' OR 1=1 -- ")]
    [InlineData("pool.query(`SELECT * FROM t WHERE a = ${req.query.a}`)", "1 OR 1=1")]
    [InlineData("pool.query(`SELECT * FROM t ORDER BY ${req.query.a}`)", "(SELECT 1)")]
    [InlineData("pool.query(`SELECT * FROM t WHERE b IN (1, ${req.query.a})`)", "1 OR 1=1")]
    [InlineData("pool.query(`INSERT INTO t (a, b) VALUES ('${req.query.a}', 2)`)", "' OR '1'='1")]
    [InlineData("pool.query(`UPDATE t SET a = '${req.query.a}' WHERE id = $1`, [1])", "' OR 1=1 -- ")]
    [InlineData("res.redirect(req.query.a)", "https://elsewhere.example/")]
    [InlineData("res.redirect('/' + req.query.a)", "/elsewhere.example/")]
    [InlineData("res.send('<p>' + req.query.a + '</p>')", "<b>elm</b>")]
    [InlineData("res.send(`<p title=\"${req.query.a}\">x</p>`)", "elm\"><b>elm</b>")]
    [InlineData("fs.readFile('files/' + req.params.a, done)", "../../../settings")]
    public void A_crafted_value_proves_the_finding(string call, string value)
    {
        var finding = Assert.Single(Auditor.Run(("a.js", App + "app.get('/:a', (req, res) => { " + call + "; });")).Findings, f => f.Area == "injection");
        Assert.NotNull(finding.Witness);
        Assert.Equal((Certainty.Proved, value), (finding.Certainty, finding.Witness.Value));
        Assert.NotEqual(finding.Witness.Ordinary, finding.Witness.Crafted);
    }

    [Theory]
    [InlineData("$this->kind = new ToPage();", Certainty.Proved)]
    [InlineData("switch (getenv('LOG')) { case 'file': $this->kind = new ToFile(); break; default: $this->kind = new ToPage(); }", Certainty.Traced)]
    public void What_class_an_object_is_of_must_be_known_for_a_proof(string choice, Certainty certainty) =>
        Assert.Equal(certainty, Assert.Single(Auditor.Run(("page.php", $$"""
            <?php
            class ToPage { function put($text) { echo $text; } }
            class ToFile { function put($text) { error_log($text); } }
            class Journal { private $kind; function __construct() { {{choice}} } function put($text) { $this->kind->put($text); } }
            (new Journal())->put($_GET['hive']);
            """)).Findings, f => f.CheckId == "injection/page-output").Certainty);

    [Fact]
    public void The_method_of_a_request_is_no_text_for_a_page() =>
        Assert.Empty(Auditor.Run(("page.php", "<?php echo \"<b>{$_SERVER['REQUEST_METHOD']}</b>\";")).Findings);

    [Fact]
    public void The_ordinary_form_differs_only_in_the_value()
    {
        var witness = Auditor.Run(("a.php", "<?php $db = new PDO('x'); $db->query(\"SELECT a FROM t WHERE b = '{$_GET['b']}' AND c = '{$_GET['c']}' ORDER BY {$_GET['d']}\");")).Findings[0].Witness!;
        Assert.StartsWith("SELECT a FROM t WHERE b = '", witness.Ordinary, StringComparison.Ordinal);
        Assert.Equal(witness.Ordinary.Split("ORDER BY")[1].Length, witness.Crafted.Split("ORDER BY")[1].Length);
    }

    [Fact]
    public void What_is_changed_on_the_way_is_not_proved()
    {
        // Nobody knows whether the crafted value survives the cutting.
        var finding = Assert.Single(Auditor.Run(("a.js", App + "app.get('/', (req, res) => { pool.query(`SELECT * FROM t WHERE a = '${req.query.a.slice(0, 3)}'`); });")).Findings);
        Assert.Equal(Certainty.Traced, finding.Certainty);
    }

    [Fact]
    public void A_body_shows_the_operator_and_the_column()
    {
        var code = App + "const mongoose = require('mongoose'); const U = mongoose.model('U', s); app.post('/', async (req, res) => { await U.findOne({ name: req.body.name }); await U.create(req.body); });";
        var findings = Auditor.Run(("a.js", code)).Findings;
        Assert.Equal("{\"name\":{\"$ne\":null}}", findings.Single(f => f.CheckId == "injection/nosql-operator").Witness!.Crafted);
        Assert.Contains("\"role\":\"admin\"", findings.Single(f => f.CheckId == "injection/mass-assignment").Witness!.Crafted, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("?><p><?= $_GET['a'] ?></p><?php", "<b>elm</b>")]
    [InlineData("?><p title=\"<?= $_GET['a'] ?>\"></p><?php", "elm\"><b>elm</b>")]
    [InlineData("?><p title=<?= htmlspecialchars($_GET['a']) ?>></p><?php", "elm onclick=elm")]
    public void A_page_is_compared_with_what_a_parser_makes_of_it(string code, string value)
    {
        var finding = Assert.Single(Auditor.Run(("a.php", "<?php\n" + code)).Findings);
        Assert.Equal(("injection/page-output", "page", value), (finding.CheckId, finding.Witness!.Kind, finding.Witness.Value));
    }

    [Fact]
    public void Findings_with_one_end_are_one_cause()
    {
        var result = Auditor.Run(
            ("db.php", "<?php function run($db, $sql) { return $db->query($sql); }\nfunction find($db, $a, $s) {\n return run($db, \"SELECT * FROM t WHERE a = '$a' ORDER BY $s\");\n}"),
            ("a.php", "<?php require 'db.php'; $db = new PDO('x');\nfind($db, $_GET['a'], $_GET['s']);"),
            ("b.php", "<?php require 'db.php'; $db = new PDO('x');\nrun($db, 'SELECT * FROM t WHERE b = ' . $_GET['b']);"));
        var cause = Assert.Single(Causes.Of(result.Findings));
        Assert.Equal(3, cause.Flows.Count);
        Assert.Equal((new CodePlace("db.php", 1), new CodePlace("db.php", 3), 2), (cause.Sink, cause.Cut, cause.CutCount));
    }
}
