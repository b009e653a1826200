namespace Bellator.Core.Tests;

/// <summary>
/// Ways out that leave something good behind, in code that exchanges the remembered token on every page, signs its cookies, or keeps its sessions
/// on the server. That signing out ends what the server keeps is OWASP ASVS 5.0, V7.4.1, from memory.
/// </summary>
public sealed class WayOutTests
{
    private const string Schema = """
        CREATE TABLE members (id int PRIMARY KEY, email varchar(200) NOT NULL UNIQUE, password_hash varchar(255) NOT NULL);
        CREATE TABLE keep_tokens (selector varchar(40) PRIMARY KEY, token_hash varchar(64) NOT NULL, member_id int NOT NULL REFERENCES members, ends_at timestamp NOT NULL);
        """;

    /// <summary>Each page resumes, and gives a new token for the old one: that takes a row away, and is no way out.</summary>
    private const string Start = """
        <?php
        session_start();
        $db = new PDO('mysql:x');
        function give(PDO $db, int $member): void {
          $selector = bin2hex(random_bytes(12)); $token = bin2hex(random_bytes(32));
          $db->prepare('INSERT INTO keep_tokens (selector, token_hash, member_id, ends_at) VALUES (?, ?, ?, NOW() + INTERVAL 30 DAY)')->execute([$selector, hash('sha256', $token), $member]);
          setcookie('keep', "$selector.$token", ['expires' => time() + 2592000, 'httponly' => true, 'secure' => true, 'samesite' => 'Lax']);
        }
        function resume(PDO $db): void {
          if (isset($_SESSION['member']) || !isset($_COOKIE['keep'])) { return; }
          [$selector, $token] = explode('.', $_COOKIE['keep']) + ['', ''];
          $found = $db->prepare('SELECT member_id, token_hash FROM keep_tokens WHERE selector = ? AND ends_at > NOW()'); $found->execute([$selector]); $row = $found->fetch();
          $db->prepare('DELETE FROM keep_tokens WHERE selector = ?')->execute([$selector]);
          if ($row && hash_equals($row['token_hash'], hash('sha256', $token))) { session_regenerate_id(true); $_SESSION['member'] = $row['member_id']; give($db, $row['member_id']); }
        }
        function forget(PDO $db): void {
          $db->prepare('DELETE FROM keep_tokens WHERE selector = ?')->execute([explode('.', $_COOKIE['keep'] ?? '')[0]]);
        }
        resume($db);
        """;

    [Theory]
    [InlineData("setcookie('keep', '', 1); $_SESSION = []; session_destroy();", true)]
    [InlineData("forget($db); setcookie('keep', '', 1); $_SESSION = []; session_destroy();", false)]
    [InlineData("$db->prepare('DELETE FROM keep_tokens WHERE member_id = ?')->execute([$_SESSION['member']]); setcookie('keep', '', 1); session_destroy();", false)]
    public void A_token_that_each_page_exchanges_is_ended_by_the_way_out_alone(string leaving, bool isWeak)
    {
        var pages = Enumerable.Range(1, 5).Select(i => ($"page{i}.php", "<?php require 'start.php'; echo 'hives';"));
        var found = Auditor.Run([("schema.sql", Schema), ("start.php", Start), ("login.php", "<?php require 'start.php'; $q = $db->prepare('SELECT id, password_hash FROM members WHERE email = ?'); $q->execute([$_POST['email']]); $row = $q->fetch(); if ($row && password_verify($_POST['password'], $row['password_hash'])) { session_regenerate_id(true); $_SESSION['member'] = $row['id']; give($db, $row['id']); }"),
            ("logout.php", "<?php require 'start.php'; if ($_SERVER['REQUEST_METHOD'] !== 'POST') { exit; }\n" + leaving), .. pages]).Findings.Where(f => f.CheckId == "sessions/sign-out-incomplete").ToList();
        Assert.Equal(isWeak, found.Exists(f => f.Message.Contains("keep_tokens", StringComparison.Ordinal)));
        Assert.All(found, f => Assert.Equal("logout.php", f.Path));
    }

    private const string Rails = """
        class KeepToken < ApplicationRecord
          belongs_to :user
          def self.digest(token) = Digest::SHA256.hexdigest(token.to_s)
          def self.claim(token)
            where("ends_at > ?", Time.current).find_by(digest: digest(token))&.destroy&.user
          end
        end
        class User < ApplicationRecord
          has_secure_password
        end
        """;

    [Theory]
    [InlineData("cookies.delete(:keep)\n    reset_session", true)]
    [InlineData("KeepToken.claim(cookies.signed[:keep])\n    cookies.delete(:keep)\n    reset_session", false)]
    [InlineData("KeepToken.where(user: Current.user).destroy_all\n    cookies.delete(:keep)\n    reset_session", false)]
    public void A_row_that_a_signed_cookie_names_is_ended(string leaving, bool isWeak)
    {
        const string Schema = "ActiveRecord::Schema[7.1].define do\n  create_table \"users\" do |t|\n    t.string \"email\"\n    t.string \"password_digest\"\n  end\n  create_table \"keep_tokens\" do |t|\n    t.bigint \"user_id\", null: false\n    t.string \"digest\"\n    t.datetime \"ends_at\"\n  end\nend\n";
        var controllers = "class ApplicationController < ActionController::Base\n  before_action :resume\n  def resume\n    Current.user = User.find_by(id: session[:user_id]) || (cookies.signed[:keep] && KeepToken.claim(cookies.signed[:keep]))\n  end\nend\nclass SessionsController < ApplicationController\n  def create\n    user = User.authenticate_by(email: params[:email].to_s, password: params[:password].to_s)\n    return head(:unauthorized) unless user\n    reset_session\n    session[:user_id] = user.id\n    redirect_to root_path\n  end\n  def destroy\n    "
            + leaving + "\n    redirect_to root_path\n  end\nend\n";
        var found = Auditor.Run(("db/schema.rb", Schema), ("app/models/user.rb", Rails), ("app/controllers/sessions_controller.rb", controllers), ("config/routes.rb", "Rails.application.routes.draw do\n  resource :session, only: [:create, :destroy]\nend\n")).Findings.Select(f => f.CheckId).ToList();
        Assert.Equal(isWeak, found.Contains("sessions/sign-out-incomplete"));
        Assert.DoesNotContain("sessions/kept-credential-lasting", found);
    }

    [Theory]
    [InlineData("res.clearCookie('connect.sid'); res.redirect('/');", true)]
    [InlineData("req.session.destroy(() => { res.clearCookie('connect.sid'); res.redirect('/'); });", false)]
    [InlineData("endSession(req, res);", false)]
    public void Clearing_the_cookie_of_a_session_on_the_server_ends_nothing(string leaving, bool isWeak)
    {
        var code = "const express = require('express'); const session = require('express-session'); const bcrypt = require('bcrypt'); const { endSession } = require('club-sessions'); const { Pool } = require('pg'); const pool = new Pool(); const app = express();\n"
            + "app.use(session({ secret: process.env.SESSION_SECRET, resave: false, saveUninitialized: false, store }));\n"
            + "app.post('/sign-in', async (req, res) => { const { rows } = await pool.query('SELECT id, password_hash FROM members WHERE email = $1', [req.body.email]); if (!rows[0] || !(await bcrypt.compare(req.body.password, rows[0].password_hash))) { return res.sendStatus(401); } req.session.regenerate(() => { req.session.member = rows[0].id; res.redirect('/'); }); });\n"
            + "app.post('/logout', async (req, res) => { " + leaving + " });\n";
        var found = Auditor.Run(("app.js", code)).Findings.Select(f => f.CheckId).ToList();
        Assert.Equal(isWeak, found.Contains("sessions/sign-out-incomplete"));
    }
}
