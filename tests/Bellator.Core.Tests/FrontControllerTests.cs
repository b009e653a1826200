namespace Bellator.Core.Tests;

/// <summary>
/// Routers that applications wrote themselves: a table of addresses, and code that looks one up, asks what it asks and calls what it found. What
/// is asked on the way is expected for each address by itself. Common practice, no published list; PEP 3333 and the Rack specification name
/// what their servers hand over.
/// </summary>
public sealed class FrontControllerTests
{
    [Fact]
    public void Php_rows_with_patterns() => Assert.Equal(
        ["GET /hives/{1} needed", "GET /swarms notNeeded", "POST /hives/{1} needed"],
        Lines(("index.php", AIndexPhp), ("lib.php", ALibPhp)));

    [Fact]
    public void Php_pages_by_parameter() => Assert.Equal(
        ["GET /index.php?page=hive needed", "GET /index.php?page=login notNeeded", "GET /index.php?page=swarms notNeeded", "POST /index.php?page=hive-save needed"],
        Lines(("index.php", EIndexPhp)));

    [Fact]
    public void Node_by_path_and_method() => Assert.Equal(
        ["DELETE /hives unclear", "GET /hives unclear", "GET /swarms notNeeded"],
        Lines(("app.js", BAppJs), ("session.js", BSessionJs)));

    [Fact]
    public void Wsgi() => Assert.Equal(
        ["* /hives unclear", "* /hives/delete unclear", "* /swarms notNeeded"],
        Lines(("app.py", CAppPy)));

    [Fact]
    public void Rack() => Assert.Equal(
        ["* /hives unclear", "* /hives/delete unclear", "* /swarms notNeeded"],
        Lines(("app.rb", DAppRb)));

    /// <summary>A prefix among the open ones opens what begins like it; a level that most rows have is that of everybody who is signed in.</summary>
    [Fact]
    public void Php_rows_with_levels() => Assert.Equal(
        ["GET /hives needed", "GET /swarms notNeeded", "POST /hives/move needed", "POST /inspect needed role", "POST /swarms/delete notNeeded"],
        Auditor.Run(("index.php", LevelsIndex), ("routes.php", LevelsRoutes), ("pages/hives.php", LevelsHives))
            .Surface.Entries.Select(e => $"{e.Method} {e.Path} {e.SignIn}{(e.Guards.Any(g => g.Asks == "role") ? " role" : "")}").Order(StringComparer.Ordinal));

    private const string LevelsIndex = """
        <?php
        session_start();
        function require_level(int $level): void {
            if (!isset($_SESSION['keeper_id'])) { header('Location: /sign-in'); exit; }
            if ($_SESSION['level'] < $level) { http_response_code(403); exit; }
        }
        $path = parse_url($_SERVER['REQUEST_URI'], PHP_URL_PATH);
        $routes = require __DIR__ . '/routes.php';
        if (!isset($routes[$path])) { http_response_code(404); exit; }
        [$file, $handler, $level] = $routes[$path];
        foreach (['/swarms', '/sign-in'] as $prefix) {
            if (str_starts_with($path, $prefix)) { $level = 0; }
        }
        if ($level > 0) { require_level($level); }
        require __DIR__ . "/pages/{$file}.php";
        try { $handler(); } catch (RuntimeException) { http_response_code(404); }
        """;

    private const string LevelsRoutes = """
        <?php
        return [
            '/swarms' => ['hives', 'swarms', 0],
            '/swarms/delete' => ['hives', 'delete_swarm', 3],
            '/hives' => ['hives', 'hives', 1],
            '/hives/move' => ['hives', 'move', 1],
            '/inspect' => ['hives', 'inspect', 5],
        ];
        """;

    private const string LevelsHives = """
        <?php
        function swarms() { echo 'swarms'; }
        function delete_swarm() { echo htmlspecialchars($_POST['id']); }
        function hives() { echo 'hives'; }
        function move() { echo htmlspecialchars($_POST['id']); }
        function inspect() { echo htmlspecialchars($_POST['id']); }
        """;

    private static IEnumerable<string> Lines(params (string Path, string Code)[] files) =>
        Auditor.Run(files).Surface.Entries.Select(e => $"{e.Method} {e.Path} {e.SignIn}").Order(StringComparer.Ordinal);

    private const string AIndexPhp = """
        <?php
        require 'lib.php';
        $routes = [
            ['GET', '#^/hives/(\d+)$#', 'HiveController@show', true],
            ['POST', '#^/hives/(\d+)$#', 'HiveController@update', true],
            ['GET', '#^/swarms$#', 'SwarmController@index', false],
        ];
        foreach ($routes as [$method, $pattern, $target, $private]) {
            if ($_SERVER['REQUEST_METHOD'] === $method && preg_match($pattern, $_SERVER['PATH_INFO'], $found)) {
                if ($private) { need_keeper(); }
                [$class, $action] = explode('@', $target);
                $controller = new $class($db);
                $controller->$action((int) $found[1]);
                exit;
            }
        }
        http_response_code(404);
        """;

    private const string ALibPhp = """
        <?php
        session_start();
        $db = new PDO('pgsql:dbname=r');
        function need_keeper() { if (empty($_SESSION['keeper_id'])) { header('Location: /sign-in'); exit; } }
        class HiveController { public function __construct(private PDO $db) {}
          public function show(int $id) { $s = $this->db->prepare('SELECT * FROM hives WHERE id = ? AND keeper_id = ?'); $s->execute([$id, $_SESSION['keeper_id']]); echo json_encode($s->fetch()); }
          public function update(int $id) { $s = $this->db->prepare('UPDATE hives SET name = ? WHERE id = ?'); $s->execute([$_POST['name'], $id]); } }
        class SwarmController { public function __construct(private PDO $db) {} public function index() { echo json_encode($this->db->query('SELECT place FROM swarms')->fetchAll()); } }
        """;

    private const string EIndexPhp = """
        <?php
        session_start();
        $pdo = new PDO('pgsql:dbname=r');
        $public = ['login', 'swarms'];
        $pages = ['login' => 'show_login', 'swarms' => 'show_swarms', 'hive' => 'show_hive', 'hive-save' => 'save_hive'];
        $page = $_GET['page'] ?? 'swarms';
        if (!array_key_exists($page, $pages)) { http_response_code(404); exit; }
        if (!in_array($page, $public) && !isset($_SESSION['keeper'])) { header('Location: ?page=login'); exit; }
        call_user_func($pages[$page]);
        function show_login() { echo '<form>'; }
        function show_swarms() { global $pdo; foreach ($pdo->query('SELECT place FROM swarms') as $s) { echo htmlspecialchars($s['place']); } }
        function show_hive() { global $pdo; $s = $pdo->prepare('SELECT * FROM hives WHERE id = ? AND keeper_id = ?'); $s->execute([$_GET['id'], $_SESSION['keeper']]); echo htmlspecialchars($s->fetch()['name']); }
        function save_hive() { global $pdo; $s = $pdo->prepare('UPDATE hives SET name = ? WHERE id = ?'); $s->execute([$_POST['name'], $_POST['id']]); }
        """;

    private const string BAppJs = """
        const http = require('http'); const { Pool } = require('pg'); const pool = new Pool(); const { sessionOf } = require('./session');
        async function listSwarms(req, res) { const { rows } = await pool.query('SELECT place FROM swarms'); res.end(JSON.stringify(rows)); }
        async function listHives(req, res) { const { rows } = await pool.query('SELECT * FROM hives WHERE keeper_id = $1', [req.person.id]); res.end(JSON.stringify(rows)); }
        async function deleteHive(req, res) { await pool.query('DELETE FROM hives WHERE id = $1', [req.query.id]); res.end(); }
        const OPEN = ['/swarms', '/sign-in'];
        const routes = { '/swarms': { GET: listSwarms }, '/hives': { GET: listHives, DELETE: deleteHive } };
        http.createServer(async (req, res) => {
          const { pathname, searchParams } = new URL(req.url, 'http://localhost');
          req.query = Object.fromEntries(searchParams);
          const entry = routes[pathname];
          if (!entry || !entry[req.method]) { res.statusCode = 404; return res.end(); }
          if (!OPEN.includes(pathname)) {
            req.person = await sessionOf(req.headers.cookie);
            if (!req.person) { res.statusCode = 401; return res.end(); }
          }
          await entry[req.method](req, res);
        }).listen(8080);
        """;

    private const string BSessionJs = """
        const { Pool } = require('pg'); const pool = new Pool();
        exports.sessionOf = async (cookie) => { const { rows } = await pool.query('SELECT keeper_id AS id FROM sessions WHERE token = $1', [cookie]); return rows[0]; };
        """;

    private const string CAppPy = """
        import json, psycopg2
        from urllib.parse import parse_qs
        db = psycopg2.connect("dbname=r")
        def swarms(request):
            cur = db.cursor(); cur.execute("SELECT place FROM swarms"); return cur.fetchall()
        def hives(request):
            cur = db.cursor(); cur.execute("SELECT * FROM hives WHERE keeper_id = %s", (request.person["id"],)); return cur.fetchall()
        def delete_hive(request):
            cur = db.cursor(); cur.execute("DELETE FROM hives WHERE id = %s", (request.form["id"][0],)); return []
        ROUTES = {
            "/swarms": (swarms, False),
            "/hives": (hives, True),
            "/hives/delete": (delete_hive, True),
        }
        class Request:
            def __init__(self, environ):
                self.form = parse_qs(environ["wsgi.input"].read().decode())
                self.person = None
        def application(environ, start_response):
            found = ROUTES.get(environ["PATH_INFO"])
            if found is None:
                start_response("404 Not Found", []); return [b""]
            view, private = found
            request = Request(environ)
            if private:
                request.person = person_of(environ.get("HTTP_COOKIE"))
                if request.person is None:
                    start_response("401 Unauthorized", []); return [b""]
            start_response("200 OK", []); return [json.dumps(view(request)).encode()]
        def person_of(cookie):
            cur = db.cursor(); cur.execute("SELECT keeper_id AS id FROM sessions WHERE token = %s", (cookie,)); return cur.fetchone()
        """;

    private const string DAppRb = """
        require 'rack'; require 'sequel'
        DB = Sequel.connect('postgres://r')
        class App
          ROUTES = { '/swarms' => [:swarms, false], '/hives' => [:hives, true], '/hives/delete' => [:delete_hive, true] }.freeze
          def call(env)
            req = Rack::Request.new(env)
            action, private_page = ROUTES[req.path_info]
            return [404, {}, ['']] unless action
            if private_page
              return [302, { 'location' => '/sign-in' }, []] unless req.session['keeper_id']
            end
            [200, {}, [send(action, req).to_s]]
          end
          def swarms(req) = DB[:swarms].all
          def hives(req) = DB[:hives].where(keeper_id: req.session['keeper_id']).all
          def delete_hive(req) = DB[:hives].where(id: req.params['id']).delete
        end
        """;
}
