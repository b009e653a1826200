namespace Bellator.Audit.Checks.Passwords;

/// <summary>Advice that several password checks share.</summary>
internal static class PasswordAdvice
{
    /// <summary>How to hash and check a password with the means of the language.</summary>
    public static string Hash(string language) => language switch
    {
        "php" => "Store password_hash($password, PASSWORD_DEFAULT) in a column of 255 characters, and check with password_verify($password, $row['password']). Rehash on sign-in when password_needs_rehash() says so.",
        "python" => "Store argon2.PasswordHasher().hash(password) or bcrypt.hashpw(password.encode(), bcrypt.gensalt(12)), and check with the same library's verify or checkpw; in Django set_password() and check_password().",
        "ruby" => "Use has_secure_password, or store BCrypt::Password.create(password, cost: 12) and compare with BCrypt::Password.new(digest).is_password?(password).",
        "csharp" => "Store PasswordHasher<T>.HashPassword(user, password) of ASP.NET Core Identity and check with VerifyHashedPassword.",
        _ => "Store await argon2.hash(password), or await bcrypt.hash(password, 12), and check with argon2.verify(hash, password) or bcrypt.compare(password, hash).",
    };
}
