namespace Bellator.Analysis.Libraries;

/// <summary>What a global or field is.</summary>
public sealed class ValueModel
{
    /// <summary>The request part it holds: <c>query</c>, <c>form</c>, <c>body</c>, <c>cookie</c>, <c>header</c>, <c>path</c>, <c>upload</c>, <c>input</c> for any; <c>subject</c> for what the program itself knows of the person who is asking.</summary>
    public string? Source { get; set; }

    /// <summary>Where it has no such part, the program stops.</summary>
    public bool MissingFails { get; set; }

    /// <summary>The name that the request has for it: the header that is read.</summary>
    public string? SourceName { get; set; }

    /// <summary>Its own name tells what it stands for: the records of a table.</summary>
    public bool Labelled { get; set; }

    /// <summary>It is the object itself again.</summary>
    public bool ReturnsReceiver { get; set; }

    /// <summary>Only these keys come from the visitor; an asterisk at the end stands for the rest.</summary>
    public List<string> Keys { get; set; } = [];

    /// <summary>These keys do not come from the visitor.</summary>
    public List<string> Except { get; set; } = [];

    /// <summary>The type it has, or several with commas.</summary>
    public string? Type
    {
        get;
        set
        {
            field = value;
            Types = value?.Split(',', StringSplitOptions.TrimEntries) ?? [];
        }
    }

    internal IReadOnlyList<string> Types { get; private set; } = [];

    /// <summary>The constant it is.</summary>
    public string? Constant { get; set; }

    /// <summary>Where this part is empty, the value that the call made the object of is harmless in these positions.</summary>
    public List<string> Absent { get; set; } = [];

    /// <summary>Positions in which it is harmless to begin with.</summary>
    public List<string> SafeFor { get; set; } = [];

    /// <summary>It tells how the check went that made its object: this answer means that all was accepted. An absent part counts as no.</summary>
    public bool? Verdict { get; set; }

    /// <summary>It tells this of the members by which the function's own input is declared.</summary>
    public bool Declared { get; set; }

    /// <summary>It tells of the program's inside: the way by which an error came.</summary>
    public bool StackTrace { get; set; }

    /// <summary>It holds the request part by the members of its object's class, each checked by its declaration.</summary>
    public bool Members { get; set; }

    /// <summary>True for settings outside the code, such as environment variables.</summary>
    public bool Configuration { get; set; }

    /// <summary>It stands for the records of the class that it is read from.</summary>
    public bool Records { get; set; }

    /// <summary>It stands for every field that has no fact of its own.</summary>
    internal bool IsAny { get; set; }
}
