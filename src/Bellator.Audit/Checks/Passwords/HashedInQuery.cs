using Bellator.Analysis.Domain;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>The statement itself hashes the password, with one of the database's fast functions.</summary>
public sealed class HashedInQuery : Check
{
    private static readonly HashSet<string> Functions = new(StringComparer.OrdinalIgnoreCase)
    {
        "MD5", "SHA", "SHA1", "SHA2", "SHA256", "SHA512", "PASSWORD", "OLD_PASSWORD", "ENCRYPT", "HASHBYTES", "DIGEST", "ENCODE", "AES_ENCRYPT", "DES_ENCRYPT", "HEX",
    };

    public override string Id => "passwords/hashed-in-query";

    public override string Title => "Password is hashed inside the SQL statement";

    public override IReadOnlyList<int> Cwes => [916];

    public override IReadOnlyList<string> Asvs => ["V11.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:H/UI:N/S:C/C:H/I:L/A:N";

    public override string Why =>
        "The password travels to the database as plain text, where it ends up in query logs, and the functions there are fast and unsalted: the whole table can be guessed through at once.";

    public override string FalsePositiveIf => "The function is pgcrypto's crypt() with a bcrypt salt, or the value is no password.";

    public override string HowToFix(string language) => PasswordAdvice.Hash(language);

    public static bool IsHashFunction(string name) => Functions.Contains(name);

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var use in Statements.Uses(context))
        {
            if (use.Slot.Function is { } function && IsHashFunction(function) && context.Passwords(use.Taints).FirstOrDefault(t => t.Transform == PasswordTransform.Plain) is { } password)
            {
                yield return new Finding
                {
                    Check = this,
                    At = use.Event.Place,
                    Certainty = CheckContext.CertaintyOf(password, use.Event.Guessed),
                    Message = $"The password ({CheckContext.Describe(password.Origin)}) is hashed by the database's {function.ToUpperInvariant()}().",
                    Steps = CheckContext.Steps(password, use.Event, "hashed by the database"),
                    MoreCwes = [328, 759],
                    Subject = function.ToUpperInvariant(),
                };
            }
        }
    }
}
