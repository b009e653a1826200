namespace Bellator.Analysis.Libraries;

/// <summary>One facts file: what the calls, fields and globals of a library mean. See docs/facts.md.</summary>
public sealed class LibraryModelFile
{
    /// <summary>The library's own name.</summary>
    public string Library { get; set; } = "";

    /// <summary><c>php</c> or <c>javascript</c>; empty for words that hold everywhere.</summary>
    public string Language { get; set; } = "";

    public string Versions { get; set; } = "";

    /// <summary>Where the knowledge comes from.</summary>
    public string Reference { get; set; } = "";

    /// <summary>SQL dialect of the queries in this file: <c>mysql</c>, <c>postgresql</c>, <c>sqlite</c>; empty if it depends.</summary>
    public string Dialect { get; set; } = "";

    /// <summary>Module names that are another's by a different name.</summary>
    public Dictionary<string, string> Aliases { get; set; } = [];

    /// <summary>Types and those they inherit calls and fields from.</summary>
    public Dictionary<string, string> Bases { get; set; } = [];

    /// <summary>
    /// By name: a function <c>f</c>, a module's member <c>module.f</c>, a constructor <c>new T</c>, a method <c>T#m</c>, a static method <c>T::m</c>.
    /// </summary>
    public Dictionary<string, CallModel> Calls { get; set; } = [];

    /// <summary>
    /// The audited program's own functions, as <c>f</c>, <c>T#m</c> or <c>T::m</c>, after <c>path:</c> where the name alone is not enough. What
    /// they give and vouch for is taken from here, not from their code; what they do is still seen.
    /// </summary>
    public Dictionary<string, CallModel> Functions { get; set; } = [];

    /// <summary>Fields of types, as <c>T#field</c>.</summary>
    public Dictionary<string, ValueModel> Fields { get; set; } = [];

    /// <summary>Global names.</summary>
    public Dictionary<string, ValueModel> Globals { get; set; } = [];

    /// <summary>What assigning a field does, as <c>T#field</c>: the value is argument 0.</summary>
    public Dictionary<string, CallModel> Sets { get; set; } = [];

    /// <summary>What setting a variable means in a file of settings: the value is argument 0.</summary>
    public Dictionary<string, CallModel> SettingVariables { get; set; } = [];

    /// <summary>Endings of the paths of files of settings; one that ends in a slash is a folder's.</summary>
    public List<string> SettingFiles { get; set; } = [];

    public List<EntryModel> Entries { get; set; } = [];

    /// <summary>What two parameters are that are used in a certain way together.</summary>
    public List<ShapeModel> Shapes { get; set; } = [];

    /// <summary>Calls that give functions an address; of calls named above, or of others.</summary>
    public Dictionary<string, RouteModel> Routes { get; set; } = [];

    /// <summary>Calls that put routes below a path, or functions on the way to them.</summary>
    public Dictionary<string, MountModel> Mounts { get; set; } = [];

    /// <summary>Calls that put guards on the way; with <c> =</c> behind the name, assignments that do.</summary>
    public Dictionary<string, GuardModel> Middleware { get; set; } = [];

    /// <summary>Calls that read or change records.</summary>
    public Dictionary<string, AccessModel> Records { get; set; } = [];

    /// <summary>Calls that stand for the records of a table.</summary>
    public Dictionary<string, RecordModel> Models { get; set; } = [];

    /// <summary>Calls that declare a column of the table that their object stands for.</summary>
    public Dictionary<string, ColumnTypeModel> Columns { get; set; } = [];

    /// <summary>Calls that say of columns that they are unique, indexed, or refer to another table.</summary>
    public Dictionary<string, KeyModel> Keys { get; set; } = [];

    /// <summary>Calls that take columns or tables away, or rename them.</summary>
    public Dictionary<string, ChangeModel> Changes { get; set; } = [];

    /// <summary>Classes that stand for tables.</summary>
    public List<TableClassModel> Tables { get; set; } = [];

    /// <summary>Chains of calls that tell a mapper what the tables of classes are like.</summary>
    public List<FluentModel> Fluent { get; set; } = [];

    /// <summary>Objects that modules give to others and that declare tables.</summary>
    public List<ColumnObjectsModel> ColumnObjects { get; set; } = [];

    /// <summary>Calls that make something up.</summary>
    public Dictionary<string, RandomModel> Randomness { get; set; } = [];

    /// <summary>Journeys that a call brings with it, pages and all.</summary>
    public Dictionary<string, List<ProvidedJourneyModel>> Provides { get; set; } = [];

    /// <summary>Files with settings that turn journeys of a library on.</summary>
    public List<SettingJourneysModel> SettingJourneys { get; set; } = [];

    /// <summary>Settings by which a library judges passwords.</summary>
    public List<PolicyModel> Policies { get; set; } = [];

    /// <summary>Calls that take steps of journeys.</summary>
    public Dictionary<string, List<JourneyStepModel>> JourneySteps { get; set; } = [];

    /// <summary>Files that are addresses of the application.</summary>
    public List<FileRouteModel> Pages { get; set; } = [];

    /// <summary>Paths below which the routes of a file come by convention, by the end of the file's name.</summary>
    public Dictionary<string, string> Mounted { get; set; } = [];

    /// <summary>What a mark, a base class or a named step on the way asks for: <c>sign-in</c>, <c>role</c>, <c>open</c>, <c>throttle</c>, <c>forgery</c>, <c>forgery-off</c>.</summary>
    public Dictionary<string, string> Guards { get; set; } = [];

    /// <summary>Methods that give the rules for a class's actions.</summary>
    public List<ActionRulesModel> ActionRules { get; set; } = [];

    /// <summary>Settings that say what holds for classes which say nothing themselves.</summary>
    public List<ClassDefaultModel> ClassDefaults { get; set; } = [];

    /// <summary>Classes whose objects take undeclared members out of what is sent to any handler, with the option that lets them.</summary>
    public Dictionary<string, string> MemberFilters { get; set; } = [];

    /// <summary>Marks that list guards of the whole application.</summary>
    public List<ModuleGuardModel> ModuleGuards { get; set; } = [];

    /// <summary>Methods by which a class is a guard.</summary>
    public List<string> GuardMethods { get; set; } = [];

    /// <summary>Methods by which the class of a handler's parameter decides who may call the handler.</summary>
    public List<string> ParameterGuards { get; set; } = [];

    /// <summary>Calls by which a mapped class puts a condition of its own on every query.</summary>
    public List<string> ScopeCalls { get; set; } = [];

    /// <summary>The method of a class that is given to such a call, by which it adds its condition.</summary>
    public List<string> ScopeMethods { get; set; } = [];

    /// <summary>Methods that a framework's base classes bring, as code.</summary>
    public List<BroughtModel> Brings { get; set; } = [];

    /// <summary>Library classes for sets of records that programs derive their own from, and the type under which the facts know their objects.</summary>
    public Dictionary<string, string> RecordSets { get; set; } = [];

    /// <summary>The method of such a class that gives the rows it begins with.</summary>
    public string? RecordSetRows { get; set; }

    /// <summary>Members that an object has by a base class that may stand beside its own, and their types: <c>self.request</c> in a mixin.</summary>
    public Dictionary<string, string> OwnMembers { get; set; } = [];

    /// <summary>Ends of condition names that say how a column is held against the value, after two underscores.</summary>
    public List<string> Lookups { get; set; } = [];

    /// <summary>Calls by which a mapper puts conditions on the queries of any of its classes.</summary>
    public List<string> StoreScopeCalls { get; set; } = [];

    /// <summary>Calls that take such conditions off one query.</summary>
    public List<string> ScopeLifts { get; set; } = [];

    /// <summary>Guard methods whose answer, yes or no, lets in or not.</summary>
    public List<string> AnsweringGuards { get; set; } = [];

    /// <summary>Calls, as they are written, that end the request unless their first argument holds, unless it fails, or always.</summary>
    public Dictionary<string, Ir.DemandOutcome> Demands { get; set; } = [];

    /// <summary>Marks on a handler by which it answers only to some methods, with the method, or an asterisk where the mark's first argument lists them.</summary>
    public Dictionary<string, string> MethodMarks { get; set; } = [];

    /// <summary>Names of settings files, without their ending, that no server runs with.</summary>
    public List<string> DevelopmentSettings { get; set; } = [];

    /// <summary>Methods by which a guard reads what a handler is marked with; with the name of the member that has them where others have such methods too.</summary>
    public List<string> MarkReaders { get; set; } = [];

    /// <summary>Files with settings that say who may come to which addresses.</summary>
    public List<AddressRulesModel> AddressRules { get; set; } = [];

    /// <summary>Marks of a class that name the records which belong to one of its own, and the types of what they give.</summary>
    public Dictionary<string, List<string>> Relations { get; set; } = [];

    /// <summary>Options of those marks that name the class of the records.</summary>
    public List<string> RelationClasses { get; set; } = [];

    /// <summary>Endings by which a relation's name stands for the query of its records.</summary>
    public List<string> RelationEndings { get; set; } = [];

    /// <summary>What stands before the name of one record in the method that makes a new one of a relation.</summary>
    public List<string> RelationMakers { get; set; } = [];

    /// <summary>Marks of a class that name its methods, or marks of a method, which run when one of its records is written.</summary>
    public List<string> Hooks { get; set; } = [];

    /// <summary>How methods are called that run when a member is assigned, with <c>*</c> for its name: <c>*=</c>, <c>set*Attribute</c>.</summary>
    public List<string> SetterNames { get; set; } = [];

    /// <summary>Marks of a class that name members of its objects which are no columns.</summary>
    public List<string> MemberMarks { get; set; } = [];

    /// <summary>What the language's mappers fetch is made into an answer with all its columns.</summary>
    public bool AnswersRecords { get; set; }

    /// <summary>Handlers get the records that their parameters' classes stand for, by a part of the path.</summary>
    public bool FetchesParameters { get; set; }

    /// <summary>Settings whose defaults leave something unprotected.</summary>
    public List<UnsetSettingModel> UnsetSettings { get; set; } = [];

    /// <summary>What keeps forged requests out of its own accord.</summary>
    public List<ForgeryDefaultModel> ForgeryDefaults { get; set; } = [];

    /// <summary>Ways in which the library recognises people from one request to the next.</summary>
    public List<CredentialModel> Credentials { get; set; } = [];

    /// <summary>Members of a query that tell of its class or table: nothing is fetched for them.</summary>
    public List<string> Describes { get; set; } = [];

    /// <summary>Calls on routes by which such a row is looked for among those of the one before it in the path only.</summary>
    public List<string> BindingScopes { get; set; } = [];

    /// <summary>Marks on fields of classes that make them columns, and where they say how long the text may be.</summary>
    public Dictionary<string, ColumnMarkModel> ColumnMarks { get; set; } = [];

    /// <summary>Marks on fields of classes that fill them from the request, and the part.</summary>
    public Dictionary<string, string> BoundFields { get; set; } = [];

    /// <summary>Types of objects that live as long as one request: what code on the way puts on them, handlers read.</summary>
    public List<string> RequestState { get; set; } = [];

    /// <summary>Types of objects that a program has one of: what it puts on them when it starts, all of its code reads there.</summary>
    public List<string> ApplicationState { get; set; } = [];

    /// <summary>For a type, the variable names that are taken for it where the real type is unknown; a finding that rests on this is a guess.</summary>
    public Dictionary<string, List<string>> Receivers { get; set; } = [];

    /// <summary>
    /// By the type of a schema: the positions in which what it lets through is harmless. Also <c>parts</c>: its fields are the schemas of
    /// the parts; <c>open</c>: parts it does not name come through; <c>elements</c>: it carries the schema of every element.
    /// </summary>
    public Dictionary<string, List<string>> Accepts { get; set; } = [];

    /// <summary>By a word of a rule text, a mark on a member or a declared type: the positions as above; <c>pattern</c> if the pattern that follows decides.</summary>
    public Dictionary<string, List<string>> Rules { get; set; } = [];

    /// <summary>By type: objects of it exist only for requests that the rules of one of its methods accept.</summary>
    public Dictionary<string, RuledByModel> RuledBy { get; set; } = [];

    /// <summary>Lists of words by subject, such as the names of password fields.</summary>
    public Dictionary<string, List<string>> Words { get; set; } = [];
}

/// <summary>Code that stands for what a framework's base classes do.</summary>
public sealed class BroughtModel
{
    /// <summary>The file of the code, beside the facts: its classes are named like the framework's.</summary>
    public string Code { get; set; } = "";

    /// <summary>The type under which the facts know objects of such classes.</summary>
    public string Type { get; set; } = "";

    /// <summary>Packages of which a file imports one that has such classes.</summary>
    public List<string> Imports { get; set; } = [];

    /// <summary>Fields of a class at which is shown what the framework does with it; where it begins, if it has none of them.</summary>
    public List<string> ShownAt { get; set; } = [];
}

public sealed class SanitizesIfModel
{
    public int At { get; set; }

    public List<string> Values { get; set; } = [];
}

public sealed class EscapeModel
{
    public int Value { get; set; }

    /// <summary>Positions where the result is harmless: see <see cref="Flow.OutputContext"/>.</summary>
    public List<string> For { get; set; } = [];

    /// <summary>Quotes that the call itself puts around the text.</summary>
    public string Quotes { get; set; } = "";
}

public sealed class FormatModel
{
    public int Text { get; set; }

    public int From { get; set; } = 1;

    /// <summary>Places are written in braces, by position or name, instead of after percent signs.</summary>
    public bool Braces { get; set; }

    /// <summary>The values stand in one array argument.</summary>
    public bool List { get; set; }
}

public sealed class JoinModel
{
    public int Glue { get; set; }

    public int List { get; set; } = 1;
}

public sealed class QueryModel
{
    public int Text { get; set; }

    /// <summary>The argument with the bound values, as a list or by name.</summary>
    public int? Values { get; set; }

    /// <summary>The bound values start at this argument.</summary>
    public int? From { get; set; }

    /// <summary>The statement is only prepared: it is run by a later call on the result.</summary>
    public bool Prepare { get; set; }

    /// <summary>What stands in the holes of an interpolated text is bound.</summary>
    public bool Interpolated { get; set; }

    /// <summary>The text is in a mapper's query language over objects, not in SQL.</summary>
    public bool Objects { get; set; }

    /// <summary>The text may also be an object with the text and values in these fields.</summary>
    public string? TextField { get; set; }

    public string? ValuesField { get; set; }
}

public sealed class RunModel
{
    public int? Values { get; set; }

    public int? From { get; set; }
}

public sealed class BindModel
{
    /// <summary>The argument that holds all values, or all parameters with their names.</summary>
    public int? All { get; set; }

    public int? Name { get; set; }

    public int? Value { get; set; }

    public int? From { get; set; }
}

public sealed class TestModel
{
    /// <summary><c>allow</c>: is one of a list; <c>number</c>; <c>pattern</c>: matches a whole-text pattern.</summary>
    public string Kind { get; set; } = "";

    public int Value { get; set; }

    public int? List { get; set; }

    public int? Pattern { get; set; }

    /// <summary>The answer that vouches for the value.</summary>
    public bool Answer { get; set; } = true;

    /// <summary>The call does not come back where the value does not pass.</summary>
    public bool Throws { get; set; }

    /// <summary>Positions in which a value that passed is harmless; all of them if none is named.</summary>
    public List<string> For { get; set; } = [];
}

public sealed class HashModel
{
    /// <summary>Position of what is hashed; none for an object that is fed.</summary>
    public int? Value { get; set; }

    /// <summary>The scheme, if the call settles it.</summary>
    public string? Scheme { get; set; }

    /// <summary>The argument that names the scheme.</summary>
    public int? SchemeAt { get; set; }

    /// <summary>Names of that argument and the schemes they stand for.</summary>
    public Dictionary<string, string> Schemes { get; set; } = [];

    public int? Salt { get; set; }

    /// <summary>The call makes a fresh salt of its own.</summary>
    public bool Salted { get; set; }

    /// <summary>The argument with the work factor, and if it is an object, its fields in order of meaning.</summary>
    public int? Cost { get; set; }

    public List<string> CostFields { get; set; } = [];

    /// <summary>What is taken for an option that is left out.</summary>
    public Dictionary<string, long> CostDefaults { get; set; } = [];

    /// <summary>Work factor where the call leaves it out.</summary>
    public string? DefaultCost { get; set; }

    /// <summary>The salt is a key: who does not have it cannot make the digest.</summary>
    public bool Keyed { get; set; }

    /// <summary>The result is a salt with a work factor in it, not a hash.</summary>
    public bool MakesSalt { get; set; }
}

public sealed class VerifyModel
{
    public int Password { get; set; }

    public int Hash { get; set; } = 1;
}

public sealed class ConnectModel
{
    public int? User { get; set; }

    public int? Password { get; set; }

    public int? Host { get; set; }

    /// <summary>An object argument with the fields below, or an address with both in it.</summary>
    public int? Options { get; set; }

    public List<string> UserFields { get; set; } = [];

    public List<string> PasswordFields { get; set; } = [];
}

public sealed class CallbackModel
{
    /// <summary>First argument that is a function to be called; -2 means the last argument.</summary>
    public int From { get; set; }

    /// <summary>Types of its parameters: a type name, <c>_</c> for unknown, <c>receiver</c> for the object, <c>element</c> for its elements, <c>rows</c>, <c>row</c>, <c>error</c>.</summary>
    public List<string> Parameters { get; set; } = [];

    /// <summary>The function is an entry point of this kind: see <see cref="EntryModel.Id"/>.</summary>
    public string? Entry { get; set; }

    /// <summary>A function with this many parameters gets an error before the others.</summary>
    public int? Errors { get; set; }

    /// <summary>What the function gives back is sent to the visitor.</summary>
    public bool ReturnsResponse { get; set; }

    /// <summary>Where a route's options say what its input must look like.</summary>
    public InputsModel? Inputs { get; set; }
}
