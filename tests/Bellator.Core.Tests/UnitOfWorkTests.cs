using Bellator.Audit.Auditing;

namespace Bellator.Core.Tests;

/// <summary>SQLAlchemy as its documentation writes it (unified tutorial, version 2): sessions from wherever they come, statements over classes, changes of fetched objects.</summary>
public sealed class UnitOfWorkTests
{
    private const string Models = """
        from flask import Flask, request, session, g
        from sqlalchemy import select, update, delete
        from sqlalchemy.orm import Session, sessionmaker, scoped_session, DeclarativeBase, Mapped, mapped_column
        app = Flask(__name__)
        class Base(DeclarativeBase): pass
        class Hive(Base):
            __tablename__ = "hives"
            id: Mapped[int] = mapped_column(primary_key=True)
            keeper_id: Mapped[int]
            name: Mapped[str]

        """;

    [Theory]
    [InlineData("db = Session()", "db.scalar(select(Hive).where(Hive.id == request.args['id']))")]
    [InlineData("db = scoped_session(sessionmaker())", "db.scalar(select(Hive).where(Hive.id == request.args['id']))")]
    [InlineData("Local = sessionmaker()", "Local().scalar(select(Hive).where(Hive.id == request.args['id']))")]
    [InlineData("db = Session()", "db.get(Hive, request.args['id'])")]
    [InlineData("db = Session()", "db.query(Hive).filter(Hive.id == request.args['id']).first()")]
    [InlineData("db = Session()", "db.execute(select(Hive).where(Hive.id == request.args['id'])).scalar_one_or_none()")]
    [InlineData("db = Session()", "db.execute(select(Hive).filter_by(id=request.args['id'])).scalars().first()")]
    public void A_row_is_fetched(string made, string fetched)
    {
        var use = Assert.Single(Run($"{made}\n@app.get('/hive')\ndef show():\n    return str({fetched})\n").Records.Uses, u => u.Action == "view" || u.Action == "list");
        Assert.Equal(("hives", "/hive"), (use.Table, use.Path));
        Assert.Contains("request.id", use.Condition, StringComparison.Ordinal);
    }

    [Fact]
    public void A_session_in_a_with_block() => Assert.Single(Run("Local = sessionmaker()\n@app.get('/hive')\ndef show():\n    with Local() as db:\n        return str(db.scalar(select(Hive).where(Hive.id == request.args['id'])))\n").Records.Uses);

    [Theory]
    [InlineData("h = db.get(Hive, id)\n    h.name = request.form['name']\n    db.commit()", "edit", "name = request.name")]
    [InlineData("h = db.get(Hive, id)\n    rename(h)", "edit", "name = request.name")]
    [InlineData("db.execute(update(Hive).where(Hive.id == id).values(name=request.form['name']))\n    db.commit()", "edit", "name = request.name")]
    [InlineData("db.execute(delete(Hive).where(Hive.id == id))\n    db.commit()", "delete", "")]
    public void A_row_is_changed(string body, string action, string written)
    {
        var use = Assert.Single(Run($"db = scoped_session(sessionmaker())\ndef rename(hive: Hive):\n    hive.name = request.form['name']\n    db.commit()\n@app.post('/hives/<int:id>')\ndef change(id):\n    {body}\n    return 'x'\n").Records.Uses, u => u.Action == action);
        Assert.Equal("hives", use.Table);
        Assert.Equal(written, string.Join(", ", use.Written));
    }

    [Fact]
    public void What_is_only_read_is_not_changed() => Assert.DoesNotContain(Run("db = Session()\n@app.get('/hives/<int:id>')\ndef show(id):\n    h = db.get(Hive, id)\n    db.commit()\n    return h.name\n").Records.Uses, u => u.Action == "edit");

    /// <summary>A row that is found by a token in the signed cookie is the credential, whatever its table is called.</summary>
    [Theory]
    [InlineData("visit.ended = 1\n    db.commit()", "ends")]
    [InlineData("session.clear()", "stays")]
    public void The_row_of_a_visit_is_a_credential(string body, string expected)
    {
        var result = Run($$"""
            import hashlib
            db = scoped_session(sessionmaker())
            class Member(Base):
                __tablename__ = "members"
                id: Mapped[int] = mapped_column(primary_key=True)
                email: Mapped[str]
                password_hash: Mapped[str]
            class Visit(Base):
                __tablename__ = "visits"
                id: Mapped[str] = mapped_column(primary_key=True)
                member_id: Mapped[int]
                ended: Mapped[bool]
            def current():
                return db.get(Visit, hashlib.sha256(session["sid"].encode()).hexdigest())
            @app.get("/hives")
            def index():
                return str(current())
            @app.post("/sign-out")
            def sign_out():
                visit = current()
                {{body.Replace("\n    ", "\n    ", StringComparison.Ordinal)}}
                return "x"
            """);
        var credential = Assert.Single(result.Sessions.Credentials, c => c.Kind == "keptToken");
        Assert.Equal("visits", credential.Name);
        Assert.Equal(expected, credential.Life.Single(l => l.Event == "signOut").State);
    }

    private static AuditResult Run(string code) => Auditor.Run(("app.py", Models + code));
}
