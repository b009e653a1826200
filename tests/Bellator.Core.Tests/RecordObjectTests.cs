using Bellator.Audit.Auditing;

namespace Bellator.Core.Tests;

/// <summary>
/// Records as objects of the program's own classes: methods on what was fetched, what runs when a member is set or read, and when a
/// record is written. The forms are those of the frameworks' documentation, from memory.
/// </summary>
public sealed class RecordObjectTests
{
    private const string Schema = """
        ActiveRecord::Schema.define(version: 1) do
          create_table "keepers" do |t|
            t.string "email"
            t.string "password_digest", limit: 60
            t.string "role"
          end
        end
        """;

    private const string Routes = """
        Rails.application.routes.draw do
          post '/join', to: 'keepers#create'
          patch '/keeper', to: 'keepers#update'
        end
        """;

    private const string Joining = """
        class KeepersController < ActionController::Base
          def create
            keeper = Keeper.new(email: params[:email])
            keeper.password = params[:password]
            redirect_to '/' if keeper.save
          end
        end
        """;

    [Fact]
    public void A_setter_of_a_class_runs_when_its_member_is_assigned()
    {
        var result = Rails(
            """
            class Keeper < ActiveRecord::Base
              def secret=(typed)
                self.password_digest = Digest::MD5.hexdigest(typed)
              end
            end
            """,
            """
            class KeepersController < ActionController::Base
              def create
                keeper = Keeper.new(email: params[:email])
                keeper.secret = params[:password]
                redirect_to '/' if keeper.save
              end
            end
            """);
        Assert.Equal(["passwords/fast-hash keeper.rb:3"], Found(result));
        Assert.Equal("traced", Certainty(result, "passwords/fast-hash"));
    }

    [Fact]
    public void A_hook_runs_when_the_record_is_written()
    {
        var result = Rails(
            """
            class Keeper < ActiveRecord::Base
              attr_accessor :password
              before_save :make_digest
              private
              def make_digest
                self.password_digest = Digest::SHA256.hexdigest(password)
              end
            end
            """,
            Joining);
        Assert.Equal(["passwords/column-too-narrow schema.rb:4", "passwords/fast-hash keeper.rb:6"], Found(result));
        var register = Assert.Single(result.Accounts.Journeys, j => j.Kind == "register");
        Assert.Equal(("absent", "sha256, no salt"), (register.Steps.Single(s => s.Name == "hashed").State, register.Steps.Single(s => s.Name == "hashed").Text));
    }

    [Fact]
    public void A_hook_with_a_slow_hash_is_no_weakness()
    {
        var result = Rails(
            """
            class Keeper < ActiveRecord::Base
              attr_accessor :password
              before_save :make_digest
              validates :password, length: { minimum: 12 }
              private
              def make_digest
                self.password_digest = BCrypt::Password.create(password, cost: 12)
              end
            end
            """,
            Joining);
        Assert.Empty(Found(result));
        Assert.Equal("shown", result.Accounts.Journeys.Single(j => j.Kind == "register").Steps.Single(s => s.Name == "hashed").State);
    }

    [Fact]
    public void Methods_of_what_was_fetched_are_those_of_its_class()
    {
        var result = Rails(
            """
            class Keeper < ActiveRecord::Base
              has_many :hives
              def rename(to)
                ActiveRecord::Base.connection.execute("UPDATE keepers SET email = '#{to}' WHERE id = #{id.to_i}")
              end
            end
            class Hive < ActiveRecord::Base
              belongs_to :keeper
            end
            """,
            """
            class KeepersController < ActionController::Base
              def update
                Keeper.find(session[:keeper_id]).rename(params[:email])
              end
            end
            """);
        Assert.Equal(["injection/sql keeper.rb:4"], Found(result));
    }

    [Fact]
    public void Related_records_are_of_the_class_that_the_mark_names()
    {
        var result = Rails(
            """
            class Keeper < ActiveRecord::Base
              def rename(to)
                ActiveRecord::Base.connection.execute("UPDATE keepers SET email = '#{to}'")
              end
            end
            class Hive < ActiveRecord::Base
              belongs_to :owner, class_name: 'Keeper'
            end
            """,
            """
            class KeepersController < ActionController::Base
              def update
                hive = Hive.find_by(id: params[:id])
                hive.owner.rename(params[:email])
              end
            end
            """);
        Assert.Equal(["injection/sql keeper.rb:3"], Found(result));
    }

    [Theory]
    [InlineData("keeper = Keeper.new(email: params[:email]); keeper.role = 'keeper'; keeper.save", "create keepers: email, role")]
    [InlineData("Keeper.create(email: params[:email])", "create keepers: email")]
    [InlineData("keeper = Keeper.find(params[:id]); keeper.save", "edit keepers: ; view keepers: ")]
    [InlineData("keeper = Keeper.new; render plain: keeper.email", "")]
    public void What_is_only_made_is_not_written(string code, string expected)
    {
        var entry = Rails("class Keeper < ActiveRecord::Base\nend", $"class KeepersController < ActionController::Base\n  def create\n    {code}\n  end\nend").Surface.Entries.Single(e => e.Path == "/join");
        Assert.Equal(expected, string.Join("; ", entry.Accesses.Select(a => $"{a.Action} {a.Table}: {string.Join(", ", a.Columns)}").Order(StringComparer.Ordinal)));
    }

    [Fact]
    public void Classes_that_derive_from_one_another_share_a_table()
    {
        var result = Rails(
            """
            class Person < ActiveRecord::Base
              self.table_name = "#{table_name_prefix}keepers"
            end
            class Keeper < Person
            end
            class Guest < Keeper
            end
            """,
            """
            class KeepersController < ActionController::Base
              def create
                Guest.create(email: params[:email])
                @all = Person.where(role: 'x')
              end
            end
            """);
        Assert.Equal(["keepers"], result.Surface.Entries.Single(e => e.Path == "/join").Accesses.Select(a => a.Table).Distinct());
    }

    [Fact]
    public void Laravel_mutators_run_when_an_attribute_is_set()
    {
        var result = Auditor.Run(("app/Models/Keeper.php", """
            <?php
            namespace App\Models;
            use Illuminate\Database\Eloquent\Model;
            class Keeper extends Model {
                public function setPasswordAttribute($value) { $this->attributes['password'] = md5($value); }
            }
            """), ("app/Http/Controllers/KeeperController.php", """
            <?php
            namespace App\Http\Controllers;
            use App\Models\Keeper;
            use Illuminate\Http\Request;
            class KeeperController {
                public function store(Request $request) {
                    $keeper = new Keeper();
                    $keeper->password = $request->input('password');
                    $keeper->save();
                }
            }
            """), ("routes/web.php", """
            <?php
            use Illuminate\Support\Facades\Route;
            Route::post('/join', [App\Http\Controllers\KeeperController::class, 'store']);
            """));
        Assert.Contains("passwords/fast-hash Keeper.php:5", Found(result));
        Assert.Equal("traced", Certainty(result, "passwords/fast-hash"));
    }

    [Theory]
    [InlineData("@property\n    def table(self):\n        return self._table\n", "statement.table")]
    [InlineData("@cached_property\n    def table(self):\n        return self._table\n", "statement.table")]
    [InlineData("def table(self):\n        return self._table\n", "statement.table()")]
    public void Reading_a_property_of_a_Python_object_runs_its_function(string member, string read)
    {
        var result = Auditor.Run(("app.py", $$"""
            import sqlite3
            from functools import cached_property
            from flask import Flask, request
            app = Flask(__name__)
            class Statement:
                def __init__(self, table):
                    self._table = table
                {{member}}
            @app.get('/rows')
            def rows():
                statement = Statement(request.args['table'])
                return str(sqlite3.connect('x.db').execute("SELECT * FROM " + {{read}}).fetchall())
            """));
        Assert.Contains(result.Findings, f => f.CheckId == "injection/sql");
    }

    [Fact]
    public void Setting_a_property_of_a_Python_object_runs_its_function()
    {
        var result = Auditor.Run(("app.py", """
            import hashlib
            from flask import Flask, request
            app = Flask(__name__)
            class Keeper:
                @property
                def password(self):
                    raise AttributeError('write only')
                @password.setter
                def password(self, typed):
                    self.password_hash = hashlib.sha1(typed.encode()).hexdigest()
            @app.post('/join')
            def join():
                keeper = Keeper()
                keeper.password = request.form['password']
                return 'done'
            """));
        Assert.Contains("passwords/fast-hash app.py:10", Found(result));
        Assert.Equal("traced", Certainty(result, "passwords/fast-hash"));
    }

    [Theory]
    [InlineData("class Filter { constructor(q) { this.q = q; } get clause() { return \"name = '\" + this.q + \"'\"; } }", "new Filter(req.query.name).clause", true)]
    [InlineData("class Filter { constructor(q) { this.q = q; } get clause() { return 'name = ' + Number(this.q); } }", "new Filter(req.query.name).clause", false)]
    [InlineData("const texts = { get all() { return '1 = 1'; } };", "texts.all", false)]
    public void Reading_an_accessor_in_JavaScript_runs_it(string declared, string read, bool weak)
    {
        var found = Auditor.Js(declared + $"\napp.get('/keepers', async (req, res) => {{ res.json((await pool.query('SELECT * FROM keepers WHERE ' + {read})).rows); }});");
        Assert.Equal(weak, found.Any(f => f.StartsWith("injection/sql", StringComparison.Ordinal)));
    }

    [Fact]
    public void Setting_an_accessor_in_JavaScript_runs_it()
    {
        var found = Auditor.Js("""
            class Keeper {
              set password(typed) { this.hash = crypto.createHash('md5').update(typed).digest('hex'); }
            }
            app.post('/join', (req, res) => { const keeper = new Keeper(); keeper.password = req.body.password; res.sendStatus(204); });
            """);
        Assert.Contains("passwords/fast-hash@3", found);
    }

    [Fact]
    public void Setting_a_property_in_CSharp_runs_its_accessor()
    {
        var result = Auditor.Run(("Program.cs", """
            using System.Security.Cryptography;
            using System.Text;
            var app = WebApplication.CreateBuilder(args).Build();
            app.MapPost("/join", (JoinForm form) => { var keeper = new Keeper(); keeper.Password = form.Password; return Results.Ok(); });
            app.Run();
            public record JoinForm(string Email, string Password);
            public class Keeper
            {
                private string _hash = "";
                public string Password { get { return _hash; } set { _hash = Convert.ToHexString(MD5.HashData(Encoding.UTF8.GetBytes(value))); } }
            }
            """));
        Assert.Contains("passwords/fast-hash Program.cs:10", Found(result));
        Assert.Equal("traced", Certainty(result, "passwords/fast-hash"));
    }

    private static AuditResult Rails(string models, string controllers) => Auditor.Run(
        ("app/models/keeper.rb", models), ("app/controllers/keepers_controller.rb", controllers), ("config/routes.rb", Routes), ("db/schema.rb", Schema));

    private static List<string> Found(AuditResult result) =>
        [.. result.Findings.Where(f => f.Area is "injection" or "passwords").Select(f => $"{f.CheckId} {f.Path[(f.Path.LastIndexOf('/') + 1)..]}:{f.Region.StartLine}").Order(StringComparer.Ordinal)];

    private static string Certainty(AuditResult result, string check) => result.Findings.First(f => f.CheckId == check).Certainty.ToString().ToLowerInvariant();
}
