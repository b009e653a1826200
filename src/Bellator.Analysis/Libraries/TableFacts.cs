namespace Bellator.Analysis.Libraries;

/// <summary>Classes that stand for tables, and how their fields say what the columns are.</summary>
public sealed class TableClassModel
{
    /// <summary>Base classes (last part of the name), or marks on the class.</summary>
    public List<string> Base { get; set; } = [];

    public List<string> Annotated { get; set; } = [];

    /// <summary>Classes that fields of this type list as their records: <c>DbSet</c>.</summary>
    public string? ListedBy { get; set; }

    /// <summary>Fields of the class, or arguments of its mark, that give the table's name.</summary>
    public List<string> NameFields { get; set; } = [];

    /// <summary>Calls whose result makes a field a column, by the last part of their names.</summary>
    public Dictionary<string, ColumnTypeModel> Columns { get; set; } = [];

    /// <summary>Types whose fields are columns without a value of their own; their argument is the column's type.</summary>
    public List<string> ColumnTypes { get; set; } = [];

    /// <summary>Every field that has a value of a plain type is a column.</summary>
    public bool AllFields { get; set; }

    /// <summary>
    /// Fields of the class, or with a dot of a class in it, and marks on it, that list keys: names of columns, or calls that are given
    /// them. They are unique where the name says so, or an option.
    /// </summary>
    public List<string> Keys { get; set; } = [];

    /// <summary>
    /// Calls among a column's arguments whose first argument is the table, or table and column, that it refers to; or marks on fields
    /// that hold an object of another table.
    /// </summary>
    public List<string> RefersBy { get; set; } = [];

    /// <summary>Arguments of such a mark that say the other table has the column.</summary>
    public List<string> ReferredBy { get; set; } = [];

    /// <summary>The argument, of a mark on the field, that names the column.</summary>
    public string? JoinName { get; set; }

    /// <summary>Names of the argument with the columns of a key, where it has one.</summary>
    public List<string> KeyColumns { get; set; } = [];

    /// <summary>Names of the argument that says a key is a unique one.</summary>
    public List<string> UniqueOptions { get; set; } = [];

    /// <summary>Names of the argument with the other table's class, where it is not the first without a name.</summary>
    public List<string> TargetOptions { get; set; } = [];

    /// <summary>What the column of a field that holds an object of another table is called after the field's name.</summary>
    public string? ReferenceSuffix { get; set; }

    /// <summary>Marks on fields that are no columns.</summary>
    public List<string> Not { get; set; } = [];

    /// <summary>By a library's base class (last part of its name), the columns that it brings, with their lengths where they are texts of one.</summary>
    public Dictionary<string, Dictionary<string, int?>> Inherited { get; set; } = [];
}

/// <summary>Objects that a module gives to others and that declare tables, where no call takes them.</summary>
public sealed class ColumnObjectsModel
{
    /// <summary>The folder in which the files lie; any if nothing is said.</summary>
    public string? Folder { get; set; }

    /// <summary>The member with the columns of the table that the file is named for; without one every member is a table.</summary>
    public string? Member { get; set; }

    /// <summary>The option of a column with its type.</summary>
    public string Type { get; set; } = "type";

    /// <summary>Where every member is a table: the column that each has, and by which one sees that it is one.</summary>
    public string Number { get; set; } = "id";

    /// <summary>The types by which one sees that it is a column.</summary>
    public List<string> Types { get; set; } = [];
}

/// <summary>Calls in a chain that tell a mapper what the tables of classes are like.</summary>
public sealed class FluentModel
{
    /// <summary>The type, with the class as its argument, of a parameter that the chain may begin with.</summary>
    public string ConfiguredBy { get; set; } = "";

    /// <summary>The call that says the table's name.</summary>
    public string Table { get; set; } = "";

    /// <summary>The call that begins what is said of a column.</summary>
    public string Column { get; set; } = "";

    /// <summary>The call that says how long it may be.</summary>
    public string Length { get; set; } = "";

    /// <summary>The call that names the columns of an index.</summary>
    public string Index { get; set; } = "";

    /// <summary>The call that says the index is a unique one.</summary>
    public string Unique { get; set; } = "";

    /// <summary>The call that names the member with the other table's object.</summary>
    public string Relates { get; set; } = "";

    /// <summary>The call that names the columns which refer to it.</summary>
    public string References { get; set; } = "";

    internal bool Names(string call) => call.Length > 0 && (call == Table || call == Length || call == Index || call == Unique || call == References);
}

/// <summary>What a column's declaration says.</summary>
public sealed class ColumnTypeModel
{
    /// <summary>Its type; empty if the first argument is the type.</summary>
    public string Type { get; set; } = "";

    /// <summary>Position of the argument with the table's name, where the call's object does not stand for it.</summary>
    public int? Table { get; set; }

    /// <summary>Position of the argument with the type.</summary>
    public int? TypeAt { get; set; }

    /// <summary>Position of the argument with the column's name, where the call names it.</summary>
    public int? Name { get; set; }

    /// <summary>Name or position of the argument with the length.</summary>
    public string Length { get; set; } = "";

    /// <summary>The length where none is said.</summary>
    public int? Default { get; set; }

    /// <summary>Names of options that say there is an index on it, or an object that says whether it is a unique one.</summary>
    public List<string> IndexOptions { get; set; } = [];

    /// <summary>It has an index without being told.</summary>
    public bool Indexed { get; set; }

    /// <summary>It refers to the table of the class or name in the first argument of the call that makes the field.</summary>
    public bool Refers { get; set; }

    /// <summary>The option that says it refers to another table: to the one of its name, or the one that an object there says.</summary>
    public string? RefersOption { get; set; }

    /// <summary>The entry of that object with the table's name.</summary>
    public string? TargetEntry { get; set; }

    /// <summary>Added to the name: a reference to another table is kept in a column <c>…_id</c>.</summary>
    public string Suffix { get; set; } = "";
}

/// <summary>A mark that makes a field a column.</summary>
public sealed class ColumnMarkModel
{
    /// <summary>Name of the argument with the length, or of a part of the first argument where that is an object; a number for a position.</summary>
    public string Length { get; set; } = "";

    /// <summary>The length of a text column that does not say it; 0 for as long as one likes.</summary>
    public int Default { get; set; }
}

/// <summary>A call that takes columns or a table away, or gives them another name.</summary>
public sealed class ChangeModel
{
    /// <summary>The argument with the table's name, where the call's object does not stand for it.</summary>
    public int? Table { get; set; }

    /// <summary>The argument with the column's name, or a list of them; without it the whole table is meant.</summary>
    public int? Columns { get; set; }

    /// <summary>The arguments after it are columns too.</summary>
    public bool Variadic { get; set; }

    /// <summary>The argument with the new name; without it they are taken away.</summary>
    public int? To { get; set; }
}

/// <summary>A call that says of columns that they are unique, that there is an index on them, or that they refer to another table.</summary>
public sealed class KeyModel
{
    /// <summary>The argument with the table's name, where the call's object does not stand for it.</summary>
    public int? Table { get; set; }

    /// <summary>The argument with the column's name, or a list of them; where none is given, the column that the chain of calls began with.</summary>
    public int? Columns { get; set; }

    /// <summary>The option with the column, where it is not the one that the convention names.</summary>
    public string? ColumnOption { get; set; }

    /// <summary>No two rows are equal in them.</summary>
    public bool Unique { get; set; }

    /// <summary>The option that says so.</summary>
    public string? UniqueOption { get; set; }

    /// <summary>They refer to another table.</summary>
    public bool Refers { get; set; }

    /// <summary>The argument with that table's name, or table and column; by the column's name where it is not given.</summary>
    public int? Target { get; set; }

    /// <summary>It only names the table where it says a column after a dot; otherwise it is the column's name, and another call names the table.</summary>
    public bool Dotted { get; set; }
}
