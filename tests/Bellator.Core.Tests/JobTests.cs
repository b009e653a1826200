namespace Bellator.Core.Tests;

/// <summary>
/// Work that queues do later, with what a handler gives it. How it is asked for is the documentation of Laravel's queues, Active Job and
/// Sidekiq, Celery, RQ and Starlette's background tasks, from memory.
/// </summary>
public sealed class JobTests
{
    [Theory]
    [InlineData("NightJob.perform_later(params[:q])", "def perform(q)\n    Hive.where(\"name = '#{q}'\").to_a\n  end")]
    [InlineData("NightJob.perform_async(params[:q])", "def perform(q)\n    Hive.where(\"name = '#{q}'\").to_a\n  end")]
    [InlineData("NightJob.perform_in(5.minutes, params[:q])", "def perform(q)\n    Hive.where(\"name = '#{q}'\").to_a\n  end")]
    public void Ruby(string asking, string work) => Found(
        ("app/jobs/night_job.rb", "class NightJob < ApplicationJob\n  " + work + "\nend\n"),
        ("app/models/hive.rb", "class Hive < ApplicationRecord\nend\n"),
        ("app/controllers/hives_controller.rb", "class HivesController < ApplicationController\n  def create\n    " + asking + "\n    head :accepted\n  end\nend\n"),
        ("config/routes.rb", "Rails.application.routes.draw do\n  resources :hives, only: [:create]\nend\n"));

    [Theory]
    [InlineData("NightJob::dispatch($request->input('q'));")]
    [InlineData("NightJob::dispatchSync($request->input('q'));")]
    [InlineData("NightJob::dispatchIf(true, $request->input('q'));")]
    [InlineData("dispatch(new NightJob($request->input('q')));")]
    [InlineData("\\Illuminate\\Support\\Facades\\Bus::dispatch(new NightJob($request->input('q')));")]
    public void Php(string asking) => Found(
        ("app/Jobs/NightJob.php", "<?php\nnamespace App\\Jobs;\nuse Illuminate\\Support\\Facades\\DB;\nclass NightJob {\n  public function __construct(private string $q) {}\n  public function handle(): void { DB::select(\"SELECT * FROM hives WHERE name = '\" . $this->q . \"'\"); }\n}\n"),
        ("app/Http/Controllers/HiveController.php", "<?php\nnamespace App\\Http\\Controllers;\nuse App\\Jobs\\NightJob;\nuse Illuminate\\Http\\Request;\nclass HiveController extends Controller {\n  public function store(Request $request) { " + asking + " return response()->noContent(); }\n}\n"),
        ("routes/web.php", "<?php\nuse Illuminate\\Support\\Facades\\Route;\nuse App\\Http\\Controllers\\HiveController;\nRoute::post('/hives', [HiveController::class, 'store']);\n"));

    [Theory]
    [InlineData("night.delay(request.form['q'])")]
    [InlineData("night.apply_async(args=[request.form['q']])")]
    [InlineData("night.apply_async([request.form['q']])")]
    [InlineData("queue.enqueue(night, request.form['q'])")]
    [InlineData("pool.submit(night, request.form['q'])")]
    public void Python(string asking) => Found(("app.py", "import sqlite3\nfrom concurrent.futures import ThreadPoolExecutor\nfrom celery import Celery\nfrom flask import Flask, request\napp = Flask(__name__)\ncelery = Celery('night')\npool = ThreadPoolExecutor()\n@celery.task\ndef night(q):\n    sqlite3.connect('hives.db').execute(\"SELECT * FROM hives WHERE name = '\" + q + \"'\")\n@app.post('/hives')\ndef hives():\n    " + asking + "\n    return '', 202\n"));

    private static void Found(params (string Path, string Code)[] files) => Assert.Contains("injection/sql", Auditor.Run(files).Findings.Select(f => f.CheckId));

    /// <summary>Whose records a job reads is what its caller says: a firm that the request may name instead of the person's own.</summary>
    [Theory]
    [InlineData("params.fetch(:firm_id, Current.user.firm_id)", true)]
    [InlineData("params[:firm_id] || Current.user.firm_id", true)]
    [InlineData("params[:firm_id]", true)]
    [InlineData("Current.user.firm_id", false)]
    public void A_job_reads_for_whom_it_is_asked(string firm, bool isWeak)
    {
        var result = Auditor.Run(
            ("db/schema.rb", "ActiveRecord::Schema[7.1].define do\n  create_table \"users\" do |t|\n    t.string \"email\"\n    t.string \"password_digest\"\n    t.bigint \"firm_id\", null: false\n  end\n  create_table \"invoices\" do |t|\n    t.bigint \"firm_id\", null: false\n    t.integer \"cents\"\n  end\nend\n"),
            ("app/models/user.rb", "class User < ApplicationRecord\n  has_secure_password\nend\n"), ("app/models/current.rb", "class Current < ActiveSupport::CurrentAttributes\n  attribute :user\nend\n"), ("app/models/invoice.rb", "class Invoice < ApplicationRecord\nend\n"),
            ("app/jobs/year_job.rb", "class YearJob < ApplicationJob\n  def perform(firm_id, email)\n    lines = Invoice.where(firm_id: firm_id).to_a\n    YearMailer.with(to: email, lines: lines).report.deliver_now\n  end\nend\n"),
            ("app/controllers/application_controller.rb", "class ApplicationController < ActionController::Base\n  before_action :require_login\n  def require_login\n    Current.user = User.find_by(id: session[:user_id])\n    head :unauthorized unless Current.user\n  end\nend\n"),
            ("app/controllers/invoices_controller.rb", "class InvoicesController < ApplicationController\n  def index\n    render json: Invoice.where(firm_id: Current.user.firm_id)\n  end\n  def year\n    YearJob.perform_later(" + firm + ", Current.user.email)\n    head :accepted\n  end\nend\n"),
            ("config/routes.rb", "Rails.application.routes.draw do\n  get '/invoices', to: 'invoices#index'\n  post '/invoices/year', to: 'invoices#year'\nend\n"));
        Assert.Equal(isWeak, result.Findings.Any(f => f.Area == "records"));
    }
}
