namespace Bellator.Core.Tests;

/// <summary>
/// Programs that have a router of their own, or tell who is there in files and functions of their own. What counts as refusing is
/// common practice: there is no published source for how people write their own frameworks.
/// </summary>
public sealed class OwnRouterTests
{
    private const string Router = """
        class Router {
          constructor() { this.routes = []; }
          get(path, ...steps) { this.add('GET', path, steps); }
          add(method, path, steps) { this.routes.push({ method, path, steps }); }
          async handle(ctx) {
            for (const route of this.routes) {
              if (route.method === ctx.method && route.path === ctx.path) for (const step of route.steps) if (!ctx.done) await step(ctx);
            }
          }
        }
        """;

    [Theory]
    [InlineData("if (!ctx.member) ctx.redirect('/login');", "needed")]
    [InlineData("if (!ctx.member) return false;", "needed")]
    [InlineData("if (!ctx.member) { ctx.status = 401; ctx.done = true; }", "needed")]
    [InlineData("if (!ctx.badge) ctx.redirect('/login');", "unclear")]
    [InlineData("if (!ctx.member) console.log('nobody');", "notNeeded")]
    public void A_step_that_answers_refuses(string test, string expected) => Assert.Equal(expected, SignIn(
        ("schema.sql", "CREATE TABLE members (id int PRIMARY KEY, email varchar(200), password_hash varchar(255));\n"),
        ("app.js", $$"""
            const http = require('node:http');
            {{Router}}
            const app = new Router();
            async function step(ctx) { {{test}} }
            app.get('/hives', step, async (ctx) => ctx.res.end(ctx.req.headers['x-hive']));
            http.createServer((req, res) => app.handle({ req, res, method: req.method, path: req.url })).listen(80);
            """)));

    [Theory]
    [InlineData("this.list.push(handler)", "for (const h of this.list) h(ctx)")]
    [InlineData("this.list.push({ path, handler })", "for (const r of this.list) r.handler(ctx)")]
    [InlineData("this.list[path] = handler", "this.list[ctx.path](ctx)")]
    [InlineData("this.map.set(path, handler)", "this.map.get(ctx.path)(ctx)")]
    public void A_handler_that_was_kept_gets_the_request(string keep, string run)
    {
        var result = Auditor.Run(("app.js", $$"""
            const http = require('node:http');
            const { Pool } = require('pg');
            const db = new Pool();
            class App {
              constructor() { this.list = []; this.map = new Map(); }
              get(path, handler) { {{keep}}; }
              handle(ctx) { {{run}}; }
            }
            const app = new App();
            app.get('/hives', (ctx) => db.query('SELECT id FROM hives WHERE name = ' + ctx.query.get('name')));
            http.createServer((req, res) => app.handle({ path: req.url, query: new URL(req.url, 'http://localhost').searchParams })).listen(80);
            """));
        Assert.Contains(result.Findings, f => f.Check.Id == "injection/sql");
    }

    [Theory]
    [InlineData("return current_member() ?? go('/login');", "needed")]
    [InlineData("return current_member() ?: go('/login');", "needed")]
    [InlineData("return current_member() ?? throw new NotSignedIn();", "needed")]
    [InlineData("$m = current_member(); $m ??= go('/login'); return $m;", "needed")]
    [InlineData("return current_member() ?? [];", "notNeeded")]
    public void What_stands_behind_two_question_marks_may_refuse(string body, string expected) => Assert.Equal(expected, SignIn(
        ("helpers.php", $$"""
            <?php
            function go(string $path): never { header('Location: ' . $path); exit; }
            function current_member(): ?array
            {
                if (!isset($_SESSION['member_id'])) {
                    return null;
                }
                return find('SELECT id, email FROM members WHERE id = ?', [$_SESSION['member_id']]);
            }
            function member(): ?array { {{body}} }
            function find($sql, $values) { $s = $GLOBALS['db']->prepare($sql); $s->execute($values); return $s->fetch() ?: null; }
            """),
        ("hives.php", "<?php\nrequire 'helpers.php';\n$me = member();\necho json_encode(find('SELECT * FROM hives WHERE id = ?', [$_GET['id']]));\n")));

    [Theory]
    [InlineData("[Guards::class, 'member']")]
    [InlineData("Guards::member(...)")]
    [InlineData("member(...)")]
    [InlineData("'member'")]
    public void A_group_of_routes_has_steps_and_a_prefix(string step)
    {
        var result = Auditor.Run(
            ("app.php", $$"""
                <?php
                class App
                {
                    private array $routes = [];
                    private array $steps = [];
                    public function get(string $path, array $action): void { $this->routes["GET $path"] = [$this->steps, $action]; }
                    public function under(string $prefix, array $steps, callable $define): void { $this->steps = $steps; $define($this); }
                    public function run(string $path): void
                    {
                        [$steps, [$class, $method]] = $this->routes["GET $path"];
                        foreach ($steps as $step) { $step(); }
                        (new $class())->$method();
                    }
                }
                function member(): void { if (!isset($_SESSION['member_id'])) { header('Location: /login'); exit; } }
                class Guards { public static function member(): void { if (!isset($_SESSION['member_id'])) { header('Location: /login'); exit; } } }
                class Hives { public function index(): void { echo 'all'; } public function open(): void { echo 'open'; } }
                $app = new App();
                $app->get('/open', [Hives::class, 'open']);
                $app->under('/hives', [{{step}}], static function (App $app): void {
                    $app->get('/mine', [Hives::class, 'index']);
                });
                $app->run(strtok($_SERVER['REQUEST_URI'], '?'));
                """));
        Assert.Equal(["/hives/mine needed", "/open notNeeded"], result.Surface.Entries.Where(e => !e.Path.EndsWith(".php", StringComparison.Ordinal)).Select(e => $"{e.Path} {e.SignIn}").Order());
    }

    [Fact]
    public void A_router_in_the_browser_has_no_addresses_of_the_server()
    {
        var result = Auditor.Run(("public/app.js", $$"""
            {{Router}}
            const app = new Router();
            app.get('/hives', (ctx) => { ctx.root.textContent = 'hives'; });
            app.get('/about', (ctx) => { ctx.root.textContent = 'about'; });
            addEventListener('hashchange', () => app.handle({ method: 'GET', path: location.hash.slice(1), root: document.body }));
            """));
        Assert.Empty(result.Surface.Entries);
    }

    [Fact]
    public void What_many_pages_include_is_no_doing_of_one_of_them()
    {
        var pages = Enumerable.Range(1, 6).Select(i => ($"page{i}.php", "<?php\nrequire 'start.php';\necho 'page';\n"));
        var result = Auditor.Run([
            ("start.php", "<?php\nsession_start();\n$db = new PDO('x');\n$visits = $db->prepare('UPDATE visits SET seen_at = NOW() WHERE id = ?');\n$visits->execute([$_SESSION['visit']]);\n"),
            ("hives.php", "<?php\nrequire 'start.php';\necho json_encode($db->query('SELECT id FROM hives')->fetchAll());\n"), .. pages]);
        Assert.Equal(["hives"], result.Surface.Entries.Single(e => e.Path == "/hives.php").Accesses.Select(a => a.Table));
        Assert.Contains(result.Surface.Everywhere!, a => a.Table == "visits");
    }

    [Theory]
    [InlineData("@app.route('/hives')\n@member", "needed")]
    [InlineData("@member\n@app.route('/hives')", "notNeeded")]
    public void A_decorator_above_the_route_wraps_what_nobody_calls(string marks, string expected) => Assert.Equal(expected, SignIn(("app.py", $"""
        from functools import wraps
        from flask import Flask, redirect, session
        app = Flask(__name__)

        def member(view):
            @wraps(view)
            def inner(*args, **kwargs):
                if "member_id" not in session:
                    return redirect("/login")
                return view(*args, **kwargs)
            return inner

        {marks}
        def hives():
            return "x"
        """)));

    /// <summary>PEP 249, paramstyle: format and pyformat.</summary>
    [Theory]
    [InlineData("keeper_id = %s", "(session['keeper_id'],)", "own")]
    [InlineData("keeper_id = %(who)s", "{'who': session['keeper_id']}", "own")]
    [InlineData("id = %s AND keeper_id = %s", "(request.args['id'], session['keeper_id'])", "own")]
    [InlineData("id = %s", "(request.args['id'],)", "chosen")]
    [InlineData("keeper_id = %s", "(found_elsewhere(),)", "unclear")]
    public void Values_are_bound_at_percent_signs(string condition, string values, string rows)
    {
        var result = Auditor.Run(
            ("schema.sql", "CREATE TABLE hives (id int PRIMARY KEY, name text, keeper_id int NOT NULL);\n"),
            ("app.py", $"""
                import psycopg2
                from flask import Flask, request, session
                app = Flask(__name__)

                @app.route("/hives")
                def hives():
                    cursor = psycopg2.connect("").cursor()
                    cursor.execute("SELECT name FROM hives WHERE {condition}", {values})
                    return str(cursor.fetchall())
                """));
        Assert.Equal(rows, result.Records.Uses.Single(u => u.Table == "hives").Rows);
    }

    [Theory]
    [InlineData("{k: v for k, v in request.args.items()}", "[\"name\"]")]
    [InlineData("{k: v.strip() for k, v in request.form.items()}", "[\"name\"]")]
    [InlineData("{k: request.args[k] for k in request.args}", "[\"name\"]")]
    [InlineData("[v for k, v in request.args.items()]", "[0]")]
    public void Parts_of_a_request_in_a_dictionary_of_the_program(string made, string read)
    {
        var result = Auditor.Run(("app.py", $"""
            import sqlite3
            from flask import Flask, request
            app = Flask(__name__)

            @app.route("/hives")
            def hives():
                sent = {made}
                return str(sqlite3.connect("x").execute("SELECT id FROM hives WHERE name = '" + sent{read} + "'").fetchall())
            """));
        Assert.Contains(result.Findings, f => f.Check.Id == "injection/sql");
    }

    private static string SignIn(params (string, string)[] files) =>
        Auditor.Run(files).Surface.Entries.Single(e => e.Path.Contains("hives", StringComparison.Ordinal)).SignIn;
}
