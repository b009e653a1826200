using Bellator.Analysis.Events;
using Bellator.Syntax;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>The database is opened with a user but an empty password.</summary>
public sealed class EmptyDatabasePassword : Check
{
    public override string Id => "passwords/empty-database-password";

    public override string Title => "Empty database password";

    public override IReadOnlyList<int> Cwes => [258];

    public override IReadOnlyList<string> Asvs => ["V13.2.3"];

    public override string Vector => "CVSS:3.1/AV:L/AC:L/PR:L/UI:N/S:U/C:H/I:H/A:L";

    public override string Why => "Anyone who reaches the database's port can sign in as this user; what stands in development code tends to reach production.";

    public override string FalsePositiveIf => "The database authenticates in another way, such as by the operating system's user over a socket.";

    public override string HowToFix(string language) => language switch
    {
        "php" => "Give the application a database user of its own with a strong password, and read it from the environment: getenv('DB_PASSWORD').",
        _ => "Give the application a database user of its own with a strong password, and read it from the environment: process.env.DB_PASSWORD.",
    };

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var connection in context.EventsOf(EventKind.Connect))
        {
            var password = connection.Role("password");
            var user = connection.Role("user");
            if (user.Constant is { Length: > 0 } name && user.ConstantKind == LiteralKind.Text
                && password is { Constant: not null, Taints.Count: 0 } && (password.Constant.Length == 0 || password.ConstantKind == LiteralKind.Null))
            {
                yield return new Finding
                {
                    Check = this,
                    At = connection.At,
                    Certainty = Certainty.Matched,
                    Message = $"The database is opened as “{name}” with an empty password.",
                    Subject = name,
                };
            }
        }
    }
}
