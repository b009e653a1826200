namespace Bellator.Core.Tests;

/// <summary>Functions that wrap handlers, and tests after which everybody goes on. Flask's documentation (Quickstart, Redirects and Errors) says that abort raises.</summary>
public sealed class WrapperGuardTests
{
    [Theory]
    [InlineData("g.user is None", "abort(401)", "needed")]
    [InlineData("not g.user", "abort(403)", "needed")]
    [InlineData("g.user is None", "flask.abort(401)", "needed")]
    [InlineData("g.user is None", "return redirect('/login')", "needed")]
    [InlineData("g.user is None", "raise PermissionError()", "needed")]
    [InlineData("g.user is None or not test(**kwargs)", "abort(403)", "needed")]
    [InlineData("session.get('uid') is None", "abort(401)", "needed")]
    [InlineData("g.person is None", "abort(401)", "unclear")]
    [InlineData("getattr(g, 'user', None) is None", "return redirect('/login')", "unclear")]
    [InlineData("closed()", "abort(403)", "unclear")]
    [InlineData("closed()", "log()", "notNeeded")]
    public void A_decorator_by_what_it_does(string condition, string refusal, string expected) => Assert.Equal(expected, SignIn($$"""
        from functools import wraps
        import flask
        from flask import Flask, abort, g, session, redirect
        app = Flask(__name__)
        def guarded(test):
            def outer(view):
                @wraps(view)
                def inner(*args, **kwargs):
                    if {{condition}}:
                        {{refusal}}
                    return view(*args, **kwargs)
                return inner
            return outer
        @app.get("/hives/<int:id>")
        @guarded(lambda id: id > 2)
        def show(id):
            return "x"
        """, "/hives/{id}"));

    [Fact]
    public void A_test_that_a_decorator_was_given_decides_of_what_is_not_known()
    {
        var result = Auditor.Run(("app.py", """
            from functools import wraps
            from flask import Flask, abort, g, session
            from flask_sqlalchemy import SQLAlchemy
            app = Flask(__name__)
            db = SQLAlchemy(app)
            class Hive(db.Model):
                id = db.Column(db.Integer, primary_key=True)
                keeper_id = db.Column(db.Integer, db.ForeignKey("user.id"))
                name = db.Column(db.String(50))
            class User(db.Model):
                id = db.Column(db.Integer, primary_key=True)
                email = db.Column(db.String(50))
                password_hash = db.Column(db.String(200))
            def only_if(test):
                def outer(view):
                    @wraps(view)
                    def inner(**path):
                        if g.user is None or not test(**path):
                            abort(403)
                        return view(**path)
                    return inner
                return outer
            def login_required(view):
                @wraps(view)
                def inner(**path):
                    if g.user is None:
                        abort(401)
                    return view(**path)
                return inner
            def mine(id):
                return check_somewhere(id)
            @app.get("/hives")
            @login_required
            def index():
                return str(Hive.query.filter_by(keeper_id=g.user.id).all())
            @app.post("/hives/<int:id>/name")
            @only_if(mine)
            def rename(id):
                db.session.get(Hive, id).name = "x"
                db.session.commit()
                return "", 204
            """));
        Assert.Equal("needed", result.Surface.Entries.Single(e => e.Method == "POST").SignIn);
        Assert.DoesNotContain(result.Findings, f => f.CheckId.StartsWith("records/", StringComparison.Ordinal));
    }

    /// <summary>Both sides come to the same end: nobody is turned away.</summary>
    [Theory]
    [InlineData("if g.user:\n        g.user.seen = 1\n    return redirect('/')", "notNeeded")]
    [InlineData("if g.user and 'keep' in request.cookies:\n        g.user.seen = 1\n    session.clear()\n    return redirect('/')", "notNeeded")]
    [InlineData("if g.user is None or not g.user.active:\n        return redirect('/')\n    return 'x'", "needed")]
    [InlineData("if not g.user:\n        abort(401)\n    return 'x'", "needed")]
    [InlineData("check()\n    return 'x'", "needed")]
    public void A_test_in_a_handler(string body, string expected) => Assert.Equal(expected, SignIn($$"""
        from flask import Flask, abort, g, session, redirect, request
        app = Flask(__name__)
        def check():
            if g.user is None:
                abort(401)
        @app.post("/out")
        def out():
            {{body}}
        """, "/out"));

    /// <summary>What refuses below a handler, by a test that is not understood, leaves it unclear who gets through.</summary>
    [Theory]
    [InlineData("check_request_auth(id)", "needed")]
    [InlineData("hive(id)", "unclear")]
    [InlineData("paint(id)", "notNeeded")]
    [InlineData("missing(id)", "notNeeded")]
    public void A_function_that_a_handler_calls(string call, string expected) => Assert.Equal(expected, SignIn($$"""
        from flask import Flask, abort, request
        from elsewhere import can_see, PermissionDenied, NotFound
        app = Flask(__name__)
        def check_request_auth(id):
            if not can_see(id, request):
                abort(403)
        def hive(id):
            return allowed(id)
        def allowed(id):
            if can_see(id, request):
                return id
            raise PermissionDenied()
        def paint(id):
            return str(id)
        def missing(id):
            raise NotFound()
        @app.get("/hives/<int:id>")
        def show(id):
            {{call}}
            return "x"
        """, "/hives/{id}"));

    [Fact]
    public void One_of_the_people_on_what_lives_with_the_request_is_the_one_who_asks() => Assert.Equal("needed", SignIn("""
        from flask import Flask, abort, g
        from flask_sqlalchemy import SQLAlchemy
        app = Flask(__name__)
        db = SQLAlchemy(app)
        class Keeper(db.Model):
            id = db.Column(db.Integer, primary_key=True)
            email = db.Column(db.String(50))
            password_hash = db.Column(db.String(200))
        @app.get("/hives")
        def index():
            if g.keeper is None:
                abort(401)
            return "x"
        """, "/hives"));

    private static string SignIn(string code, string path) => Auditor.Run(("app.py", code)).Surface.Entries.Single(e => e.Path == path).SignIn;
}
