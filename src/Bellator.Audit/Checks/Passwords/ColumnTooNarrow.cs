using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Tables;
using Bellator.Passwords;
using Bellator.Text;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>The column for a password's hash is narrower than what the scheme in use makes.</summary>
public sealed class ColumnTooNarrow : Check
{
    /// <summary>Argon2's text form with small settings, a salt of 16 and a hash of 32 bytes: the shortest that occurs.</summary>
    private const int Argon2 = 95;

    /// <summary>Characters of the values that schemes make; those of bcrypt and of bare digests are always as long.</summary>
    private static readonly Dictionary<string, int> Lengths = new(
        new[] { "bcrypt", "md5", "sha1", "sha256", "sha384", "sha512" }.Select(s => KeyValuePair.Create(s, SchemeList.Find(s)!.LongestValue))
            .Concat(new[] { "argon2id", "argon2i", "argon2d", Configured }.Select(s => KeyValuePair.Create(s, Argon2))),
        StringComparer.OrdinalIgnoreCase);

    /// <summary>The framework's settings choose the scheme, and may choose Argon2.</summary>
    private const string Configured = "configured";

    /// <summary>Narrower columns hold something else: a flag, a code, a plain password of an old time.</summary>
    private const int Narrowest = 16;

    public override string Id => "passwords/column-too-narrow";

    public override string Title => "Column too narrow for the password hash";

    public override IReadOnlyList<int> Cwes => [222];

    public override IReadOnlyList<string> Asvs => ["V11.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:N/I:L/A:L";

    public override string Why =>
        "A database that cuts the value off locks people out, or makes the comparison weaker; one that refuses it ends registration with an error. A change to a better scheme becomes a change to the table.";

    public override string FalsePositiveIf => "The column holds values of another scheme than the one that was found in the code.";

    public override string HowToFix(string language) => "Make the column 255 characters wide, as PHP's manual advises for password_hash(), or text without a limit.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var column in context.Schema.Tables.SelectMany(t => t.Columns).Where(c => c.Length is >= Narrowest && context.Words.IsPasswordColumn(c.Name) && IsText(c)))
        {
            // What one language's code declares is used by that code; what SQL declares, by all.
            var (scheme, needed) = Needed(context, column.Origin == ColumnOrigin.Sql ? null : Languages.Family(context.Program.Files[column.At.File].Source.Language));
            if (column.Length >= needed || HoldsAnother(context, column))
            {
                continue;
            }

            yield return new Finding
            {
                Check = this,
                At = column.At,
                Certainty = Certainty.Matched,
                Message = scheme == Configured
                    ? $"The column “{column.Name}” holds {column.Length} characters; the framework chooses the hash by its settings, and Argon2id needs {needed} and more."
                    : $"The column “{column.Name}” holds {column.Length} characters; {scheme} makes {needed}{(needed == Argon2 ? " and more" : "")}.",
                Subject = column.Name,
            };
        }
    }

    /// <summary>Code compares the column with a value of another scheme, and those it holds: an old column beside the new one.</summary>
    private static bool HoldsAnother(CheckContext context, Column column) => context.EventsOf(EventKind.Compare)
        .Where(c => context.Program.Tree.TextOf(c.At).Contains(column.Name, StringComparison.OrdinalIgnoreCase))
        .SelectMany(c => context.EventsOf(EventKind.Hash).Where(h => h.Function == c.Function))
        .Any(h => Lengths.TryGetValue(h.Role("scheme").Constant ?? h.Fact?.Hash?.Scheme ?? "", out var length) && length <= column.Length);

    /// <summary>The longest of the schemes that passwords are hashed with.</summary>
    private static (string Scheme, int Length) Needed(CheckContext context, string? family) => context.EventsOf(EventKind.Hash)
        .Where(h => family is null || Languages.Family(h.Function.File.Source.Language) == family)
        .Where(h => context.Passwords(FieldAccess.DeepTaints(h.Role("input"))).Any())
        .Select(h => h.Role("scheme").Constant ?? h.Fact?.Hash?.Scheme ?? "")
        .Where(Lengths.ContainsKey)
        .Select(s => (s, Lengths[s]))
        .OrderByDescending(s => s.Item2)
        .FirstOrDefault(("", 0));

    private static bool IsText(Column column) => column.Type.Contains("char", StringComparison.Ordinal) || column.Type.Contains("text", StringComparison.Ordinal);
}
