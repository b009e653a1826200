namespace Bellator.Analysis.Libraries;

/// <summary>A call that asks a class of the program's own whether the person may do something to a record: a policy, a voter, a handler.</summary>
public sealed class PolicyCallModel
{
    /// <summary>The argument that names what is to be done; without one, it is called like the function that asks.</summary>
    public int? Ability { get; set; }

    /// <summary>The argument that is the record, or its class.</summary>
    public int Record { get; set; }

    /// <summary>Name of the class that answers, with <c>*</c> for that of the record: <c>*Policy</c>.</summary>
    public string Class { get; set; } = "";

    /// <summary>Or the library's class that those which answer are derived from.</summary>
    public string Base { get; set; } = "";

    /// <summary>The method that answers; without one it is called like what is to be done.</summary>
    public string Method { get; set; } = "";

    /// <summary>What stands at the end of the names of methods that answer: <c>?</c>.</summary>
    public string Suffix { get; set; } = "";

    /// <summary>What the method gets, or with <see cref="Constructs"/> the class: <c>subject</c>, <c>record</c>, <c>ability</c>, or anything else for what is not known.</summary>
    public List<string> Gets { get; set; } = ["subject", "record"];

    /// <summary>An object of the class is made with these; the method gets nothing.</summary>
    public bool Constructs { get; set; }

    /// <summary>The call gives the object that answers, and asks nothing yet.</summary>
    public bool Gives { get; set; }

    /// <summary>Where it does not refuse, the call gives the record.</summary>
    public bool GivesRecord { get; set; }
}
