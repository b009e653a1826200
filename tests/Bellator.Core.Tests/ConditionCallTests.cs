using Bellator.Audit.Auditing;

namespace Bellator.Core.Tests;

/// <summary>
/// Conditions that are put together by calls, in the ways in which programs write them. What Drizzle's functions mean is its documentation, from
/// memory; that rows must be held against the person is CWE-639 and OWASP ASVS 5.0, V8.2.2.
/// </summary>
public sealed class ConditionCallTests
{
    private const string Head = """
        import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core'
        import { and, eq, gt, inArray, isNull, not, or, sql } from 'drizzle-orm'
        import { drizzle, BetterSQLite3Database } from 'drizzle-orm/better-sqlite3'
        import express from 'express'
        export const keepers = sqliteTable('keepers', { id: integer('id').primaryKey(), email: text('email').notNull(), passwordHash: text('password_hash').notNull() })
        export const sessions = sqliteTable('sessions', { token: text('token').primaryKey(), keeperId: integer('keeper_id').notNull() })
        export const hives = sqliteTable('hives', { id: integer('id').primaryKey(), keeperId: integer('keeper_id').notNull(), name: text('name'), shared: integer('shared') })
        const db = drizzle(new Database('x'))
        const app = express()

        """;

    [Theory]
    [InlineData("db.select().from(hives).where(and(eq(hives.id, Number(req.params.id)), eq(hives.keeperId, req.session.userId))).get()", "own")]
    [InlineData("db.select().from(hives).where(eq(hives.id, Number(req.params.id))).get()", "chosen")]
    [InlineData("await db.select().from(hives).where(eq(hives.id, Number(req.params.id)))", "chosen")]
    [InlineData("await db.select().from(hives).where(and(...[eq(hives.id, req.params.id), eq(hives.keeperId, req.session.userId)]))", "own")]
    [InlineData("await db.select().from(hives).innerJoin(keepers, eq(keepers.id, hives.keeperId)).where(and(eq(hives.id, req.params.id), isNull(hives.shared), eq(hives.keeperId, req.session.userId)))", "own")]
    [InlineData("await db.select().from(hives).where(and(eq(hives.keeperId, req.session.userId), sql`lower(${hives.name}) like ${req.query.q}`))", "own")]
    [InlineData("await db.select().from(hives).where(or(eq(hives.keeperId, req.session.userId), eq(hives.id, req.params.id)))", "unclear")]
    [InlineData("await db.select().from(hives).where(not(eq(hives.keeperId, req.session.userId)))", "unclear")]
    [InlineData("await db.select().from(hives).where(and(eq(hives.id, req.params.id), elsewhere(req)))", "unclear")]
    [InlineData("await db.query.hives.findFirst({ where: and(eq(hives.id, req.params.id), eq(hives.keeperId, req.session.userId)) })", "own")]
    [InlineData("await db.query.hives.findFirst({ where: eq(hives.id, req.params.id) })", "chosen")]
    [InlineData("await db.query.hives.findMany()", "all")]
    [InlineData("await db.update(hives).set({ name: req.body.name }).where(eq(hives.id, req.params.id))", "chosen")]
    [InlineData("await db.update(hives).set({ name: req.body.name }).where(and(eq(hives.id, req.params.id), eq(hives.keeperId, req.session.userId))).returning()", "own")]
    [InlineData("await db.delete(hives).where(and(eq(hives.id, req.params.id), eq(hives.keeperId, req.session.userId)))", "own")]
    [InlineData("await db.transaction(async tx => { await tx.delete(hives).where(eq(hives.id, req.params.id)) })", "chosen")]
    [InlineData("await removeHive(db, req.params.id, req.session.userId)", "own")]
    public void Whose_rows(string statement, string rows)
    {
        var helper = "const ofKeeper = (id, who) => and(eq(hives.id, id), eq(hives.keeperId, who))\nasync function removeHive(db: BetterSQLite3Database, id: number, who: number) { await db.delete(hives).where(ofKeeper(id, who)) }\n";
        var result = Auditor.Run(("app.ts", Head + helper + "app.all('/hives/:id', async (req, res) => { res.json(" + statement + ") })\n"));
        Assert.Equal([rows], result.Records.Uses.Where(u => u.Table == "hives").Select(u => u.Rows).Distinct());
    }

    /// <summary>Who is signed in by a row that a cookie finds is the person, whatever the row is joined with.</summary>
    [Fact]
    public void A_session_in_a_table_tells_the_person()
    {
        const string Known = """
            function known(req) {
              const one = db.select({ id: keepers.id }).from(sessions).innerJoin(keepers, eq(keepers.id, sessions.keeperId)).where(eq(sessions.token, req.cookies.sid)).get()
              if (!one) throw new Error('sign in')
              return one
            }
            app.delete('/hives/:id', (req, res) => { const keeper = known(req); db.delete(hives).where(and(eq(hives.id, Number(req.params.id)), eq(hives.keeperId, keeper.id))).run(); res.end() })
            app.put('/hives/:id', (req, res) => { known(req); db.update(hives).set({ name: String(req.body.name) }).where(and(eq(hives.id, Number(req.params.id)), eq(hives.keeperId, req.body.keeperId))).run(); res.end() })
            """;
        var result = Auditor.Run(("app.ts", Head + Known));
        Assert.Equal("own", result.Records.Uses.Single(u => u is { Table: "hives", Action: "delete" }).Rows);
        Assert.Equal(["records/owner-from-request"], result.Findings.Where(f => f.CheckId.StartsWith("records/", StringComparison.Ordinal)).Select(f => f.CheckId));
    }

    /// <summary>Only where every way to the answer asks does the call sign in.</summary>
    [Theory]
    [InlineData("if (!one) throw new Error('sign in')", "needed")]
    [InlineData("if (req.query.strict) { if (!one) throw new Error('sign in') }", "notNeeded")]
    [InlineData("if (req.query.broken) throw new Error('broken')", "notNeeded")]
    public void A_call_that_gives_the_person(string test, string signIn)
    {
        var known = "function known(req) { const one = db.select().from(sessions).where(eq(sessions.token, req.cookies.sid)).get(); " + test + "\nreturn one }\n";
        var result = Auditor.Run(("app.ts", Head + known + "app.get('/hives', (req, res) => { const keeper = known(req); res.json(db.select().from(hives).all()) })\n"));
        Assert.Equal(signIn, result.Surface.Entries.Single(e => e.Path == "/hives").SignIn);
    }

    /// <summary>Own rows and public ones are no mistake; a single one that is found without that question is.</summary>
    [Fact]
    public void Own_and_public_rows()
    {
        const string Routes = """
            const signedIn = (req, res, next) => { if (!req.session.userId) { return res.sendStatus(401) } next() }
            app.get('/hives', signedIn, async (req, res) => { res.json(await db.select().from(hives).where(or(eq(hives.shared, 1), eq(hives.keeperId, req.session.userId)))) })

            """;
        Assert.DoesNotContain(Auditor.Run(("app.ts", Head + Routes)).Findings, f => f.CheckId.StartsWith("records/", StringComparison.Ordinal));
        const string One = "app.get('/hives/:id', signedIn, async (req, res) => { res.json(await db.select().from(hives).where(eq(hives.id, Number(req.params.id)))) })\n";
        Assert.Equal(["records/no-owner-condition"], Auditor.Run(("app.ts", Head + Routes + One)).Findings.Where(f => f.CheckId.StartsWith("records/", StringComparison.Ordinal)).Select(f => f.CheckId));
    }

    [Fact]
    public void A_body_that_is_written_whole() =>
        Assert.Contains(Auditor.Run(("app.ts", Head + "app.put('/me', async (req, res) => { await db.update(keepers).set(req.body).where(eq(keepers.id, req.session.userId)); res.end() })\n")).Findings, f => f.CheckId == "injection/mass-assignment");
}
