namespace Bellator.Analysis.Domain;

public enum OriginKind
{
    /// <summary>Part of the request.</summary>
    Request,

    /// <summary>A parameter of a function: resolved where the function is called.</summary>
    Parameter,

    /// <summary>Read back from the database.</summary>
    Stored,

    /// <summary>What an error tells of the program's inside: where it happened, and by which way.</summary>
    Error,

    /// <summary>What the program itself knows of the person who is asking: the session's contents, the account, its memberships.</summary>
    Subject,
}

/// <summary>Where a value comes from.</summary>
/// <param name="Kind">Request, parameter or database.</param>
/// <param name="Part">The part of the request (query, form, body, …).</param>
/// <param name="Name">The field's, parameter's or column's name, or null.</param>
/// <param name="Function">For a parameter its function; for a request the file it was read in, so that each file shows its own reading.</param>
/// <param name="Index">The parameter's position; -1 for the object itself. For a part of the request whose name a parameter brings, that one's position.</param>
public sealed record Origin(OriginKind Kind, string Part, string? Name, int Function, int Index)
{
    /// <summary>Some part whose name is only known when the program runs.</summary>
    public const string AnyName = "*";

    /// <summary>Whoever sent it also chose the names of its parts: true of a whole form, not of what lies in one, nor of what was read from a record.</summary>
    public bool NamesItsParts => Kind == OriginKind.Parameter || (Kind == OriginKind.Request && Name is null);

    /// <summary>What is said of this is said of the other too: the same value, or one of a request part that is left open.</summary>
    public bool Covers(Origin other) =>
        IsSameValue(other) || (Kind == OriginKind.Error && other.Kind == OriginKind.Error) || (Kind == OriginKind.Request && other.Kind == OriginKind.Request && Part == AnyName && Name is not null && Name == other.Name);

    /// <summary>Where the named part of it comes from.</summary>
    public Origin PartOf(string name) => Kind switch
    {
        // What a named value is cut into has no names of its own.
        OriginKind.Request => (Name != AnyName && name.All(char.IsAsciiDigit)) || (name == "value" && Name is not (null or AnyName)) ? this : this with { Name = name },
        OriginKind.Parameter when Part.Count(c => c == '.') < AbstractValue.MaxDepth - 1 && !name.Contains('.', StringComparison.Ordinal) =>
            this with { Part = Part.Length == 0 ? name : Part + "." + name, Name = name.All(char.IsAsciiDigit) ? Name : name },
        OriginKind.Stored or OriginKind.Subject => this with { Name = name },
        _ => this,
    };

    /// <summary>The same request value wherever it is read.</summary>
    public bool IsSameValue(Origin other) =>
        this == other || (Kind == OriginKind.Request && other.Kind == OriginKind.Request && Part == other.Part && Name is not (null or AnyName) && Name == other.Name);
}
