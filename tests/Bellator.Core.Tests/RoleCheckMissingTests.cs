namespace Bellator.Core.Tests;

/// <summary>One action that was left out of those that ask for a role (CWE-862). What stands beside it is the evidence. Common practice.</summary>
public sealed class RoleCheckMissingTests
{
    private const string Tables = """
        CREATE TABLE users (id int PRIMARY KEY, email text NOT NULL, password text NOT NULL, role text NOT NULL, inspector boolean NOT NULL, newsletter boolean NOT NULL);
        CREATE TABLE treatments (id int PRIMARY KEY, name text, dose int, member_id int);
        """;

    private static string Rails(string filters, string test = "head :forbidden unless current_user.inspector?") => $$"""
        class TreatmentsController < ApplicationController
          before_action :require_sign_in
          {{filters}}
          def index
            @treatments = Treatment.order(:name)
          end
          def create
            Treatment.create!(params.require(:treatment).permit(:name))
          end
          def update
            Treatment.find(params[:id]).update!(params.require(:treatment).permit(:name))
          end
          def destroy
            Treatment.find(params[:id]).destroy!
          end
          private
          def require_sign_in
            redirect_to "/sign-in" unless current_user
          end
          def require_inspector
            {{test}}
          end
          def current_user
            User.find_by(id: session[:user_id])
          end
        end
        """;

    [Theory]
    [InlineData("before_action :require_inspector, only: %i[create update]", true)]
    [InlineData("before_action :require_inspector, only: %i[index update create]", true)]
    [InlineData("before_action :require_inspector, except: %i[index destroy]", true)]
    [InlineData("before_action :require_inspector, except: :index", false)]
    [InlineData("before_action :require_inspector", false)]
    [InlineData("before_action :require_inspector, only: :destroy", false)]
    [InlineData("", false)]
    public void An_action_that_a_filter_leaves_out(string filters, bool isWeak) => Check(isWeak, ("app/controllers/treatments_controller.rb", Rails(filters)),
        ("config/routes.rb", "Rails.application.routes.draw do\n  resources :treatments, only: %i[index create update destroy]\nend\n"), ("app/models/treatment.rb", "class Treatment < ApplicationRecord\nend\n"), ("app/models/user.rb", "class User < ApplicationRecord\nend\n"), ("schema.sql", Tables));

    /// <summary>What is asked must be who the person is: whether the account is confirmed, or what the person wants, is no role.</summary>
    [Theory]
    [InlineData("head :forbidden unless current_user.role == 'inspector'", true)]
    [InlineData("head :forbidden unless current_user.newsletter?", false)]
    [InlineData("head :forbidden unless current_user", false)]
    public void What_counts_as_a_role(string test, bool isWeak) => Check(isWeak, ("app/controllers/treatments_controller.rb", Rails("before_action :require_inspector, only: %i[create update]", test)),
        ("config/routes.rb", "Rails.application.routes.draw do\n  resources :treatments, only: %i[index create update destroy]\nend\n"), ("app/models/treatment.rb", "class Treatment < ApplicationRecord\nend\n"), ("app/models/user.rb", "class User < ApplicationRecord\nend\n"), ("schema.sql", Tables));

    private const string App = """
        const router = require('express').Router(); const { Pool } = require('pg'); const pool = new Pool();
        const known = async (req, res, next) => { const { rows } = await pool.query('SELECT id, role FROM users WHERE id = $1', [req.session.userId]); if (!rows[0]) { return res.sendStatus(401); } req.user = rows[0]; next(); };
        const inspector = (req, res, next) => { if (req.user.role !== 'inspector') { return res.sendStatus(403); } next(); };
        router.post('/treatments', known, inspector, async (req, res) => { await pool.query('INSERT INTO treatments (name) VALUES ($1)', [req.body.name]); res.end(); });
        router.put('/treatments/:id', known, inspector, async (req, res) => { await pool.query('UPDATE treatments SET name = $1 WHERE id = $2', [req.body.name, req.params.id]); res.end(); });

        """;

    [Theory]
    [InlineData("router.delete('/treatments/:id', known, async (req, res) => { await pool.query('DELETE FROM treatments WHERE id = $1', [req.params.id]); res.end(); });", true)]
    [InlineData("router.delete('/treatments/:id', known, inspector, async (req, res) => { await pool.query('DELETE FROM treatments WHERE id = $1', [req.params.id]); res.end(); });", false)]
    [InlineData("router.delete('/treatments/:id', known, async (req, res) => { await pool.query('DELETE FROM treatments WHERE id = $1 AND member_id = $2', [req.params.id, req.user.id]); res.end(); });", false)]
    [InlineData("router.delete('/treatments/:id', known, async (req, res) => { if (req.user.role !== 'inspector') { return res.sendStatus(403); } await pool.query('DELETE FROM treatments WHERE id = $1', [req.params.id]); res.end(); });", false)]
    [InlineData("router.get('/treatments', known, async (req, res) => { res.json((await pool.query('SELECT id, name FROM treatments')).rows); });", false)]
    public void A_route_beside_others(string route, bool isWeak) => Check(isWeak, ("schema.sql", Tables), ("treatments.js", App + route + "\nmodule.exports = router;"), ("app.js", "const app = require('express')(); app.use('/api', require('./treatments'));"));

    [Theory]
    [InlineData("new Middleware('role:inspector', only: ['store', 'update'])", true)]
    [InlineData("new Middleware('role:inspector', except: ['index'])", false)]
    [InlineData("new Middleware('role:inspector')", false)]
    public void Guards_that_a_class_of_Laravel_states(string guard, bool isWeak) => Check(
        isWeak,
        ("schema.sql", Tables),
        ("routes/web.php", "<?php\nuse App\\Http\\Controllers\\TreatmentController;\nuse Illuminate\\Support\\Facades\\Route;\nRoute::middleware('auth')->group(function () { Route::resource('treatments', TreatmentController::class)->only(['index', 'store', 'update', 'destroy']); });"),
        ("app/Models/Treatment.php", "<?php\nnamespace App\\Models;\nuse Illuminate\\Database\\Eloquent\\Model;\nclass Treatment extends Model {}"),
        ("app/Http/Controllers/TreatmentController.php", $$"""
            <?php
            namespace App\Http\Controllers;
            use App\Models\Treatment;
            use Illuminate\Http\Request;
            use Illuminate\Routing\Controllers\{HasMiddleware, Middleware};
            class TreatmentController extends Controller implements HasMiddleware {
                public static function middleware(): array { return [{{guard}}]; }
                public function index() { return Treatment::orderBy('name')->get(); }
                public function store(Request $request) { return Treatment::create($request->validate(['name' => 'required'])); }
                public function update(Request $request, Treatment $treatment) { $treatment->update($request->validate(['name' => 'required'])); return $treatment; }
                public function destroy(Treatment $treatment) { $treatment->delete(); return back(); }
            }
            """));

    /// <summary>Routes within blocks of a resource of Rails are those of one record, or of all of them.</summary>
    [Theory]
    [InlineData("resources :hives, only: :index do\n    member do\n      post :seal\n    end\n  end", "POST /hives/{id}/seal")]
    [InlineData("resources :hives, only: :index do\n    member { post :seal }\n  end", "POST /hives/{id}/seal")]
    [InlineData("resources :hives do\n    collection do\n      get :export\n    end\n  end", "GET /hives/export")]
    [InlineData("resources :hives do\n    get :export, on: :collection\n  end", "GET /hives/export")]
    [InlineData("resources :hives do\n    collection { get :export }\n    member { post :seal }\n  end", "POST /hives/{id}/seal")]
    public void Routes_within_a_resource(string routes, string expected)
    {
        var entries = Auditor.Run(("config/routes.rb", "Rails.application.routes.draw do\n  " + routes + "\nend\n"), ("app/controllers/hives_controller.rb", "class HivesController < ApplicationController\n  def index; end\n  def seal; end\n  def export; end\nend\n")).Surface.Entries;

        Assert.Contains(expected, entries.Select(e => $"{e.Method} {e.Path}"));
    }

    /// <summary>The controller of a resource by its option; where there is none of the name, nothing is known of what it asks for.</summary>
    [Theory]
    [InlineData("resources :seals, controller: 'hives', only: :index do\n    collection { get :export }\n  end", "GET /seals HivesController.index notNeeded", "GET /seals/export HivesController.export notNeeded")]
    [InlineData("resources :seals, :controller => 'hives', only: :index", "GET /seals HivesController.index notNeeded", null)]
    [InlineData("resource :seal, controller: 'hives', only: :show", "GET /seal HivesController.show notNeeded", null)]
    [InlineData("resources :frames, only: :index", "GET /frames index unclear", null)]
    public void The_controller_of_a_resource(string routes, string expected, string? second)
    {
        var entries = Auditor.Run(("config/routes.rb", "Rails.application.routes.draw do\n  " + routes + "\nend\n"), ("app/controllers/hives_controller.rb", "class HivesController < ApplicationController\n  def index; end\n  def show; end\n  def export; end\nend\n")).Surface.Entries.Select(e => $"{e.Method} {e.Path} {e.Handler} {e.SignIn}").ToList();

        Assert.Contains(expected, entries);
        Assert.True(second is null || entries.Contains(second));
    }

    private static void Check(bool isWeak, params (string, string)[] files) => Assert.Equal(isWeak, Auditor.Run(files).Findings.Any(f => f.CheckId == "records/role-check-missing"));
}
