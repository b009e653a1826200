namespace Bellator.Passwords;

/// <summary>What kind of thing a stored value is.</summary>
public enum HashKind
{
    /// <summary>The password itself.</summary>
    Plain,

    /// <summary>The password in another spelling, which anyone can undo.</summary>
    Encoded,

    /// <summary>Something that a key turns back into the password.</summary>
    Encrypted,

    /// <summary>One or a few rounds of a fast function, without anything that differs from person to person.</summary>
    FastHash,

    /// <summary>The same with a salt.</summary>
    SaltedFastHash,

    /// <summary>A function made to cost time or memory.</summary>
    Slow,

    /// <summary>Nothing can sign in with it.</summary>
    Unusable,
}

/// <summary>How sure it is that a value is of a scheme.</summary>
public enum Sureness
{
    /// <summary>Values of other schemes look the same.</summary>
    Possible,

    /// <summary>Others look the same, but are rare.</summary>
    Likely,

    /// <summary>The value says itself what it is.</summary>
    Certain,
}

/// <summary>One setting that a stored value shows.</summary>
public sealed record HashParameter(string Name, long Value, string Unit = "");

/// <summary>A stored value, read as one scheme.</summary>
public sealed record HashReading(HashScheme Scheme, Sureness Sureness, string Value)
{
    /// <summary>The work factor's settings, in the order of the scheme.</summary>
    public IReadOnlyList<HashParameter> Parameters { get; init; } = [];

    /// <summary>The hash function inside, where the scheme has several: <c>sha256</c>.</summary>
    public string? Digest { get; init; }

    /// <summary>The salt as the function is given it; null if there is none.</summary>
    public byte[]? Salt { get; init; }

    /// <summary>The result of the function.</summary>
    public byte[] Hash { get; init; } = [];

    /// <summary>What is special about this value.</summary>
    public string? Note { get; init; }

    /// <summary>What kind of thing it is; nearly always the scheme's.</summary>
    public HashKind Kind { get; init; } = Scheme.Kind;

    public long this[string parameter] => Parameters.FirstOrDefault(p => p.Name == parameter)?.Value ?? 0;
}

/// <summary>Whether a password belongs to a stored value.</summary>
public enum Verification
{
    /// <summary>It does not.</summary>
    No,

    /// <summary>It does.</summary>
    Yes,

    /// <summary>The scheme needs a key, or nothing here computes it.</summary>
    CannotTell,

    /// <summary>The value asks for more work than a bench should do; see <see cref="HashScheme.IsTooDear"/>.</summary>
    TooDear,
}

/// <summary>The outcome of a verification, with how the value was made where that was found out.</summary>
public readonly record struct VerificationResult(Verification Outcome, string? How = null)
{
    public static VerificationResult Of(bool matches) => new(matches ? Verification.Yes : Verification.No);

    public static readonly VerificationResult CannotTell = new(Verification.CannotTell);
}

/// <summary>
/// A way of storing passwords: how its values look, what they say, and how a password is checked. One class a scheme; the docstring
/// names where it is defined.
/// </summary>
public abstract class HashScheme
{
    /// <summary>Short, for lists and reports: <c>bcrypt</c>.</summary>
    public abstract string Id { get; }

    public abstract string Title { get; }

    /// <summary>Where the scheme or the form of its values is defined.</summary>
    public abstract string Source { get; }

    public abstract HashKind Kind { get; }

    /// <summary>Characters of its longest value with usual settings, for the width of a column; 0 if that is not known.</summary>
    public virtual int LongestValue => 0;

    /// <summary>Bytes of a password that count; 0 for all of them.</summary>
    public virtual int InputLimit => 0;

    /// <summary>The value as one of this scheme, or null if it cannot be one.</summary>
    public abstract HashReading? Read(string value);

    /// <summary>One guess of somebody who knows how the value was made, for measuring: verifying tries all ways that it may have been.</summary>
    public virtual bool Guess(HashReading reading, string password) => Verify(reading, password).Outcome == Verification.Yes;

    /// <summary>Checks a password; not called where <see cref="IsTooDear"/> is true.</summary>
    public virtual VerificationResult Verify(HashReading reading, string password) => VerificationResult.CannotTell;

    /// <summary>The most memory that is taken to look at one value, in bytes.</summary>
    public const long DearestMemory = 512L * 1024 * 1024;

    /// <summary>Memory that one guess takes, in bytes, where the scheme is made to need much; 0 otherwise.</summary>
    public virtual long MemoryBytes(HashReading reading) => 0;

    /// <summary>True if the value asks for so much work that a hostile one could keep the machine busy: values come from strangers.</summary>
    public virtual bool IsTooDear(HashReading reading) => false;

    /// <summary>How the value's settings compare with published minimums.</summary>
    public virtual HashRating Rate(HashReading reading) => HashRating.OfKind(reading.Kind);
}
