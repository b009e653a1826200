namespace Bellator.Core.Tests;

/// <summary>
/// What a framework leaves unprotected unless it is told otherwise (CWE-614, CWE-1275). The defaults are those of the projects' documentation, from
/// memory: Flask and Django send session cookies over plain HTTP, ASP.NET Core's AddSession has SecurePolicy None, Rails before 6.1 no SameSite.
/// </summary>
public sealed class UnsetSettingTests
{
    private const string Flask = """
        from flask import Flask, session, request
        app = Flask(__name__)
        SETUP
        @app.post("/sign-in")
        def sign_in():
            session["member_id"] = 3
            return "ok"
        """;

    [Theory]
    [InlineData("app.secret_key = load_key()", true)]
    [InlineData("app.config['SECRET_KEY'] = load_key()\napp.config['SESSION_COOKIE_HTTPONLY'] = True", true)]
    [InlineData("app.config['SESSION_COOKIE_SECURE'] = True", false)]
    [InlineData("app.config.update(SECRET_KEY=load_key(), SESSION_COOKIE_SECURE=True)", false)]
    [InlineData("app.config.from_mapping({'SESSION_COOKIE_SECURE': True})", false)]
    [InlineData("app.config['SESSION_COOKIE_SECURE'] = os.environ.get('PLAIN') != '1'", false)]
    [InlineData("app.config.from_prefixed_env()", false)]
    [InlineData("Talisman(app)", false)]
    public void Flask_s_session(string setup, bool isWeak) => Check("sessions/cookie-not-secure", isWeak, ("app.py", Flask.Replace("SETUP", setup, StringComparison.Ordinal)));

    [Fact]
    public void Settings_of_another_file_count_and_a_program_without_sessions_needs_none()
    {
        Check("sessions/cookie-not-secure", false, ("app.py", Flask.Replace("SETUP", "app.config.from_object('settings.Live')", StringComparison.Ordinal)), ("settings.py", "class Live:\n    SESSION_COOKIE_SECURE = True\n"));
        Check("sessions/cookie-not-secure", true, ("app.py", Flask.Replace("SETUP", "app.config.from_object('settings.Live')", StringComparison.Ordinal)), ("settings.py", "class Live:\n    SESSION_COOKIE_NAME = 'fern'\n"));
        Check("sessions/cookie-not-secure", false, ("app.py", "from flask import Flask\napp = Flask(__name__)\n@app.get('/')\ndef home():\n    return 'ok'\n"));
    }

    [Theory]
    [InlineData("", true)]
    [InlineData("SESSION_COOKIE_SECURE = True", false)]
    public void Django_s_session(string line, bool isWeak) =>
        Check("sessions/cookie-not-secure", isWeak, ("register/settings.py", "SECRET_KEY = load_key()\nMIDDLEWARE = [\n    'django.contrib.sessions.middleware.SessionMiddleware',\n]\n" + line + "\n"));

    [Theory]
    [InlineData("builder.Services.AddSession(options => { options.Cookie.Name = \"fern\"; });", true)]
    [InlineData("builder.Services.AddSession();", true)]
    [InlineData("builder.Services.AddSession(options => { options.Cookie.SecurePolicy = CookieSecurePolicy.Always; });", false)]
    [InlineData("builder.Services.AddSession(); app.UseCookiePolicy(new CookiePolicyOptions { Secure = CookieSecurePolicy.Always });", false)]
    [InlineData("builder.Services.AddAntiforgery(options => options.Cookie.SecurePolicy = CookieSecurePolicy.Always); builder.Services.AddSession();", true)]
    public void The_session_of_ASP_NET_Core(string line, bool isWeak) =>
        Check("sessions/cookie-not-secure", isWeak, ("Program.cs", "using Microsoft.AspNetCore.Http;\nvar builder = WebApplication.CreateBuilder(args);\nvar app = builder.Build();\n" + line + "\napp.Run();\n"));

    [Theory]
    [InlineData("config.load_defaults 5.2", true)]
    [InlineData("config.load_defaults 6.0", true)]
    [InlineData("config.load_defaults 6.1", false)]
    [InlineData("config.load_defaults 8.0", false)]
    [InlineData("config.load_defaults 5.2\n    config.action_dispatch.cookies_same_site_protection = :lax", false)]
    public void The_defaults_of_Rails(string line, bool isWeak) =>
        Check("sessions/cookie-cross-site", isWeak, ("config/application.rb", "module Register\n  class Application < Rails::Application\n    " + line + "\n  end\nend\n"));

    private static void Check(string check, bool isWeak, params (string, string)[] files) => Assert.Equal(isWeak, Auditor.Run(files).Findings.Any(f => f.CheckId == check));
}
