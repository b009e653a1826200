using Bellator.Audit.Tables;

namespace Bellator.Core.Tests;

/// <summary>Tables that a module declares as an object, without a call that takes it.</summary>
public sealed class ObjectTableTests
{
    private const string Tables = """
        module.exports = {
          keepers: {
            id: { type: 'string', maxlength: 24, nullable: false, primary: true },
            email: { type: 'string', maxlength: 191, nullable: false, unique: true },
            password: { type: 'string', maxlength: 60, nullable: false },
            '@@INDEXES@@': [['email']],
          },
          hives: {
            id: { type: 'string', maxlength: 24, nullable: false, primary: true },
            keeper_id: { type: 'string', maxlength: 24, references: 'keepers.id' },
            note: { type: 'text', nullable: true },
          },
        };
        """;

    [Fact]
    public void One_object_for_each_table()
    {
        var schema = Run("data/schema/schema.js", Tables);
        Assert.Equal(["hives", "keepers"], schema.Tables.Select(t => t.Name).Order(StringComparer.Ordinal));
        var keepers = schema.Find("keepers")!;
        Assert.Equal(["id", "email", "password"], keepers.Columns.Select(c => c.Name));
        Assert.Equal(60, keepers.Find("password")!.Length);
        Assert.True(keepers.Find("email")!.NotNull);
        Assert.Contains(keepers.Unique, u => u.Columns.SequenceEqual(["email"]));
        Assert.Equal("keepers", Assert.Single(schema.Find("hives")!.ForeignKeys).Table);
    }

    [Fact]
    public void The_columns_of_the_table_that_a_file_is_named_for()
    {
        var schema = Run("api/models/Keeper.js", """
            module.exports = {
              tableName: 'keepers',
              attributes: {
                email: { type: 'string', required: true, unique: true, isEmail: true, maxLength: 200 },
                password: { type: 'string', required: true, protect: true },
                hives: { collection: 'hive', via: 'keeper' },
              },
              customToJSON() { return { id: this.id }; },
            };
            """);
        var keeper = Assert.Single(schema.Tables);
        Assert.Equal("Keeper", keeper.Name);
        Assert.Equal(["email", "password"], keeper.Columns.Select(c => c.Name));
        Assert.Equal(200, keeper.Find("email")!.Length);
    }

    [Theory]
    [InlineData("a description of data", "module.exports = { type: 'object', properties: { id: { type: 'string' }, name: { type: 'string' } } };")]
    [InlineData("options of a tool", "module.exports = { serve: { port: { type: 'number' }, quiet: { type: 'boolean' } }, build: { out: { type: 'string' }, watch: { type: 'boolean' } } };")]
    [InlineData("attributes elsewhere", "module.exports = { attributes: { id: { type: 'string' }, name: { type: 'string' } } };")]
    [InlineData("other types", "module.exports = { a: { id: { type: 'button' }, b: { type: 'panel' } }, c: { id: { type: 'button' }, d: { type: 'panel' } } };")]
    public void What_only_looks_alike(string what, string code) => Assert.True(Run("lib/things.js", code).Tables.Count == 0, what);

    private static DatabaseSchema Run(string path, string code) => Auditor.Run((path, code)).Schema;
}
