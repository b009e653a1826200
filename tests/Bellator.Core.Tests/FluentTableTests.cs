using Bellator.Audit.Tables;

namespace Bellator.Core.Tests;

/// <summary>What Entity Framework is told of tables in code. The calls are those of its documentation, from memory.</summary>
public sealed class FluentTableTests
{
    private const string Program = """
        using Microsoft.EntityFrameworkCore;
        using Microsoft.EntityFrameworkCore.Metadata.Builders;

        public class Keeper { public int Id { get; set; } public string Email { get; set; } public string PasswordHash { get; set; } }
        public class Hive { public int Id { get; set; } public string Name { get; set; } public int KeeperNumber { get; set; } public Keeper Keeper { get; set; } }
        public class Visit { public int Id { get; set; } public string Code { get; set; } public string Day { get; set; } }

        public class Register : DbContext
        {
            public DbSet<Keeper> Keepers { get; set; }
            public DbSet<Hive> Hives { get; set; }
            public DbSet<Visit> Visits { get; set; }

            protected override void OnModelCreating(ModelBuilder modelBuilder)
            {
                modelBuilder.Entity<Keeper>().HasIndex(k => k.Email).IsUnique();
                modelBuilder.Entity<Keeper>().ToTable("members");
                modelBuilder.Entity<Hive>(hive =>
                {
                    hive.Property(h => h.Name).HasMaxLength(40).IsRequired();
                    hive.HasIndex(h => new { h.KeeperNumber, h.Name }).HasDatabaseName("one_name").IsUnique();
                    hive.HasOne(h => h.Keeper).WithMany().HasForeignKey(h => h.KeeperNumber);
                });
                modelBuilder.ApplyConfiguration(new VisitConfiguration());
            }
        }

        public class VisitConfiguration : IEntityTypeConfiguration<Visit>
        {
            public void Configure(EntityTypeBuilder<Visit> builder)
            {
                builder.HasIndex(v => v.Day).IsUnique(false);
                builder.HasIndex("Code").IsUnique();
                builder.Property(v => v.Code).HasMaxLength(12);
            }
        }
        """;

    private static readonly DatabaseSchema Schema = Auditor.Run(("Register.cs", Program)).Schema;

    [Fact]
    public void A_table_has_the_name_that_the_program_gives_it()
    {
        Assert.Null(Schema.Find("Keeper"));
        Assert.Equal("members", Schema.OfModel("Keeper")?.Name);
        Assert.NotNull(Schema.Find("members")!.Find("PasswordHash"));
    }

    [Theory]
    [InlineData("Keeper", "Email")]
    [InlineData("Hive", "KeeperNumber Name")]
    [InlineData("Visit", "Code")]
    public void A_unique_index_is_a_unique_rule(string model, string columns) =>
        Assert.Equal([columns], Schema.OfModel(model)!.Unique.Select(u => string.Join(' ', u.Columns)));

    [Fact]
    public void An_index_that_is_not_unique_is_an_index()
    {
        var index = Assert.Single(Schema.OfModel("Visit")!.Indexes);
        Assert.Equal(["Day"], index);
    }

    [Theory]
    [InlineData("Hive", "Name", 40)]
    [InlineData("Visit", "Code", 12)]
    public void A_text_is_as_long_as_it_may_be(string model, string column, int length) =>
        Assert.Equal(length, Schema.OfModel(model)!.Find(column)!.Length);

    [Fact]
    public void A_relation_refers_to_the_table_of_its_member()
    {
        var key = Assert.Single(Schema.Find("Hive")!.ForeignKeys);
        Assert.Equal(["KeeperNumber"], key.Columns);
        Assert.Equal("members", key.Table);
    }
}
