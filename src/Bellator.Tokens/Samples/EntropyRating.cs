namespace Bellator.Tokens.Samples;

/// <summary>How many bits an id has to have that opens a session.</summary>
public static class EntropyRating
{
    /// <summary>Bits of entropy that OWASP ASVS 4.0.3, requirement 3.2.2, asks of session tokens.</summary>
    public const int LeastBits = 64;

    public const string LeastSource = "ASVS 4.0.3, 3.2.2";

    /// <summary>Bits that OWASP ASVS 5.0, requirement 7.2.3, asks of reference tokens.</summary>
    public const int WantedBits = 128;

    public const string WantedSource = "ASVS 5.0 V7.2.3";
}
