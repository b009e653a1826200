using System.ComponentModel.DataAnnotations;

namespace Fernhollow.Models;

public class JoinForm
{
    [Required, StringLength(120)]
    public string Name { get; set; } = "";

    [Required, EmailAddress]
    public string Email { get; set; } = "";

    [Required, StringLength(100, MinimumLength = 12)]
    public string Password { get; set; } = "";
}

public class SignInForm
{
    [Required]
    public string Email { get; set; } = "";

    [Required]
    public string Password { get; set; } = "";

    public bool Remember { get; set; }
}

public class PasswordForm
{
    [Required]
    public string Old { get; set; } = "";

    [Required, StringLength(100, MinimumLength = 12)]
    public string New { get; set; } = "";
}
