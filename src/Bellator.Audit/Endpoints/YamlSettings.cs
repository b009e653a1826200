using System.Text;
using Bellator.Text;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace Bellator.Audit.Endpoints;

/// <summary>Files with settings in YAML that a framework reads, found by their names.</summary>
internal static class YamlSettings
{
    /// <summary>Settings are short; what is larger was made to keep us busy.</summary>
    private const int MostBytes = 200_000;

    /// <summary>What stands under the keys in each file of the tree that has one of the names.</summary>
    /// <returns>The file, the application's folder with a slash at the end or nothing, and what stands there.</returns>
    public static IEnumerable<(int File, string Root, YamlNode Node)> Find(SourceTree tree, IReadOnlyList<string> names, IReadOnlyList<string> keys)
    {
        for (var i = 0; i < tree.Files.Count; i++)
        {
            var file = tree.Files[i];
            if (file.Language == Language.Settings && file.Content.Length <= MostBytes && names.FirstOrDefault(n => file.Path == n || file.Path.EndsWith("/" + n, StringComparison.Ordinal)) is { } name)
            {
                foreach (var root in Roots(file))
                {
                    if (At(root, keys) is { } found)
                    {
                        yield return (i, file.Path[..^name.Length], found);
                    }
                }
            }
        }
    }

    /// <summary>Every text that a settings file of the tree has, with the names of the keys on the way to it: JSON is YAML too, and <c>NAME=value</c> lines are read as such.</summary>
    public static IEnumerable<(int File, IReadOnlyList<string> Keys, string Value, Location At)> Texts(SourceTree tree)
    {
        for (var i = 0; i < tree.Files.Count; i++)
        {
            var file = tree.Files[i];
            if (file.Language != Language.Settings || file.Content.Length > MostBytes)
            {
                continue;
            }

            foreach (var (keys, value, at) in file.Path[(file.Path.LastIndexOf('/') + 1)..].StartsWith(".env", StringComparison.OrdinalIgnoreCase) ? Lines(i, file) : Roots(file).SelectMany(r => Scalars(i, r, [])))
            {
                yield return (i, keys, value, at);
            }
        }
    }

    /// <summary>Settings nested deeper were made to keep us busy.</summary>
    private const int MaxDepth = 12;

    private static IEnumerable<(IReadOnlyList<string>, string, Location)> Scalars(int file, YamlNode node, IReadOnlyList<string> keys) => node switch
    {
        YamlScalarNode { Value: { } value } => [(keys, value, PlaceOf(file, node))],
        YamlMappingNode mapping when keys.Count < MaxDepth => mapping.Children.SelectMany(c => Scalars(file, c.Value, [.. keys, (c.Key as YamlScalarNode)?.Value ?? ""])),
        _ => [],
    };

    private static IEnumerable<(IReadOnlyList<string>, string, Location)> Lines(int index, SourceFile file)
    {
        var at = 0;
        foreach (var line in Encoding.Latin1.GetString(file.Content).Split('\n'))
        {
            if (line.IndexOf('=', StringComparison.Ordinal) is > 0 and var sign && line[0] != '#')
            {
                yield return ([line[..sign].Trim()], line[(sign + 1)..].Trim().Trim('"', '\''), new Location(index, at, at + line.Length));
            }

            at += line.Length + 1;
        }
    }

    /// <summary>What stands under the keys, one within the other; null if there is nothing.</summary>
    public static YamlNode? At(YamlNode node, params IEnumerable<string> keys) =>
        keys.Aggregate((YamlNode?)node, (at, key) => (at as YamlMappingNode)?.Children.TryGetValue(new YamlScalarNode(key), out var inner) ?? false ? inner : null);

    public static Location PlaceOf(int file, YamlNode node) => new(file, (int)node.Start.Index, (int)node.End.Index);

    private static IReadOnlyList<YamlNode> Roots(SourceFile file)
    {
        try
        {
            // Every byte is one sign, so that places in the text are places in the file.
            var stream = new YamlStream();
            stream.Load(new StringReader(Encoding.Latin1.GetString(file.Content)));
            return [.. stream.Documents.Select(d => d.RootNode)];
        }
        catch (YamlException)
        {
            // What the framework cannot read either says nothing.
            return [];
        }
    }
}
