using Bellator.Passwords;

namespace Bellator.Audit.Reports;

/// <summary>What is known of stored passwords, in words.</summary>
public static class PasswordText
{
    public static string Of(HashKind kind) => kind switch
    {
        HashKind.Plain => "plain text",
        HashKind.Encoded => "only encoded",
        HashKind.Encrypted => "encrypted, not hashed",
        HashKind.FastHash => "fast hash without a salt",
        HashKind.SaltedFastHash => "fast hash with a salt",
        HashKind.Slow => "password hash",
        _ => "no password",
    };

    public static string Of(Strength strength) => strength switch
    {
        Strength.Unfit => "unfit for passwords",
        Strength.BelowMinimum => "below the minimum",
        Strength.MeetsMinimum => "meets the minimum",
        _ => "no published minimum",
    };

    public static string Of(Sureness sureness) => sureness switch
    {
        Sureness.Certain => "certain",
        Sureness.Likely => "likely",
        _ => "possible",
    };

    public static string Of(Verification outcome) => outcome switch
    {
        Verification.Yes => "The password belongs to it.",
        Verification.No => "The password does not belong to it.",
        Verification.TooDear => "The value asks for more work than is done here, so it was not tried.",
        _ => "That cannot be told here: a key or a name is missing, or nothing here computes the scheme.",
    };
}
