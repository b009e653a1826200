namespace Bellator.Analysis.Libraries;

/// <summary>An argument at which a value can do harm.</summary>
public sealed class SinkModel
{
    /// <summary>What it does there: <c>command</c>, <c>code</c>, <c>page</c>, <c>template</c>, <c>path</c>, <c>redirect</c>, <c>server-request</c> (an address that the server asks), <c>header</c>, <c>deserialise</c>, <c>ldap</c>, <c>xpath</c>, <c>filter</c> (a query by object), <c>pattern</c>, <c>assign</c> (fields of a record), <c>response</c> (what is answered), <c>debug</c> (help for developers is switched on), <c>signing-key</c>, <c>token</c> (one that is verified there), <c>token-algorithm</c> (by which), <c>mail</c> (the text of a message), <c>link-host</c> (the host of links that the application makes), <c>log-format</c> (what a log of requests writes of each), <c>throttle-key</c> (by what tries are counted, or the function that says it), and what is switched off of cookies and tokens.</summary>
    public string Kind { get; set; } = "";

    /// <summary>It is no value that does harm, but what is switched off.</summary>
    internal bool IsSwitch => ModelValidator.Switches.Contains(Kind);

    /// <summary>What whole records give away there counts, not only what the visitor sent.</summary>
    internal bool TakesRecords => Kind is "response" or "session";

    /// <summary>A value that stands in the code is what does the harm.</summary>
    internal bool TakesConstants => Kind is "signing-key" or "log-format";

    /// <summary>The argument; -1 is the object.</summary>
    public int At { get; set; }

    /// <summary>The program says on purpose that the value needs no escaping: values read from records count, and those of unknown origin as a guess.</summary>
    public bool Raw { get; set; }

    /// <summary>The place escapes for text and quoted attributes, and for nothing else.</summary>
    public bool Escaped { get; set; }

    /// <summary>The position in which the value must be harmless, where the kind of place does not say it.</summary>
    public string? Context { get; set; }

    /// <summary>That it is such a place is told by the call's name and the look of its arguments: nothing is proved of it.</summary>
    public bool Presumed { get; set; }

    /// <summary>Only this field of the argument.</summary>
    public string? Field { get; set; }

    /// <summary>It is a name by which something is chosen that is there already, and no code of its own.</summary>
    public bool Chooses { get; set; }

    /// <summary>The argument is taken apart: values within it count too.</summary>
    public bool Parts { get; set; }

    /// <summary>Harm needs the named or option argument to have this constant value.</summary>
    public Dictionary<string, string> When { get; set; } = [];

    /// <summary>Harm needs the argument at the position to be one of these constants.</summary>
    public Dictionary<int, List<string>> WhenAt { get; set; } = [];

    /// <summary>Harm needs the model to be of one of these types.</summary>
    public List<string> On { get; set; } = [];

    /// <summary>No harm if the named or option argument has this value or, for an asterisk, is given at all. With a point in it the option is named as for <see cref="Off"/>, and it is enough that it is given.</summary>
    public Dictionary<string, string> Unless { get; set; } = [];

    /// <summary>
    /// Harm needs all of these options to be off. An option is named by the argument and the way into it, such as <c>2.secure</c>: the
    /// argument by its position or its name. It is off if it is absent where everything that is
    /// given is known, or a constant that means no.
    /// </summary>
    public List<string> Off { get; set; } = [];

    /// <summary>Harm needs one of these options, named as for <see cref="Off"/>, to be given.</summary>
    public List<string> Given { get; set; } = [];

    /// <summary>With <see cref="Off"/>: what is absent is on, so that only a constant that says no counts.</summary>
    public bool DefaultOn { get; set; }

    /// <summary>Harm needs one of these options, named as for <see cref="Off"/>, to have this value or to list it.</summary>
    public Dictionary<string, string> Lists { get; set; } = [];

    /// <summary>Harm needs this option, named as for <see cref="Off"/>, to list both algorithms with a shared secret and such with a public key (RFC 7518, 3.1).</summary>
    public string? Mixes { get; set; }

    /// <summary>Harm needs a member of this name to be set in the same function.</summary>
    public string? Beside { get; set; }

    /// <summary>No harm if a member of this name is set in the same function.</summary>
    public string? NotBeside { get; set; }

    /// <summary>The argument that names the thing, such as a cookie.</summary>
    public int? NameAt { get; set; }

    /// <summary>The text must begin like this, whatever the case of its letters.</summary>
    public string? Prefix { get; set; }

    /// <summary>A text that is put together for it is looked at wherever its parts come from.</summary>
    public bool Built { get; set; }

    /// <summary>For <c>page</c>: <c>page</c> where it is one unless another kind of content was announced before, <c>announced</c> where it is one only if that was.</summary>
    public string? SentAs { get; set; }

    /// <summary>Harmless where the argument is a list: a command as separate words.</summary>
    public bool OnlyText { get; set; }

    /// <summary>For <c>assign</c>: the method of the model that lists, with its rules, the only columns which can be set this way.</summary>
    public string? Allowed { get; set; }

    /// <summary>With <see cref="Allowed"/>: the kind of rule that keeps its columns from being set. A rule begins with its columns; its kind comes second.</summary>
    public string? Refused { get; set; }

    /// <summary>For <c>assign</c>: the model is the object or argument here.</summary>
    public int Model { get; set; } = -1;

    /// <summary>The place is one only where no argument stands here: it would list what may be set.</summary>
    public int? Without { get; set; }

    /// <summary>The call fills the argument from this part of the request by itself.</summary>
    public string? FilledFrom { get; set; }
}

/// <summary>A call that makes a page from a template.</summary>
public sealed class RenderModel
{
    /// <summary>The argument with the template's name.</summary>
    public int? Template { get; set; }

    /// <summary>The argument with the values by name; without one the named arguments are.</summary>
    public int? Values { get; set; }

    /// <summary>In a page: it is put into it, and sees all that this sees.</summary>
    public bool Included { get; set; }

    /// <summary>The argument that is the page's model.</summary>
    public int? Model { get; set; }

    /// <summary>A named argument with the template's name.</summary>
    public string? Named { get; set; }

    /// <summary>A named argument with the values by name.</summary>
    public string? Locals { get; set; }

    /// <summary>
    /// An object whose members are set by the code and read by the page, under any of these names: <c>this</c> for the one that both
    /// are written in.
    /// </summary>
    public List<string> Shares { get; set; } = [];

    /// <summary>What the page writes is not escaped, unless this option is set in the call or for the whole program.</summary>
    public string? UnescapedWithout { get; set; }

    /// <summary>What the program's settings call it that makes the page.</summary>
    public string Setting { get; set; } = "";
}

/// <summary>Functions that a framework calls: their parameters come from the request.</summary>
public sealed class EntryModel
{
    /// <summary>By which a callback's fact refers to it.</summary>
    public string? Id { get; set; }

    /// <summary>The function carries one of these decorators or attributes (last part of the name).</summary>
    public List<string> Annotated { get; set; } = [];

    /// <summary>It is a method of a class with one of these base classes, traits or interfaces (last part of the name).</summary>
    public List<string> Base { get; set; } = [];

    /// <summary>Its class carries one of these.</summary>
    public List<string> ClassAnnotated { get; set; } = [];

    /// <summary>It has one of these names; an asterisk at the end stands for the rest.</summary>
    public List<string> Names { get; set; } = [];

    /// <summary>Its file's path ends like one of these.</summary>
    public List<string> Files { get; set; } = [];

    /// <summary>It is marked public, or not marked private.</summary>
    public bool Public { get; set; }

    /// <summary>Its first parameter has this name.</summary>
    public string? OverridesProgram { get; set; }

    /// <summary>Its file imports this module.</summary>
    public string? Imports { get; set; }

    /// <summary>Types, or request parts, of parameters by name.</summary>
    public Dictionary<string, string> Parameters { get; set; } = [];

    /// <summary>Types, or request parts, of parameters by their place, for those that are taken apart at once and so have no name.</summary>
    public List<string> Positions { get; set; } = [];

    /// <summary>A text that stands alone at the beginning of the function, or of its file: <c>use server</c>.</summary>
    public string? Directive { get; set; }

    /// <summary>Request parts by the mark (attribute, decorator, default) on the parameter; empty for none.</summary>
    public Dictionary<string, string> Marks { get; set; } = [];

    /// <summary>The entry, by its id, as which functions are called that a mark without a part names: <c>Depends(get_db)</c>.</summary>
    public string? Providers { get; set; }

    /// <summary>The request part of all other parameters that can hold one.</summary>
    public string? Rest { get; set; }

    /// <summary>The part of the request that those parameters come from whose classes hold values; as the rest if nothing is said.</summary>
    public string? Records { get; set; }

    /// <summary>Marks on its class that let the framework refuse, before the call, what the members' own marks do not allow.</summary>
    public List<string> ValidatedBeforeCall { get; set; } = [];

    /// <summary>How it gets its address.</summary>
    public EntryRouteModel? Route { get; set; }

    /// <summary>What becomes of the text it returns: <c>page</c>.</summary>
    public string? Returns { get; set; }

    /// <summary>The mark's argument that says which members of an answer leave; the function's declared type says it as well.</summary>
    public string? AnswerField { get; set; }

    /// <summary>A text that is returned is a page.</summary>
    public bool TextIsPage { get; set; }

    /// <summary>The mark's argument, and the last part of what is given there, by which the text that is returned is a page.</summary>
    public Dictionary<string, string> PageFields { get; set; } = [];

    public bool IsEmpty => Annotated.Count == 0 && Base.Count == 0 && ClassAnnotated.Count == 0 && Names.Count == 0 && Files.Count == 0 && OverridesProgram is null && Directive is null;
}
