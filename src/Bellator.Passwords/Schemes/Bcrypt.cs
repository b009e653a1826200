using System.Text.RegularExpressions;

namespace Bellator.Passwords.Schemes;

/// <summary>bcrypt: Provos and Mazières, "A Future-Adaptable Password Scheme" (1999).</summary>
public sealed partial class Bcrypt : HashScheme
{
    /// <summary>2^17 rounds take about ten seconds.</summary>
    private const int DearestCost = 16;

    public override string Id => "bcrypt";

    public override string Title => "bcrypt";

    public override string Source => "Provos and Mazières, USENIX 1999";

    public override HashKind Kind => HashKind.Slow;

    public override int LongestValue => 60;

    public override int InputLimit => 72;

    public override HashReading? Read(string value) => Form().Match(value) is { Success: true } match
        ? new HashReading(this, Sureness.Certain, value)
        {
            Parameters = [new HashParameter("cost", int.Parse(match.Groups["cost"].ValueSpan, System.Globalization.CultureInfo.InvariantCulture))],
            Salt = HashText.Bytes(match.Groups["salt"].Value),
            Hash = HashText.Bytes(match.Groups["hash"].Value),
            Note = match.Groups["minor"].Value == "x" ? "The variant 2x is that of a broken implementation: passwords with letters outside of ASCII are weaker than they should be." : null,
        }
        : null;

    public override bool IsTooDear(HashReading reading) => reading["cost"] > DearestCost;

    public override VerificationResult Verify(HashReading reading, string password) =>
        reading.Value.StartsWith("$2x", StringComparison.Ordinal)
            ? LibCrypt.Hash(password, reading.Value) is { } made ? VerificationResult.Of(made == reading.Value) : VerificationResult.CannotTell
            : VerificationResult.Of(BCrypt.Net.BCrypt.Verify(password, reading.Value));

    public override HashRating Rate(HashReading reading) => HashRating.Bcrypt(reading["cost"]);

    [GeneratedRegex(@"^\$2(?<minor>[abxy]?)\$(?<cost>0[4-9]|[12][0-9]|3[01])\$(?<salt>[./A-Za-z0-9]{22})(?<hash>[./A-Za-z0-9]{31})$")]
    private static partial Regex Form();
}
