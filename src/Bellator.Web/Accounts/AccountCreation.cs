using System.Net.Mail;
using Bellator.Storage.Accounts;
using Microsoft.AspNetCore.Identity;

namespace Bellator.Web.Accounts;

/// <summary>Makes an account from what a form sent; only these fields can be set.</summary>
internal static class AccountCreation
{
    private const int LongestName = 80;
    private const int LongestEmail = 200;

    /// <returns>Null, or what is wrong.</returns>
    public static async Task<string?> CreateAsync(UserManager<Account> users, string? name, string? email, string? password)
    {
        if (string.IsNullOrWhiteSpace(name) || name.Length > LongestName || name.Any(char.IsControl))
        {
            return $"Please give a name of at most {LongestName} characters.";
        }

        if (!IsAddress(email?.Trim()))
        {
            return "Please give an e-mail address.";
        }

        if (PasswordFault(password) is { } fault)
        {
            return fault;
        }

        var result = await users.CreateAsync(new Account { Name = name.Trim(), Email = email!.Trim() }, password!);
        return result.Succeeded ? null : Say(result);
    }

    /// <summary>What is wrong with a password's length, or null.</summary>
    public static string? PasswordFault(string? password) => password is null or { Length: < AccountSetup.MinimumPasswordLength or > AccountSetup.MaximumPasswordLength }
        ? $"The password needs {AccountSetup.MinimumPasswordLength} to {AccountSetup.MaximumPasswordLength} characters."
        : null;

    public static string Say(IdentityResult result) => string.Join(" ", result.Errors.Select(e => e.Description).Distinct());

    /// <summary>An address and nothing else: no name beside it, no line end in it.</summary>
    private static bool IsAddress(string? email) =>
        email is { Length: > 2 and <= LongestEmail } && !email.Any(c => char.IsControl(c) || char.IsWhiteSpace(c)) && MailAddress.TryCreate(email, out var address) && address.Address == email;
}
