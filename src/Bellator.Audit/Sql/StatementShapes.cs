using System.Text;
using Bellator.Syntax.Parsing;
using Bellator.Text;

namespace Bellator.Audit.Sql;

/// <summary>What statements look like to a parser. Each is parsed once.</summary>
/// <param name="known">Those that were parsed before, by their text; what is parsed is added.</param>
public sealed class StatementShapes(Dictionary<string, IReadOnlyList<string>?> known) : IDisposable
{
    /// <summary>More are not kept: material that is changed again and again has ever new ones.</summary>
    private const int Most = 20_000;

    private readonly SyntaxParser _parser = new();

    /// <summary>The kinds of the tree's named nodes in order, or null if the text does not parse.</summary>
    public IReadOnlyList<string>? Of(string statement)
    {
        lock (known)
        {
            if (!known.TryGetValue(statement, out var shape))
            {
                if (known.Count >= Most)
                {
                    known.Clear();
                }

                known[statement] = shape = Parse(statement);
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
