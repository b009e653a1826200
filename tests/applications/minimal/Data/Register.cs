using Microsoft.EntityFrameworkCore;

namespace Fernhollow.Data;

public class Keeper
{
    public int Id { get; set; }
    public required string Email { get; set; }
    public required string Name { get; set; }
    public string PasswordHash { get; set; } = "";
    public bool IsAdmin { get; set; }
    public List<Hive> Hives { get; set; } = [];
}

public class Hive
{
    public int Id { get; set; }
    public required string Name { get; set; }
    public string? Note { get; set; }
    public int KeeperId { get; set; }
    public Keeper? Keeper { get; set; }
}

public class Register(DbContextOptions<Register> options) : DbContext(options)
{
    public DbSet<Keeper> Keepers => Set<Keeper>();
    public DbSet<Hive> Hives => Set<Hive>();

    protected override void OnModelCreating(ModelBuilder builder)
    {
        builder.Entity<Keeper>(keeper =>
        {
            keeper.HasIndex(k => k.Email).IsUnique();
            keeper.Property(k => k.Email).HasMaxLength(254);
            keeper.Property(k => k.PasswordHash).HasMaxLength(100);
        });
    }
}
