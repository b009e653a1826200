namespace Bellator.Analysis.Libraries;

/// <summary>A value is held against a schema.</summary>
public sealed class CheckedModel
{
    /// <summary>The schema; a missing one means what the framework was told of the request.</summary>
    public int? By { get; set; }

    /// <summary>The library's class for rules, where the object only says for which class it has them: those of the program that are made for that class.</summary>
    public string? For { get; set; }

    public int Value { get; set; }

    /// <summary>The request part that is held against it, where no argument is.</summary>
    public string? Source { get; set; }

    /// <summary>Where the accepted value is: <c>.</c> for the result itself, otherwise a part of it.</summary>
    public string? In { get; set; }

    /// <summary>The call comes back only if all was accepted.</summary>
    public bool Throws { get; set; }

    /// <summary>What was not accepted comes back too: only the verdict tells.</summary>
    public bool Unsure { get; set; }

    /// <summary>What the schema does not name is no error: the result leaves it out, but the input itself still has it.</summary>
    public bool OthersPass { get; set; }
}

/// <summary>The method of a class that gives the rules for what comes in, and the request part they are about.</summary>
public sealed class RuledByModel
{
    public string Method { get; set; } = "";

    public string Part { get; set; } = "input";
}

/// <summary>A schema becomes stricter.</summary>
public sealed class NarrowModel
{
    /// <summary>The argument with a regular expression that must cover the whole text and let nothing harmful through.</summary>
    public int? Pattern { get; set; }

    /// <summary>The argument with a list that must hold nothing from the request.</summary>
    public int? List { get; set; }

    /// <summary>The argument with a function that must vouch for what it is given.</summary>
    public int? By { get; set; }

    /// <summary>The pattern covers the whole text by itself.</summary>
    public bool Whole { get; set; }

    public string To { get; set; } = "";

    /// <summary>The type where it is not strict enough; its own if none is given.</summary>
    public string? Otherwise { get; set; }
}

/// <summary>Schemas for the parts of a request among the options of a route.</summary>
public sealed class InputsModel
{
    /// <summary>The argument with the options.</summary>
    public int At { get; set; }

    /// <summary>The fields that lead to the schemas.</summary>
    public List<string> In { get; set; } = [];

    /// <summary>Names there and the request part each stands for.</summary>
    public Dictionary<string, string> Parts { get; set; } = [];
}

/// <summary>A table of request values by name, with the rules for each by the names of the methods that a chain of calls would use.</summary>
public sealed class ChainsModel
{
    /// <summary>The argument with the table.</summary>
    public int At { get; set; }

    /// <summary>The type of the schema to which the rules are applied.</summary>
    public string Of { get; set; } = "";

    /// <summary>The key that says in which part of the request the value is.</summary>
    public string In { get; set; } = "in";

    /// <summary>The argument with the parts for values that do not say it.</summary>
    public int? DefaultsAt { get; set; }

    /// <summary>The key of a rule under which its arguments stand.</summary>
    public string Options { get; set; } = "options";

    /// <summary>Names of parts, where they are not ours.</summary>
    public Dictionary<string, string> Parts { get; set; } = [];
}
