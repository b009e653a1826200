using System.Security.Claims;
using System.Security.Cryptography;
using System.Text;
using Bellator.Storage.Accounts;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;

namespace Bellator.Web.Accounts;

/// <summary>Keeps sessions on the server: the cookie holds only a random key, the database only its hash.</summary>
public sealed class SessionStore(AccountTable accounts) : ITicketStore
{
    public async Task<string> StoreAsync(AuthenticationTicket ticket)
    {
        var key = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(32));
        await RenewAsync(key, ticket);
        return key;
    }

    public Task RenewAsync(string key, AuthenticationTicket ticket) => accounts.SaveSessionAsync(
        HashOf(key),
        Guid.Parse(ticket.Principal.FindFirstValue(ClaimTypes.NameIdentifier)!),
        TicketSerializer.Default.Serialize(ticket),
        ticket.Properties.ExpiresUtc ?? DateTimeOffset.UtcNow.AddHours(1));

    public async Task<AuthenticationTicket?> RetrieveAsync(string key) =>
        await accounts.FindSessionAsync(HashOf(key)) is { } ticket ? TicketSerializer.Default.Deserialize(ticket) : null;

    public Task RemoveAsync(string key) => accounts.EndSessionAsync(HashOf(key));

    private static byte[] HashOf(string key) => SHA256.HashData(Encoding.UTF8.GetBytes(key));
}
