using System.Text.RegularExpressions;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Text;
using YamlDotNet.RepresentationModel;

namespace Bellator.Audit.Endpoints;

/// <summary>Rules about who may come to which addresses, where a file with settings lists them.</summary>
internal sealed class AddressRules
{
    /// <summary>A pattern that takes longer was made to keep us busy.</summary>
    private static readonly TimeSpan LongestMatch = TimeSpan.FromMilliseconds(50);

    private readonly SourceTree _tree;
    private readonly List<Listed> _lists = [];

    public AddressRules(ProgramModel program, LibraryModels facts)
    {
        _tree = program.Tree;
        var languages = program.Files.Select(f => Languages.Family(f.Source.Language)).Where(l => l.Length > 0).Distinct().ToList();
        foreach (var (language, fact) in languages.SelectMany(l => facts.For(l).AddressRules.Select(f => (l, f))))
        {
            foreach (var (file, root, node) in YamlSettings.Find(_tree, fact.Files, fact.At))
            {
                if (node is YamlSequenceNode list && list.Children.OfType<YamlMappingNode>().Select(n => RuleOf(file, n, fact)).OfType<Rule>().ToList() is { Count: > 0 } rules)
                {
                    _lists.Add(new Listed(language, root, rules));
                }
            }
        }
    }

    /// <param name="Root">The application's folder, with a slash at the end, or nothing.</param>
    private sealed record Listed(string Language, string Root, IReadOnlyList<Rule> Rules);

    /// <param name="Asks">Null where anybody is let in.</param>
    private sealed record Rule(Regex? Path, IReadOnlySet<string> Methods, Requirement? Asks, bool Sometimes, string Text, Location At);

    /// <summary>The entry point with what the settings ask for on the way to it.</summary>
    public EntryPoint With(EntryPoint entry)
    {
        var file = _tree.Files[entry.At.File];
        foreach (var list in _lists)
        {
            if (Languages.Family(file.Language) == list.Language && file.Path.StartsWith(list.Root, StringComparison.Ordinal) && Guard(list.Rules, entry) is { } guard)
            {
                return entry with { Guards = [guard, .. entry.Guards] };
            }
        }

        return entry;
    }

    private static Middleware? Guard(IReadOnlyList<Rule> rules, EntryPoint entry)
    {
        foreach (var rule in rules)
        {
            if (!Fits(rule, entry.Path))
            {
                continue;
            }

            var always = !rule.Sometimes && (rule.Methods.Count == 0 || rule.Methods.Contains(entry.Method));
            if (always)
            {
                return rule.Asks is { } asks ? new Middleware(rule.Text, asks, rule.At) : null;
            }

            if (rule.Sometimes || entry.Method == "*")
            {
                return new Middleware(rule.Text, Requirement.Perhaps, rule.At);
            }
        }

        return null;
    }

    private static bool Fits(Rule rule, string path)
    {
        try
        {
            // What stands for a part of the path may be anything; a number is the usual thing.
            return rule.Path is null || rule.Path.IsMatch(Regex.Replace(path, "\\{[^}]*\\}", "1"));
        }
        catch (RegexMatchTimeoutException)
        {
            return false;
        }
    }

    private Rule? RuleOf(int file, YamlMappingNode node, AddressRulesModel fact)
    {
        Regex? path = null;
        if (YamlSettings.At(node, fact.Path) is YamlScalarNode { Value: { } pattern })
        {
            try
            {
                path = new Regex(pattern, RegexOptions.CultureInvariant, LongestMatch);
            }
            catch (ArgumentException)
            {
                return null;
            }
        }

        var people = fact.People.SelectMany(k => Texts(YamlSettings.At(node, k))).ToList();
        Requirement? asks = people.Count == 0 || people.Exists(fact.Anybody.Contains) ? null : people.Exists(fact.SignedIn.Contains) ? Requirement.SignIn : Requirement.Role;
        var at = YamlSettings.PlaceOf(file, node);
        return new Rule(
            path,
            Texts(YamlSettings.At(node, fact.Methods)).Select(m => m.ToUpperInvariant()).ToHashSet(),
            asks,
            fact.Unless.Exists(k => YamlSettings.At(node, k) is not null),
            _tree.TextOf(at),
            at);
    }

    private static IEnumerable<string> Texts(YamlNode? node) => node switch
    {
        YamlScalarNode { Value: { Length: > 0 } text } => text.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries),
        YamlSequenceNode list => list.Children.OfType<YamlScalarNode>().Select(s => s.Value ?? ""),
        _ => [],
    };
}
