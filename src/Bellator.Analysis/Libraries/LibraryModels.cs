using System.Collections.Concurrent;
using System.Reflection;

namespace Bellator.Analysis.Libraries;

/// <summary>A facts file that cannot be used; the message says where and why.</summary>
public sealed class LibraryModelException(string message, Exception? inner = null) : Exception(message, inner);

/// <summary>The facts that an audit uses: those shipped, and any from a folder of the user's.</summary>
public sealed class LibraryModels
{
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
            .. ShippedFiles(n => n.StartsWith(ModelReader.Shipped + language + "/", StringComparison.Ordinal) && !n.EndsWith("/" + WordsFile, StringComparison.Ordinal)),
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
        foreach (var name in assembly.GetManifestResourceNames().Where(n => n.StartsWith(ModelReader.Shipped, StringComparison.Ordinal) && isMeant(n)).Order(StringComparer.Ordinal))
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
        facts.RelationEndings.UnionWith(file.RelationEndings);
        facts.RelationMakers.UnionWith(file.RelationMakers);
        facts.Hooks.UnionWith(file.Hooks);
        facts.SetterNames.AddRange(file.SetterNames);
        facts.MemberMarks.UnionWith(file.MemberMarks);
        facts.RequestState.UnionWith(file.RequestState);
        facts.ApplicationState.UnionWith(file.ApplicationState);
        facts.FetchesParameters |= file.FetchesParameters;
        facts.BindingScopes.UnionWith(file.BindingScopes);
        facts.Describes.UnionWith(file.Describes);
        facts.UnsetSettings.AddRange(file.UnsetSettings);
        facts.Credentials.AddRange(file.Credentials);
        facts.ForgeryDefaults.AddRange(file.ForgeryDefaults.Select(d => (file.Library, d)));
        facts.AnswersRecords |= file.AnswersRecords;
        facts.ActionRules.AddRange(file.ActionRules);
        facts.AddressRules.AddRange(file.AddressRules);
        facts.ClassDefaults.AddRange(file.ClassDefaults);
        foreach (var (name, option) in file.MemberFilters)
        {
            facts.MemberFilters[name] = option;
        }

        foreach (var (call, outcome) in file.Demands)
        {
            facts.Demands[call] = outcome;
        }

        foreach (var (mark, method) in file.MethodMarks)
        {
            facts.MethodMarks[mark] = method;
        }

        facts.DevelopmentSettings.UnionWith(file.DevelopmentSettings);
        facts.ModuleGuards.AddRange(file.ModuleGuards);
        facts.GuardMethods.AddRange(file.GuardMethods);
        facts.AnsweringGuards.AddRange(file.AnsweringGuards);
        facts.ParameterGuards.AddRange(file.ParameterGuards);
        facts.ScopeCalls.UnionWith(file.ScopeCalls);
        facts.ScopeMethods.AddRange(file.ScopeMethods);
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
