using Bellator.Audit.Tables;

namespace Bellator.Core.Tests;

/// <summary>Columns and tables that later steps take away or rename: the picture is of the tables as they are in the end. The calls are those of the frameworks' documentation, from memory.</summary>
public sealed class SchemaChangeTests
{
    private const string Rails = """
        class CreateKeepers < ActiveRecord::Migration[7.1]
          def change
            create_table :keepers do |t|
              t.string :login, limit: 40
              t.string :crypted, limit: 60
              t.string :identity_url
            end
            add_index :keepers, :login, unique: true
            create_table :old_notes do |t|
              t.text :body
            end
            create_table :swarms do |t|
              t.string :place
              t.string :spare
            end
          end
        end
        """;

    private const string RailsLater = """
        class ChangeKeepers < ActiveRecord::Migration[7.1]
          def up
            rename_column :keepers, :crypted, :password_hash
            rename_column :keepers, :login, :email
            remove_column :keepers, :identity_url
            drop_table :old_notes
            rename_table :swarms, :swarm_reports
            change_table :swarm_reports do |t|
              t.remove :spare
            end
          end

          def down
            add_column :keepers, :identity_url, :string
            remove_column :keepers, :password_hash
            create_table :old_notes do |t|
              t.text :body
            end
          end
        end
        """;

    [Fact]
    public void Steps_of_Rails() => Expect(
        "keepers: email(40) unique, password_hash(60) | swarm_reports: place(255)",
        ("db/migrate/001_create_keepers.rb", Rails), ("db/migrate/002_change_keepers.rb", RailsLater));

    [Fact]
    public void Steps_of_Laravel() => Expect(
        "keepers: email(255) unique, password_hash(60)",
        ("database/migrations/2026_01_01_create.php", """
            <?php
            use Illuminate\Database\Migrations\Migration;
            use Illuminate\Database\Schema\Blueprint;
            use Illuminate\Support\Facades\Schema;
            return new class extends Migration {
                public function up(): void {
                    Schema::create('keepers', function (Blueprint $table) {
                        $table->string('email')->unique();
                        $table->string('crypted', 60);
                        $table->string('nickname');
                        $table->string('motto');
                    });
                    Schema::create('notes', function (Blueprint $table) { $table->text('body'); });
                }
                public function down(): void { Schema::dropIfExists('keepers'); }
            };
            """),
        ("database/migrations/2026_02_01_change.php", """
            <?php
            use Illuminate\Database\Migrations\Migration;
            use Illuminate\Database\Schema\Blueprint;
            use Illuminate\Support\Facades\Schema;
            return new class extends Migration {
                public function up(): void {
                    Schema::table('keepers', function (Blueprint $table) {
                        $table->dropColumn(['nickname', 'motto']);
                        $table->renameColumn('crypted', 'password_hash');
                    });
                    Schema::drop('notes');
                }
                public function down(): void {
                    Schema::table('keepers', function (Blueprint $table) {
                        $table->string('nickname');
                        $table->dropColumn('password_hash');
                    });
                }
            };
            """));

    [Fact]
    public void Steps_of_Knex() => Expect(
        "keepers: email(120) unique, password_hash(60)",
        ("migrations/1_keepers.js", """
            exports.up = async (knex) => {
              await knex.schema.createTable('keepers', (table) => {
                table.string('email', 120).unique();
                table.string('crypted', 60);
                table.string('motto', 10);
              });
              await knex.schema.createTable('notes', (table) => { table.text('body'); });
            };
            exports.down = async (knex) => { await knex.schema.dropTable('keepers'); };
            """),
        ("migrations/2_keepers.js", """
            exports.up = async function (knex) {
              await knex.schema.alterTable('keepers', (table) => {
                table.renameColumn('crypted', 'password_hash');
                table.dropColumn('motto');
              });
              await knex.schema.dropTable('notes');
            };
            exports.down = async function (knex) {
              await knex.schema.alterTable('keepers', (table) => { table.dropColumn('password_hash'); });
            };
            """));

    [Fact]
    public void Statements() => Expect(
        "keepers: email(120) unique, password_hash(60)",
        ("schema/001.sql", "CREATE TABLE keepers (email varchar(120) UNIQUE, crypted varchar(60), motto varchar(10));\n"),
        ("schema/002.sql", "ALTER TABLE keepers DROP COLUMN motto;\nALTER TABLE keepers RENAME COLUMN crypted TO password_hash;\nALTER TABLE keepers DROP CONSTRAINT IF EXISTS keepers_motto_check;\n"),
        ("schema/002.down.sql", "ALTER TABLE keepers DROP COLUMN password_hash;\n"));

    [Fact]
    public void A_class_that_has_the_column_keeps_it() => Expect(
        "keepers: email, motto",
        ("models.py", """
            from sqlalchemy import Column, String
            from sqlalchemy.orm import declarative_base
            Base = declarative_base()
            class Keeper(Base):
                __tablename__ = 'keepers'
                email = Column(String)
                motto = Column(String)
            """),
        ("002.sql", "ALTER TABLE keepers DROP COLUMN motto;\n"));

    private static void Expect(string tables, params (string Path, string Code)[] files)
    {
        var schema = Auditor.Run(files).Schema;
        Assert.Equal(tables, string.Join(" | ", schema.Tables.OrderBy(t => t.Name, StringComparer.Ordinal).Select(t =>
            $"{t.Name}: {string.Join(", ", t.Columns.Where(c => c.Name is not "id").Select(c => c.Name + (c.Length is { } length ? $"({length})" : "") + (IsUnique(t, c) ? " unique" : "")))}")));
    }

    private static bool IsUnique(Table table, Column column) => table.Unique.Exists(u => u.Columns.SequenceEqual([column.Name]));
}
