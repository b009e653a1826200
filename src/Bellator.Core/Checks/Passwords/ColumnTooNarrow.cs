using Bellator.Core.Application.Schema;
using Bellator.Core.Flow;

namespace Bellator.Core.Checks.Passwords;

/// <summary>The column for a password's hash is narrower than what the scheme in use makes.</summary>
public sealed class ColumnTooNarrow : Check
{
    /// <summary>
    /// Characters of the values that schemes make with usual settings, the shortest that occur: bcrypt always 60; Argon2 in its text form
    /// with a salt of 16 and a hash of 32 bytes at least 95; results of digests in hex twice their bytes.
    /// </summary>
    private static readonly Dictionary<string, int> Lengths = new(StringComparer.OrdinalIgnoreCase)
    {
        ["bcrypt"] = 60,
        ["argon2id"] = 95,
        ["argon2i"] = 94,
        ["argon2d"] = 94,
        ["md5"] = 32,
        ["sha1"] = 40,
        ["sha256"] = 64,
        ["sha384"] = 96,
        ["sha512"] = 128,
        [Configured] = 95,
    };

    /// <summary>The framework's settings choose the scheme, and may choose Argon2.</summary>
    private const string Configured = "configured";

    /// <summary>Narrower columns hold something else: a flag, a code, a plain password of an old time.</summary>
    private const int Narrowest = 16;

    public override string Id => "passwords/column-too-narrow";

    public override string Title => "Column is too narrow for the password's hash";

    public override IReadOnlyList<int> Cwes => [222];

    public override IReadOnlyList<string> Asvs => ["V11.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:N/I:L/A:L";

    public override string Why =>
        "A database that cuts the value off locks people out, or makes the comparison weaker; one that refuses it ends registration with an error. A change to a better scheme becomes a change to the table.";

    public override string FalseAlarm => "The column holds values of another scheme than the one that was found in the code.";

    public override string Mend(string language) => "Make the column 255 characters wide, as PHP's manual advises for password_hash(), or text without a limit.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var (scheme, needed) = Needed(context);
        if (needed == 0)
        {
            yield break;
        }

        foreach (var column in context.Schema.Tables.SelectMany(t => t.Columns).Where(c => c.Length is >= Narrowest && c.Length < needed && context.Words.IsPasswordColumn(c.Name) && IsText(c)))
        {
            yield return new Finding
            {
                Check = this,
                At = column.At,
                Certainty = Certainty.Matched,
                Message = scheme == Configured
                    ? $"The column “{column.Name}” holds {column.Length} characters; the framework chooses the hash by its settings, and Argon2id needs {needed} and more."
                    : $"The column “{column.Name}” holds {column.Length} characters; {scheme} makes {needed}{(needed == 95 ? " and more" : "")}.",
                Subject = column.Name,
            };
        }
    }

    /// <summary>The longest of the schemes that passwords are hashed with.</summary>
    private static (string Scheme, int Length) Needed(CheckContext context) => context.EventsOf(EventKind.Hash)
        .Where(h => context.Passwords(FieldAccess.DeepTaints(h.Role("input"))).Any())
        .Select(h => h.Role("scheme").Constant ?? h.Fact?.Hash?.Scheme ?? "")
        .Where(Lengths.ContainsKey)
        .Select(s => (s, Lengths[s]))
        .OrderByDescending(s => s.Item2)
        .FirstOrDefault(("", 0));

    private static bool IsText(Column column) => column.Type.Contains("char", StringComparison.Ordinal) || column.Type.Contains("text", StringComparison.Ordinal);
}
