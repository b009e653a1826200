using Bellator.Audit.Auditing;

namespace Bellator.Core.Tests;

/// <summary>Functions that answer whether somebody may come in, and what stands on most ways. Forms from the frameworks' documentation, from memory.</summary>
public sealed class GuardAnswerTests
{
    /// <summary>WordPress asks a function whether a REST address may be used: true lets in; an error, false and nothing do not.</summary>
    [Theory]
    [InlineData("return current_user_can('edit_posts');", "needed")]
    [InlineData("if (!current_user_can('edit_posts')) { return new WP_Error('no', 'No.'); } return true;", "needed")]
    [InlineData("if (current_user_can('edit_posts')) { return true; } return new WP_Error('no', 'No.');", "needed")]
    [InlineData("if (current_user_can('edit_posts')) { return true; } return false;", "needed")]
    [InlineData("foreach (types() as $type) { if (current_user_can($type->cap)) { return true; } } return new WP_Error('no', 'No.');", "needed")]
    [InlineData("$post = get_post($request['id']); if (is_wp_error($post)) { return $post; } return current_user_can('edit_post', $post->ID);", "needed")]
    [InlineData("$post = get_post($request['id']); if (is_wp_error($post)) { return $post; } if ($post && !$this->may_edit($post)) { return new WP_Error('no', 'No.'); } return true;", "needed")]
    [InlineData("if (!empty($request['roles'])) { if (!current_user_can('promote_users')) { return new WP_Error('no', 'No.'); } return true; } if (!current_user_can('edit_users')) { return new WP_Error('no', 'No.'); } return true;", "needed")]
    [InlineData("return $this->may_edit($request['id']);", "needed")]
    [InlineData("return is_user_logged_in();", "needed")]
    [InlineData("if ('edit' === $request['context'] && !current_user_can('edit_posts')) { return new WP_Error('no', 'No.'); } return true;", "unclear")]
    [InlineData("if (current_user_can('edit_posts')) { log_it(); } return true;", "unclear")]
    [InlineData("if (!open_today()) { return new WP_Error('no', 'No.'); } return true;", "unclear")]
    [InlineData("return true;", "notNeeded")]
    public void A_permission_callback(string body, string expected)
    {
        var result = Auditor.Run(("plugin.php", $$"""
            <?php
            class Hive_Controller {
                public function register_routes() {
                    register_rest_route('fernhollow/v1', '/hives', array(
                        'methods' => 'GET',
                        'callback' => array($this, 'get_items'),
                        'permission_callback' => array($this, 'check'),
                    ));
                }
                public function check($request) { {{body}} }
                public function may_edit($post) { return current_user_can('edit_post', $post); }
                public function get_items($request) { return array(); }
            }
            """));
        Assert.Equal(expected, Assert.Single(result.Surface.Entries, e => e.Path.StartsWith("/wp-json", StringComparison.Ordinal)).SignIn);
    }

    [Theory]
    [InlineData("const wrap = require('express-async-handler');", "wrap(async (req, res) => { res.json((await pool.query('SELECT * FROM hives')).rows); })")]
    [InlineData("const { guard } = require('@fernhollow/kit');", "guard.caught(async (req, res) => { res.json((await pool.query('SELECT * FROM hives')).rows); })")]
    [InlineData("const caught = fn => (req, res, next) => Promise.resolve(fn(req, res, next)).catch(next);", "caught(async (req, res) => { res.json((await pool.query('SELECT * FROM hives')).rows); })")]
    [InlineData("const hives = { list: async (req, res) => { res.json((await pool.query('SELECT * FROM hives')).rows); } }; const kit = require('kit');", "kit.caught(hives.list)")]
    public void Handlers_in_wrappers_are_handlers(string before, string handler)
    {
        var result = Auditor.Run(("app.js", $$"""
            const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool();
            {{before}}
            app.get('/hives', {{handler}});
            """));
        Assert.Equal(["GET /hives list hives"], Lines(result));
    }

    [Fact]
    public void FastRoute_finds_the_handler_and_does_not_say_what_is_asked_before()
    {
        var result = Auditor.Run(
            ("routes.php", """
            <?php
            use FastRoute\RouteCollector;
            return static function (RouteCollector $routes): void {
                $routes->get('/hives', HiveController::class);
                $routes->addGroup('/keepers', static function (RouteCollector $routes): void {
                    $routes->addRoute(['GET', 'POST'], '/{id}', KeeperController::class);
                });
            };
            """),
            ("controllers.php", """
            <?php
            class HiveController { public function __invoke() { $this->db->query('SELECT * FROM hives'); } private PDO $db; }
            class KeeperController { public function __invoke() { $this->db->query('SELECT * FROM keepers'); } private PDO $db; }
            """));
        Assert.Equal(["GET /hives list hives", "GET /keepers/{id} list keepers", "POST /keepers/{id} list keepers"], Lines(result));
        Assert.All(result.Surface.Entries, e => Assert.Equal("unclear", e.SignIn));
    }

    /// <summary>Who is there is found out at every address: that says nothing of any one of them.</summary>
    [Fact]
    public void What_most_addresses_do_is_said_once()
    {
        var routes = string.Join("\n", Enumerable.Range(1, 16).Select(i => $"app.get('/page{i}', async (req, res) => {{ const who = await whoIsThere(req); res.json((await pool.query('SELECT * FROM records{i} WHERE keeper = $1', [who.id])).rows); }});"));
        var surface = Auditor.Run(("app.js", $$"""
            const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool();
            async function whoIsThere(req) {
              const found = await pool.query('SELECT id FROM keepers WHERE session = $1', [req.cookies.sid]);
              await pool.query('UPDATE visits SET seen = now() WHERE session = $1', [req.cookies.sid]);
              return found.rows[0];
            }
            {{routes}}
            """)).Surface;
        Assert.All(surface.Entries, e => Assert.Equal(["list records" + e.Path["/page".Length..]], e.Accesses.Select(a => $"{a.Action} {a.Table}").Distinct()));
        Assert.Equal("keepers (list), visits (edit)", surface.OnMostWays);
    }

    [Fact]
    public void In_a_small_application_nothing_is_common()
    {
        var surface = Auditor.Run(("app.js", """
            const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool();
            async function whoIsThere(req) { return (await pool.query('SELECT id FROM keepers WHERE session = $1', [req.cookies.sid])).rows[0]; }
            app.get('/a', async (req, res) => { res.json(await whoIsThere(req)); });
            app.get('/b', async (req, res) => { res.json(await whoIsThere(req)); });
            """)).Surface;
        Assert.All(surface.Entries, e => Assert.Equal(["list keepers"], e.Accesses.Select(a => $"{a.Action} {a.Table}")));
        Assert.Equal("", surface.OnMostWays);
    }

    private static List<string> Lines(AuditResult result) => [.. result.Surface.Entries.Select(e => $"{e.Method} {e.Path} {string.Join(", ", e.Accesses.Select(a => $"{a.Action} {a.Table}"))}")];
}
