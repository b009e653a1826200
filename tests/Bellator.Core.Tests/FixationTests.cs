namespace Bellator.Core.Tests;

/// <summary>
/// Whoever is signed in gets a new session id, however they are signed in (CWE-384; OWASP ASVS 5.0, V7.2.4, from memory): by a password, by
/// registering, by a link that confirms an address. Devise's sign_in renews it, an application's own of the same name may not.
/// </summary>
public sealed class FixationTests
{
    private const string Routes = "Rails.application.routes.draw do\n  resource :session, only: [:create]\n  get \"confirm\", to: \"confirmations#show\"\nend\n";
    private const string Model = "class Keeper < ApplicationRecord\n  has_secure_password\nend\n";
    private const string Tables = "ActiveRecord::Schema.define do\n  create_table \"keepers\" do |t|\n    t.string \"email\"\n    t.string \"password_digest\"\n    t.string \"confirm_token\"\n  end\nend\n";
    private const string SignIn = "class SessionsController < ApplicationController\n  def create\n    keeper = Keeper.find_by(email: params[:email])\n    if keeper&.authenticate(params[:password])\n      sign_in(keeper)\n      redirect_to root_path\n    end\n  end\nend\n";

    [Theory]
    [InlineData("class ApplicationController < ActionController::Base\n  def sign_in(keeper)\n    session[:keeper_id] = keeper.id\n  end\nend\n" + SignIn, true)]
    [InlineData("class ApplicationController < ActionController::Base\n  def sign_in(keeper)\n    reset_session\n    session[:keeper_id] = keeper.id\n  end\nend\n" + SignIn, false)]
    [InlineData("class ApplicationController < ActionController::Base\nend\n" + SignIn, false)]
    [InlineData("class ConfirmationsController < ActionController::Base\n  def show\n    keeper = Keeper.find_by(confirm_token: params[:token])\n    session[:keeper_id] = keeper.id\n    redirect_to root_path\n  end\nend\n", true)]
    [InlineData("class ConfirmationsController < ActionController::Base\n  def show\n    keeper = Keeper.find_by(confirm_token: params[:token])\n    session[:pending_keeper_id] = keeper.id\n    redirect_to root_path\n  end\nend\n", false)]
    [InlineData("class ConfirmationsController < ActionController::Base\n  def show\n    session[:place] = params[:place]\n    redirect_to root_path\n  end\nend\n", false)]
    public void In_Rails(string code, bool isWeak) => Check(isWeak, ("config/routes.rb", Routes), ("db/schema.rb", Tables), ("app/models/keeper.rb", Model), ("app/controllers/a.rb", code));

    [Theory]
    [InlineData("$_SESSION['keeper_id'] = $id;", true)]
    [InlineData("session_regenerate_id(true); $_SESSION['keeper_id'] = $id;", false)]
    [InlineData("$_SESSION['notice'] = 'Thank you.';", false)]
    public void By_registering_in_PHP(string after, bool isWeak) => Check(isWeak, ("schema.sql", "CREATE TABLE keepers (id int PRIMARY KEY AUTO_INCREMENT, email varchar(200) UNIQUE, password_hash varchar(255));"),
        ("register.php", "<?php session_start(); $db = new PDO('sqlite::memory:'); $s = $db->prepare('INSERT INTO keepers (email, password_hash) VALUES (?, ?)'); $s->execute([$_POST['email'], password_hash($_POST['password'], PASSWORD_ARGON2ID)]); $id = $db->lastInsertId(); " + after + " header('Location: /'); exit;"));

    [Theory]
    [InlineData("$request->session()->put('keeper_id', $keeper->id); $token = $keeper->createToken('desk');", true)]
    [InlineData("$request->session()->regenerate(); $request->session()->put('keeper_id', $keeper->id);", false)]
    public void In_Laravel(string after, bool isWeak) => Check(isWeak,
        ("schema.sql", "CREATE TABLE keepers (id int PRIMARY KEY, email varchar(200) UNIQUE, password varchar(255));"),
        ("routes/web.php", "<?php use Illuminate\\Support\\Facades\\Route; use App\\Http\\Controllers\\LoginController; Route::post('/login', [LoginController::class, 'login']);"),
        ("app/Models/Keeper.php", "<?php namespace App\\Models; use Illuminate\\Foundation\\Auth\\User as Authenticatable; class Keeper extends Authenticatable { protected $fillable = ['email', 'password']; }"),
        ("app/Http/Controllers/LoginController.php", "<?php namespace App\\Http\\Controllers; use App\\Models\\Keeper; use Illuminate\\Http\\Request; use Illuminate\\Support\\Facades\\Hash; class LoginController extends Controller { public function login(Request $request) { $keeper = Keeper::where('email', $request->input('email'))->first(); if ($keeper === null || ! Hash::check($request->input('password'), $keeper->password)) { return response()->json(['message' => 'No.'], 422); } " + after + " return response()->json([]); } }"));

    private static void Check(bool isWeak, params (string Path, string Code)[] files) =>
        Assert.Equal(isWeak, Auditor.Run(files).Findings.Any(f => f.CheckId == "sessions/fixation"));
}
