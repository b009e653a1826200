using System.Globalization;
using System.Text;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Sql;
using Bellator.Text;

namespace Bellator.Audit.Tables;

/// <summary>
/// Reads the statements that declare tables: PostgreSQL, MySQL and MariaDB, SQLite and SQL Server. It knows the common frame of CREATE
/// TABLE, ALTER TABLE and CREATE INDEX and passes over all else, so that a dump of any of them gives its tables.
/// </summary>
public sealed class DdlReader : SqlTokenReader
{
    private static readonly HashSet<string> ConstraintWords = new(StringComparer.OrdinalIgnoreCase)
    {
        "CONSTRAINT", "PRIMARY", "UNIQUE", "FOREIGN", "CHECK", "EXCLUDE", "KEY", "INDEX", "FULLTEXT", "SPATIAL", "LIKE", "PERIOD",
    };

    /// <summary>Words after which a column's type has ended.</summary>
    private static readonly HashSet<string> AfterType = new(StringComparer.OrdinalIgnoreCase)
    {
        "NOT", "NULL", "DEFAULT", "PRIMARY", "UNIQUE", "REFERENCES", "CHECK", "CONSTRAINT", "GENERATED", "IDENTITY", "AUTO_INCREMENT", "AUTOINCREMENT", "COLLATE", "COMMENT", "ON", "AS",
        "CHARSET", "KEY", "STORED", "VIRTUAL", "INVISIBLE", "ROWGUIDCOL", "SPARSE",
    };

    private readonly DatabaseSchema _schema;
    private readonly int _file;
    private readonly Location? _place;

    private DdlReader(DatabaseSchema schema, int file, string text, Location? place = null)
        : base([.. SqlTokens.Of(text)])
    {
        _place = place;
        _schema = schema;
        _file = file;
    }

    /// <summary>The tables that the SQL files of a tree declare.</summary>
    public static DatabaseSchema Read(SourceTree tree, IdentifierClassifier words)
    {
        var schema = new DatabaseSchema();
        for (var i = 0; i < tree.Files.Count; i++)
        {
            Read(schema, tree, i, words);
        }

        return schema;
    }

    /// <summary>Adds the tables that a file declares, if it is one of SQL.</summary>
    public static void Read(DatabaseSchema schema, SourceTree tree, int file, IdentifierClassifier words)
    {
        if (tree.Files[file].Language == Language.Sql && !words.Undoes(System.IO.Path.GetFileNameWithoutExtension(tree.Files[file].Path)))
        {
            // One byte a character, so that places in the text are places in the file.
            Read(schema, file, Encoding.Latin1.GetString(tree.Files[file].Content));
        }
    }

    /// <summary>Adds what the text declares.</summary>
    /// <param name="file">Index of the file it stands in; places are offsets in the text.</param>
    public static void Read(DatabaseSchema schema, int file, string text) => new DdlReader(schema, file, text).ReadAll();

    /// <summary>Adds what a statement in code declares; all of it stands where the statement does.</summary>
    internal static void Read(DatabaseSchema schema, Location place, string text) => new DdlReader(schema, place.File, text, place).ReadAll();

    private Location At(int start, int end) => _place ?? new Location(_file, start, end);

    private ColumnOrigin Origin => _place is null ? ColumnOrigin.Sql : ColumnOrigin.Migration;

    private void ReadAll()
    {
        var forward = new ForwardOnly(nameof(DdlReader));
        while (Position < Tokens.Count && forward.At(Position))
        {
            if (Skip("CREATE"))
            {
                ReadCreate();
            }
            else if (Skip("ALTER") && Skip("TABLE"))
            {
                ReadAlter();
            }

            while (Position < Tokens.Count && !Here.IsSign(';') && !(Here.IsWord("CREATE") && StartsLine()) && !(Here.IsWord("ALTER") && StartsLine()))
            {
                Position++;
            }

            while (Here.IsSign(';'))
            {
                Position++;
            }
        }
    }

    /// <summary>SQL Server ends its batches with a line "GO": a statement may begin without a semicolon before it.</summary>
    private bool StartsLine() => Position == 0 || Tokens[Position - 1].IsWord("GO") || Tokens[Position - 1].IsSign(')');

    private void ReadCreate()
    {
        var unique = false;
        while (Here.Kind == SqlTokenKind.Word)
        {
            if (Skip("TABLE"))
            {
                ReadTable();
                return;
            }

            if (Skip("INDEX"))
            {
                ReadIndex(unique);
                return;
            }

            unique |= Here.IsWord("UNIQUE");
            if (!(Here.IsWord("UNIQUE") || Here.IsWord("TEMP") || Here.IsWord("TEMPORARY") || Here.IsWord("UNLOGGED") || Here.IsWord("GLOBAL") || Here.IsWord("LOCAL") || Here.IsWord("CLUSTERED") || Here.IsWord("NONCLUSTERED")
                || Here.IsWord("FOREIGN") || Here.IsWord("OR") || Here.IsWord("REPLACE")))
            {
                return;
            }

            Position++;
        }
    }

    private void ReadTable()
    {
        SkipExists();
        var start = Here.Span.Start;
        if (ReadName() is not { } name || !Here.IsSign('('))
        {
            return;
        }

        var table = _schema.Declare(name, At(start, Here.Span.Start));
        Position++;
        var forward = new ForwardOnly(nameof(DdlReader));
        while (Position < Tokens.Count && !Here.IsSign(')') && forward.At(Position))
        {
            var end = EndOfPart();
            if (Here.Kind == SqlTokenKind.Word && ConstraintWords.Contains(Here.Value) && !IsColumnNamed(end))
            {
                ReadConstraint(table, end);
            }
            else
            {
                ReadColumn(table, end);
            }

            // What is written wrongly may have led a part's reader beyond its end.
            Position = Math.Max(end, Position);
            if (Here.IsSign(';'))
            {
                // The bracket was never closed.
                return;
            }

            if (Here.IsSign(','))
            {
                Position++;
            }
        }
    }

    /// <summary>"key varchar(20)" is a column for all that its name is a word of the language.</summary>
    private bool IsColumnNamed(int end) => Position + 1 < end && (Here.IsWord("KEY") || Here.IsWord("INDEX") || Here.IsWord("PERIOD") || Here.IsWord("LIKE")) && Tokens[Position + 1].Kind == SqlTokenKind.Word
        && (Position + 2 >= end || !Tokens[Position + 2].IsSign('(') || (Position + 3 < end && Tokens[Position + 3].Kind == SqlTokenKind.Number));

    /// <summary>The comma or bracket that ends this part of a list.</summary>
    private int EndOfPart()
    {
        var depth = 0;
        for (var i = Position; i < Tokens.Count; i++)
        {
            if (Tokens[i].IsSign('('))
            {
                depth++;
            }
            else if (Tokens[i].IsSign(')') && depth-- == 0)
            {
                return i;
            }
            else if (Tokens[i].IsSign(';') || (depth == 0 && Tokens[i].IsSign(',')))
            {
                // A semicolon ends the statement, whatever was left open in it.
                return i;
            }
        }

        return Tokens.Count;
    }

    private void ReadColumn(Table table, int end)
    {
        var start = Here.Span.Start;
        if (!Here.IsName)
        {
            return;
        }

        var name = Here.Value;
        Position++;
        var (type, length) = ReadType(end);
        var notNull = false;
        string? standard = null;
        for (; Position < end; Position++)
        {
            if (Here.IsWord("NOT") && Position + 1 < end && Tokens[Position + 1].IsWord("NULL"))
            {
                notNull = true;
            }
            else if (Here.IsWord("PRIMARY"))
            {
                notNull = true;
                table.Unique.Add(new UniqueRule([name], true, IgnoresCase(type)));
            }
            else if (Here.IsWord("UNIQUE"))
            {
                table.Unique.Add(new UniqueRule([name], false, IgnoresCase(type)));
            }
            else if (Here.IsWord("DEFAULT") && Position + 1 < end)
            {
                standard = Tokens[Position + 1].Value;
            }
            else if (Here.IsWord("REFERENCES"))
            {
                Position++;
                ReadReference(table, [name]);
                Position--;
            }
        }

        table.Add(new Column(name, type, length, notNull, standard, At(start, start + name.Length), Origin));
    }

    private static bool IgnoresCase(string type) => type is "citext";

    private (string Type, int? Length) ReadType(int end)
    {
        var words = new List<string>();
        int? length = null;
        while (Position < end && !(Here.Kind == SqlTokenKind.Word && AfterType.Contains(Here.Value)) && !(Here.IsWord("CHARACTER") && words.Count > 0))
        {
            if (Here.IsSign('('))
            {
                if (Position + 1 < end && int.TryParse(Tokens[Position + 1].Value, NumberStyles.None, CultureInfo.InvariantCulture, out var number))
                {
                    length ??= number;
                }

                while (Position < end && !Here.IsSign(')'))
                {
                    Position++;
                }
            }
            else if (Here.IsName)
            {
                words.Add(Here.Value.ToLowerInvariant());
            }

            Position++;
        }

        return (string.Join(' ', words), length);
    }

    private void ReadConstraint(Table table, int end)
    {
        if (Skip("CONSTRAINT") && Here.IsName && !ConstraintWords.Contains(Here.Value))
        {
            Position++;
        }

        var primary = Here.IsWord("PRIMARY");
        var unique = primary || Here.IsWord("UNIQUE");
        var foreign = Here.IsWord("FOREIGN");
        var index = Here.IsWord("KEY") || Here.IsWord("INDEX");
        while (Position < end && !Here.IsSign('('))
        {
            Position++;
        }

        var columns = ReadNames(out var lowered);
        if (columns.Count == 0)
        {
            return;
        }

        if (unique)
        {
            table.Unique.Add(new UniqueRule(columns, primary, lowered));
        }
        else if (foreign && Skip("REFERENCES"))
        {
            ReadReference(table, columns);
        }
        else if (index)
        {
            table.Indexes.Add(columns);
        }
    }

    private void ReadReference(Table table, IReadOnlyList<string> columns)
    {
        if (ReadName() is { } target)
        {
            table.ForeignKeys.Add(new ForeignKey(columns, target, Here.IsSign('(') ? ReadNames(out _) : []));
        }
    }

    private void ReadIndex(bool unique)
    {
        Skip("CONCURRENTLY");
        SkipExists();
        if (!Here.IsWord("ON"))
        {
            ReadName();
        }

        if (!Skip("ON"))
        {
            return;
        }

        Skip("ONLY");
        var start = Here.Span.Start;
        if (ReadName() is not { } name)
        {
            return;
        }

        while (Position < Tokens.Count && !Here.IsSign('(') && !Here.IsSign(';'))
        {
            Position++;
        }

        var columns = ReadNames(out var lowered);
        if (columns.Count > 0)
        {
            var table = _schema.Declare(name, At(start, start + name.Length));
            table.Indexes.Add(columns);
            if (unique)
            {
                table.Unique.Add(new UniqueRule(columns, false, lowered));
            }
        }
    }

    private void ReadAlter()
    {
        SkipExists();
        Skip("ONLY");
        var start = Here.Span.Start;
        if (ReadName() is not { } name)
        {
            return;
        }

        var table = _schema.Declare(name, At(start, start + name.Length));
        var forward = new ForwardOnly(nameof(DdlReader));
        while (Position < Tokens.Count && !Here.IsSign(';') && forward.At(Position))
        {
            var end = EndOfPart();
            if (Skip("ADD"))
            {
                var named = Skip("COLUMN");
                SkipExists();
                if (!named && Here.Kind == SqlTokenKind.Word && ConstraintWords.Contains(Here.Value))
                {
                    ReadConstraint(table, end);
                }
                else
                {
                    ReadColumn(table, end);
                }
            }
            else if (Skip("DROP") && !(Here.Kind == SqlTokenKind.Word && ConstraintWords.Contains(Here.Value)))
            {
                Skip("COLUMN");
                SkipExists();
                if (ReadName() is { } dropped)
                {
                    table.Change(dropped, null, Origin);
                }
            }
            else if (Skip("RENAME"))
            {
                var column = Skip("COLUMN");
                if ((column || !Here.IsWord("to")) && ReadName() is { } old && Skip("TO") && ReadName() is { } renamed)
                {
                    table.Change(old, renamed, Origin);
                }
            }
            else if ((Skip("ENABLE") || Skip("FORCE")) && Skip("ROW"))
            {
                table.RowSecurity = true;
            }

            Position = Math.Max(end, Position);
            if (!Here.IsSign(','))
            {
                return;
            }

            Position++;
        }
    }

    /// <summary>Names between brackets; an expression gives the name within it, and says whether it is on the lower-case form.</summary>
    private List<string> ReadNames(out bool lowered)
    {
        var names = new List<string>();
        lowered = false;
        if (!Here.IsSign('('))
        {
            return names;
        }

        Position++;
        var forward = new ForwardOnly(nameof(DdlReader));
        while (Position < Tokens.Count && !Here.IsSign(')') && !Here.IsSign(';') && forward.At(Position))
        {
            var end = EndOfPart();
            for (var taken = false; Position < end; Position++)
            {
                if (Here.IsWord("lower") || Here.IsWord("upper"))
                {
                    lowered = true;
                }
                else if (Here.IsName && !taken)
                {
                    names.Add(Here.Value);
                    taken = true;
                }
            }

            if (Here.IsSign(','))
            {
                Position++;
            }
        }

        if (Here.IsSign(')'))
        {
            Position++;
        }

        return names;
    }
}
