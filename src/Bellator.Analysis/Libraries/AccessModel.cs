namespace Bellator.Analysis.Libraries;

/// <summary>What a call does to records.</summary>
public sealed class AccessModel
{
    /// <summary><c>list</c>, <c>view</c>, <c>create</c>, <c>edit</c> or <c>delete</c>.</summary>
    public string Action { get; set; } = "";

    /// <summary>The argument that is the record, its class or its table's name; -1 for the object.</summary>
    public int Model { get; set; } = -1;

    /// <summary>The argument with the condition.</summary>
    public int? Where { get; set; }

    /// <summary>The option of that argument which is the condition; without it there is none.</summary>
    public string? WhereIn { get; set; }

    /// <summary>The argument with the columns that are written.</summary>
    public int? Fields { get; set; }

    /// <summary>The option with the columns that are written.</summary>
    public string? FieldsIn { get; set; }

    /// <summary>The call means this only where it is known whose records the object is: others have methods of the name.</summary>
    public bool Known { get; set; }

    /// <summary>Options, or an argument, that choose which columns come back; without them all do.</summary>
    public List<string> Projection { get; set; } = [];

    public int? ProjectionAt { get; set; }

    /// <summary>Options that name relations whose records come along.</summary>
    public List<string> Loads { get; set; } = [];

    /// <summary>The records are those that the function has fetched and changed the fields of before.</summary>
    public bool SavesChanges { get; set; }

    /// <summary>A record is made, and nothing is written yet.</summary>
    public bool Unsaved { get; set; }

    /// <summary>What is given may be a record that was fetched: then that one is changed.</summary>
    public bool EditsFetched { get; set; }

    /// <summary>Which of the rows it is about, other code of the program decides.</summary>
    public bool DecidedElsewhere { get; set; }
}
