using Fernhollow.Models;
using Microsoft.AspNetCore.Identity.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore;

namespace Fernhollow.Data;

public class RegisterContext(DbContextOptions<RegisterContext> options) : IdentityDbContext<Keeper>(options)
{
    public DbSet<Hive> Hives => Set<Hive>();

    public DbSet<Swarm> Swarms => Set<Swarm>();

    public DbSet<LegacyKeeper> LegacyKeepers => Set<LegacyKeeper>();
}
