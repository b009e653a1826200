namespace Bellator.Core.Tests;

/// <summary>Frameworks whose addresses come by files, directives and routers of their own; what each does is from its documentation, from memory.</summary>
public sealed class FrameworkProbeTests
{
    private const string Prisma = """
        datasource db { provider = "postgresql" url = env("DATABASE_URL") }
        model Member {
          id       Int    @id
          email    String @unique
          password String
          gigs     Gig[]
        }
        model Gig {
          id       Int    @id
          title    String
          memberId Int
          member   Member @relation(fields: [memberId], references: [id])
        }
        """;

    private const string Session = """
        import { jwtVerify, SignJWT } from 'jose';
        import { cookies } from 'next/headers';
        import { redirect } from 'next/navigation';
        import { cache } from 'react';
        import { prisma } from './db';
        const key = new TextEncoder().encode(process.env.SESSION_SECRET ?? 'change-me');
        export async function start(id: number) {
          const token = await new SignJWT({ id }).setProtectedHeader({ alg: 'HS256' }).setExpirationTime('7d').sign(key);
          cookies().set('session', token, { httpOnly: true, secure: true, sameSite: 'lax' });
        }
        async function read() {
          const token = cookies().get('session')?.value;
          if (!token) return null;
          try { const { payload } = await jwtVerify(token, key, { algorithms: ['HS256'] }); return payload; } catch { return null; }
        }
        export const currentMember = cache(async () => {
          const session = await read();
          if (!session) return null;
          return prisma.member.findUnique({ where: { id: session.memberId } });
        });
        export async function requireMember() {
          const member = await currentMember();
          if (!member) redirect('/login');
          return member;
        }
        """;

    private const string Client = "import { PrismaClient } from '@prisma/client';\nconst kept = globalThis as any;\nexport const prisma = kept.prisma ?? new PrismaClient();\n";

    [Theory]
    [InlineData("app/gigs/[id]/page.tsx", "export default async function Page({ params }: { params: { id: string } }) { const member = await requireMember(); return prisma.gig.findFirst({ where: { id: Number(params.id), memberId: member.id } }); }", "GET /gigs/{id} Needed own")]
    [InlineData("app/api/gigs/[id]/route.ts", "export async function GET(_r: Request, { params }: { params: { id: string } }) { await requireMember(); return Response.json(await prisma.gig.findUnique({ where: { id: Number(params.id) } })); }", "GET /api/gigs/{id} Needed chosen")]
    [InlineData("app/api/gigs/[id]/route.ts", "export async function DELETE(_r: Request, { params }) { const gig = await prisma.gig.findUnique({ where: { id: Number(params.id) } }); const member = await currentMember(); if (!gig || gig.memberId !== member?.id) return new Response(null, { status: 404 }); await prisma.gig.delete({ where: { id: gig.id } }); return new Response(null, { status: 204 }); }", "DELETE /api/gigs/{id} Needed own")]
    public void A_file_of_Next_is_an_address(string path, string code, string expected)
    {
        var result = Auditor.Run(("prisma/schema.prisma", Prisma), ("lib/db.ts", Client), ("lib/session.ts", Session),
            (path, "import { prisma } from '../../../lib/db';\nimport { requireMember, currentMember } from '../../../lib/session';\n".Replace("../../../", path.Contains("api", StringComparison.Ordinal) ? "../../../../" : "../../../", StringComparison.Ordinal) + code));
        var entry = Assert.Single(result.Surface.Entries);
        var use = result.Records.Uses.Last(u => u.Table == "Gig");
        Assert.Equal(expected, $"{entry.Method} {entry.Path} {char.ToUpperInvariant(entry.SignIn[0])}{entry.SignIn[1..]} {use.Rows}");
        Assert.Contains(result.Findings, f => f.Check.Id == "sessions/secret-in-code");
    }

    [Fact]
    public void Functions_that_run_on_the_server_by_a_directive_are_addresses()
    {
        var result = Auditor.Run(("prisma/schema.prisma", Prisma), ("lib/db.ts", Client), ("app/actions.ts", """
            'use server';
            import { prisma } from '../lib/db';
            export async function removeGig(id: number) { await prisma.gig.delete({ where: { id } }); }
            """));
        Assert.Equal("/app/actions#removeGig", Assert.Single(result.Surface.Entries).Path);
        Assert.Equal("chosen", Assert.Single(result.Records.Uses).Rows);
    }

    [Fact]
    public void Handlers_of_aiohttp_get_the_person_that_a_middleware_found()
    {
        var result = Auditor.Run(("schema.sql", "CREATE TABLE people (id serial PRIMARY KEY, email text UNIQUE, password_hash text);\nCREATE TABLE lanterns (id serial PRIMARY KEY, name text, keeper_id int REFERENCES people(id));\n"), ("app.py", """
            import asyncpg
            from aiohttp import web
            from aiohttp_session import get_session

            @web.middleware
            async def load_person(request, handler):
                session = await get_session(request)
                request["person"] = None
                if "person_id" in session:
                    request["person"] = await request.app["db"].fetchrow("SELECT id, email FROM people WHERE id = $1", session["person_id"])
                return await handler(request)

            async def mine(request):
                if request["person"] is None:
                    raise web.HTTPFound("/login")
                return web.json_response(await request.app["db"].fetch("SELECT name FROM lanterns WHERE keeper_id = $1", request["person"]["id"]))

            class Lantern(web.View):
                async def put(self):
                    row = await self.request.app["db"].fetchrow("SELECT * FROM lanterns WHERE id = $1", self.request.match_info["id"])
                    person = self.request["person"]
                    if person is None or row["keeper_id"] != person["id"]:
                        raise web.HTTPForbidden()
                    await self.request.app["db"].execute("UPDATE lanterns SET name = 'x' WHERE id = $1", row["id"])

                async def delete(self):
                    await self.request.app["db"].execute("DELETE FROM lanterns WHERE id = $1", self.request.match_info["id"])

            async def start():
                app = web.Application()
                app["db"] = await asyncpg.create_pool()
                app.middlewares.append(load_person)
                app.router.add_get("/mine", mine)
                app.router.add_view("/lanterns/{id}", Lantern)
                return app
            """));
        Assert.Equal(["DELETE /lanterns/{id} notNeeded", "GET /mine needed", "PUT /lanterns/{id} needed"], result.Surface.Entries.Select(e => $"{e.Method} {e.Path} {e.SignIn}").Order());
        Assert.Contains(result.Records.Uses, u => u.Table == "lanterns" && u.Rows == "own");
        Assert.Contains(result.Findings, f => f.Check.Id == "records/no-sign-in");
    }
}
