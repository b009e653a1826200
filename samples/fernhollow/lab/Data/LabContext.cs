using System.ComponentModel.DataAnnotations;
using System.ComponentModel.DataAnnotations.Schema;
using Microsoft.EntityFrameworkCore;

namespace Fernhollow.Lab.Data;

public sealed class LabContext(DbContextOptions<LabContext> options) : DbContext(options)
{
    public DbSet<Technician> Technicians => Set<Technician>();

    public DbSet<LabResult> Results => Set<LabResult>();
}

[Table("technicians")]
public sealed class Technician
{
    public int Id { get; set; }

    [Required, MaxLength(160)]
    public string Email { get; set; } = "";

    // Wide enough for the old digests; nobody made it wider.
    [MaxLength(40)]
    public string PasswordHash { get; set; } = "";

    public bool IsLead { get; set; }

    public bool Active { get; set; } = true;
}

[Table("lab_results")]
public sealed class LabResult
{
    public int Id { get; set; }

    public int HiveId { get; set; }

    [MaxLength(60)]
    public string Substance { get; set; } = "";

    public decimal MilligramsPerKilo { get; set; }

    public int EnteredById { get; set; }
}
