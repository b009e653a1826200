namespace Bellator.Core.Tests;

/// <summary>
/// What FastAPI calls before a handler, and what that asks. The ways of writing it are those of the framework's documentation ("Dependencies",
/// "Security", "Bigger Applications"), from memory: functions as default values and in <c>Annotated</c>, functions that ask others, objects
/// and classes, lists at the path, at the router, and where a router is put below the application.
/// </summary>
public sealed class FastApiGuardTests
{
    private const string Before = """
        from typing import Annotated
        import jwt
        from fastapi import APIRouter, Cookie, Depends, FastAPI, HTTPException, Header, Request, Security
        from fastapi.security import APIKeyHeader, HTTPBearer, OAuth2PasswordBearer
        from sqlalchemy.orm import Session
        from .models import Keeper
        from .db import get_db

        oauth2 = OAuth2PasswordBearer(tokenUrl="token")
        optional = HTTPBearer(auto_error=False)

        def user(token: Annotated[str, Depends(oauth2)], db: Session = Depends(get_db)):
            try:
                name = jwt.decode(token, KEY, algorithms=["HS256"]).get("sub")
            except jwt.InvalidTokenError:
                raise HTTPException(401)
            keeper = db.query(Keeper).filter(Keeper.name == name).first()
            if keeper is None:
                raise HTTPException(401)
            return keeper

        CurrentKeeper = Annotated[Keeper, Depends(user)]

        def active(current: Annotated[Keeper, Depends(user)]):
            if current.disabled:
                raise HTTPException(400)
            return current

        def maybe(held=Depends(optional), db: Session = Depends(get_db)):
            if held is None:
                return None
            return user(held.credentials, db)

        def has_key(x_key: str = Header(...)):
            if x_key != KEY:
                raise HTTPException(403)

        def by_cookie(sid: str | None = Cookie(None), db: Session = Depends(get_db)):
            row = db.execute("SELECT * FROM visits WHERE sid = :sid", {"sid": sid}).fetchone()
            if not row:
                raise HTTPException(401)
            return row

        class Roles:
            def __init__(self, wanted):
                self.wanted = wanted
            def __call__(self, current: Keeper = Depends(user)):
                if current.role not in self.wanted:
                    raise HTTPException(403)
                return current

        inspectors = Roles(["inspector"])

        def in_session(request: Request):
            if "keeper" not in request.session:
                raise HTTPException(401)
            return request.session["keeper"]

        def page(limit: int = 20):
            if limit > 100:
                raise HTTPException(400)
            return limit

        app = FastAPI()
        """;

    [Theory]
    [InlineData("@app.get('/x')\ndef x(me=Depends(user)): return 1", "needed")]
    [InlineData("@app.get('/x')\nasync def x(n: int, me=Depends(user), db=Depends(get_db)): return 1", "needed")]
    [InlineData("@app.get('/x')\ndef x(me: CurrentKeeper): return 1", "needed")]
    [InlineData("@app.get('/x')\ndef x(me: Annotated[Keeper, Depends(active)]): return 1", "needed")]
    [InlineData("@app.get('/x')\ndef x(me=Security(user, scopes=['hives'])): return 1", "needed")]
    [InlineData("@app.get('/x')\ndef x(visit=Depends(by_cookie)): return 1", "needed")]
    [InlineData("@app.get('/x')\ndef x(me=Depends(Roles(['inspector']))): return 1", "needed")]
    [InlineData("@app.get('/x')\ndef x(me=Depends(inspectors)): return 1", "needed")]
    [InlineData("@app.get('/x')\ndef x(me=Depends(in_session)): return 1", "needed")]
    [InlineData("@app.get('/x', dependencies=[Depends(user)])\ndef x(): return 1", "needed")]
    [InlineData("r = APIRouter(prefix='/r', dependencies=[Depends(user)])\n@r.get('/x')\ndef x(): return 1\napp.include_router(r)", "needed")]
    [InlineData("r = APIRouter()\n@r.get('/x')\ndef x(): return 1\napp.include_router(r, prefix='/r', dependencies=[Depends(user)])", "needed")]
    [InlineData("@app.get('/x')\ndef x(me=Depends(maybe)): return 1", "notNeeded")]
    // a key is asked for, and what it is worth was not understood
    [InlineData("@app.get('/x')\ndef x(k=Depends(has_key)): return 1", "unclear")]
    [InlineData("@app.get('/x', dependencies=[Depends(has_key)])\ndef x(): return 1", "unclear")]
    // no guards: a database, a page's size, a token that nobody looks at
    [InlineData("@app.get('/x')\ndef x(): return 1", "notNeeded")]
    [InlineData("@app.get('/x')\ndef x(db: Session = Depends(get_db)): return 1", "notNeeded")]
    [InlineData("@app.get('/x')\ndef x(limit: int = Depends(page)): return 1", "notNeeded")]
    [InlineData("@app.get('/x')\ndef x(token: str = Depends(oauth2)): return 1", "notNeeded")]
    [InlineData("r = APIRouter()\n@r.get('/y')\ndef y(): return 1\n@app.get('/x')\ndef x(): return 1\napp.include_router(r, dependencies=[Depends(user)])", "notNeeded")]
    public void What_a_dependency_asks_is_read_from_its_code(string routes, string expected)
    {
        var result = Auditor.Run(("app/main.py", Before + "\n" + routes + "\n"), ("app/models.py", "class Keeper(Base):\n    __tablename__ = 'keepers'\n    id = Column(Integer, primary_key=True)\n    name = Column(String)\n    password = Column(String)\n"),
            ("app/db.py", "def get_db():\n    db = SessionLocal()\n    try:\n        yield db\n    finally:\n        db.close()\n"));
        Assert.Equal(expected, result.Surface.Entries.Single(e => e.Path.EndsWith("/x", StringComparison.Ordinal)).SignIn);
    }

    /// <summary>What a dependency gives is the person: rows that are found by it are the person's, and what is deleted by its number alone is not.</summary>
    [Theory]
    [InlineData("@app.get('/hives/{hive_id}')\nasync def one(hive_id: int, me=Depends(user), db=Depends(pool)):\n    return await db.fetchrow('SELECT * FROM hives WHERE id = $1 AND keeper_id = $2', hive_id, me.id)\n@app.delete('/hives/{hive_id}')\nasync def gone(hive_id: int, db=Depends(pool)):\n    await db.execute('DELETE FROM hives WHERE id = $1', hive_id)", "records/no-sign-in")]
    [InlineData("@app.get('/hives/{hive_id}')\nasync def one(hive_id: int, me=Depends(user), db=Depends(pool)):\n    return await db.fetchrow('SELECT * FROM hives WHERE id = $1 AND keeper_id = $2', hive_id, me.id)\n@app.delete('/hives/{hive_id}')\nasync def gone(hive_id: int, me=Depends(user), db=Depends(pool)):\n    await db.execute('DELETE FROM hives WHERE id = $1', hive_id)", "records/no-owner-condition")]
    [InlineData("@app.get('/hives/{hive_id}')\nasync def one(hive_id: int, me=Depends(user), db=Depends(pool)):\n    return await db.fetchrow('SELECT * FROM hives WHERE id = $1 AND keeper_id = $2', hive_id, me.id)\n@app.delete('/hives/{hive_id}')\nasync def gone(hive_id: int, me=Depends(user), db=Depends(pool)):\n    await db.execute('DELETE FROM hives WHERE id = $1 AND keeper_id = $2', hive_id, me.id)", null)]
    public void Values_of_a_statement_may_be_given_one_by_one(string routes, string? expected)
    {
        var found = Auditor.Run(("app/main.py", Before + "\n" + routes + "\n")).Findings.Where(f => f.Area == "records").Select(f => f.CheckId).ToList();
        Assert.Equal(expected is null ? [] : [expected], found);
    }
}
