using Bellator.Passwords;
using Bellator.Storage.Accounts;
using Microsoft.AspNetCore.Identity;

namespace Bellator.Web.Accounts;

/// <summary>
/// Refuses passwords that guessers try early: common ones, repeated or counted-up signs, and those made of what is known of the person
/// (NIST SP 800-63B-4, section 3.1.1.2, from memory: a blocklist, and words of the context). As strict as what audited applications are asked for.
/// </summary>
public sealed class GuessablePasswords : IPasswordValidator<Account>
{
    /// <summary>zxcvbn's scale goes from 0 to 4; its authors call 3 "safely unguessable" where hashes may get lost (Wheeler, USENIX Security 2016, from memory).</summary>
    private const int LeastScore = 3;

    private static readonly HashSet<string> Common = new(CommonPasswords.All, StringComparer.OrdinalIgnoreCase);

    public Task<IdentityResult> ValidateAsync(UserManager<Account> manager, Account user, string? password)
    {
        var text = password ?? "";
        string[] known = [user.Name, user.Email, user.Email.Split('@')[0], "bellator", .. user.Name.Split(' ', StringSplitOptions.RemoveEmptyEntries)];
        var isGuessable = Common.Contains(text)
            || known.Any(k => k.Length > 3 && text.Contains(k, StringComparison.OrdinalIgnoreCase) && text.Length - k.Length < AccountSetup.MinimumPasswordLength / 2)
            || Zxcvbn.Zxcvbn.MatchPassword(text, known).Score < LeastScore;
        return Task.FromResult(isGuessable
            ? IdentityResult.Failed(new IdentityError { Code = "Guessable", Description = "This password is among those that are tried first, or is made of a pattern or of your name. Several words that do not belong together are better." })
            : IdentityResult.Success);
    }
}
