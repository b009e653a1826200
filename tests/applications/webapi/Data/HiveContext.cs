using Microsoft.EntityFrameworkCore;

namespace HiveApi.Data;

public class HiveContext(DbContextOptions<HiveContext> options) : DbContext(options)
{
    public DbSet<Keeper> Keepers => Set<Keeper>();
    public DbSet<Hive> Hives => Set<Hive>();
    public DbSet<RefreshToken> RefreshTokens => Set<RefreshToken>();
}

public class Keeper
{
    public int Id { get; set; }
    public string Email { get; set; } = "";
    public string PasswordHash { get; set; } = "";
    public string? Phone { get; set; }
    public string Role { get; set; } = "member";
    public List<Hive> Hives { get; set; } = [];
}

public class Hive
{
    public int Id { get; set; }
    public string Name { get; set; } = "";
    public string? Notes { get; set; }
    public int KeeperId { get; set; }
    public Keeper? Keeper { get; set; }
}

public class RefreshToken
{
    public int Id { get; set; }
    public int KeeperId { get; set; }
    public string Token { get; set; } = "";
    public DateTime Expires { get; set; }
}
