using System.ComponentModel.DataAnnotations;
using Microsoft.AspNetCore.Identity;

namespace Fernhollow.Models;

public class Keeper : IdentityUser
{
    [StringLength(120)]
    public string Name { get; set; } = "";

    public string District { get; set; } = "";

    public bool IsOffice { get; set; }
}

public class Hive
{
    public int Id { get; set; }

    [StringLength(80)]
    public string Name { get; set; } = "";

    public string KeeperId { get; set; } = "";

    public Keeper? Keeper { get; set; }
}

public class Swarm
{
    public int Id { get; set; }

    public string Place { get; set; } = "";
}

public class LegacyKeeper
{
    public int Id { get; set; }

    public string Email { get; set; } = "";

    [StringLength(40)]
    public string PasswordHash { get; set; } = "";

    public string Role { get; set; } = "keeper";
}
