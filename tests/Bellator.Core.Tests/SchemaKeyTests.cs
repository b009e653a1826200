using Bellator.Audit.Tables;

namespace Bellator.Core.Tests;

/// <summary>
/// Which columns are unique, indexed, or refer to another table, by the migrations and mappers of the frameworks. How each of them says
/// it is common practice, from their public documentation; from memory.
/// </summary>
public class SchemaKeyTests
{
    [Fact]
    public void Rails_migrations()
    {
        var tables = Tables(("db/migrate/001_create_members.rb", """
            class CreateMembers < ActiveRecord::Migration[7.1]
              def change
                create_table :members do |t|
                  t.string :email, null: false, index: { unique: true }
                  t.string :name, index: true
                  t.column :town, :string, limit: 30
                  t.column "note", :string
                end
                create_table :hives do |t|
                  t.references :member, null: false, foreign_key: true
                  t.belongs_to :inspector, foreign_key: { to_table: :members }, index: false
                  t.string :label
                  t.index [:member_id, :label], unique: true
                end
                add_column :members, :phone, :string, limit: 40
                add_index :members, :phone
                add_index :members, [:name, :phone], unique: true
                add_reference :members, :branch
                add_foreign_key :members, :branches
              end
            end
            """));
        Assert.Equal("email; name,phone", Unique(tables["members"]));
        Assert.Equal("branch_id; name; phone", Indexes(tables["members"]));
        Assert.Equal("branch_id > branches", References(tables["members"]));
        Assert.Equal("varchar 40; varchar 30; varchar 255", string.Join("; ", new[] { "phone", "town", "note" }.Select(n => tables["members"].Find(n)!).Select(c => $"{c.Type} {c.Length}")));
        Assert.Equal("member_id,label", Unique(tables["hives"]));
        Assert.Equal("member_id", Indexes(tables["hives"]));
        Assert.Equal("inspector_id > members; member_id > members", References(tables["hives"]));
    }

    [Fact]
    public void Laravel_migrations()
    {
        var tables = Tables(("database/migrations/2026_01_01_create.php", """
            <?php
            use Illuminate\Database\Schema\Blueprint;
            use Illuminate\Support\Facades\Schema;

            Schema::create('members', function (Blueprint $table) {
                $table->id();
                $table->string('email', 120)->unique();
                $table->string('name')->nullable()->index();
                $table->string('branch');
                $table->unique(['name', 'branch']);
            });
            Schema::create('hives', function (Blueprint $table) {
                $table->foreignId('member_id')->constrained()->cascadeOnDelete();
                $table->foreignId('inspector_id')->constrained('members');
                $table->unsignedBigInteger('site_id');
                $table->foreign('site_id')->references('id')->on('sites');
                $table->index('site_id');
            });
            """));
        Assert.Equal("email; name,branch", Unique(tables["members"]));
        Assert.Equal("name", Indexes(tables["members"]));
        Assert.Equal("inspector_id > members; member_id > members; site_id > sites", References(tables["hives"]));
        Assert.Equal("site_id", Indexes(tables["hives"]));
    }

    [Fact]
    public void Knex_migrations()
    {
        var tables = Tables(("migrations/001_members.js", """
            exports.up = async function (knex) {
              await knex.schema.createTable('members', (t) => {
                t.increments('id');
                t.string('email', 120).notNullable().unique();
                t.string('name').index();
                t.integer('branch_id').references('id').inTable('branches');
                t.unique(['name', 'branch_id']);
              });
              await knex.schema.createTable('hives', (t) => {
                t.integer('member_id').references('members.id');
                t.index(['member_id']);
              });
            };
            """));
        Assert.Equal("email; name,branch_id", Unique(tables["members"]));
        Assert.Equal("name", Indexes(tables["members"]));
        Assert.Equal("branch_id > branches", References(tables["members"]));
        Assert.Equal("member_id > members", References(tables["hives"]));
        Assert.Equal("member_id", Indexes(tables["hives"]));
    }

    [Fact]
    public void Models_of_Sequelize_and_Mongoose()
    {
        var tables = Tables(
            ("models/hive.js", """
                const { Sequelize, DataTypes } = require('sequelize');
                const sequelize = new Sequelize(process.env.DATABASE_URL);
                module.exports = sequelize.define('hives', {
                  label: { type: DataTypes.STRING(40), unique: true },
                  memberId: { type: DataTypes.INTEGER, references: { model: 'members', key: 'id' } },
                });
                """),
            ("models/note.js", """
                const mongoose = require('mongoose');
                const note = new mongoose.Schema({
                  slug: { type: String, unique: true },
                  written: { type: Date, index: true },
                  author: { type: mongoose.Schema.Types.ObjectId, ref: 'Member' },
                });
                module.exports = mongoose.model('Note', note);
                """));
        Assert.Equal("label", Unique(tables["hives"]));
        Assert.Equal("memberId > members", References(tables["hives"]));
        Assert.Equal("slug", Unique(tables["Note"]));
        Assert.Equal("written", Indexes(tables["Note"]));
        Assert.Equal("author > Member", References(tables["Note"]));
    }

    [Fact]
    public void Entities_of_TypeORM()
    {
        var tables = Tables(
            ("src/member.entity.ts", """
                import { Column, Entity, Index, ManyToOne, Unique } from 'typeorm';
                import { Branch } from './branch.entity';

                @Entity('members')
                @Unique(['name', 'phone'])
                export class Member {
                  @Column({ unique: true }) email: string;
                  @Index() @Column() name: string;
                  @Index({ unique: true }) @Column() phone: string;
                  @Column() id: number;
                  @ManyToOne(() => Branch) branch: Branch;
                }
                """),
            ("src/branch.entity.ts", """
                import { Column, Entity } from 'typeorm';

                @Entity('branches')
                export class Branch { @Column() id: number; @Column() title: string; }
                """));
        Assert.Equal("email; name,phone; phone", Unique(tables["members"]));
        Assert.Equal("name", Indexes(tables["members"]));
        Assert.Equal("branchId > branches", References(tables["members"]));
    }

    [Fact]
    public void Entities_of_Doctrine()
    {
        var tables = Tables(
            ("src/Entity/Member.php", """
                <?php
                namespace App\Entity;

                use Doctrine\ORM\Mapping as ORM;

                #[ORM\Entity]
                #[ORM\Table(name: 'members')]
                #[ORM\UniqueConstraint(name: 'one_phone', columns: ['phone', 'branch_id'])]
                #[ORM\Index(columns: ['name'])]
                class Member
                {
                    #[ORM\Column(length: 120, unique: true)]
                    private string $email;

                    #[ORM\Column]
                    private string $name;

                    #[ORM\Column(length: 40)]
                    private string $phone;

                    #[ORM\ManyToOne(targetEntity: Branch::class)]
                    private Branch $branch;
                }
                """),
            ("src/Entity/Branch.php", """
                <?php
                namespace App\Entity;

                use Doctrine\ORM\Mapping as ORM;

                #[ORM\Entity]
                #[ORM\Table(name: 'branches')]
                class Branch { #[ORM\Column] private int $id; #[ORM\Column] private string $title; }
                """));
        Assert.Equal("email; phone,branch_id", Unique(tables["members"]));
        Assert.Equal("name", Indexes(tables["members"]));
        Assert.Equal("branch_id > branches", References(tables["members"]));
    }

    [Fact]
    public void Models_of_Django()
    {
        var tables = Tables(("hives/models.py", """
            from django.db import models


            class Member(models.Model):
                email = models.EmailField(unique=True)
                name = models.CharField(max_length=80, db_index=True)
                branch = models.ForeignKey("Branch", on_delete=models.CASCADE)
                sponsor = models.ForeignKey("self", null=True, on_delete=models.SET_NULL)

                class Meta:
                    db_table = "members"
                    unique_together = [("name", "branch")]
                    indexes = [models.Index(fields=["branch", "-email"])]


            class Branch(models.Model):
                title = models.CharField(max_length=80)
                town = models.CharField(max_length=80)

                class Meta:
                    db_table = "branches"
                    constraints = [models.UniqueConstraint(fields=["title", "town"], name="one_title")]
            """));
        Assert.Equal("email; name,branch_id", Unique(tables["members"]));
        Assert.Equal("branch_id; branch_id,email; name; sponsor_id", Indexes(tables["members"]));
        Assert.Equal("branch_id > branches; sponsor_id > members", References(tables["members"]));
        Assert.Equal("title,town", Unique(tables["branches"]));
    }

    [Fact]
    public void Models_of_SQLAlchemy()
    {
        var tables = Tables(("models.py", """
            from sqlalchemy import Column, ForeignKey, Index, Integer, String, UniqueConstraint
            from sqlalchemy.orm import DeclarativeBase


            class Base(DeclarativeBase):
                pass


            class Member(Base):
                __tablename__ = "members"
                __table_args__ = (UniqueConstraint("name", "branch_id"), Index("by_name", "name", "email"))

                id = Column(Integer, primary_key=True)
                email = Column(String(120), unique=True)
                name = Column(String(80), index=True)
                branch_id = Column(Integer, ForeignKey("branches.id"))
            """));
        Assert.Equal("email; id; name,branch_id", Unique(tables["members"]));
        Assert.Equal("name; name,email", Indexes(tables["members"]));
        Assert.Equal("branch_id > branches", References(tables["members"]));
    }

    [Fact]
    public void Classes_of_Entity_Framework()
    {
        var tables = Tables(("Data/Register.cs", """
            using Microsoft.EntityFrameworkCore;

            public class Register : DbContext
            {
                public DbSet<Member> Members => Set<Member>();
                public DbSet<Branch> Branches => Set<Branch>();
            }

            [Index(nameof(Email), IsUnique = true)]
            [Index(nameof(Name), nameof(BranchId))]
            public class Member
            {
                public int Id { get; set; }
                public string Email { get; set; } = "";
                public string Name { get; set; } = "";
                public int BranchId { get; set; }
                public Branch Branch { get; set; } = null!;
            }

            public class Branch
            {
                public int Id { get; set; }
                public string Title { get; set; } = "";
            }
            """));
        Assert.Equal("Email", Unique(tables["Member"]));
        Assert.Equal("Name,BranchId", Indexes(tables["Member"]));
        Assert.Equal("BranchId > Branch", References(tables["Member"]));
    }

    [Fact]
    public void Statements_in_migrations()
    {
        var tables = Tables(
            ("migrations/002_rules.js", """
                exports.up = async function (knex) {
                  await knex.raw('CREATE TABLE hives (id int primary key, member_id int REFERENCES members (id), label varchar(40))');
                  await knex.raw('CREATE UNIQUE INDEX one_label ON hives (lower(label))');
                  await knex.raw('ALTER TABLE hives ENABLE ROW LEVEL SECURITY');
                };
                """),
            ("db/migrate/003_rules.rb", """
                class Rules < ActiveRecord::Migration[7.1]
                  def change
                    create_table :notes do |t|
                      t.text :body
                    end
                    execute "ALTER TABLE notes ENABLE ROW LEVEL SECURITY"
                  end
                end
                """));
        Assert.True(tables["hives"].RowSecurity);
        Assert.Equal("member_id > members", References(tables["hives"]));
        Assert.Contains(tables["hives"].Unique, u => u.IgnoresCase);
        Assert.All(tables["hives"].Columns, c => Assert.Equal(ColumnOrigin.Migration, c.Origin));
        Assert.True(tables["notes"].RowSecurity);
    }

    private static Dictionary<string, Table> Tables(params (string, string)[] files) => Auditor.Run(files).Schema.Tables.ToDictionary(t => t.Name);

    private static string Unique(Table table) => Listed(table.Unique.Select(u => string.Join(',', u.Columns)));

    private static string Indexes(Table table) => Listed(table.Indexes.Select(i => string.Join(',', i)));

    private static string References(Table table) => Listed(table.ForeignKeys.Select(k => $"{string.Join(',', k.Columns)} > {k.Table}"));

    private static string Listed(IEnumerable<string> keys) => string.Join("; ", keys.Order(StringComparer.Ordinal));
}
