using System.Text.Json.Nodes;
using Bellator.Audit.Auditing;
using Bellator.Audit.Reports;

namespace Bellator.Core.Tests;

/// <summary>Addresses in the ways that frameworks declare them. The forms are those of their documentation, from memory.</summary>
public sealed class SurfaceTests
{
    [Fact]
    public void Routers_below_routers_with_steps_on_the_way()
    {
        var surface = Of(
            ("server.js", """
                const express = require('express');
                const hives = require('./routes/hives');
                const app = express();
                app.use(express.json());
                app.use('/api/hives', hives);
                app.get('/about', (req, res) => res.send('a register of hives'));
                """),
            ("routes/hives.js", """
                const express = require('express');
                const { Pool } = require('pg');
                const pool = new Pool();
                const router = express.Router();
                function requireKeeper(req, res, next) {
                  if (!req.session.keeperId) { return res.status(401).json({ error: 'sign in' }); }
                  return next();
                }
                function requireInspector(req, res, next) {
                  if (req.session.role !== 'inspector') { return res.sendStatus(403); }
                  next();
                }
                router.get('/open', async (req, res) => res.json((await pool.query('SELECT id, name FROM hives')).rows));
                router.use(requireKeeper);
                router.get('/:id', async (req, res) => res.json((await pool.query('SELECT * FROM hives WHERE id = $1', [req.params.id])).rows[0]));
                router.route('/:id/notes').post(async (req, res) => { await pool.query('INSERT INTO notes (hive_id, text) VALUES ($1, $2)', [req.params.id, req.body.text]); res.redirect('/'); });
                router.delete('/:id', requireInspector, async (req, res) => { await pool.query('DELETE FROM hives WHERE id = $1', [req.params.id]); res.end(); });
                module.exports = router;
                """));
        Assert.Equal(
            [
                "GET /about notNeeded ",
                "GET /api/hives/open notNeeded list hives",
                "DELETE /api/hives/{id} needed delete hives",
                "GET /api/hives/{id} needed view hives",
                "POST /api/hives/{id}/notes needed create notes",
            ],
            Lines(surface));
        Assert.Equal(["requireKeeper:signIn", "requireInspector:role"], Find(surface, "DELETE /api/hives/{id}").Guards.Select(g => $"{g.Name}:{g.Asks}"));
        var notes = Find(surface, "POST /api/hives/{id}/notes");
        Assert.Equal(["body text", "path id"], notes.Inputs.Select(SurfaceReport.Input));
        Assert.Equal(["redirect to /"], notes.Answers);
        Assert.Equal(["hive_id", "text"], Assert.Single(notes.Accesses).Columns);
    }

    [Fact]
    public void Limits_and_loaders_are_no_sign_in()
    {
        var surface = Of(("server.js", """
            const express = require('express');
            const rateLimit = require('express-rate-limit');
            const app = express();
            const few = rateLimit({ windowMs: 60000, limit: 5 });
            function loadKeeper(req, res, next) {
              if (req.session.keeperId) { req.keeper = find(req.session.keeperId); }
              next();
            }
            function home(req, res) { if (req.session.keeperId) { return res.redirect('/hives'); } res.send('welcome'); }
            app.use(loadKeeper);
            app.post('/sign-in', few, (req, res) => res.send('x'));
            app.get('/', home);
            """));
        Assert.Equal(["GET / notNeeded ", "POST /sign-in notNeeded "], Lines(surface));
        Assert.Contains(Find(surface, "POST /sign-in").Guards, g => g.Asks == "throttle");
    }

    [Fact]
    public void Controllers_by_mark_and_by_convention()
    {
        var surface = Of(("Controllers.cs", """
            using Microsoft.AspNetCore.Authorization;
            using Microsoft.AspNetCore.Mvc;
            using Microsoft.EntityFrameworkCore;
            namespace Register;
            public class Hive { public int Id { get; set; } [MaxLength(80)] public string Name { get; set; } public int KeeperId { get; set; } }
            public class RegisterContext : DbContext { public DbSet<Hive> Hives { get; set; } }
            [ApiController, Route("api/[controller]"), Authorize]
            public class HivesController(RegisterContext db) : ControllerBase
            {
                [HttpGet("{id:int}")] public async Task<IActionResult> Get(int id) => Ok(await db.Hives.FindAsync(id));
                [HttpGet("open"), AllowAnonymous] public IActionResult Open() => Ok(db.Hives.ToList());
                [HttpPost, Authorize(Roles = "keeper")] public IActionResult Add(Hive hive) { db.Hives.Add(hive); return Ok(); }
            }
            public class PagesController : Controller { public IActionResult About() => View(); }
            """));
        Assert.Equal(
            ["* /Pages/About notNeeded ", "POST /api/Hives needed create Hive", "GET /api/Hives/open notNeeded list Hive", "GET /api/Hives/{id} needed view Hive"],
            Lines(surface));
        var hives = Assert.Single(surface.Tables);
        Assert.Equal(["Id", "Name(80)", "KeeperId owner"], hives.Columns.Select(c => c.Name + (c.Length is { } l ? $"({l})" : "") + (c.Meaning.Length > 0 ? " " + c.Meaning : "")));
    }

    [Fact]
    public void Minimal_interfaces_in_groups()
    {
        var surface = Of(("Program.cs", """
            var builder = WebApplication.CreateBuilder(args);
            var app = builder.Build();
            app.MapGet("/ping", () => "pong");
            var api = app.MapGroup("/api").RequireAuthorization();
            api.MapGet("/hives/{id}", (int id) => id);
            app.MapPost("/swarms", (string place) => place).RequireAuthorization();
            app.Run();
            """));
        Assert.Equal(["GET /api/hives/{id} needed ", "GET /ping notNeeded ", "POST /swarms needed "], Lines(surface));
    }

    [Fact]
    public void Resource_routes_filters_and_what_lifts_them()
    {
        var surface = Of(
            ("config/routes.rb", """
                Rails.application.routes.draw do
                  root 'hives#index'
                  resources :hives, only: %i[index show] do
                    get :weights, on: :member
                    post :import, on: :collection
                  end
                  namespace :api do
                    resources :hives, only: :destroy
                  end
                  post '/sign-in', to: 'sessions#create'
                end
                """),
            ("app/models/keeper.rb", "class Keeper < ApplicationRecord\n  has_secure_password\nend\n"),
            ("app/controllers/application_controller.rb", """
                class ApplicationController < ActionController::Base
                  before_action :require_keeper
                  def current_keeper
                    @current_keeper ||= Keeper.find_by(id: session[:keeper_id])
                  end
                  def require_keeper
                    redirect_to '/sign-in' unless current_keeper
                  end
                end
                """),
            ("app/controllers/hives_controller.rb", """
                class HivesController < ApplicationController
                  skip_before_action :require_keeper, only: :index
                  def index; @hives = Hive.all; end
                  def show; @hive = Hive.find(params[:id]); end
                  def weights; end
                  def import; end
                end
                """),
            ("app/controllers/api/hives_controller.rb", """
                module Api
                  class HivesController < ApplicationController
                    def destroy; Hive.find(params[:id]).destroy; end
                  end
                end
                """),
            ("app/controllers/sessions_controller.rb", """
                class SessionsController < ApplicationController
                  skip_before_action :require_keeper
                  def create; end
                end
                """));
        Assert.Equal(
            ["GET / notNeeded", "DELETE /api/hives/{id} needed", "GET /hives notNeeded", "POST /hives/import needed", "GET /hives/{id} needed", "GET /hives/{id}/weights needed", "POST /sign-in notNeeded"],
            surface.Entries.Select(e => $"{e.Method} {e.Path} {e.SignIn}"));
        Assert.Equal("app/controllers/api/hives_controller.rb", Find(surface, "DELETE /api/hives/{id}").HandlerAt!.Path);
    }

    [Fact]
    public void Blueprints_decorators_and_class_tables()
    {
        var surface = Of(
            ("app.py", "from flask import Flask\nfrom hives import bp\napp = Flask(__name__)\napp.register_blueprint(bp)\n"),
            ("hives.py", """
                from functools import wraps
                from flask import Blueprint, redirect, request, session
                from models import Hive, db
                bp = Blueprint("hives", __name__, url_prefix="/hives")

                def keepers_only(view):
                    @wraps(view)
                    def inner(*args, **kwargs):
                        if "keeper_id" not in session:
                            return redirect("/sign-in")
                        return view(*args, **kwargs)
                    return inner

                @bp.route("/", methods=["GET", "POST"])
                def index():
                    return {"hives": [h.name for h in Hive.query.all()]}

                @bp.post("/<int:hive_id>/notes")
                @keepers_only
                def note(hive_id):
                    db.session.add(Hive(name=request.form["text"]))
                    return redirect("/")
                """),
            ("models.py", """
                from flask_sqlalchemy import SQLAlchemy
                db = SQLAlchemy()

                class Hive(db.Model):
                    __tablename__ = "hives"
                    id = db.Column(db.Integer, primary_key=True)
                    name = db.Column(db.String(80), unique=True)
                    reset_token = db.Column(db.String(64))
                """));
        Assert.Equal(["GET /hives notNeeded", "POST /hives notNeeded", "POST /hives/{hive_id}/notes needed"], surface.Entries.Select(e => $"{e.Method} {e.Path} {e.SignIn}"));
        var table = Assert.Single(surface.Tables);
        Assert.Equal("hives", table.Name);
        Assert.Equal(["id", "name(80) unique", "reset_token(64) reset token"], table.Columns.Select(c => c.Name + (c.Length is { } l ? $"({l})" : "") + (c is { Unique: true, Name: "name" } ? " unique" : "") + (c.Meaning.Length > 0 ? " " + c.Meaning : "")));
    }

    [Fact]
    public void Views_of_paths_and_modules_that_are_included()
    {
        var surface = Of(
            ("site/urls.py", """
                from django.urls import include, path
                urlpatterns = [path("hives/", include("hives.urls"))]
                """),
            ("hives/urls.py", """
                from django.urls import path, re_path
                from . import views
                urlpatterns = [path("<int:pk>/", views.show), re_path(r"^old/(?P<slug>[-\w]+)/$", views.old), path("list/", views.HiveList.as_view())]
                """),
            ("hives/views.py", """
                from django.contrib.auth.decorators import login_required
                from django.contrib.auth.mixins import LoginRequiredMixin
                from django.views.generic import ListView
                @login_required
                def show(request, pk):
                    return None
                def old(request, slug):
                    return None
                class HiveList(LoginRequiredMixin, ListView):
                    def get(self, request):
                        return None
                """));
        Assert.Equal(["GET /hives/list needed", "* /hives/old/{slug} notNeeded", "* /hives/{pk} needed"], surface.Entries.Select(e => $"{e.Method} {e.Path} {e.SignIn}"));
    }

    [Fact]
    public void Groups_prefixes_and_named_handlers()
    {
        var surface = Of(
            ("routes/api.php", """
                <?php
                use Illuminate\Support\Facades\Route;
                use App\Http\Controllers\HiveController;
                Route::get('/open', [HiveController::class, 'open']);
                Route::prefix('keepers')->middleware('auth:sanctum')->group(function () {
                    Route::post('/hives', [HiveController::class, 'store']);
                });
                Route::get('/mine', [HiveController::class, 'open'])->middleware('auth');
                """),
            ("app/Http/Controllers/HiveController.php", """
                <?php
                namespace App\Http\Controllers;
                use App\Models\Hive;
                use Illuminate\Http\Request;
                class HiveController extends Controller {
                    public function open() { return Hive::all(); }
                    public function store(Request $request) { return Hive::create($request->only('name')); }
                }
                """),
            ("app/Models/Hive.php", "<?php\nnamespace App\\Models;\nuse Illuminate\\Database\\Eloquent\\Model;\nclass Hive extends Model {}\n"),
            ("database/migrations/1_hives.php", """
                <?php
                use Illuminate\Database\Schema\Blueprint;
                use Illuminate\Support\Facades\Schema;
                Schema::create('hives', function (Blueprint $table) {
                    $table->id();
                    $table->string('name', 80);
                    $table->string('place');
                    $table->foreignId('keeper_id');
                });
                """));
        Assert.Equal(["POST /api/keepers/hives needed create hives", "GET /api/mine needed list hives", "GET /api/open notNeeded list hives"], Lines(surface));
        Assert.Equal(["name(80)", "place(255)", "keeper_id(0)"], Assert.Single(surface.Tables).Columns.Select(c => $"{c.Name}({c.Length ?? 0})"));
    }

    [Fact]
    public void Files_that_are_addresses()
    {
        var surface = Of(
            ("app/hives/[id]/route.ts", "export async function GET(request: Request) { return Response.json({}); }\nexport async function DELETE(request: Request) { return Response.json({}); }\n"),
            ("server/api/swarms/index.post.ts", "export default defineEventHandler(async (event) => { return readBody(event); });\n"),
            ("portal/list.php", "<?php\nrequire 'lib.php';\nneed_member();\necho 'hives';\n"),
            ("portal/lib.php", "<?php\nsession_start();\nfunction need_member() { if (!isset($_SESSION['member'])) { header('Location: /'); exit; } }\n"),
            ("portal/save.php", "<?php\n$db = new PDO('sqlite:x');\n$db->prepare('UPDATE hives SET name = ? WHERE id = ?')->execute([$_POST['name'], $_POST['id']]);\n"));
        Assert.Equal(
            ["POST /api/swarms notNeeded", "DELETE /hives/{id} notNeeded", "GET /hives/{id} notNeeded", "GET /portal/list.php needed", "POST /portal/save.php notNeeded"],
            surface.Entries.Select(e => $"{e.Method} {e.Path} {e.SignIn}"));
    }

    [Fact]
    public void Tables_of_routes_in_the_code()
    {
        var surface = Of(
            ("index.php", """
                <?php
                $routes = ['GET /hives' => ['Hive', 'index'], 'POST /hives' => ['Hive', 'add']];
                [$name, $action] = $routes[$_SERVER['REQUEST_METHOD'] . ' ' . $_SERVER['PATH_INFO']];
                (new ($name . 'Controller'))->$action();
                """),
            ("HiveController.php", "<?php\nclass HiveController { public function index() { echo 'x'; } public function add() { echo 'y'; } }\n"));
        Assert.Equal(["HiveController.index", "HiveController.add"], surface.Entries.Where(e => e.Path == "/hives").Select(e => e.Handler));
    }

    [Fact]
    public void Models_handed_to_a_mapper_give_tables()
    {
        var surface = Of(("models.js", """
            const mongoose = require('mongoose');
            const { Sequelize, DataTypes } = require('sequelize');
            const keeper = new mongoose.Schema({ email: { type: String, required: true, unique: true }, passwordHash: String, role: { type: String, default: 'keeper' } });
            module.exports.Keeper = mongoose.model('Keeper', keeper);
            const db = new Sequelize('sqlite::memory:');
            db.define('hive', { name: { type: DataTypes.STRING(60), allowNull: false }, keeperId: DataTypes.INTEGER });
            """));
        Assert.Equal(
            ["hive: name(60), keeperId [owner]", "Keeper: email [contact], passwordHash [password], role [role]"],
            surface.Tables.Select(t => $"{t.Name}: {string.Join(", ", t.Columns.Select(c => c.Name + (c.Length is { } l ? $"({l})" : "") + (c.Meaning.Length > 0 ? $" [{c.Meaning}]" : "")))}"));
        Assert.True(surface.Tables[1].Columns[0] is { Unique: true, NotNull: true });
    }

    /// <summary>The demo's own service: what its code says, written down by hand.</summary>
    [Fact]
    public void Demo_has_its_addresses()
    {
        var surface = Auditor.Demo.Surface;
        Assert.Equal(18, surface.Entries.Count(e => e.Path.StartsWith("/api/", StringComparison.Ordinal)));
        Assert.Equal("needed", Find(surface, "PATCH /api/members/me/password").SignIn);
        Assert.Equal("notNeeded", Find(surface, "POST /api/session").SignIn);
        Assert.Equal("needed", Find(surface, "GET /portal/hives.php").SignIn);
        Assert.Contains(surface.Tables, t => t.Name == "members" && t.Columns.Any(c => c is { Name: "password", Meaning: "password", Length: 64 }));
    }

    [Fact]
    public void OpenApi_document_has_paths_parameters_and_bodies()
    {
        var surface = Auditor.Demo.Surface;
        var document = JsonNode.Parse(OpenApiReport.Write(surface, "Fernhollow", "1.0"))!;
        Assert.Equal("3.1.0", (string?)document["openapi"]);
        var hive = document["paths"]!["/api/hives/{id}"]!["get"]!;
        Assert.Equal("id", (string?)hive["parameters"]![0]!["name"]);
        Assert.NotNull(hive["security"]);
        var join = document["paths"]!["/portal/join.php"]!["post"]!;
        Assert.NotNull(join["requestBody"]!["content"]!["application/x-www-form-urlencoded"]!["schema"]!["properties"]!["email"]);
        Assert.Null(join["security"]);
    }

    [Fact]
    public void What_is_kept_comes_back_the_same()
    {
        var surface = Auditor.Demo.Surface;
        Assert.Equal(SurfaceReport.Json(surface), SurfaceReport.Json(SurfaceReport.Read(SurfaceReport.Json(surface))));
        Assert.StartsWith("method,path,handler", SurfaceReport.Csv(surface), StringComparison.Ordinal);
    }

    private static ReportedSurface Of(params (string Path, string Code)[] files) => Auditor.Run(files).Surface;

    private static ReportedEntry Find(ReportedSurface surface, string address) => surface.Entries.Single(e => $"{e.Method} {e.Path}" == address);

    private static IEnumerable<string> Lines(ReportedSurface surface) =>
        surface.Entries.Select(e => $"{e.Method} {e.Path} {e.SignIn} {string.Join(", ", e.Accesses.Select(a => a.Action + " " + a.Table))}");
}
