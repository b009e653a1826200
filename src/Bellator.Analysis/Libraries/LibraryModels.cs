using System.Collections.Concurrent;
using System.Reflection;

namespace Bellator.Analysis.Libraries;

/// <summary>A facts file that cannot be used; the message says where and why.</summary>
public sealed class LibraryModelException(string message, Exception? inner = null) : Exception(message, inner);

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

    /// <summary>Marks that name methods, or stand on them, which run when a record is written.</summary>
    internal HashSet<string> Hooks { get; } = new(StringComparer.Ordinal);

    internal List<string> SetterNames { get; } = [];

    internal HashSet<string> MemberMarks { get; } = new(StringComparer.Ordinal);

    internal HashSet<string> RequestState { get; } = new(StringComparer.Ordinal);

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

    public List<BroughtModel> Brings { get; } = [];

    /// <summary>Library classes for sets of records, and the type under which the facts know their objects.</summary>
    internal Dictionary<string, string> RecordSets { get; } = new(StringComparer.Ordinal);

    /// <summary>The method of such a class that gives the rows it begins with.</summary>
    internal string? RecordSetRows { get; set; }

    /// <summary>Members that an object has by a base class that may stand beside its own: <c>self.request</c> in a mixin.</summary>
    internal Dictionary<string, string> OwnMembers { get; } = new(StringComparer.Ordinal);

    /// <summary>Ends of condition names that say how a column is held against the value, after two underscores.</summary>
    internal HashSet<string> Lookups { get; } = new(StringComparer.Ordinal);

    internal HashSet<string> StoreScopeCalls { get; } = new(StringComparer.Ordinal);

    internal HashSet<string> ScopeLifts { get; } = new(StringComparer.Ordinal);

    internal List<string> MarkReaders { get; } = [];

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
    private int LongestAlias => _longestAlias ??= Aliases.Keys.Select(a => a.Length).DefaultIfEmpty().Max();

    private int? _longestAlias;

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
    public CallModel? Method(string type, string method) => Inherited(type, t => Calls.GetValueOrDefault(t + "#" + method)) ?? (AnyMethod.Count == 0 ? null : Inherited(type, AnyMethod.GetValueOrDefault));

    /// <summary>What a schema of the type accepts; null if it is no schema.</summary>
    public List<string>? Accepted(string type) => Accepts.Count == 0 ? null : Inherited(type, Accepts.GetValueOrDefault);

    public ValueModel? Field(string type, string field) => Inherited(type, t => Fields.GetValueOrDefault(t + "#" + field) ?? Fields.GetValueOrDefault(t + "#*"));

    /// <summary>What setting the variable means in the file; null if nothing.</summary>
    public CallModel? SettingVariable(string path, string name) =>
        SettingVariables.TryGetValue(name, out var known) && SettingFiles.Exists(f => f[^1] == '/' ? ("/" + path).Contains("/" + f, StringComparison.Ordinal) : ("/" + path).EndsWith("/" + f, StringComparison.Ordinal)) ? known : null;

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

/// <summary>The facts that an audit uses: those shipped, and any from a folder of the user's.</summary>
public sealed class LibraryModels
{
    private const string Resources = "facts/";
    private const string WordsFile = "words.yaml";

    private readonly ConcurrentDictionary<string, Lazy<LanguageModels>> _languages = new(StringComparer.Ordinal);
    private readonly Dictionary<string, HashSet<string>> _words = new(StringComparer.Ordinal);

    /// <summary>Those of the user and of a review, which come after the shipped ones.</summary>
    private readonly List<LibraryModelFile> _further = [];

    private static readonly Lazy<LibraryModels> Shared = new(() => Load(null));

    public static LibraryModels Shipped => Shared.Value;

    /// <summary>
    /// Further files are read now, so that what is wrong with them is said; of those that ship, the words. What ships for a language is read
    /// when the first code of it asks.
    /// </summary>
    /// <param name="folder">Of further files; null for none.</param>
    /// <param name="texts">Facts files that are no files, such as those of a review.</param>
    /// <exception cref="LibraryModelException">A file is not valid.</exception>
    public static LibraryModels Load(string? folder, IReadOnlyList<ModelReader>? texts = null)
    {
        var facts = new LibraryModels();
        if (folder is not null)
        {
            if (!Directory.Exists(folder))
            {
                throw new LibraryModelException($"{folder}: no such folder of facts files");
            }

            foreach (var path in Directory.EnumerateFiles(folder, "*.yaml").Order(StringComparer.Ordinal))
            {
                using var reader = new StreamReader(path);
                facts._further.Add(ModelReader.Read(new ModelReader(path, reader.ReadToEnd())));
            }
        }

        facts._further.AddRange((texts ?? []).Select(ModelReader.Read));
        foreach (var file in ShippedFiles(n => n.EndsWith("/" + WordsFile, StringComparison.Ordinal)).Concat(facts._further))
        {
            facts.AddWords(file);
        }

        return facts;
    }

    public LanguageModels For(string language) => _languages.GetOrAdd(language, l => new Lazy<LanguageModels>(() => Read(l))).Value;

    /// <summary>Begins to read what ships for the languages, so that it is there when their code has been parsed.</summary>
    public void Prepare(IEnumerable<string> languages)
    {
        foreach (var language in languages.Distinct(StringComparer.Ordinal))
        {
            _ = Task.Run(() => For(language));
        }
    }

    private LanguageModels Read(string language)
    {
        var facts = new LanguageModels(language == "php" ? StringComparer.OrdinalIgnoreCase : StringComparer.Ordinal);
        LibraryModelFile[] files =
        [
            .. ShippedFiles(n => n.StartsWith(Resources + language + "/", StringComparison.Ordinal) && !n.EndsWith("/" + WordsFile, StringComparison.Ordinal)),
            .. _further.Where(f => f.Language == language),
        ];
        foreach (var file in files)
        {
            Add(file, facts);
        }

        foreach (var file in files)
        {
            AddSurface(file, facts);
        }

        return facts;
    }

    private static IEnumerable<LibraryModelFile> ShippedFiles(Func<string, bool> isMeant)
    {
        var assembly = Assembly.GetExecutingAssembly();
        foreach (var name in assembly.GetManifestResourceNames().Where(n => n.StartsWith(Resources, StringComparison.Ordinal) && isMeant(n)).Order(StringComparer.Ordinal))
        {
            using var stream = assembly.GetManifestResourceStream(name)!;
            using var reader = new StreamReader(stream);
            yield return ModelReader.Read(new ModelReader(name, reader.ReadToEnd()));
        }
    }

    /// <summary>The words listed for a subject, in lower case without separators.</summary>
    public IReadOnlySet<string> Words(string subject) => _words.TryGetValue(subject, out var words) ? words : new HashSet<string>();

    private void AddWords(LibraryModelFile file)
    {
        foreach (var (subject, words) in file.Words)
        {
            if (!_words.TryGetValue(subject, out var set))
            {
                _words[subject] = set = new HashSet<string>(StringComparer.Ordinal);
            }

            set.UnionWith(words);
        }
    }

    private static void Add(LibraryModelFile file, LanguageModels facts)
    {
        foreach (var (name, call) in file.Calls)
        {
            call.Dialect = file.Dialect;
            call.Library = file.Library;
            facts.Calls[name] = call;
            facts.Note(name);
            foreach (var shared in call.Render?.Shares ?? [])
            {
                facts.SharedWithPages[shared] = call.Render!.Shares[0];
            }

            if (name.EndsWith("#*", StringComparison.Ordinal))
            {
                facts.AnyMethod[name[..^2]] = call;
            }
        }

        foreach (var (name, function) in file.Functions)
        {
            function.Library = file.Library;
            facts.Functions[name] = function;
        }

        facts.SettingFiles.AddRange(file.SettingFiles);
        foreach (var (name, setting) in file.SettingVariables)
        {
            setting.Library = file.Library;
            facts.SettingVariables[name] = setting;
        }

        foreach (var (name, set) in file.Sets)
        {
            set.Dialect = file.Dialect;
            set.Library = file.Library;
            facts.Sets[name] = set;
            facts.Note(name);
        }

        facts.Entries.AddRange(file.Entries);
        facts.Shapes.AddRange(file.Shapes);
        facts.Pages.AddRange(file.Pages);
        foreach (var (mark, types) in file.Relations)
        {
            facts.Relations[mark] = types;
        }

        facts.RelationClasses.UnionWith(file.RelationClasses);
        facts.Hooks.UnionWith(file.Hooks);
        facts.SetterNames.AddRange(file.SetterNames);
        facts.MemberMarks.UnionWith(file.MemberMarks);
        facts.RequestState.UnionWith(file.RequestState);
        facts.FetchesParameters |= file.FetchesParameters;
        facts.AnswersRecords |= file.AnswersRecords;
        facts.ActionRules.AddRange(file.ActionRules);
        facts.AddressRules.AddRange(file.AddressRules);
        facts.ClassDefaults.AddRange(file.ClassDefaults);
        foreach (var (name, option) in file.MemberFilters)
        {
            facts.MemberFilters[name] = option;
        }

        facts.ModuleGuards.AddRange(file.ModuleGuards);
        facts.GuardMethods.AddRange(file.GuardMethods);
        facts.AnsweringGuards.AddRange(file.AnsweringGuards);
        facts.ParameterGuards.AddRange(file.ParameterGuards);
        facts.ScopeCalls.UnionWith(file.ScopeCalls);
        facts.Brings.AddRange(file.Brings);
        facts.Lookups.UnionWith(file.Lookups);
        facts.RecordSetRows = file.RecordSetRows ?? facts.RecordSetRows;
        foreach (var (name, type) in file.RecordSets)
        {
            facts.RecordSets[name] = type;
        }

        foreach (var (name, type) in file.OwnMembers)
        {
            facts.OwnMembers[name] = type;
        }

        facts.StoreScopeCalls.UnionWith(file.StoreScopeCalls);
        facts.ScopeLifts.UnionWith(file.ScopeLifts);
        facts.MarkReaders.AddRange(file.MarkReaders);
        facts.Tables.AddRange(file.Tables);
        facts.Fluent.AddRange(file.Fluent);
        facts.ColumnObjects.AddRange(file.ColumnObjects);
        file.SettingJourneys.ForEach(j => j.Library = j.Library.Length > 0 ? j.Library : file.Library);
        facts.SettingJourneys.AddRange(file.SettingJourneys);
        facts.Policies.AddRange(file.Policies);
        foreach (var (ending, path) in file.Mounted)
        {
            facts.Mounted[ending] = path;
        }

        foreach (var (mark, asks) in file.Guards)
        {
            facts.Guards[mark] = asks;
        }

        foreach (var (mark, column) in file.ColumnMarks)
        {
            facts.ColumnMarks[mark] = column;
        }

        foreach (var (mark, part) in file.BoundFields)
        {
            facts.BoundFields[mark] = part;
        }

        Copy(file.Fields, facts.Fields, facts);
        Copy(file.Globals, facts.Globals, facts);
        foreach (var (type, parent) in file.Bases)
        {
            facts.Bases[type] = parent;
        }

        foreach (var (type, positions) in file.Accepts)
        {
            facts.Accepts[type] = positions;
            facts.Types.Add(type);
        }

        foreach (var (type, ruled) in file.RuledBy)
        {
            facts.RuledBy[type] = ruled;
            facts.Types.Add(type);
        }

        foreach (var (word, positions) in file.Rules)
        {
            facts.Rules[word] = positions;
        }

        foreach (var (alias, module) in file.Aliases)
        {
            facts.Aliases[alias] = module;
        }

        foreach (var (type, names) in file.Receivers)
        {
            foreach (var name in names)
            {
                facts.Receivers.TryAdd(name, type);
            }
        }
    }

    /// <summary>Adds what a file says of routes, records and journeys to what is known of the same calls.</summary>
    private static void AddSurface(LibraryModelFile file, LanguageModels facts)
    {
        Each(file.Routes, (call, route) => call.Route = route);
        Each(file.Mounts, (call, mount) => call.Mount = mount);
        Each(file.Middleware, (call, guard) => call.Guard = guard);
        Each(file.Records, (call, access) => call.Access = access);
        Each(file.Models, (call, model) => call.Model = model);
        Each(file.Randomness, (call, random) => call.Random = random);
        Each(file.Provides, (call, journeys) => call.Provided = journeys);
        Each(file.Columns, (call, column) => call.Column = column);
        Each(file.Keys, (call, key) => call.Key = key);
        Each(file.Changes, (call, change) => call.Change = change);
        Each(file.JourneySteps, (call, acts) => call.JourneySteps = [.. call.JourneySteps, .. acts]);

        void Each<T>(Dictionary<string, T> given, Action<CallModel, T> add)
        {
            foreach (var (name, fact) in given)
            {
                if (name.EndsWith(Assigned, StringComparison.Ordinal))
                {
                    var set = facts.Sets.GetValueOrDefault(name[..^Assigned.Length])?.Copy() ?? new CallModel { IsOnlyOfSurface = true, Library = file.Library };
                    facts.Sets[name[..^Assigned.Length]] = set;
                    facts.Note(name[..^Assigned.Length]);
                    add(set, fact);
                    continue;
                }

                // One fact may stand under several names.
                var call = facts.Calls.TryGetValue(name, out var known) ? known.Copy() : FactOfAny(facts, name)?.Copy() ?? new CallModel { IsOnlyOfSurface = true, Library = file.Library };
                facts.Calls[name] = call;
                facts.Note(name);
                add(call, fact);
            }
        }
    }

    /// <summary>Behind the name of a member: it is about assigning it.</summary>
    private const string Assigned = " =";

    /// <summary>What is known of any method of the type.</summary>
    private static CallModel? FactOfAny(LanguageModels facts, string name) =>
        name.IndexOf('#', StringComparison.Ordinal) is > 0 and var at ? facts.Method(name[..at], name[(at + 1)..]) : null;

    private static void Copy(Dictionary<string, ValueModel> from, Dictionary<string, ValueModel> to, LanguageModels facts)
    {
        foreach (var (name, fact) in from)
        {
            to[name] = fact;
            fact.IsAny = name.EndsWith("#*", StringComparison.Ordinal);
            facts.Note(name);
        }
    }
}
