namespace Bellator.Core.Tests;

/// <summary>
/// Calls that end a request unless what they are given holds, and steps of which many handlers are given to one function. As the
/// documentation of Koa (ctx.assert, ctx.throw), Laravel (abort_if, abort_unless) and Sinatra (redirect) has it, from memory.
/// </summary>
public sealed class DemandTests
{
    [Theory]
    [InlineData("ctx.assert(ctx.session.keeperId, 401);", "needed")]
    [InlineData("ctx.assert(ctx.session.keeperId, 401, 'sign in');", "needed")]
    [InlineData("if (!ctx.session.keeperId) ctx.throw(401);", "needed")]
    [InlineData("if (!ctx.session.keeperId) { ctx.throw(401); }", "needed")]
    [InlineData("if (!ctx.session.keeperId) return ctx.throw(401);", "needed")]
    [InlineData("if (ctx.session.keeperId) ctx.throw(401);", "unclear")]
    [InlineData("console.assert(ctx.session.keeperId);", "notNeeded")]
    [InlineData("if (!ctx.state.badge) { ctx.status = 403; return; }", "unclear")]
    [InlineData("if (!ctx.state.badge) { ctx.log.info('none'); }", "notNeeded")]
    public void A_step_of_Koa(string test, string expected) => Assert.Equal(expected, SignIn("app.js", $$"""
        const Koa = require('koa');
        const Router = require('@koa/router');
        const app = new Koa();
        const router = new Router();
        async function guard(ctx, next) {
          {{test}}
          await next();
        }
        router.get('/hives', guard, async (ctx) => { ctx.body = 'x'; });
        app.use(router.routes());
        """, "/hives"));

    [Theory]
    [InlineData("abort_unless($hive->keeper_id === $request->user()->id, 403);", false)]
    [InlineData("abort_if($hive->keeper_id !== $request->user()->id, 403);", false)]
    [InlineData("throw_if($hive->keeper_id !== $request->user()->id, new \\Exception());", false)]
    [InlineData("abort_unless($hive !== null, 404);", true)]
    public void A_demand_of_Laravel(string test, bool isOpen)
    {
        var result = Auditor.Run(
            ("app/Models/Hive.php", "<?php\nnamespace App\\Models;\nuse Illuminate\\Database\\Eloquent\\Model;\nclass Hive extends Model { protected $fillable = ['name']; }\n"),
            ("app/Models/User.php", "<?php\nnamespace App\\Models;\nuse Illuminate\\Foundation\\Auth\\User as Authenticatable;\nclass User extends Authenticatable { public function hives() { return $this->hasMany(Hive::class); } }\n"),
            ("routes/web.php", "<?php\nuse Illuminate\\Support\\Facades\\Route;\nuse App\\Http\\Controllers\\HiveController;\nRoute::get('/hives/{id}', [HiveController::class, 'show'])->middleware('auth');\nRoute::get('/hives', [HiveController::class, 'index'])->middleware('auth');\n"),
            ("app/Http/Controllers/HiveController.php", $$"""
                <?php
                namespace App\Http\Controllers;
                use App\Models\Hive;
                use Illuminate\Http\Request;
                class HiveController extends Controller
                {
                    public function index(Request $request)
                    {
                        return Hive::where('keeper_id', $request->user()->id)->get();
                    }

                    public function show(Request $request, $id)
                    {
                        $hive = Hive::find($id);
                        {{test}}
                        return view('hive', ['hive' => $hive]);
                    }
                }
                """));
        Assert.Equal(isOpen, result.Findings.Any(f => f.CheckId == "records/no-owner-condition"));
    }

    [Theory]
    [InlineData("redirect '/sign-in' unless session[:keeper_id]", "needed")]
    [InlineData("halt 401 unless session[:keeper_id]", "needed")]
    [InlineData("logger.info 'none' unless session[:keeper_id]", "notNeeded")]
    public void A_route_of_Sinatra(string test, string expected) => Assert.Equal(expected, SignIn("app.rb", $$"""
        require 'sinatra'
        enable :sessions
        get '/hives' do
          {{test}}
          'x'
        end
        """, "/hives"));

    /// <summary>Each handler goes through one function; the guard does too.</summary>
    [Theory]
    [InlineData("Promise.resolve(fn(req, res, next)).catch(next)")]
    [InlineData("fn(req, res, next).catch(next)")]
    [InlineData("{ try { return await fn(req, res, next); } catch (e) { next(e); } }")]
    public void What_one_caller_hands_in_does_not_guard_the_way_of_another(string body)
    {
        var code = $$"""
            const express = require('express');
            const jwt = require('jsonwebtoken');
            const app = express();
            const caught = (fn) => async (req, res, next) => {{body}};
            const protect = caught(async (req, res, next) => {
              if (!req.headers.authorization) return res.status(401).end();
              req.keeper = jwt.verify(req.headers.authorization, process.env.KEY, { algorithms: ['HS256'] });
              next();
            });
            app.get('/open', caught(async (req, res) => { res.json({}); }));
            app.get('/closed', protect, caught(async (req, res) => { res.json({}); }));
            """;
        Assert.Equal("notNeeded", SignIn("app.js", code, "/open"));
        Assert.Equal("needed", SignIn("app.js", code, "/closed"));
    }

    private static string SignIn(string path, string code, string address) =>
        Assert.Single(Auditor.Run((path, code)).Surface.Entries, e => e.Path == address).SignIn;
}
