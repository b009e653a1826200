namespace Bellator.Core.Tests;

/// <summary>Addresses of further frameworks. The forms are those of their documentation, from memory.</summary>
public sealed class FurtherSurfaceTests
{
    [Fact]
    public void Koa_routers_with_a_prefix() => Expect(
        [
            "GET /hives/{id} needed view hives",
            "POST /sign-in notNeeded view keepers",
        ],
        ("app.js", """
            const Koa = require('koa');
            const Router = require('@koa/router');
            const { Pool } = require('pg');
            const pool = new Pool();
            const app = new Koa();
            const open = new Router();
            const hives = new Router({ prefix: '/hives' });
            const requireKeeper = async (ctx, next) => {
              if (!ctx.session.keeperId) { ctx.throw(401); }
              await next();
            };
            open.post('/sign-in', async (ctx) => { ctx.body = (await pool.query('SELECT * FROM keepers WHERE id = $1', [ctx.request.body.id])).rows; });
            hives.use(requireKeeper);
            hives.get('/:id', async (ctx) => { ctx.body = (await pool.query('SELECT * FROM hives WHERE id = $1', [ctx.params.id])).rows[0]; });
            app.use(open.routes());
            app.use(hives.routes());
            """));

    [Fact]
    public void Hapi_routes_as_objects() => Expect(
        [
            "GET /about notNeeded ",
            "PUT /hives/{id} needed edit hives",
        ],
        ("server.js", """
            const Hapi = require('@hapi/hapi');
            const { Pool } = require('pg');
            const pool = new Pool();
            const init = async () => {
              const server = Hapi.server({ port: 3000 });
              server.auth.strategy('session', 'cookie', {});
              server.route({ method: 'GET', path: '/about', options: { auth: false }, handler: (request, h) => 'a register of hives' });
              server.route({
                method: 'PUT',
                path: '/hives/{id}',
                options: { auth: 'session' },
                handler: async (request, h) => { await pool.query('UPDATE hives SET name = $1 WHERE id = $2', [request.payload.name, request.params.id]); return h.response().code(204); },
              });
            };
            init();
            """));

    [Fact]
    public void Nest_controllers_with_guards() => Expect(
        [
            "GET /hives notNeeded list hives",
            "DELETE /hives/{id} needed delete hives",
        ],
        ("hives.controller.ts", """
            import { Controller, Get, Delete, Param, UseGuards } from '@nestjs/common';
            import { AuthGuard } from '@nestjs/passport';
            import { Pool } from 'pg';
            const pool = new Pool();
            @Controller('hives')
            export class HivesController {
              @Get()
              async all() { return (await pool.query('SELECT id, name FROM hives')).rows; }

              @UseGuards(AuthGuard('jwt'))
              @Delete(':id')
              async remove(@Param('id') id: string) { await pool.query('DELETE FROM hives WHERE id = $1', [id]); }
            }
            """));

    [Fact]
    public void WordPress_routes_actions_and_their_callbacks() => Expect(
        [
            "POST /wp-admin/admin-ajax.php?action=add_hive needed create hives",
            "POST /wp-admin/admin-ajax.php?action=swarm notNeeded create swarms",
            "GET /wp-json/hives/v1/all notNeeded list hives",
        ],
        ("hives.php", """
            <?php
            function hives_all( $request ) { global $wpdb; return $wpdb->get_results( "SELECT id, name FROM hives" ); }
            function hives_add() { global $wpdb; $wpdb->query( $wpdb->prepare( "INSERT INTO hives (name) VALUES (%s)", $_POST['name'] ) ); }
            function hives_swarm() { global $wpdb; $wpdb->query( $wpdb->prepare( "INSERT INTO swarms (place) VALUES (%s)", $_POST['place'] ) ); }
            add_action( 'rest_api_init', function () {
                register_rest_route( 'hives/v1', '/all', array( 'methods' => 'GET', 'callback' => 'hives_all', 'permission_callback' => '__return_true' ) );
            } );
            add_action( 'wp_ajax_add_hive', 'hives_add' );
            add_action( 'wp_ajax_nopriv_swarm', 'hives_swarm' );
            """));

    [Fact]
    public void Yii_controllers_with_access_rules() => Expect(
        [
            "* /hive/index notNeeded list hive",
            "* /hive/remove needed delete hive",
        ],
        ("controllers/HiveController.php", """
            <?php
            namespace app\controllers;
            use Yii;
            use yii\web\Controller;
            use yii\filters\AccessControl;
            class HiveController extends Controller
            {
                public function behaviors()
                {
                    return ['access' => ['class' => AccessControl::class, 'only' => ['remove'], 'rules' => [['allow' => true, 'actions' => ['remove'], 'roles' => ['@']]]]];
                }
                public function actionIndex() { return $this->render('index', ['hives' => Yii::$app->db->createCommand('SELECT id, name FROM hive')->queryAll()]); }
                public function actionRemove($id) { Yii::$app->db->createCommand('DELETE FROM hive WHERE id = :id', [':id' => $id])->execute(); return $this->redirect(['index']); }
            }
            """));

    private static void Expect(string[] expected, params (string Path, string Text)[] files)
    {
        var surface = Auditor.Run(files).Surface;
        Assert.Equal(expected, surface.Entries.Select(e => $"{e.Method} {e.Path} {e.SignIn} {string.Join(", ", e.Accesses.Select(a => $"{a.Action} {a.Table}").Distinct())}"));
    }
}
