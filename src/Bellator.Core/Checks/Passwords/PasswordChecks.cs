namespace Bellator.Core.Checks.Passwords;

/// <summary>Advice that several password checks share.</summary>
internal static class PasswordAdvice
{
    /// <summary>How to hash and check a password with the means of the language.</summary>
    public static string Hash(string language) => language switch
    {
        "php" => "Store password_hash($password, PASSWORD_DEFAULT) in a column of 255 characters, and check with password_verify($password, $row['password']). Rehash on sign-in when password_needs_rehash() says so.",
        _ => "Store await argon2.hash(password), or await bcrypt.hash(password, 12), and check with argon2.verify(hash, password) or bcrypt.compare(password, hash).",
    };
}
