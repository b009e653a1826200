using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using Bellator.Text;

namespace Bellator.Audit.Tables;

/// <summary>Reads the models that a Prisma schema file declares. Its language has one declaration a line (Prisma's documentation, from memory).</summary>
public static partial class PrismaSchema
{
    /// <summary>Widths that columns have without being told, by the database's kind.</summary>
    private const int TextInMySql = 191;

    /// <summary>No declaration is so long; what is comes from somebody who wants us to search for long.</summary>
    private const int LongestLine = 2000;

    /// <summary>Adds the tables that a file declares, if it is one of Prisma's.</summary>
    public static void Read(DatabaseSchema schema, SourceTree tree, int file)
    {
        if (tree.Files[file].Language == Language.Prisma)
        {
            Read(schema, file, Encoding.Latin1.GetString(tree.Files[file].Content));
        }
    }

    private static void Read(DatabaseSchema schema, int file, string text)
    {
        var models = Models(file, text, out var database);
        var isMySql = database == "mysql";
        foreach (var model in models.Values)
        {
            var table = schema.Declare(model.Table, model.At);
            table.NoteOrigin(ColumnOrigin.Model, model.At);
            foreach (var field in model.Fields)
            {
                if (field.IsList || models.ContainsKey(field.Type))
                {
                    // It stands for records of another table; the columns that refer to them are named beside it.
                    if (Relation().Match(field.Rest) is { Success: true } relation && models.TryGetValue(field.Type, out var target))
                    {
                        table.ForeignKeys.Add(new ForeignKey(model.Columns(relation.Groups[1].Value), target.Table, target.Columns(relation.Groups[2].Value)));
                    }

                    continue;
                }

                var width = Width().Match(field.Rest) is { Success: true } given ? int.Parse(given.Groups[1].Value, CultureInfo.InvariantCulture)
                    : field.Type == "String" && isMySql && !field.Rest.Contains("@db.", StringComparison.Ordinal) ? TextInMySql : (int?)null;
                table.Add(new Column(field.Column, field.Type == "String" ? "text" : field.Type.ToLowerInvariant(), width, !field.IsOptional, Default().Match(field.Rest) is { Success: true } value ? value.Groups[1].Value : null, field.At, ColumnOrigin.Model));
                if (Mark(field.Rest, "@id") || Mark(field.Rest, "@unique"))
                {
                    table.Unique.Add(new UniqueRule([field.Column], Mark(field.Rest, "@id"), isMySql));
                }
            }

            foreach (var line in model.Rules)
            {
                var columns = model.Columns(Listed().Match(line).Groups[1].Value);
                if (columns.Count == 0)
                {
                    continue;
                }

                if (line.StartsWith("@@index", StringComparison.Ordinal))
                {
                    table.Indexes.Add(columns);
                }
                else if (line.StartsWith("@@unique", StringComparison.Ordinal) || line.StartsWith("@@id", StringComparison.Ordinal))
                {
                    table.Unique.Add(new UniqueRule(columns, line.StartsWith("@@id", StringComparison.Ordinal), isMySql));
                }
            }
        }
    }

    private static Dictionary<string, Model> Models(int file, string text, out string database)
    {
        database = "";
        var isSource = false;
        var models = new Dictionary<string, Model>(StringComparer.Ordinal);
        Model? model = null;
        for (var start = 0; start < text.Length;)
        {
            var end = text.IndexOf('\n', start) is >= 0 and var found ? found : text.Length;
            var line = WithoutComment(text[start..end]);
            var at = new Location(file, start + (line.Length - line.TrimStart().Length), start + line.TrimEnd().Length);
            line = line.Length > LongestLine ? "" : line.Trim();
            if (model is null)
            {
                isSource = line.StartsWith("datasource ", StringComparison.Ordinal) || (isSource && line != "}");
                if (isSource && Provider().Match(line) is { Success: true } provider)
                {
                    database = provider.Groups[1].Value;
                }
                else if (Head().Match(line) is { Success: true } head)
                {
                    model = new Model(head.Groups[1].Value, at);
                }
            }
            else if (line == "}")
            {
                models[model.Name] = model;
                model = null;
            }
            else if (line.StartsWith("@@", StringComparison.Ordinal))
            {
                model.Rules.Add(line);
                if (line.StartsWith("@@map", StringComparison.Ordinal) && Quoted().Match(line) is { Success: true } named)
                {
                    model.Table = named.Groups[1].Value;
                }
            }
            else if (Field().Match(line) is { Success: true } field)
            {
                var rest = field.Groups[4].Value;
                var column = Map().Match(rest) is { Success: true } mapped ? mapped.Groups[1].Value : field.Groups[1].Value;
                model.Fields.Add(new ModelField(field.Groups[1].Value, column, field.Groups[2].Value, field.Groups[3].Value == "[]", field.Groups[3].Value == "?", rest, at));
            }

            start = end + 1;
        }

        return models;
    }

    private static string WithoutComment(string line)
    {
        var quoted = false;
        for (var i = 0; i + 1 < line.Length; i++)
        {
            quoted ^= line[i] == '"' && (i == 0 || line[i - 1] != '\\');
            if (!quoted && line[i] == '/' && line[i + 1] == '/')
            {
                return line[..i];
            }
        }

        return line;
    }

    private static bool Mark(string rest, string mark) => rest.Split(' ', StringSplitOptions.RemoveEmptyEntries).Any(w => w == mark || w.StartsWith(mark + "(", StringComparison.Ordinal));

    private sealed record ModelField(string Name, string Column, string Type, bool IsList, bool IsOptional, string Rest, Location At);

    private sealed class Model(string name, Location at)
    {
        public string Name { get; } = name;

        public Location At { get; } = at;

        public string Table { get; set; } = name;

        public List<ModelField> Fields { get; } = [];

        public List<string> Rules { get; } = [];

        /// <summary>The columns of the fields that a list names.</summary>
        public IReadOnlyList<string> Columns(string list) =>
            [.. list.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Select(n => n.Split('(')[0]).Select(n => Fields.Find(f => f.Name == n)?.Column ?? n)];
    }

    [GeneratedRegex("""^model\s+(\w+)\s*\{$""")]
    private static partial Regex Head();

    [GeneratedRegex("""^(\w+)\s+(\w+)(\[\]|\?)?(.*)$""")]
    private static partial Regex Field();

    [GeneratedRegex("""@map\(\s*(?:name:\s*)?"([^"]+)"\s*\)""")]
    private static partial Regex Map();

    [GeneratedRegex("\"([^\"]+)\"")]
    private static partial Regex Quoted();

    [GeneratedRegex("""@db\.(?:VarChar|Char|NVarChar|NChar|VarBinary|Binary|String)\(([0-9]{1,9})\)""")]
    private static partial Regex Width();

    [GeneratedRegex("""@default\(((?:[^()]|\([^()]*\))*)\)""")]
    private static partial Regex Default();

    [GeneratedRegex("""@relation\(.*fields:\s*\[([^\]]*)\].*references:\s*\[([^\]]*)\]""")]
    private static partial Regex Relation();

    [GeneratedRegex("""\[([^\]]*)\]""")]
    private static partial Regex Listed();

    [GeneratedRegex("^provider\\s*=\\s*\"(\\w+)\"")]
    private static partial Regex Provider();
}
