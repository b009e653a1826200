namespace Bellator.Core.Tests;

/// <summary>
/// The condition that a mapped class puts on every query of its records is read, so that what goes past it, or was forgotten, is seen (CWE-639).
/// What the mappers do is their documentation, from memory: Laravel's global scopes and bindings, Rails' default_scope and unscoped, EF Core's query filters.
/// </summary>
public sealed class ScopeConditionTests
{
    private const string Tables = """
        CREATE TABLE users (id int PRIMARY KEY, email text NOT NULL, password text NOT NULL, district_id int NOT NULL REFERENCES districts (id));
        CREATE TABLE districts (id int PRIMARY KEY, name text);
        CREATE TABLE apiaries (id int PRIMARY KEY, district_id int NOT NULL REFERENCES districts (id), keeper_id int REFERENCES users (id), name text, gone_at timestamp);
        CREATE TABLE inspections (id int PRIMARY KEY, apiary_id int NOT NULL REFERENCES apiaries (id), findings text);
        CREATE TABLE swarm_reports (id int PRIMARY KEY, district_id int NOT NULL REFERENCES districts (id), place text);
        CREATE TABLE treatments (id int PRIMARY KEY, name text);
        """;

    private const string Models = """
        <?php
        namespace App\Models;
        use Illuminate\Database\Eloquent\{Builder, Model, Scope, SoftDeletes};
        use Illuminate\Support\Facades\Auth;
        class DistrictScope implements Scope {
            public function apply(Builder $builder, Model $model): void { SCOPE }
        }
        trait OfDistrict { protected static function bootOfDistrict(): void { static::addGlobalScope(new DistrictScope); } }
        abstract class DistrictRecord extends Model { use OfDistrict; }
        class Apiary extends DistrictRecord { use SoftDeletes; public function inspections() { return $this->hasMany(Inspection::class); } }
        class SwarmReport extends Model { }
        class Inspection extends Model { public function apiary() { return $this->belongsTo(Apiary::class); } }
        class Treatment extends Model { }
        """;

    private const string Scope = "$builder->where($model->qualifyColumn('district_id'), Auth::user()->district_id);";

    private static AuditorResult Laravel(string action, string route, string scope = Scope) => Audit(
        ("schema.sql", Tables),
        ("app/Models/Apiary.php", Models.Replace("SCOPE", scope, StringComparison.Ordinal)),
        ("routes/web.php", "<?php\nuse App\\Http\\Controllers\\RegisterController;\nuse Illuminate\\Support\\Facades\\Route;\nRoute::middleware('auth')->group(function () {\n  Route::get('/apiaries', [RegisterController::class, 'index']);\n  " + route + "\n});\n"),
        ("app/Http/Controllers/RegisterController.php", $$"""
            <?php
            namespace App\Http\Controllers;
            use App\Models\{Apiary, DistrictScope, Inspection, SwarmReport, Treatment};
            use Illuminate\Database\Eloquent\SoftDeletingScope;
            use Illuminate\Support\Facades\DB;
            class RegisterController {
                public function index() { return Apiary::orderBy('name')->get(); }
                {{action}}
            }
            """));

    private sealed record AuditorResult(IReadOnlyList<string> Checks, IReadOnlyList<string> Rows);

    private static AuditorResult Audit(params (string, string)[] files)
    {
        var result = Auditor.Run(files);
        return new AuditorResult([.. result.Findings.Select(f => f.CheckId)], [.. result.Records.Uses.Select(u => $"{u.Path} {u.Table} {u.Rows} {u.Condition}")]);
    }

    [Theory]
    [InlineData(Scope, "own record.district_id = subject.district_id")]
    [InlineData("if (Auth::check()) { " + Scope + " }", "own record.district_id = subject.district_id")]
    [InlineData("$builder->where('district_id', Auth::user()->district_id)->orderBy('name');", "own record.district_id = subject.district_id")]
    [InlineData("if (request()->boolean('mine')) { " + Scope + " }", "unclear")]
    [InlineData("$builder->whereHas('keepers', fn ($q) => $q->where('user_id', Auth::id()));", "unclear")]
    [InlineData("$builder->where('district_id', Auth::user()->district_id)->orWhere('shared', true);", "unclear")]
    public void What_a_scope_holds_rows_against(string scope, string expected) =>
        Assert.Contains(Laravel("", "", scope).Rows, r => r.StartsWith("/apiaries apiaries " + expected, StringComparison.Ordinal));

    [Theory]
    [InlineData("return Apiary::withoutGlobalScopes()->whereNotNull('gone_at')->get();", true)]
    [InlineData("return Apiary::withoutGlobalScope(DistrictScope::class)->get();", true)]
    [InlineData("return DB::table('apiaries')->whereNotNull('gone_at')->get();", true)]
    [InlineData("return DB::select('SELECT * FROM apiaries WHERE gone_at IS NOT NULL');", true)]
    [InlineData("return SwarmReport::latest()->get();", true)]
    [InlineData("return Inspection::latest()->get();", true)]
    [InlineData("return Apiary::withoutGlobalScope(SoftDeletingScope::class)->get();", false)]
    [InlineData("return Apiary::withTrashed()->get();", false)]
    [InlineData("return Inspection::whereIn('apiary_id', Apiary::select('id'))->get();", false)]
    [InlineData("return Inspection::whereHas('apiary')->get();", false)]
    [InlineData("return Treatment::all();", false)]
    public void Past_the_scope_or_without_one(string body, bool isWeak)
    {
        var found = Laravel("public function other() { " + body + " }", "Route::get('/other', [RegisterController::class, 'other']);").Checks;

        Assert.Equal(isWeak, found.Contains("records/tenant-not-limited"));
    }

    [Theory]
    [InlineData("public function show(Apiary $apiary, Inspection $inspection) { return $inspection; }", "Route::get('/apiaries/{apiary}/inspections/{inspection}', [RegisterController::class, 'show']);", true)]
    [InlineData("public function show(Apiary $apiary, Inspection $inspection) { return $inspection; }", "Route::get('/apiaries/{apiary}/inspections/{inspection}', [RegisterController::class, 'show'])->scopeBindings();", false)]
    [InlineData("public function show(Apiary $apiary, Inspection $inspection) { return $inspection; }", "Route::scopeBindings()->group(function () { Route::get('/apiaries/{apiary}/inspections/{inspection}', [RegisterController::class, 'show']); });", false)]
    [InlineData("public function show(Apiary $apiary, Inspection $inspection) { abort_unless($inspection->apiary_id === $apiary->id, 404); return $inspection; }", "Route::get('/apiaries/{apiary}/inspections/{inspection}', [RegisterController::class, 'show']);", false)]
    [InlineData("public function show(Apiary $apiary, int $id) { return $apiary->inspections()->findOrFail($id); }", "Route::get('/apiaries/{apiary}/inspections/{id}', [RegisterController::class, 'show']);", false)]
    [InlineData("public function show(Apiary $apiary, int $id) { return Inspection::findOrFail($id); }", "Route::get('/apiaries/{apiary}/inspections/{id}', [RegisterController::class, 'show']);", true)]
    public void A_child_that_the_route_binds_beside_its_parent(string action, string route, bool isWeak) =>
        Assert.Equal(isWeak, Laravel(action, route).Checks.Contains("records/child-not-tied"));

    [Theory]
    [InlineData("Inspection.order(:id)", "records/tenant-not-limited")]
    [InlineData("Apiary.unscoped.order(:name)", "records/tenant-not-limited")]
    [InlineData("Apiary.unscope(where: :district_id)", "records/tenant-not-limited")]
    [InlineData("Apiary.unscope(:order)", null)]
    [InlineData("Apiary.find(params[:apiary_id]).inspections", null)]
    [InlineData("Inspection.where(apiary_id: Apiary.select(:id))", null)]
    public void Of_a_record_with_a_default_scope(string query, string? check)
    {
        var found = Audit(
            ("db/schema.rb", "ActiveRecord::Schema[7.1].define do\n  create_table :users do |t|\n    t.string :email\n    t.string :password_digest\n  end\n  create_table :districts do |t|\n    t.string :name\n  end\n  create_table :memberships do |t|\n    t.references :user, foreign_key: true\n    t.references :district, foreign_key: true\n  end\n  create_table :apiaries do |t|\n    t.references :district, foreign_key: true\n    t.string :name\n  end\n  create_table :inspections do |t|\n    t.references :apiary, foreign_key: true\n    t.text :findings\n  end\nend\n"),
            ("config/routes.rb", "Rails.application.routes.draw do\n  get '/apiaries', to: 'apiaries#index'\n  get '/other', to: 'apiaries#other'\nend\n"),
            ("app/models/current.rb", "class Current < ActiveSupport::CurrentAttributes\n  attribute :user, :district, :membership\nend\n"),
            ("app/models/records.rb", "class User < ApplicationRecord\n  has_secure_password\n  has_many :memberships\nend\nclass Membership < ApplicationRecord\n  belongs_to :user\n  belongs_to :district\nend\nclass Apiary < ApplicationRecord\n  default_scope { where(district_id: Current.district.id) }\n  has_many :inspections\nend\nclass Inspection < ApplicationRecord\n  belongs_to :apiary\nend\n"),
            ("app/controllers/apiaries_controller.rb", "class ApiariesController < ApplicationController\n  before_action :require_member\n  def index\n    render json: Apiary.order(:name)\n  end\n  def other\n    render json: " + query + "\n  end\n  private\n  def require_member\n    Current.user = User.find_by(id: session[:user_id])\n    return head(:unauthorized) unless Current.user\n    Current.district = District.find_by!(name: request.subdomain)\n    Current.membership = Current.user.memberships.find_by(district: Current.district)\n    head :forbidden unless Current.membership\n  end\nend\n")).Checks;

        Assert.Equal(check is not null, found.Contains("records/tenant-not-limited"));
    }

    [Theory]
    [InlineData("r.DistrictId == Me.DistrictId && !r.Gone", true)]
    [InlineData("r.DistrictId == Me.DistrictId || r.Shared", false)]
    [InlineData("!r.Gone", false)]
    public void A_query_filter(string filter, bool isOwn)
    {
        var rows = Audit(
            ("schema.sql", "CREATE TABLE \"Reports\" (\"Id\" int PRIMARY KEY, \"DistrictId\" int NOT NULL, \"Text\" text, \"Gone\" boolean, \"Shared\" boolean);"),
            ("Db.cs", $$"""
                using System.Security.Claims; using Microsoft.AspNetCore.Authorization; using Microsoft.AspNetCore.Http; using Microsoft.AspNetCore.Mvc; using Microsoft.EntityFrameworkCore;
                public class Person(IHttpContextAccessor http) { public int DistrictId => int.Parse(http.HttpContext!.User.FindFirstValue("district")!); }
                public class Report { public int Id { get; set; } public int DistrictId { get; set; } public string Text { get; set; } = ""; public bool Gone { get; set; } public bool Shared { get; set; } }
                public class RegisterDb(DbContextOptions<RegisterDb> options, Person person) : DbContext(options)
                {
                    private Person Me => person;
                    public DbSet<Report> Reports => Set<Report>();
                    protected override void OnModelCreating(ModelBuilder b) { b.Entity<Report>().HasQueryFilter(r => {{filter}}); }
                }
                [Authorize] [Route("reports")]
                public class ReportsController(RegisterDb db) : ControllerBase
                {
                    [HttpGet("")] public async Task<IActionResult> List() => Ok(await db.Reports.ToListAsync());
                }
                """)).Rows;

        Assert.Equal(isOwn, rows.Any(r => r.Contains(" own ", StringComparison.Ordinal)));
    }

    [Theory]
    [InlineData("default_scope { order(:name) }", "all")]
    [InlineData("default_scope { where(gone_at: nil) }", "all")]
    [InlineData("default_scope { where(district_id: Somewhere.district_id) }", "unclear")]
    public void A_default_scope_that_asks_for_nobody(string scope, string rows)
    {
        var result = Audit(
            ("config/routes.rb", "Rails.application.routes.draw do\n  get '/hives', to: 'hives#index'\nend\n"),
            ("app/models/hive.rb", "class Hive < ApplicationRecord\n  " + scope + "\nend\n"),
            ("app/controllers/hives_controller.rb", "class HivesController < ApplicationController\n  def index\n    render json: Hive.limit(5).to_a\n    render json: Hive.all\n  end\nend\n"));

        Assert.All(result.Rows, r => Assert.Contains(" " + rows, r, StringComparison.Ordinal));
        Assert.NotEmpty(result.Rows);
    }

    /// <summary>A record that is handed to code that refuses by a test of which nothing is known may be limited by it: the map does not say "any".</summary>
    [Theory]
    [InlineData("inspection = allow(Inspection.find(params[:id]))", "unclear")]
    [InlineData("inspection = Inspection.find(params[:id])", "chosen")]
    public void A_refusal_that_is_not_understood(string find, string rows)
    {
        var result = Audit(
            ("config/routes.rb", "Rails.application.routes.draw do\n  post '/inspections/:id/close', to: 'inspections#close'\nend\n"),
            ("app/models/inspection.rb", "class Inspection < ApplicationRecord\nend\n"),
            ("app/controllers/inspections_controller.rb", "class InspectionsController < ApplicationController\n  def close\n    " + find + "\n    inspection.update!(state: 'closed')\n    head :ok\n  end\n  private\n  def allow(record)\n    raise Denied unless \"#{record.class.name}Policy\".constantize.new(session[:user_id], record).public_send(\"#{action_name}?\")\n    record\n  end\nend\n"));

        Assert.All(result.Rows.Where(r => r.Contains("inspections", StringComparison.OrdinalIgnoreCase)), r => Assert.Contains(" " + rows, r, StringComparison.Ordinal));
    }

    /// <summary>What a route of Laravel names is called by the framework, whatever class it is in or none.</summary>
    [Theory]
    [InlineData("Route::get('/inspections/{id}', function ($id) { return DB::select(\"SELECT * FROM inspections WHERE id = $id\"); });", "")]
    [InlineData("Route::get('/inspections/{id}', fn (string $id) => DB::select(\"SELECT * FROM inspections WHERE id = $id\"));", "")]
    [InlineData("Route::match(['get', 'post'], '/inspections/{id}', [InspectionPage::class, 'show']);", "show")]
    [InlineData("Route::get('/inspections/{id}', InspectionPage::class);", "__invoke")]
    [InlineData("Route::get('/inspections/{id}', 'InspectionPage@show');", "show")]
    public void What_a_route_names_gets_parts_of_the_path(string route, string method)
    {
        var result = Auditor.Run(
            ("routes/web.php", "<?php\nuse App\\InspectionPage;\nuse Illuminate\\Support\\Facades\\{DB, Route};\n" + route),
            ("app/InspectionPage.php", "<?php\nnamespace App;\nuse Illuminate\\Support\\Facades\\DB;\nclass InspectionPage {\n  public function " + (method.Length > 0 ? method : "other") + "($id) { return DB::select(\"SELECT * FROM inspections WHERE id = $id\"); }\n}\n"));

        Assert.Contains(result.Findings, f => f.CheckId == "injection/sql");
    }
}
