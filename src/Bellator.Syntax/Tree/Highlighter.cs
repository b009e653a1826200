using Bellator.Syntax.Parsing;
using Bellator.Text;

namespace Bellator.Syntax;

/// <summary>A stretch of code with the kind of thing it is, for display: <c>comment</c>, <c>text</c>, <c>number</c>, <c>word</c> (keyword), <c>name</c> (variable) or empty.</summary>
public readonly record struct Token(string Kind, Span Span);

/// <summary>Tells comments, texts, numbers and keywords apart by the parser, for showing code.</summary>
public static class Highlighter
{
    /// <summary>Tokens in order, without gaps of interest: what no token covers is plain.</summary>
    public static IReadOnlyList<Token> Tokens(SourceFile file)
    {
        if (file.Language == Language.Unknown)
        {
            return [];
        }

        using var parser = new SyntaxParser();
        using var tree = parser.Parse(file);
        if (tree is null)
        {
            return [];
        }

        var tokens = new List<Token>();
        for (var node = 0; node < tree.Count;)
        {
            ref readonly var flat = ref tree.Node(node);
            var kind = KindOf(tree, node);
            var isLeaf = flat.Next == node + 1;
            if (kind.Length > 0 && (isLeaf || kind is "comment" or "text"))
            {
                // Values inside a text keep their own colour.
                if (!isLeaf && kind == "text" && HasCode(tree, node))
                {
                    node++;
                    continue;
                }

                tokens.Add(new Token(kind, tree.SpanOf(node)));
                node = (int)flat.Next;
            }
            else
            {
                node++;
            }
        }

        return tokens;
    }

    private static bool HasCode(FlatTree tree, int node)
    {
        foreach (var child in tree.NamedChildren(node))
        {
            if (tree.Kind(child) is not ("string_content" or "string_fragment" or "escape_sequence"))
            {
                return true;
            }
        }

        return false;
    }

    private static string KindOf(FlatTree tree, int node)
    {
        var kind = tree.Kind(node);
        ref readonly var flat = ref tree.Node(node);
        if (!flat.IsNamed)
        {
            return kind.Length > 1 && kind.All(char.IsLetter) ? "word" : "";
        }

        return kind switch
        {
            "comment" or "html_comment" => "comment",
            "string" or "encapsed_string" or "template_string" or "string_content" or "string_fragment" or "nowdoc_body" or "heredoc_body" or "regex" or "escape_sequence" => "text",
            "integer" or "float" or "number" => "number",
            "variable_name" => "name",
            "this" or "null" or "true" or "false" or "boolean" or "super" or "php_tag" => "word",
            _ => "",
        };
    }
}
