namespace Bellator.Core.Tests;

/// <summary>Values followed through programs of several files, put together as each framework does it. Every program has a weak way and a correct one beside it.</summary>
public sealed class ProgramTests
{
    [Fact]
    public void Nest_controller_service_repository() => Expect(
        ["src/things/things.service.ts:8 injection/sql"],
        ("src/things/things.controller.ts", """
            import { Controller, Get, Post, Body, Param, Query } from '@nestjs/common';
            import { ThingsService } from './things.service';
            @Controller('things')
            export class ThingsController {
              constructor(private readonly things: ThingsService) {}
              @Get() list(@Query('sort') sort: string) { return this.things.list(sort); }
              @Get(':id') one(@Param('id') id: string) { return this.things.one(id); }
            }
            """),
        ("src/things/things.service.ts", """
            import { Injectable } from '@nestjs/common';
            import { InjectRepository } from '@nestjs/typeorm';
            import { Repository } from 'typeorm';
            import { Thing } from './thing.entity';
            @Injectable()
            export class ThingsService {
              constructor(@InjectRepository(Thing) private repo: Repository<Thing>) {}
              list(sort: string) { return this.repo.createQueryBuilder('t').where('t.open = true').orderBy(`t.${sort}`).getMany(); }
              one(id: string) { return this.repo.createQueryBuilder('t').where('t.id = :id', { id }).getOne(); }
            }
            """),
        ("src/things/thing.entity.ts", "import { Entity } from 'typeorm';\n@Entity() export class Thing { id: number; name: string; }\n"));

    [Fact]
    public void Express_with_sequelize_and_async_handlers() => Expect(
        ["src/routes/things.ts:12 injection/mass-assignment", "src/store.ts:5 injection/sql"],
        ("src/app.ts", "import express from 'express';\nimport things from './routes/things';\nconst app = express();\napp.use(express.json());\napp.use('/things', things);\nexport default app;\n"),
        ("src/routes/things.ts", """
            import { Router, Request, Response, NextFunction } from 'express';
            import { Thing } from '../models/thing';
            import * as store from '../store';
            const wrap = (fn: any) => (req: Request, res: Response, next: NextFunction) => Promise.resolve(fn(req, res, next)).catch(next);
            const router = Router();
            router.get('/', wrap(async (req: Request, res: Response) => {
              const { q = '', page } = req.query as any;
              res.json(await store.search(q, Number(page)));
            }));
            router.get('/:id', async (req, res) => res.json(await store.byId(req.params.id)));
            router.post('/', async (req, res) => {
              const thing = await Thing.create(req.body);
              res.status(201).json({ id: thing.id });
            });
            router.put('/:id', async (req, res) => {
              const { name, phone } = req.body;
              await Thing.update({ name, phone }, { where: { id: req.params.id } });
              res.sendStatus(204);
            });
            export default router;
            """),
        ("src/models/thing.ts", "import { Sequelize, DataTypes } from 'sequelize';\nimport { sequelize } from '../store';\nexport const Thing = sequelize.define('Thing', { name: DataTypes.STRING });\n"),
        ("src/store.ts", """
            import { Sequelize, QueryTypes } from 'sequelize';
            export const sequelize = new Sequelize(process.env.DB!);
            export async function search(q: string, page: number) {
              const like = `%${q}%`;
              return sequelize.query(`SELECT * FROM things WHERE name LIKE '${like}' LIMIT 20 OFFSET ${page * 20}`);
            }
            export const byId = (id: string) => sequelize.query('SELECT * FROM things WHERE id = :id', { replacements: { id } });
            """));

    [Fact]
    public void Laravel_with_request_service_and_blade() => Expect(
        ["app/Services/ThingSearch.php:8 injection/sql", "resources/views/things/show.blade.php:2 injection/page-output"],
        ("app/Http/Controllers/ThingController.php", """
            <?php
            namespace App\Http\Controllers;
            use App\Models\Thing;
            use App\Services\ThingSearch;
            use Illuminate\Http\Request;
            class ThingController extends Controller
            {
                public function __construct(private ThingSearch $search) {}
                public function index(Request $request) { return $this->search->run($request->input('q'), $request->integer('limit')); }
                public function store(Request $request) { $data = $request->validate(['name' => 'required|max:80']); Thing::create($data); return redirect()->route('things.index'); }
                public function show(Request $request) { $note = $request->query('note'); return view('things.show', compact('note')); }
            }
            """),
        ("app/Services/ThingSearch.php", """
            <?php
            namespace App\Services;
            use Illuminate\Support\Facades\DB;
            class ThingSearch
            {
                public function run(string $q, int $limit)
                {
                    return DB::select("SELECT * FROM things WHERE name LIKE '%{$q}%' LIMIT $limit");
                }
                public function safe(string $q) { return DB::table('things')->whereRaw('name LIKE ?', ["%$q%"])->get(); }
            }
            """),
        ("app/Models/Thing.php", "<?php\nnamespace App\\Models;\nuse Illuminate\\Database\\Eloquent\\Model;\nclass Thing extends Model { protected $guarded = []; }\n"),
        ("resources/views/things/show.blade.php", "<html>\n<p>{!! $note !!}</p>\n<p>{{ $note }}</p>\n"));

    [Fact]
    public void Django_views_forms_and_templates() => Expect(
        ["shop/services.py:5 injection/sql", "shop/templates/shop/list.html:1 injection/page-output", "shop/views.py:12 injection/redirect"],
        ("shop/urls.py", "from django.urls import path\nfrom . import views\nurlpatterns = [path('things/', views.things), path('go/<slug:name>/', views.go)]\n"),
        ("shop/views.py", """
            from django.shortcuts import render, redirect, get_object_or_404
            from django.views.decorators.http import require_GET
            from .models import Thing
            from .services import find

            @require_GET
            def things(request):
                q = request.GET.get('q', '').strip()
                return render(request, 'shop/list.html', {'q': q, 'things': find(q)})

            def go(request, name):
                return redirect(request.POST.get('next'))

            def back(request, name):
                return redirect('things-detail', name=name)

            def detail(request, pk):
                return render(request, 'shop/detail.html', {'thing': get_object_or_404(Thing, pk=pk)})
            """),
        ("shop/services.py", """
            from django.db import connection

            def find(q):
                with connection.cursor() as cursor:
                    sql = "SELECT id, name FROM shop_thing WHERE name LIKE '%%%s%%'" % q
                    cursor.execute(sql)
                    return cursor.fetchall()

            def find_safe(q):
                with connection.cursor() as cursor:
                    cursor.execute('SELECT id FROM shop_thing WHERE name LIKE %s', [f'%{q}%'])
                    return cursor.fetchall()
            """),
        ("shop/models.py", "from django.db import models\nclass Thing(models.Model):\n    name = models.CharField(max_length=80)\n"),
        ("shop/templates/shop/list.html", "{% block a %}<p>{{ q|safe }}</p>\n<p>{{ q }}</p>{% endblock %}\n"));

    [Fact]
    public void FastApi_with_dependencies_and_models() => Expect(
        ["app/repo.py:10 injection/sql"],
        ("app/main.py", "from fastapi import FastAPI\nfrom .routers import things\napp = FastAPI()\napp.include_router(things.router)\n"),
        ("app/routers/__init__.py", ""),
        ("app/routers/things.py", """
            from fastapi import APIRouter, Depends
            from ..repo import Repo, get_repo
            from ..schemas import Search
            router = APIRouter(prefix='/things')

            @router.post('/search')
            async def search(body: Search, repo: Repo = Depends(get_repo)):
                return await repo.search(body.text, body.limit)

            @router.get('/{thing_id}')
            async def one(thing_id: int, repo: Repo = Depends(get_repo)):
                return await repo.one(thing_id)
            """),
        ("app/schemas.py", "from pydantic import BaseModel\nclass Search(BaseModel):\n    text: str\n    limit: int = 20\n"),
        ("app/repo.py", """
            from sqlalchemy import text
            from sqlalchemy.ext.asyncio import AsyncSession
            from .db import session

            class Repo:
                def __init__(self, db: AsyncSession):
                    self.db = db

                async def search(self, words, limit):
                    rows = await self.db.execute(text(f"SELECT * FROM things WHERE name ILIKE '%{words}%' LIMIT {limit}"))
                    return rows.all()

                async def one(self, id):
                    return (await self.db.execute(text('SELECT * FROM things WHERE id = :id'), {'id': id})).first()

            async def get_repo():
                async with session() as db:
                    yield Repo(db)
            """),
        ("app/db.py", "def session():\n    pass\n"));

    [Fact]
    public void Sinatra_with_helpers() => Expect(
        ["app.rb:14 injection/command", "app.rb:5 injection/sql"],
        ("app.rb", """
            require 'sinatra'
            require 'sqlite3'
            DB = SQLite3::Database.new('things.db')
            def find(name)
              DB.execute("SELECT * FROM things WHERE name = '#{name}'")
            end
            get '/things' do
              json find(params[:name])
            end
            get '/things/:id' do
              json DB.execute('SELECT * FROM things WHERE id = ?', [params[:id]])
            end
            post '/export' do
              system("tar czf out.tgz #{params[:folder]}")
              redirect '/things'
            end
            """));

    [Fact]
    public void Rails_concern_service_and_callback() => Expect(
        ["app/models/thing.rb:3 injection/sql"],
        ("app/controllers/application_controller.rb", "class ApplicationController < ActionController::Base\n  include Filtering\nend\n"),
        ("app/controllers/concerns/filtering.rb", "module Filtering\n  extend ActiveSupport::Concern\n  def filter_text\n    params[:filter].to_s.strip\n  end\n  def page_number\n    params[:page].to_i\n  end\nend\n"),
        ("app/controllers/things_controller.rb", """
            class ThingsController < ApplicationController
              before_action :load_things, only: :index
              def index
                render json: @things
              end
              def create
                @thing = Thing.new(thing_params)
                @thing.save ? redirect_to(@thing) : render(:new)
              end
              private
              def load_things
                @things = ThingFinder.call(filter: filter_text, page: page_number)
              end
              def thing_params
                params.require(:thing).permit(:name, :note)
              end
            end
            """),
        ("app/services/thing_finder.rb", "class ThingFinder\n  def self.call(filter:, page:)\n    new(filter, page).call\n  end\n  def initialize(filter, page)\n    @filter = filter\n    @page = page\n  end\n  def call\n    Thing.matching(@filter).offset(@page * 20)\n  end\nend\n"),
        ("app/models/thing.rb", "class Thing < ApplicationRecord\n  def self.matching(text)\n    where(\"name LIKE '%#{text}%'\").order(:name)\n  end\n  def self.exact(text) = where('name = ?', text)\nend\n"));

    [Fact]
    public void AspNet_controller_service_and_razor_page() => Expect(
        ["Pages/Search.cshtml.cs:10 injection/redirect", "Services/ThingService.cs:11 injection/sql"],
        ("Program.cs", "var builder = WebApplication.CreateBuilder(args);\nbuilder.Services.AddScoped<IThingService, ThingService>();\nvar app = builder.Build();\napp.MapControllers();\napp.Run();\n"),
        ("Controllers/ThingsController.cs", """
            using Microsoft.AspNetCore.Mvc;
            namespace Fern.Controllers;
            [ApiController, Route("api/[controller]")]
            public class ThingsController(IThingService things) : ControllerBase
            {
                [HttpGet]
                public async Task<IActionResult> List([FromQuery] ThingFilter filter) => Ok(await things.FindAsync(filter));
                [HttpGet("{id:int}")]
                public async Task<IActionResult> One(int id) => Ok(await things.OneAsync(id));
            }
            public record ThingFilter(string? Name, int Page);
            """),
        ("Services/ThingService.cs", """
            using Dapper;
            namespace Fern.Services;
            public interface IThingService { Task<IEnumerable<Thing>> FindAsync(ThingFilter filter); Task<Thing?> OneAsync(int id); }
            public sealed class ThingService(NpgsqlConnection connection) : IThingService
            {
                public async Task<IEnumerable<Thing>> FindAsync(ThingFilter filter)
                {
                    var where = "WHERE 1 = 1";
                    if (!string.IsNullOrWhiteSpace(filter.Name))
                    {
                        where += $" AND name ILIKE '%{filter.Name}%'";
                    }
                    return await connection.QueryAsync<Thing>($"SELECT * FROM things {where} OFFSET {filter.Page * 20} LIMIT 20");
                }
                public Task<Thing?> OneAsync(int id) => connection.QuerySingleOrDefaultAsync<Thing>("SELECT * FROM things WHERE id = @id", new { id });
            }
            """),
        ("Pages/Search.cshtml.cs", """
            using Microsoft.AspNetCore.Mvc.RazorPages;
            namespace Fern.Pages;
            public class SearchModel : PageModel
            {
                [BindProperty(SupportsGet = true)]
                public string? ReturnUrl { get; set; }
                public IActionResult OnPost()
                {
                    if (ReturnUrl is null) { return Page(); }
                    return Redirect(ReturnUrl);
                }
                public IActionResult OnGet() => LocalRedirect(ReturnUrl ?? "/");
            }
            """));

    [Fact]
    public void Hand_made_php_with_front_controller_and_models() => Expect(
        ["app/Models/Thing.php:11 injection/sql", "app/views/list.php:2 injection/page-output"],
        ("public/index.php", "<?php\nrequire __DIR__ . '/../app/bootstrap.php';\n$route = $_GET['r'] ?? 'list';\n$routes = ['list' => ['ThingController', 'list'], 'save' => ['ThingController', 'save']];\nif (!isset($routes[$route])) { http_response_code(404); exit; }\n[$class, $method] = $routes[$route];\n(new ThingController(Db::get()))->list();\n"),
        ("app/bootstrap.php", "<?php\nspl_autoload_register(fn ($c) => require __DIR__ . '/' . $c . '.php');\n"),
        ("app/Db.php", "<?php\nclass Db {\n  private static ?PDO $pdo = null;\n  public static function get(): PDO { return self::$pdo ??= new PDO('sqlite:x', null, getenv('P')); }\n}\n"),
        ("app/ThingController.php", "<?php\nclass ThingController {\n  public function __construct(private PDO $db) {}\n  public function list(): void {\n    $thing = new Thing($this->db);\n    $thing->setOrder($_GET['order'] ?? 'name');\n    $rows = $thing->all();\n    $title = $_GET['title'] ?? '';\n    include __DIR__ . '/views/list.php';\n  }\n}\n"),
        ("app/Models/Thing.php", "<?php\nclass Thing {\n  private string $order = 'name';\n  public function __construct(private PDO $db) {}\n  public function setOrder(string $order): void {\n    $this->order = $order;\n  }\n  public function all(): array {\n    $sql = 'SELECT id, name FROM things';\n    // The order comes from the page's links.\n    $sql .= ' ORDER BY ' . $this->order;\n    return $this->db->query($sql)->fetchAll();\n  }\n}\n"),
        ("app/views/list.php", "<h1>\n<?= $title ?></h1>\n<?php foreach ($rows as $row): ?><li><?= htmlspecialchars($row['name']) ?></li><?php endforeach; ?>\n"));

    [Fact]
    public void Flask_blueprint_class_and_decorator() => Expect(
        ["store.py:9 injection/sql"],
        ("app.py", "from flask import Flask\nfrom things import bp\napp = Flask(__name__)\napp.register_blueprint(bp)\n"),
        ("things.py", """
            from functools import wraps
            from flask import Blueprint, request, jsonify, abort
            from store import Store
            bp = Blueprint('things', __name__)
            store = Store('x.db')

            def member(view):
                @wraps(view)
                def inner(*args, **kwargs):
                    return view(*args, **kwargs)
                return inner

            @bp.route('/things')
            @member
            def things():
                return jsonify(store.search(request.args.get('q', ''), limit=request.args.get('n', 10, type=int)))

            @bp.post('/things/<int:id>')
            @member
            def change(id):
                return jsonify(store.rename(id, request.get_json()['name']))
            """),
        ("store.py", """
            import sqlite3

            class Store:
                def __init__(self, path):
                    self.conn = sqlite3.connect(path)
                    self.conn.row_factory = sqlite3.Row

                def search(self, q, limit):
                    return self.conn.execute(f"SELECT * FROM things WHERE name LIKE '%{q}%' LIMIT 10").fetchall()

                def rename(self, id, name):
                    self.conn.execute('UPDATE things SET name = ? WHERE id = ?', (name, id))
                    self.conn.commit()
            """));

    private static void Expect(string[] expected, params (string Path, string Code)[] files)
    {
        var found = Auditor.Run(files).Findings.Where(f => f.Area == "injection").Select(f => $"{f.Path}:{f.Region.StartLine} {f.CheckId}").Distinct().Order(StringComparer.Ordinal);
        Assert.Equal(expected, found);
    }
}
