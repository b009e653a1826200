namespace Bellator.Analysis.Libraries;

/// <summary>All facts of one language, ready to look up.</summary>
public sealed class LanguageModels
{
    internal LanguageModels(StringComparer names)
    {
        Calls = new(names);
        Fields = new(names);
        Globals = new(names);
        Functions = new(names);
        Bases = new(names);
        Names = names;
    }

    internal StringComparer Names { get; }

    internal Dictionary<string, CallModel> Calls { get; }

    internal Dictionary<string, ValueModel> Fields { get; }

    internal Dictionary<string, CallModel> Sets { get; } = new(StringComparer.Ordinal);

    internal Dictionary<string, CallModel> SettingVariables { get; } = new(StringComparer.Ordinal);

    internal List<string> SettingFiles { get; } = [];

    internal List<EntryModel> Entries { get; } = [];

    internal List<FileRouteModel> Pages { get; } = [];

    internal List<ActionRulesModel> ActionRules { get; } = [];

    internal Dictionary<string, List<string>> Relations { get; } = new(StringComparer.Ordinal);

    internal HashSet<string> RelationClasses { get; } = new(StringComparer.Ordinal);

    internal HashSet<string> RelationEndings { get; } = new(StringComparer.Ordinal);

    internal HashSet<string> RelationMakers { get; } = new(StringComparer.Ordinal);

    /// <summary>Marks that name methods, or stand on them, which run when a record is written.</summary>
    internal HashSet<string> Hooks { get; } = new(StringComparer.Ordinal);

    internal List<string> SetterNames { get; } = [];

    internal HashSet<string> MemberMarks { get; } = new(StringComparer.Ordinal);

    internal HashSet<string> RequestState { get; } = new(StringComparer.Ordinal);

    internal HashSet<string> ApplicationState { get; } = new(StringComparer.Ordinal);

    /// <summary>What mappers fetch is made into an answer with all its columns.</summary>
    public bool AnswersRecords { get; internal set; }

    /// <summary>Handlers get the records that their parameters' classes stand for.</summary>
    public bool FetchesParameters { get; internal set; }

    internal List<AddressRulesModel> AddressRules { get; } = [];

    internal List<ClassDefaultModel> ClassDefaults { get; } = [];

    internal Dictionary<string, string> MemberFilters { get; } = new(StringComparer.Ordinal);

    internal List<ModuleGuardModel> ModuleGuards { get; } = [];

    internal List<string> GuardMethods { get; } = [];

    internal List<string> AnsweringGuards { get; } = [];

    internal List<string> ParameterGuards { get; } = [];

    internal HashSet<string> ScopeCalls { get; } = new(StringComparer.Ordinal);

    internal List<string> ScopeMethods { get; } = [];

    public List<BroughtModel> Brings { get; } = [];

    /// <summary>Library classes for sets of records, and the type under which the facts know their objects.</summary>
    internal Dictionary<string, string> RecordSets { get; } = new(StringComparer.Ordinal);

    /// <summary>The method of such a class that gives the rows it begins with.</summary>
    internal string? RecordSetRows { get; set; }

    /// <summary>Members that an object has by a base class that may stand beside its own: <c>self.request</c> in a mixin.</summary>
    internal Dictionary<string, string> OwnMembers { get; } = new(StringComparer.Ordinal);

    /// <summary>Ends of condition names that say how a column is held against the value, after two underscores.</summary>
    internal HashSet<string> Lookups { get; } = new(StringComparer.Ordinal);

    /// <summary>Settings whose defaults leave something unprotected.</summary>
    public List<UnsetSettingModel> UnsetSettings { get; } = [];

    /// <summary>What keeps forged requests out of its own accord, by the library of the entry points.</summary>
    public List<(string Library, ForgeryDefaultModel Model)> ForgeryDefaults { get; } = [];

    /// <summary>Ways in which libraries recognise people from one request to the next.</summary>
    public List<CredentialModel> Credentials { get; } = [];

    internal HashSet<string> Describes { get; } = new(StringComparer.Ordinal);

    internal HashSet<string> BindingScopes { get; } = new(StringComparer.Ordinal);

    internal HashSet<string> StoreScopeCalls { get; } = new(StringComparer.Ordinal);

    internal HashSet<string> ScopeLifts { get; } = new(StringComparer.Ordinal);

    internal List<string> MarkReaders { get; } = [];

    internal HashSet<string> DevelopmentSettings { get; } = new(StringComparer.OrdinalIgnoreCase);

    internal Dictionary<string, string> MethodMarks { get; } = new(StringComparer.Ordinal);

    /// <summary>Calls, as they are written, after which the request goes on only in one case.</summary>
    public Dictionary<string, Ir.DemandOutcome> Demands { get; } = new(StringComparer.Ordinal);

    internal List<TableClassModel> Tables { get; } = [];

    internal List<ShapeModel> Shapes { get; } = [];

    internal List<FluentModel> Fluent { get; } = [];

    internal List<ColumnObjectsModel> ColumnObjects { get; } = [];

    internal List<SettingJourneysModel> SettingJourneys { get; } = [];

    internal List<PolicyModel> Policies { get; } = [];

    internal Dictionary<string, string> Mounted { get; } = new(StringComparer.Ordinal);

    internal Dictionary<string, string> Guards { get; } = new(StringComparer.Ordinal);

    internal Dictionary<string, string> BoundFields { get; } = new(StringComparer.Ordinal);

    internal Dictionary<string, ColumnMarkModel> ColumnMarks { get; } = new(StringComparer.Ordinal);

    internal Dictionary<string, ValueModel> Globals { get; }

    /// <summary>What is stated of the audited program's own functions.</summary>
    internal Dictionary<string, CallModel> Functions { get; }

    /// <summary>Names of objects that code and page share, and the one name under which they are kept.</summary>
    internal Dictionary<string, string> SharedWithPages { get; } = new(StringComparer.Ordinal);

    internal Dictionary<string, string> Bases { get; }

    internal Dictionary<string, string> Aliases { get; } = new(StringComparer.Ordinal);

    /// <summary>Letters of the longest name that stands for another.</summary>
    private int LongestAlias => _longestAlias < 0 ? _longestAlias = Aliases.Keys.Select(a => a.Length).DefaultIfEmpty().Max() : _longestAlias;

    /// <summary>Negative while it is not known: a number that threads cannot see half set.</summary>
    private int _longestAlias = -1;

    internal Dictionary<string, List<string>> Accepts { get; } = new(StringComparer.Ordinal);

    internal Dictionary<string, RuledByModel> RuledBy { get; } = new(StringComparer.Ordinal);

    internal Dictionary<string, List<string>> Rules { get; } = new(StringComparer.Ordinal);

    /// <summary>What any method does of a type that names few of them.</summary>
    internal Dictionary<string, CallModel> AnyMethod { get; } = new(StringComparer.Ordinal);

    /// <summary>Variable name to the type it is taken for.</summary>
    internal Dictionary<string, string> Receivers { get; } = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>First parts of known names: modules, globals and types.</summary>
    internal HashSet<string> Roots { get; } = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>Types that have facts of their own.</summary>
    internal HashSet<string> Types { get; } = new(StringComparer.OrdinalIgnoreCase);

    public bool KnowsType(string type) => Types.Contains(type) || Bases.ContainsKey(type);

    public CallModel? Call(string name) => Calls.GetValueOrDefault(name);

    /// <summary>A method of a type or of those it is based on.</summary>
    public CallModel? Method(string type, string method) => Inherited(type, t => Calls.GetValueOrDefault(t + "#" + method)) ?? (AnyMethod.Count == 0 || method is ['<', ..] ? null : Inherited(type, AnyMethod.GetValueOrDefault));

    /// <summary>What a schema of the type accepts; null if it is no schema.</summary>
    public List<string>? Accepted(string type) => Accepts.Count == 0 ? null : Inherited(type, Accepts.GetValueOrDefault);

    public ValueModel? Field(string type, string field) => Inherited(type, t => Fields.GetValueOrDefault(t + "#" + field) ?? Fields.GetValueOrDefault(t + "#*"));

    /// <summary>What setting the variable means in the file; null if nothing.</summary>
    public CallModel? SettingVariable(string path, string name) =>
        SettingVariables.TryGetValue(name, out var known) && !DevelopmentSettings.Contains(Path.GetFileNameWithoutExtension(path)) && SettingFiles.Exists(f => f[^1] == '/' ? ("/" + path).Contains("/" + f, StringComparison.Ordinal) : ("/" + path).EndsWith("/" + f, StringComparison.Ordinal)) ? known : null;

    /// <summary>What assigning a field of the type does.</summary>
    public CallModel? Setter(string type, string field) => Inherited(type, t => Sets.GetValueOrDefault(t + "#" + field) ?? Sets.GetValueOrDefault(t + "#*"));

    public ValueModel? Global(string name) => Globals.GetValueOrDefault(name);

    /// <summary>Remembers which roots and types the name belongs to.</summary>
    internal void Note(string name)
    {
        Roots.Add(Root(name));
        if (name.IndexOf('#', StringComparison.Ordinal) is > 0 and var at)
        {
            Types.Add(name[..at]);
        }
    }

    public string Canonical(string module)
    {
        if (module.StartsWith("node:", StringComparison.Ordinal))
        {
            module = module[5..];
        }

        if (Aliases.TryGetValue(module, out var other))
        {
            return other;
        }

        // A dotted path may begin with a name that stands for another. A path may be as long as whoever wrote the file likes.
        var names = Aliases.GetAlternateLookup<ReadOnlySpan<char>>();
        for (var dot = module.LastIndexOf('.', Math.Min(module.Length - 1, LongestAlias)); dot > 0; dot = module.LastIndexOf('.', dot - 1))
        {
            if (names.TryGetValue(module.AsSpan(0, dot), out other))
            {
                return other + module[dot..];
            }
        }

        return module;
    }

    private static string Root(string name)
    {
        var start = name.StartsWith("new ", StringComparison.Ordinal) ? 4 : 0;
        var end = name.IndexOfAny(['.', '#', ':'], start);
        return end < 0 ? name[start..] : name[start..end];
    }

    private T? Inherited<T>(string type, Func<string, T?> find)
        where T : class
    {
        for (var depth = 0; depth < 10; depth++)
        {
            if (find(type) is { } found)
            {
                return found;
            }

            if (!Bases.TryGetValue(type, out var parent))
            {
                return null;
            }

            type = parent;
        }

        return null;
    }
}
