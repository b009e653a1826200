namespace Bellator.Core.Tests;

/// <summary>
/// Programs that put what they made of a part of the request back in its place, and functions of their own that give the part of a name: what is
/// read under the name afterwards is what was put there. The open forms stand beside the harmless ones. Common practice in code without a
/// framework, no source.
/// </summary>
public sealed class RequestRewriteTests
{
    private const string Accessors = """
        <?php
        function isset_part($n) { return isset($_REQUEST[$n]); }
        function set_part($n, $v) { global $_PARTS; $_PARTS[$n] = $v; $_REQUEST[$n] = $v; $_GET[$n] = $v; }
        function part($n, $d = '') { global $_PARTS; if (isset($_PARTS[$n])) { return $_PARTS[$n]; } elseif (isset_part($n)) { set_part($n, $_REQUEST[$n]); return $_REQUEST[$n]; } return $d; }
        function number_part($n, $filter = FILTER_VALIDATE_INT) {
            if (isset_part($n)) {
                if (part($n) == '0') { $v = '0'; } elseif ($filter == 'list') { $v = $_REQUEST[$n]; } else { $v = filter_var($_REQUEST[$n], $filter); }
                if ($v === false) { die('not a number'); }
                set_part($n, $v);
                return $v;
            }
        }
        function number_parts($rules) { foreach ($rules as $n => $rule) { if (!isset_part($n)) { set_part($n, $rule['default']); } else { set_part($n, filter_var($_REQUEST[$n], $rule['filter'])); } } }
        """;

    [Theory]
    [InlineData("$_GET['id'] = (int) $_GET['id']; echo $_GET['id'];", false)]
    [InlineData("if (isset($_GET['id'])) { $_GET['id'] = (int) $_GET['id']; } echo $_GET['id'];", false)]
    [InlineData("if (!empty($_GET['id'])) { $_GET['id'] = htmlspecialchars($_GET['id']); } echo \"<b>{$_GET['id']}</b>\";", false)]
    [InlineData("foreach ($_GET as $k => $v) { $_GET[$k] = htmlspecialchars($v); } echo \"<b>{$_GET['id']}</b>\";", false)]
    [InlineData("foreach (['id', 'page'] as $k) { $_GET[$k] = (int) $_GET[$k]; } echo $_GET['page'];", false)]
    [InlineData("$_GET = array_map('htmlspecialchars', $_GET); echo \"<b>{$_GET['id']}</b>\";", false)]
    [InlineData("function clean($n) { $_GET[$n] = (int) $_GET[$n]; } clean('id'); echo $_GET['id'];", false)]
    [InlineData("function clean($n) { $_GET[$n] = (int) $_GET[$n]; } clean('page'); echo $_GET['id'];", true)]
    [InlineData("echo $_GET['id']; $_GET['id'] = (int) $_GET['id'];", true)]
    [InlineData("if ($_GET['short']) { $_GET['id'] = (int) $_GET['id']; } echo $_GET['id'];", true)]
    [InlineData("if (!isset($_GET['id'])) { $_GET['id'] = 1; } echo $_GET['id'];", true)]
    [InlineData("if (empty($_GET['id'])) { $_GET['id'] = 'none'; } echo \"<b>{$_GET['id']}</b>\";", true)]
    [InlineData("function otherwise($n) { if (isset($_GET[$n])) { return; } $_GET[$n] = 1; } otherwise('id'); echo $_GET['id'];", true)]
    [InlineData("function otherwise($n) { if (!isset($_GET[$n])) { $_GET[$n] = 1; } } otherwise('id'); echo $_GET['id'];", true)]
    [InlineData("$_GET['id'] = trim($_GET['id']); echo $_GET['id'];", true)]
    [InlineData("$_POST['id'] = (int) $_POST['id']; echo $_GET['id'];", true)]
    [InlineData("foreach (['id'] as $k) { $_GET[$k] = (int) $_GET[$k]; } echo $_GET['page'];", true)]
    public void A_part_that_is_put_back(string code, bool isOpen) => Check(isOpen, ("page.php", "<?php " + code));

    [Theory]
    [InlineData("number_part('id'); echo part('id');", false)]
    [InlineData("echo number_part('id');", false)]
    [InlineData("function show() { number_part('id'); ?><a href=\"hive.php?id=<?= part('id') ?>\">hive</a><?php } switch (part('action')) { case 'show': show(); }", false)]
    [InlineData("number_part('id'); show(); function show() { inner(); } function inner() { echo part('id'); }", false)]
    [InlineData("number_parts(['id' => ['filter' => FILTER_VALIDATE_INT, 'default' => 1], 'page' => ['filter' => FILTER_VALIDATE_INT, 'default' => 1]]); echo part('page');", false)]
    [InlineData("foreach (['id', 'page'] as $n) { number_part($n); } echo part('page');", false)]
    [InlineData("function is_empty_part($n) { if (isset_part($n)) { $v = $_REQUEST[$n]; if (!empty($v)) { return false; } } return true; } if (!is_empty_part('id')) { number_part('id'); } echo part('id');", false)]
    [InlineData("function shown($n) { return htmlspecialchars(part($n)); } echo '<b>' . shown('name') . '</b>';", false)]
    [InlineData("echo part('id');", true)]
    [InlineData("number_part('page'); echo part('id');", true)]
    [InlineData("set_part('action', $_REQUEST['action']); number_part('id'); echo part('name');", true)]
    [InlineData("if ($x) { number_part('id'); show(); } else { show(); } function show() { echo part('id'); }", true)]
    [InlineData("function is_empty_part($n) { if (isset_part($n)) { $v = $_REQUEST[$n]; if (!empty($v)) { return false; } } return true; } if (is_empty_part('id')) { number_part('id'); } echo part('id');", true)]
    [InlineData("show(); number_part('id'); function show() { echo part('id'); }", true)]
    public void Functions_that_give_and_set_the_part_of_a_name(string code, bool isOpen) => Check(isOpen, ("lib.php", Accessors), ("page.php", "<?php include 'lib.php'; " + code));

    [Fact]
    public void What_is_asked_for_by_name_is_told_by_its_name()
    {
        var result = Auditor.Run(("lib.php", Accessors), ("page.php", "<?php include 'lib.php'; set_part('action', $_REQUEST['action']); echo part('hive');"));
        Assert.Contains("“hive” from the request's input", Assert.Single(result.Findings).Message, StringComparison.Ordinal);
        Assert.DoesNotContain("action", result.Findings[0].Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("<?php if (isset($_SERVER['HTTP_REFERER'])) { $_SERVER['HTTP_REFERER'] = htmlspecialchars($_SERVER['HTTP_REFERER'], ENT_QUOTES); }", false)]
    [InlineData("<?php function clean_all() { foreach ($_SERVER as $k => $v) { $_SERVER[$k] = htmlspecialchars($v, ENT_QUOTES); } } clean_all();", false)]
    [InlineData("<?php if (isset($_SERVER['HTTP_ACCEPT'])) { $_SERVER['HTTP_ACCEPT'] = htmlspecialchars($_SERVER['HTTP_ACCEPT'], ENT_QUOTES); }", true)]
    public void An_included_file_that_cleans_the_request(string first, bool isOpen) => Check(isOpen, ("first.php", first), ("page.php", "<?php require 'first.php'; echo '<b>from ' . $_SERVER['HTTP_REFERER'] . '</b>';"));

    [Theory]
    [InlineData("app.get('/a', (req, res) => { req.query.id = parseInt(req.query.id, 10); res.send('<p>' + req.query.id); });", false)]
    [InlineData("const num = (req, name) => { req.query[name] = parseInt(req.query[name], 10); }; app.get('/a', (req, res) => { num(req, 'id'); res.send('<p>' + req.query.id); });", false)]
    [InlineData("const num = (req, res, next) => { req.query.id = parseInt(req.query.id, 10); next(); }; app.get('/a', num, (req, res) => { res.send('<p>' + req.query.id); });", false)]
    [InlineData("app.use('/a', (req, res, next) => { req.query.id = parseInt(req.query.id, 10); next(); }); app.get('/a', (req, res) => { res.send('<p>' + req.query.id); });", false)]
    [InlineData("const num = (req, res, next) => { req.query.id = parseInt(req.query.id, 10); next(); }; app.get('/a', num, (req, res) => { res.send('<p>' + req.query.name); });", true)]
    [InlineData("const num = (req, res, next) => { req.query.id = parseInt(req.query.id, 10); next(); }; const show = (req, res) => { res.send('<p>' + req.query.id); }; app.get('/a', num, show); app.get('/b', show);", true)]
    [InlineData("app.use(async (req, res, next) => { req.query = await takenApart(req); next(); }); app.get('/a', (req, res) => { res.send('<p>' + req.query.id); });", true)]
    public void Middleware_and_helpers(string code, bool isOpen) => Check(isOpen, ("app.js", "const app = require('express')(); " + code));

    [Theory]
    [InlineData("params[:id] = params[:id].to_i", false)]
    [InlineData("params[:page] = params[:page].to_i", true)]
    public void Parameters_of_an_action(string line, bool isOpen) =>
        Check(isOpen, ("app/controllers/hives_controller.rb", $"class HivesController < ApplicationController\n  def show\n    {line}\n    render html: \"<p>#{{params[:id]}}\".html_safe\n  end\nend\n"));

    [Theory]
    [InlineData("file_get_contents(scheme() . '://' . $host . '/agent.php?id=' . $_GET['id'])", false)]
    [InlineData("file_get_contents('/srv/reports/' . $_GET['id'])", true)]
    public void What_stands_behind_a_scheme_is_no_file(string call, bool isOpen) =>
        Assert.Equal(isOpen, Auditor.Run(("page.php", $"<?php $text = {call};")).Findings.Any(f => f.CheckId == "injection/path"));

    [Theory]
    [InlineData("function post($n, $d = '') { return isset($_POST[$n]) ? $_POST[$n] : $d; } $p = post('password', 'none'); if ($p != 'none') { sign_in($p); }", false)]
    [InlineData("if ($_POST['password'] == 'hunter2') { $_SESSION['in'] = true; }", true)]
    public void What_stands_for_nothing_is_no_password(string code, bool isFixed) =>
        Assert.Equal(isFixed, Auditor.Run(("page.php", "<?php session_start(); " + code)).Findings.Any(f => f.CheckId == "passwords/hard-coded-credential"));

    private static void Check(bool isOpen, params (string, string)[] files) =>
        Assert.Equal(isOpen, Auditor.Run(files).Findings.Any(f => f.CheckId == "injection/page-output"));
}
