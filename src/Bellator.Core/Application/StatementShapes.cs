using System.Text;
using Bellator.Core.Parsing;
using Bellator.Core.Sources;

namespace Bellator.Core.Application;

/// <summary>What statements look like to a parser. Each is parsed once.</summary>
public sealed class StatementShapes : IDisposable
{
    private readonly SyntaxParser _parser = new();
    private readonly Dictionary<string, IReadOnlyList<string>?> _known = new(StringComparer.Ordinal);

    /// <summary>The kinds of the tree's named nodes in order, or null if the text does not parse.</summary>
    public IReadOnlyList<string>? Of(string statement)
    {
        lock (_known)
        {
            if (!_known.TryGetValue(statement, out var shape))
            {
                _known[statement] = shape = Parse(statement);
            }

            return shape;
        }
    }

    public void Dispose() => _parser.Dispose();

    private List<string>? Parse(string statement)
    {
        using var tree = _parser.Parse(new SourceFile("statement.sql", Encoding.UTF8.GetBytes(statement), Language.Sql));
        if (tree is null || tree.ErrorCount > 0)
        {
            return null;
        }

        var kinds = new List<string>(tree.Count);
        for (var node = 0; node < tree.Count; node++)
        {
            if (tree.Node(node).IsNamed)
            {
                kinds.Add(tree.Kind(node));
            }
        }

        return kinds;
    }
}
