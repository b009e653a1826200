namespace Bellator.Core.Tests;

/// <summary>What routes of Hapi ask for, by their own options and by the server's. The options are those of its documentation, from memory.</summary>
public sealed class HapiGuardTests
{
    [Theory]
    [InlineData("options: { auth: 'session' }, ", false, "needed")]
    [InlineData("options: { auth: { strategy: 'session', scope: ['office'] } }, ", false, "needed")]
    [InlineData("options: { auth: { strategy: 'session', mode: 'try' } }, ", false, "notNeeded")]
    [InlineData("options: { auth: { strategy: 'session', mode: 'optional' } }, ", true, "notNeeded")]
    [InlineData("options: { auth: { strategy: 'session', mode: 'required' } }, ", false, "needed")]
    [InlineData("options: { auth: false }, ", true, "notNeeded")]
    [InlineData("", true, "needed")]
    [InlineData("", false, "notNeeded")]
    public void A_route_asks_for(string options, bool hasDefault, string expected)
    {
        var code = $$"""
            const Hapi = require('@hapi/hapi');
            const init = async () => {
              const server = Hapi.server({ port: 3000 });
              server.auth.strategy('session', 'cookie', { cookie: { password: process.env.COOKIE_PASSWORD } });
              {{(hasDefault ? "server.auth.default('session');" : "")}}
              server.route({ method: 'GET', path: '/hives', {{options}}handler: () => 'hives' });
            };
            init();
            """;
        Assert.Equal(expected, Assert.Single(Auditor.Run(("server.js", code)).Surface.Entries).SignIn);
    }
}
