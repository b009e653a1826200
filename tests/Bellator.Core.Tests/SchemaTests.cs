using Bellator.Audit.Tables;

namespace Bellator.Core.Tests;

/// <summary>Tables read from the declarations of four databases. The forms are those of their documentation, from memory.</summary>
public sealed class SchemaTests
{
    [Theory]
    [InlineData("CREATE TABLE a (\nCREATE TABLE b (id int, name text);\nCREATE TABLE c (id int);")]
    [InlineData("CREATE TABLE a (id int, name text;\nCREATE TABLE c (id int);")]
    [InlineData("CREATE TABLE a (;\nCREATE TABLE c (id int);")]
    public void Tables_that_are_not_closed_end(string sql) => Assert.NotNull(Read(sql).Find("c"));

    [Fact]
    public void PostgreSql_dump()
    {
        var schema = Read("""
            -- a dump
            CREATE TABLE public.members (
                id integer NOT NULL,
                email character varying(160) NOT NULL,
                name text DEFAULT 'x; y'::text,
                joined timestamp with time zone DEFAULT now(),
                CONSTRAINT ok CHECK ((length(name) > 0))
            );
            COMMENT ON TABLE public.members IS 'it''s (a) table';
            ALTER TABLE ONLY public.members ADD CONSTRAINT members_pkey PRIMARY KEY (id);
            ALTER TABLE ONLY public.members ADD CONSTRAINT m_e UNIQUE (email);
            CREATE TABLE "Hives" ("Id" uuid PRIMARY KEY, keeper_id integer REFERENCES public.members(id) ON DELETE CASCADE, mail citext UNIQUE);
            CREATE UNIQUE INDEX members_lower ON public.members USING btree (lower((email)::text));
            CREATE INDEX hives_keeper ON "Hives" (keeper_id);
            ALTER TABLE public.members ENABLE ROW LEVEL SECURITY;
            CREATE FUNCTION f() RETURNS void LANGUAGE sql AS $$ CREATE TABLE not_this (a int); $$;
            """);
        Assert.Equal(["Hives", "members"], schema.Tables.Select(t => t.Name).Order(StringComparer.Ordinal));
        var members = schema.Find("public.members")!;
        Assert.Equal(["id integer", "email character varying(160)", "name text", "joined timestamp with time zone"], members.Columns.Select(c => c.Name + " " + c.Type + (c.Length is { } l ? $"({l})" : "")));
        Assert.True(members.Find("email")!.NotNull);
        Assert.True(members.RowSecurity);
        Assert.Contains(members.Unique, u => u is { IsPrimary: true, Columns: ["id"] });
        Assert.Contains(members.Unique, u => u is { IsPrimary: false, IgnoresCase: false, Columns: ["email"] });
        Assert.Contains(members.Unique, u => u is { IgnoresCase: true, Columns: ["email"] });
        var hives = schema.Find("Hives")!;
        Assert.Contains(hives.ForeignKeys, f => f is { Table: "members", Columns: ["keeper_id"], TargetColumns: ["id"] });
        Assert.Contains(hives.Unique, u => u is { IgnoresCase: true, Columns: ["mail"] });
        Assert.Contains(hives.Indexes, i => i is ["keeper_id"]);
    }

    [Fact]
    public void MySql_dump()
    {
        var schema = Read("""
            /*!40101 SET NAMES utf8 */;
            DROP TABLE IF EXISTS `members`;
            CREATE TABLE IF NOT EXISTS `members` (
              `id` int(11) NOT NULL AUTO_INCREMENT,
              `password` varchar(64) COLLATE utf8mb4_unicode_ci NOT NULL COMMENT 'a, (b)',
              `state` enum('a','b') DEFAULT 'a',
              `key` varchar(20) DEFAULT NULL,
              PRIMARY KEY (`id`),
              UNIQUE KEY `p` (`password`),
              KEY `s` (`state`,`key`),
              CONSTRAINT `fk` FOREIGN KEY (`id`) REFERENCES `others` (`id`)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4; # done
            INSERT INTO `members` VALUES (1,'CREATE TABLE x (a int)','a',NULL);
            """);
        var members = Assert.Single(schema.Tables);
        Assert.Equal(["id", "password", "state", "key"], members.Columns.Select(c => c.Name));
        Assert.Equal(64, members.Find("password")!.Length);
        Assert.Equal("a", members.Find("state")!.Default);
        Assert.Contains(members.Indexes, i => i is ["state", "key"]);
        Assert.Contains(members.ForeignKeys, f => f.Table == "others");
    }

    [Fact]
    public void SqlServer_script()
    {
        var schema = Read("CREATE TABLE [dbo].[Members] (\n [Id] INT IDENTITY(1,1) NOT NULL,\n [Name] NVARCHAR(50) NULL,\n CONSTRAINT [PK_M] PRIMARY KEY CLUSTERED ([Id] ASC)\n)\nGO\nCREATE TABLE [dbo].[Hives] ([Id] INT NOT NULL)\nGO\n");
        Assert.Equal(["Members", "Hives"], schema.Tables.Select(t => t.Name));
        Assert.Equal(50, schema.Find("Members")!.Find("Name")!.Length);
        Assert.Contains(schema.Find("Members")!.Unique, u => u is { IsPrimary: true, Columns: ["Id"] });
    }

    [Fact]
    public void Sqlite_schema()
    {
        var schema = Read("CREATE TABLE members(id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT NOT NULL UNIQUE COLLATE NOCASE, note); CREATE TABLE IF NOT EXISTS t2 AS SELECT 1;");
        var members = Assert.Single(schema.Tables);
        Assert.Equal(["id", "name", "note"], members.Columns.Select(c => c.Name));
    }

    [Theory]
    [InlineData("")]
    [InlineData("CREATE TABLE")]
    [InlineData("CREATE TABLE a (")]
    [InlineData("CREATE TABLE a (b int, (((")]
    [InlineData("ALTER TABLE a ADD")]
    [InlineData("CREATE INDEX ON a (")]
    [InlineData("'''' \"\" `` [] $$ $a$ /* /*! -- #")]
    public void Broken_declarations_end(string text) => Assert.InRange(Read(text).Tables.Count, 0, 1);

    [Fact]
    public void An_audit_gives_the_tables_of_its_material()
    {
        var result = Auditor.Run(("db/schema.sql", "CREATE TABLE hives (id int PRIMARY KEY, name varchar(80));"), ("a.php", "<?php echo 1;"));
        var table = Assert.Single(result.Schema.Tables);
        Assert.Equal(("hives", 1), (table.Name, table.Find("name")!.At.Start > 0 ? 1 : 0));
        Assert.Empty(result.Findings);
    }

    private static DatabaseSchema Read(string text)
    {
        var schema = new DatabaseSchema();
        DdlReader.Read(schema, 0, text);
        return schema;
    }

    [Fact]
    public void Models_of_a_Prisma_schema()
    {
        var tables = Auditor.Run(("prisma/schema.prisma", """
            datasource db {
              provider = "mysql" // the register's own
              url      = env("DATABASE_URL")
            }

            model Member {
              id           Int      @id @default(autoincrement())
              email        String   @unique @db.VarChar(120)
              passwordHash String   @map("password_hash") @db.Char(60)
              note         String?  // "quoted // not a comment"
              role         Role     @default(MEMBER)
              hives        Hive[]

              @@map("members")
            }

            model Hive {
              id      Int    @id
              name    String @default("a // b")
              ownerId Int    @map("owner_id")
              owner   Member @relation(fields: [ownerId], references: [id], onDelete: Cascade)

              @@unique([ownerId, name(length: 20)])
              @@index([ownerId])
            }

            enum Role {
              MEMBER
              INSPECTOR
            }
            """)).Schema.Tables.ToDictionary(t => t.Name);
        Assert.Equal(["Hive", "members"], tables.Keys.Order(StringComparer.Ordinal));
        var members = tables["members"];
        Assert.Equal(
            ["id int  True", "email text 120 True", "password_hash text 60 True", "note text 191 False", "role role  True"],
            members.Columns.Select(c => $"{c.Name} {c.Type} {c.Length} {c.NotNull}"));
        Assert.All(members.Columns, c => Assert.Equal(ColumnOrigin.Model, c.Origin));
        Assert.Equal(["id True", "email False"], members.Unique.Select(u => $"{string.Join(',', u.Columns)} {u.IsPrimary}"));
        var hive = tables["Hive"];
        Assert.Equal("owner_id > members.id", Assert.Single(hive.ForeignKeys) is var key ? $"{key.Columns[0]} > {key.Table}.{key.TargetColumns[0]}" : "");
        Assert.Equal(["id", "owner_id,name"], hive.Unique.Select(u => string.Join(',', u.Columns)));
        Assert.Equal("owner_id", Assert.Single(Assert.Single(hive.Indexes)));
    }

    [Theory]
    [InlineData("model")]
    [InlineData("model A {")]
    [InlineData("model A {\n  x String @map(\n  @@unique([\n}")]
    [InlineData("}\n}\nmodel B { }")]
    public void Broken_Prisma_schemas_are_no_error(string text) => Assert.NotNull(Auditor.Run(("a.prisma", text)).Schema);
}
