using System.Globalization;
using Bellator.Audit.Reports;

namespace Bellator.Core.Tests;

/// <summary>
/// Which rows an address reaches, where the condition is a function, an object or a chain of calls. What the mappers' calls mean is
/// from memory of their documentation: LINQ of Entity Framework Core, Prisma, Eloquent, Active Record, SQLAlchemy.
/// </summary>
public sealed class RowConditionTests
{
    private const string Desk = """
        using System.Security.Claims;
        using Microsoft.AspNetCore.Authorization;
        using Microsoft.AspNetCore.Mvc;
        using Microsoft.EntityFrameworkCore;
        public interface ICurrentKeeper { int Id { get; } int? District { get; } }
        public class CurrentKeeper(IHttpContextAccessor http) : ICurrentKeeper
        {
            private ClaimsPrincipal? Person => http.HttpContext?.User;
            public int Id => int.TryParse(Person?.FindFirstValue(ClaimTypes.NameIdentifier), out var id) ? id : 0;
            public int? District => int.TryParse(Person?.FindFirstValue("district"), out var id) ? id : null;
        }
        public class Hive { public int Id { get; set; } public int KeeperId { get; set; } public int DistrictId { get; set; } public bool Shared { get; set; } public Apiary? Apiary { get; set; } public List<Helper> Helpers { get; set; } = []; }
        public class Apiary { public int Id { get; set; } public int KeeperId { get; set; } }
        public class Helper { public int Id { get; set; } public int PersonId { get; set; } }
        public class RegisterDb : DbContext { public DbSet<Hive> Hives => Set<Hive>(); public DbSet<Apiary> Apiaries => Set<Apiary>(); }
        [ApiController] [Authorize] [Route("hives")]
        public class HivesController(RegisterDb db, ICurrentKeeper me) : ControllerBase
        {

        """;

    [Theory]
    [InlineData("db.Hives.Where(h => h.KeeperId == me.Id).ToListAsync()", "own record.KeeperId = subject")]
    [InlineData("db.Hives.SingleOrDefaultAsync(h => h.Id == id && h.KeeperId == me.Id)", "own record.KeeperId = subject AND record.Id = request.id")]
    [InlineData("db.Hives.Where(h => h.Id == id).Where(h => h.KeeperId == me.Id).FirstAsync()", "own record.KeeperId = subject AND record.Id = request.id")]
    [InlineData("db.Hives.FirstAsync(h => me.Id.Equals(h.KeeperId))", "own record.KeeperId = subject")]
    [InlineData("db.Hives.FirstAsync(h => h.Apiary!.KeeperId == me.Id)", "own record.Apiary.KeeperId = subject")]
    [InlineData("db.Hives.Where(h => h.Helpers.Any(p => p.PersonId == me.Id)).ToListAsync()", "own record.Helpers.PersonId = subject")]
    [InlineData("db.Hives.Where(h => h.KeeperId == me.Id || h.DistrictId == me.District).ToListAsync()", "own record.KeeperId = subject AND record.DistrictId = subject")]
    [InlineData("db.Hives.SingleOrDefaultAsync(h => h.Id == id)", "chosen record.Id = request.id")]
    [InlineData("db.Hives.Where(h => h.Id == id).ExecuteDeleteAsync()", "chosen record.Id = request.id")]
    [InlineData("db.Hives.Where(h => h.Shared).ToListAsync()", "all ")]
    [InlineData("db.Hives.Where(h => h.Shared || h.KeeperId == me.Id).ToListAsync()", "unclear ")]
    [InlineData("db.Hives.Where(h => !(h.KeeperId == me.Id)).ToListAsync()", "all ")]
    public void Queries_of_Entity_Framework(string query, string expected) =>
        Assert.StartsWith(expected, Rows(("Desk.cs", Desk + "[HttpGet(\"{id:int}\")] public async Task<IActionResult> Show(int id) => Ok(await " + query + ");\n}\n"), "/hives/{id}"), StringComparison.Ordinal);

    [Fact]
    public void What_a_page_filled_its_form_with_is_not_what_comes_back()
    {
        var rows = Rows(("Pages/Edit.cshtml.cs", Desk.Replace("[ApiController] [Authorize] [Route(\"hives\")]\npublic class HivesController(RegisterDb db, ICurrentKeeper me) : ControllerBase\n{", "", StringComparison.Ordinal) + """
            public class Form { public int Id { get; set; } public string Name { get; set; } = ""; }
            public class EditModel(RegisterDb db, ICurrentKeeper me) : PageModel
            {
                [BindProperty] public Form Input { get; set; } = new();
                public async Task<IActionResult> OnGetAsync(int id) { var hive = await db.Hives.SingleAsync(h => h.Id == id && h.KeeperId == me.Id); Input = new Form { Id = hive.Id }; return Page(); }
                public async Task<IActionResult> OnPostAsync() { var hive = await db.Hives.SingleAsync(h => h.Id == Input.Id); db.Hives.Remove(hive); await db.SaveChangesAsync(); return Page(); }
            }
            """), "/Edit", "POST", "view");

        Assert.StartsWith("chosen record.Id = request", rows, StringComparison.Ordinal);
    }

    private const string Guild = """
        import { Body, Controller, Delete, Get, Param, Put, UseGuards, createParamDecorator, SetMetadata } from '@nestjs/common';
        import { PrismaClient } from '@prisma/client';
        export const CurrentUser = createParamDecorator((_: unknown, ctx: any) => ctx.switchToHttp().getRequest().user);
        export class PrismaService extends PrismaClient {}
        @Controller('hives')
        export class HivesController {
          constructor(private readonly prisma: PrismaService) {}
          @Get(':id') async show(@CurrentUser() user: { id: number; districtId: number }, @Param('id') id: string) { return
        """;

    [Theory]
    [InlineData("this.prisma.hive.findFirst({ where: { id: Number(id), keeperId: user.id } });", "own record.keeperId = subject.id AND record.id = request.id")]
    [InlineData("this.prisma.hive.findMany({ where: { helpers: { some: { personId: user.id } } } });", "own record.helpers.personId = subject.id")]
    [InlineData("this.prisma.hive.findUnique({ where: { keeperId_number: { keeperId: user.id, number: Number(id) } } });", "own record.keeperId = subject.id AND record.number = request.id")]
    [InlineData("this.prisma.hive.findMany({ where: { OR: [{ keeperId: user.id }, { districtId: user.districtId }] } });", "own record.keeperId = subject.id AND record.districtId = subject.districtId")]
    [InlineData("this.prisma.hive.findMany({ where: { AND: [{ keeperId: user.id }, { name: id }] } });", "own record.keeperId = subject.id AND record.name = request.id")]
    [InlineData("this.prisma.hive.findUnique({ where: { id: Number(id) } });", "chosen record.id = request.id")]
    [InlineData("this.prisma.hive.delete({ where: { id: Number(id) } });", "chosen record.id = request.id")]
    [InlineData("this.prisma.hive.findMany({ where: { OR: [{ keeperId: user.id }, { name: id }] } });", "unclear ")]
    [InlineData("this.prisma.hive.findMany({ where: { NOT: { keeperId: user.id } } });", "unclear ")]
    [InlineData("this.prisma.hive.findMany({ orderBy: { keeperId: 'asc' } });", "all ")]
    public void Conditions_of_Prisma(string query, string expected) =>
        Assert.StartsWith(expected, Rows(("hives.controller.ts", Guild + " " + query + " }\n}\n"), "/hives/{id}"), StringComparison.Ordinal);

    private static readonly (string Path, string Code)[] Laravel =
    [
        ("app/Models/Keeper.php", "<?php namespace App\\Models; use Illuminate\\Foundation\\Auth\\User as Authenticatable; class Keeper extends Authenticatable { public function hives() { return $this->hasMany(Hive::class); } }\n"),
        ("app/Models/Hive.php", "<?php namespace App\\Models; use Illuminate\\Database\\Eloquent\\Model; class Hive extends Model { }\n"),
        ("database/schema.sql", "CREATE TABLE hives (id int primary key, keeper_id int not null, name varchar(80));\n"),
        ("routes/web.php", "<?php use App\\Http\\Controllers\\HiveController; use Illuminate\\Support\\Facades\\Route; Route::get('/hives/{hive}', [HiveController::class, 'show'])->middleware('auth');\n"),
    ];

    [Theory]
    [InlineData("Request $request, $id", "$request->user()->hives()->whereNull('gone')->get()", "own ")]
    [InlineData("Request $request, $id", "Hive::where('keeper_id', $request->user()->id)->get()", "own record.keeper_id = subject.id")]
    [InlineData("Request $request, $hive", "Hive::where('keeper_id', '=', Auth::id())->findOrFail($hive)", "own ")]
    [InlineData("Request $request, $hive", "Hive::query()->where(['keeper_id' => Auth::id(), 'id' => $hive])->first()", "own ")]
    [InlineData("Request $request", "Hive::whereIn('id', [$request->input('hive')])->get()", "chosen record.id = request")]
    [InlineData("Request $request, $hive", "Hive::where('keeper_id', Auth::id())->orWhere('name', 'a')->get()", "unclear ")]
    [InlineData("Request $request", "Hive::whereNot('keeper_id', Auth::id())->get()", "all ")]
    [InlineData("Request $request", "Hive::where('keeper_id', '!=', Auth::id())->get()", "all ")]
    [InlineData("Request $request", "Hive::where('keeper_id', $request->input('how'), Auth::id())->get()", "all ")]
    [InlineData("Hive $hive", "$hive->delete()", "chosen ")]
    public void Chains_of_Eloquent(string parameters, string query, string expected)
    {
        var code = $"<?php namespace App\\Http\\Controllers; use App\\Models\\Hive; use Illuminate\\Http\\Request; use Illuminate\\Support\\Facades\\Auth; class HiveController {{ public function show({parameters}) {{ return {query}; }} }}\n";
        Assert.StartsWith(expected, Rows([.. Laravel, ("app/Http/Controllers/HiveController.php", code)], "/hives/{hive}"), StringComparison.Ordinal);
    }

    [Fact]
    public void A_scope_of_the_class_may_say_what_the_query_does_not()
    {
        var scoped = Laravel.Select(f => f.Path.EndsWith("Hive.php", StringComparison.Ordinal) ? (f.Path, f.Code.Replace("extends Model { }", "extends Model { protected static function booted() { static::addGlobalScope('own', fn ($q) => $q->where('keeper_id', auth()->id())); } }", StringComparison.Ordinal)) : f);
        var code = "<?php namespace App\\Http\\Controllers; use App\\Models\\Hive; class HiveController { public function show($hive) { return Hive::findOrFail($hive); } }\n";

        Assert.StartsWith("unclear ", Rows([.. scoped, ("app/Http/Controllers/HiveController.php", code)], "/hives/{hive}"), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("Current.user.hives.find(params[:id])", "own ")]
    [InlineData("Hive.where(user: Current.user).find(params[:id])", "own ")]
    [InlineData("Hive.find(params[:id])", "chosen record.id = request.id")]
    public void What_lives_as_long_as_the_request_in_Rails(string query, string expected) => Assert.StartsWith(expected, Rows(
        [
            ("app/models/current.rb", "class Current < ActiveSupport::CurrentAttributes\n  attribute :user\nend\n"),
            ("app/models/user.rb", "class User < ApplicationRecord\n  has_secure_password\n  has_many :hives\nend\n"),
            ("app/models/hive.rb", "class Hive < ApplicationRecord\n  belongs_to :user\nend\n"),
            ("config/routes.rb", "Rails.application.routes.draw do\n  resources :hives, only: [:show]\nend\n"),
            ("app/controllers/hives_controller.rb", $"class HivesController < ApplicationController\n  def show\n    render json: {query}\n  end\nend\n"),
        ],
        "/hives/{id}"), StringComparison.Ordinal);

    [Fact]
    public void The_person_on_the_request_stays_it_though_it_is_cleared_before() => Assert.StartsWith("own record.keeper_id = subject.id", Rows(
        [("register.py", """
            from flask import Flask, g, request, jsonify
            from flask_sqlalchemy import SQLAlchemy
            app = Flask(__name__)
            db = SQLAlchemy()
            class Keeper(db.Model):
                id = db.Column(db.Integer, primary_key=True)
            class Visit(db.Model):
                token_hash = db.Column(db.String(64))
                person_id = db.Column(db.Integer)
            class Hive(db.Model):
                id = db.Column(db.Integer, primary_key=True)
                keeper_id = db.Column(db.Integer)
            @app.before_request
            def who_is_there():
                g.user = None
                visit = Visit.query.filter(Visit.token_hash == request.cookies.get("visit")).first()
                g.user = db.session.get(Keeper, visit.person_id)
            @app.get("/hives/<int:hive_id>")
            def show(hive_id):
                return jsonify(Hive.query.filter_by(id=hive_id, keeper_id=g.user.id).first())
            """)], "/hives/{hive_id}"), StringComparison.Ordinal);

    [Fact]
    public void What_belongs_to_an_own_record_is_own() => Assert.StartsWith("own record.hiveId = request.id", Rows(
        [("app.js", """
            const app = require('express')(); const { PrismaClient } = require('@prisma/client'); const prisma = new PrismaClient();
            app.get('/hives/:id/notes', async (req, res) => {
              const hive = await prisma.hive.findFirst({ where: { id: req.params.id, keeperId: req.session.userId } });
              if (!hive) { return res.sendStatus(404); }
              res.json(await prisma.note.findMany({ where: { hiveId: req.params.id } }));
            });
            """)], "/hives/{id}/notes", table: "note"), StringComparison.Ordinal);

    private static string Rows((string Path, string Code) file, string path, string? method = null, string? action = null) => Rows([file], path, method, action);

    /// <summary>Whose rows the address reaches, and under which condition.</summary>
    private static string Rows((string Path, string Code)[] files, string path, string? method = null, string? action = null, string? table = null)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        var records = Auditor.Run(files).Records!;
        AccessReport.Text(records, text);
        var uses = records.Uses.Where(u => u.Path == path && (method is null || u.Method == method) && (action is null || u.Action == action) && (table is null || u.Table.Equals(table, StringComparison.OrdinalIgnoreCase))).ToList();
        Assert.True(uses.Count > 0, text.ToString());
        return $"{uses[^1].Rows} {uses[^1].Condition}";
    }
}
