namespace Bellator.Analysis.Libraries;

/// <summary>A call that gives an address of the application to a function.</summary>
public sealed class RouteModel
{
    /// <summary>The HTTP method; an asterisk for all, several with commas.</summary>
    public string Method { get; set; } = "*";

    /// <summary>The argument that names the method, or lists several.</summary>
    public int? MethodAt { get; set; }

    /// <summary>The option that names the method, or lists several.</summary>
    public string? MethodField { get; set; }

    /// <summary>The argument with the path; -1 for the one that the object carries.</summary>
    public int? Path { get; set; }

    /// <summary>The option with the path.</summary>
    public string? PathField { get; set; }

    /// <summary>Without a path: the one that stands for it.</summary>
    public string? Otherwise { get; set; }

    /// <summary>The first argument that may be a handler, or something on the way to it; the last one is the handler.</summary>
    public int Handlers { get; set; } = 1;

    /// <summary>The option with the handler.</summary>
    public string? HandlerField { get; set; }

    /// <summary>Options whose functions run on the way to the handler.</summary>
    public List<string> GuardFields { get; set; } = [];

    /// <summary>Options, or parts of them with dots, and what they ask for where they are given: something that is not false. False asks for nothing. With an equals sign only where the option has that value.</summary>
    public Dictionary<string, string> Asks { get; set; } = [];

    /// <summary>The argument with what comes before the path, and a text before that.</summary>
    public int? Prefix { get; set; }

    public string Below { get; set; } = "";

    /// <summary>Where the path's argument is a name: its forms with an asterisk, the addresses they stand for, and what those ask for.</summary>
    public List<NamedPathModel> Texts { get; set; } = [];

    /// <summary>The argument that is an object, or a list of objects, with the options; without it they are the call's own.</summary>
    public int? Options { get; set; }

    /// <summary>How a handler is named in text, with <c>controller</c> and <c>action</c> in it: <c>controller#action</c>.</summary>
    public string? Named { get; set; }

    /// <summary>The class that a controller's name stands for, with <c>*</c> for the name.</summary>
    public string Class { get; set; } = "*";

    /// <summary>Where the handler is a class: its methods, and for each the HTTP method and what is added to the path.</summary>
    public Dictionary<string, string> Actions { get; set; } = [];

    /// <summary>Methods that a library's actions ask the class for records by.</summary>
    public List<string> AskedOf { get; set; } = [];

    /// <summary>How further methods of the class are marked as actions.</summary>
    public MarkedActionModel? Marked { get; set; }

    /// <summary>Option that lists the only actions there are, and the option that lists those there are not.</summary>
    public string? Only { get; set; }

    public string? Except { get; set; }

    /// <summary>The option that names the class of a resource, where its path does not.</summary>
    public string? ClassField { get; set; }

    /// <summary>Options that put the route beside the parameter at the end of the path around it.</summary>
    public Dictionary<string, string> Outside { get; set; } = [];

    /// <summary>The library only finds the handler, and the program calls it: what it asks for before is not known.</summary>
    public bool Dispatched { get; set; }

    /// <summary>Files in which the call means this; empty for all.</summary>
    public List<string> Files { get; set; } = [];
}

/// <summary>A mark that makes a method of a routed class an action of its own.</summary>
public sealed class MarkedActionModel
{
    public string Mark { get; set; } = "";

    /// <summary>The argument that says whether it is about one record, and those with its path and its HTTP methods.</summary>
    public string OfOne { get; set; } = "";

    public string PathField { get; set; } = "";

    public string MethodsField { get; set; } = "";
}

/// <summary>A name that stands for an address.</summary>
public sealed class NamedPathModel
{
    /// <summary>With an asterisk for what goes into the path.</summary>
    public string Text { get; set; } = "";

    public string Path { get; set; } = "";

    /// <summary>What it asks for by itself.</summary>
    public string? Asks { get; set; }
}

/// <summary>A method of a class that gives rules about who may call which of its actions.</summary>
public sealed class ActionRulesModel
{
    public string Method { get; set; } = "";

    /// <summary>The classes of which an element with rules is; none where all that the method gives are rules.</summary>
    public List<string> Class { get; set; } = [];

    /// <summary>The options with the only actions that are meant, with the rules, and in a rule with its actions and people.</summary>
    public string? Only { get; set; }

    public string? Rules { get; set; }

    public string Actions { get; set; } = "actions";

    public List<string> People { get; set; } = [];

    /// <summary>The first element of a rule, or this option of it, says whether it lets in.</summary>
    public string Allow { get; set; } = "allow";

    public string SignedIn { get; set; } = "@";

    /// <summary>What methods have before the action's name.</summary>
    public string Strip { get; set; } = "";

    /// <summary>People of whom anybody is one.</summary>
    public List<string> Anybody { get; set; } = [];
}

/// <summary>A setting that lists the guards of all classes of a kind that list none themselves.</summary>
public sealed class ClassDefaultModel
{
    /// <summary>Base classes by the last part of their names.</summary>
    public List<string> Base { get; set; } = [];

    /// <summary>The field by which a class lists its own.</summary>
    public string Unless { get; set; } = "";

    /// <summary>The variable with the settings, and the key in it.</summary>
    public string Setting { get; set; } = "";

    public string Key { get; set; } = "";
}

/// <summary>A file with settings that lists who may come to which addresses; the first rule that fits an address decides.</summary>
public sealed class AddressRulesModel
{
    /// <summary>Names of the file, below the application's folder.</summary>
    public List<string> Files { get; set; } = [];

    /// <summary>The keys that lead to the list of rules.</summary>
    public List<string> At { get; set; } = [];

    /// <summary>The key with a pattern for the path, and the one with the HTTP methods.</summary>
    public string Path { get; set; } = "path";

    public string Methods { get; set; } = "methods";

    /// <summary>Keys that say whom the rule lets in.</summary>
    public List<string> People { get; set; } = [];

    /// <summary>People of whom anybody is one, and those of whom everybody is who is signed in; others have a role.</summary>
    public List<string> Anybody { get; set; } = [];

    public List<string> SignedIn { get; set; } = [];

    /// <summary>Keys that make a rule hold only sometimes.</summary>
    public List<string> Unless { get; set; } = [];
}

/// <summary>A call that puts routes below a path, or functions on the way to them.</summary>
public sealed class MountModel
{
    /// <summary>What declares no routes is no step on the way to others: it sets the framework up.</summary>
    public bool RoutersOnly { get; set; }

    /// <summary>The argument with the path, if it is a text.</summary>
    public int? Path { get; set; }

    /// <summary>The option with the path.</summary>
    public string? PathField { get; set; }

    /// <summary>The first argument that may be put there: a router, a function, a module; null for the call's own object.</summary>
    public int? From { get; set; }

    /// <summary>The argument is the name of a module.</summary>
    public bool Module { get; set; }

    /// <summary>A text that is added to the path: <c>*</c> for what the path's argument says.</summary>
    public string Adds { get; set; } = "/*";

    /// <summary>What is below it belongs to all records of the resource around it, not to one of them.</summary>
    public bool Outside { get; set; }

    public List<string> Files { get; set; } = [];
}

/// <summary>A call that puts something on the way to a handler.</summary>
public sealed class GuardModel
{
    /// <summary>What it asks for: <c>sign-in</c>, <c>role</c>, <c>open</c> (nothing), <c>named</c> if the arguments' names decide; <c>only</c> and <c>except</c> list the actions that a route of several has, or has not.</summary>
    public string Asks { get; set; } = "named";

    /// <summary>The first argument that names a guard or is one.</summary>
    public int From { get; set; }

    /// <summary>The option that lists the guards, where no argument does.</summary>
    public string? Field { get; set; }

    public string? Only { get; set; }

    public string? Except { get; set; }

    /// <summary>The argument before whose routes it stands: a router that is put below another; null for the call's own object.</summary>
    public int? On { get; set; }

    /// <summary>It takes a guard away.</summary>
    public bool Removes { get; set; }

    /// <summary>The guards that it is about, where no argument names them.</summary>
    public List<string> Guards { get; set; } = [];

    /// <summary>It stands before every address of the application, whatever object it is said of.</summary>
    public bool Everywhere { get; set; }

    /// <summary>Of those, only before methods of classes of one of these kinds.</summary>
    public List<string> Classes { get; set; } = [];

    /// <summary>The argument with the path or folder that it is about.</summary>
    public int? Path { get; set; }

    /// <summary>It is about that path alone, not about those below it.</summary>
    public bool Exact { get; set; }

    /// <summary>With an argument here it asks for a role.</summary>
    public int? Role { get; set; }

    /// <summary>It holds whatever a handler says itself.</summary>
    public bool Overrides { get; set; }
}

/// <summary>A mark on a class that lists what an application is made of, guards of the whole application among it.</summary>
public sealed class ModuleGuardModel
{
    public string Mark { get; set; } = "";

    /// <summary>The option with the list.</summary>
    public string Field { get; set; } = "";

    /// <summary>An element is a guard where this option is that name.</summary>
    public string Key { get; set; } = "";

    public string Is { get; set; } = "";

    /// <summary>The options that give the guard.</summary>
    public List<string> Given { get; set; } = [];
}

/// <summary>A call that has related records come along.</summary>
public sealed class LoadsModel
{
    /// <summary>The argument with the relation's name, a list of names, or a function that gives the member.</summary>
    public int At { get; set; }

    /// <summary>The argument that names the columns of them; without it all come.</summary>
    public int? Projection { get; set; }
}

/// <summary>A call that stands for the records of one table.</summary>
public sealed class RecordModel
{
    /// <summary>They are those that belong to the record on which the call is made.</summary>
    public bool Related { get; set; }

    /// <summary>The argument with the name.</summary>
    public int? Name { get; set; }

    /// <summary>The records are those that this argument stands for; -1 for the object.</summary>
    public int? Of { get; set; }

    /// <summary>With <see cref="Of"/>: they are given back with the columns that this argument lists, all of them where it is an asterisk.</summary>
    public int? Given { get; set; }

    /// <summary>The argument with the columns, as an object.</summary>
    public int? Columns { get; set; }
}

/// <summary>A call that makes something up.</summary>
public sealed class RandomModel
{
    /// <summary>Argument with how much of it: bytes, signs.</summary>
    public int? At { get; set; }

    /// <summary>Bits for each.</summary>
    public double Per { get; set; } = 8;

    /// <summary>Bits of the result where no argument says; 0 if not known.</summary>
    public double Bits { get; set; }

    /// <summary>Arguments with the lowest and the highest number it may be; without a lowest it is 0.</summary>
    public int? Low { get; set; }

    public int? High { get; set; }

    /// <summary>Who knows when it was called, or some of its results, can tell the next.</summary>
    public bool Weak { get; set; }
}

/// <summary>A step of a journey that a library takes by itself.</summary>
public sealed class JourneyStepModel
{
    /// <summary>Which: see <see cref="ModelValidator.Acts"/>.</summary>
    public string Step { get; set; } = "";

    /// <summary>Only where this argument is the constant <see cref="Is"/>.</summary>
    public int? At { get; set; }

    public string Is { get; set; } = "true";

    /// <summary>What the reviewer is told of it.</summary>
    public string Note { get; set; } = "";

    /// <summary>Only the library's own function takes the step, not one of the program's that has its name.</summary>
    public bool OfLibrary { get; set; }
}

/// <summary>How functions that a framework calls get their addresses.</summary>
public sealed class EntryRouteModel
{
    /// <summary>Marks on the function and the HTTP method each stands for.</summary>
    public Dictionary<string, string> Methods { get; set; } = [];

    /// <summary>The mark's argument that lists HTTP methods.</summary>
    public string? MethodsField { get; set; }

    /// <summary>The mark's argument that lists what is asked on the way.</summary>
    public string? GuardsField { get; set; }

    /// <summary>Names of functions, or the beginning with an asterisk, and the HTTP method each stands for.</summary>
    public Dictionary<string, string> Names { get; set; } = [];

    /// <summary>HTTP method where nothing says another.</summary>
    public string Method { get; set; } = "*";

    /// <summary>Names of the mark's argument with the path, if it is not the first.</summary>
    public List<string> PathFields { get; set; } = [];

    /// <summary>Marks on the class whose argument comes before the path.</summary>
    public List<string> Prefix { get; set; } = [];

    /// <summary>The path where no mark gives one, with <c>[controller]</c> and <c>[action]</c>; null if there is none then.</summary>
    public string? Otherwise { get; set; }

    /// <summary>Endings of class names that are not part of the path, and beginnings of function names.</summary>
    public List<string> Strip { get; set; } = [];

    /// <summary>Marks that take a function out.</summary>
    public List<string> Not { get; set; } = [];

    /// <summary>Names in paths are written with hyphens and small letters.</summary>
    public bool Hyphens { get; set; }
}

/// <summary>Files that are addresses by where they lie.</summary>
public sealed class FileRouteModel
{
    /// <summary>Folders below which the path begins.</summary>
    public List<string> Under { get; set; } = [];

    public List<string> Endings { get; set; } = [];

    /// <summary>Names of files that stand for their folder.</summary>
    public List<string> Index { get; set; } = [];

    /// <summary>Only files of these names are addresses.</summary>
    public bool OnlyIndex { get; set; }

    /// <summary>Functions are addresses that begin with this text, or whose file does; their name is part of the path.</summary>
    public string? Directive { get; set; }

    /// <summary>Names of functions of the file, and the HTTP method of each; <c>default</c> for what the file exports, <c>&lt;file&gt;</c> for its top level.</summary>
    public Dictionary<string, string> Handlers { get; set; } = [];

    /// <summary>The handlers are methods of a class in the file with this added to its name.</summary>
    public string Beside { get; set; } = "";

    /// <summary>The file's name may end with an HTTP method.</summary>
    public bool MethodInName { get; set; }

    /// <summary>The file's ending is part of the path.</summary>
    public bool KeepsEnding { get; set; }

    /// <summary>Put before the path.</summary>
    public string Prefix { get; set; } = "";

    /// <summary>Folders whose files are no addresses: they are shown by others.</summary>
    public List<string> Not { get; set; } = [];

    /// <summary>Only files that call one of these.</summary>
    public List<string> Calls { get; set; } = [];

    /// <summary>Only files that nothing includes and whose top level does something.</summary>
    public bool Runs { get; set; }
}

/// <summary>A journey that a library brings, with its steps.</summary>
public sealed class ProvidedJourneyModel
{
    /// <summary><c>register</c>, <c>sign-in</c>, <c>sign-out</c>, <c>recover</c>, <c>change-password</c>, <c>change-email</c>, <c>profile</c>.</summary>
    public string Journey { get; set; } = "";

    public string Method { get; set; } = "POST";

    public string Path { get; set; } = "";

    /// <summary>It is only there if the call is given this.</summary>
    public string? Needs { get; set; }

    /// <summary>By the step's name what the library does there; a state before a colon, <c>shown</c> without one.</summary>
    public Dictionary<string, string> Steps { get; set; } = [];
}

/// <summary>A file with settings that turns journeys of a library on.</summary>
public sealed class SettingJourneysModel
{
    /// <summary>Names of the file, below the application's folder.</summary>
    public List<string> Files { get; set; } = [];

    /// <summary>The keys that lead to the areas of the application, each with settings of its own.</summary>
    public List<string> At { get; set; } = [];

    /// <summary>Keys of a journey's settings with its path, or the name of a route.</summary>
    public List<string> PathKeys { get; set; } = [];

    /// <summary>The argument of a route's mark with the name by which settings tell it.</summary>
    public string RouteName { get; set; } = "";

    /// <summary>The journeys by the key of an area that turns each on; the other keys of the area are what it is given.</summary>
    public Dictionary<string, ProvidedJourneyModel> Brings { get; set; } = [];

    /// <summary>The library that brings them; that of the file where nothing is said.</summary>
    public string Library { get; set; } = "";
}

/// <summary>How a library judges new passwords, by its settings and what holds without them.</summary>
public sealed class PolicyModel
{
    /// <summary>Calls, or names of settings, by which one sees that the library is used.</summary>
    public List<string> UsedBy { get; set; } = [];

    /// <summary>Names of settings and the rule each sets: <c>min</c>, <c>max</c>, <c>digit</c>, <c>lower</c>, <c>upper</c>, <c>other</c>, <c>distinct</c>, <c>common</c>.</summary>
    public Dictionary<string, string> Settings { get; set; } = [];

    /// <summary>Rules that hold where nothing is set.</summary>
    public Dictionary<string, string> Defaults { get; set; } = [];
}
