namespace Bellator.Core.Tests;

/// <summary>The code of a second step is guessed where nothing counts failed tries; common practice, and ASVS 5.0 V6.3.1 (from memory).</summary>
public sealed class OneTimeCodeTests
{
    private static bool IsUnlimited(params (string Path, string Code)[] files) => Auditor.Run(files).Findings.Any(f => f.CheckId == "sessions/no-throttle");

    [Theory]
    [InlineData("app.post('/code', async (req, res) => {", true)]
    [InlineData("app.post('/code', rateLimit({ windowMs: 60000, limit: 5 }), async (req, res) => {", false)]
    [InlineData("app.post('/code', async (req, res) => { if ((await tries.count(req.session.waiting)) > 5) return res.sendStatus(429);", false)]
    public void In_node(string route, bool isWeak) => Assert.Equal(isWeak, IsUnlimited(("app.js", $$"""
        import express from 'express';
        import rateLimit from 'express-rate-limit';
        import { authenticator } from 'otplib';
        import { tries, keepers } from './store.js';
        const app = express();
        {{route}}
          const keeper = await keepers.find(req.session.waiting);
          if (!authenticator.verify({ token: req.body.code, secret: keeper.otpSecret })) return res.sendStatus(401);
          req.session.keeperId = keeper.id;
          res.sendStatus(204);
        });
        """)));

    [Theory]
    [InlineData("", true)]
    [InlineData("@limiter.limit(\"5 per minute\")\n", false)]
    public void In_flask(string mark, bool isWeak) => Assert.Equal(isWeak, IsUnlimited(("app.py", $$"""
        import pyotp
        from flask import Flask, abort, request, session
        from flask_limiter import Limiter
        from store import keepers

        app = Flask(__name__)
        limiter = Limiter(lambda: session.get("waiting"), app=app)


        @app.post("/code")
        {{mark}}def code():
            keeper = keepers.find(session["waiting"])
            if not pyotp.TOTP(keeper.otp_secret).verify(request.form["code"]):
                abort(401)
            session["keeper_id"] = keeper.id
            return "", 204
        """)));

    [Theory]
    [InlineData("", true)]
    [InlineData("  rate_limit to: 5, within: 1.minute, only: :create\n", false)]
    public void In_rails(string limit, bool isWeak) => Assert.Equal(isWeak, IsUnlimited(
        ("config/routes.rb", "Rails.application.routes.draw do\n  resource :code, only: [:new, :create]\nend\n"),
        ("app/models/keeper.rb", "class Keeper < ApplicationRecord\n  def code?(code)\n    ROTP::TOTP.new(otp_secret).verify(code.to_s, drift_behind: 20)\n  end\nend\n"),
        ("app/controllers/codes_controller.rb", "class CodesController < ApplicationController\n" + limit + "  def new\n  end\n\n  def create\n    keeper = Keeper.find(session[:waiting])\n    return head(:unauthorized) unless keeper.code?(params[:code])\n\n    session[:keeper_id] = keeper.id\n    redirect_to \"/\"\n  end\nend\n")));
}
