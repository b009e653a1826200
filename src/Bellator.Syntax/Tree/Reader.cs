using Bellator.Syntax.CSharp;
using Bellator.Syntax.JavaScript;
using Bellator.Syntax.Parsing;
using Bellator.Syntax.Php;
using Bellator.Syntax.Python;
using Bellator.Syntax.Ruby;
using Bellator.Syntax.Templates;
using Bellator.Text;

namespace Bellator.Syntax;

/// <summary>What the readers of all languages share: walking the flat tree and keeping count of what is not modelled.</summary>
public abstract class Reader
{
    private readonly Dictionary<string, int> _opaque = new(StringComparer.Ordinal);

    /// <summary>Ids of the fields that the grammars have in common; 255 where one has none of the name.</summary>
    private protected readonly byte _name, _body, _parameters, _arguments, _left, _right, _operator, _condition, _consequence, _alternative, _value, _type, _function, _object, _pattern, _argument, _property;

    protected Reader(FlatTree tree, SourceFile file)
    {
        Tree = tree;
        File = file;
        Original = file;
        _name = FieldId("name");
        _body = FieldId("body");
        _parameters = FieldId("parameters");
        _arguments = FieldId("arguments");
        _left = FieldId("left");
        _right = FieldId("right");
        _operator = FieldId("operator");
        _condition = FieldId("condition");
        _consequence = FieldId("consequence");
        _alternative = FieldId("alternative");
        _value = FieldId("value");
        _type = FieldId("type");
        _function = FieldId("function");
        _object = FieldId("object");
        _pattern = FieldId("pattern");
        _argument = FieldId("argument");
        _property = FieldId("property");
    }

    protected FlatTree Tree { get; }

    protected SourceFile File { get; }

    /// <summary>The file as it was handed in: the template, where the parsed text was made from one.</summary>
    protected SourceFile Original { get; private set; }

    /// <summary>Maps a parsed file to the language-neutral tree.</summary>
    /// <param name="tree">Its syntax.</param>
    /// <param name="file">The file, for a template as it was parsed.</param>
    /// <param name="original">The template itself.</param>
    public static FileUnit Read(FlatTree tree, SourceFile file, SourceFile? original = null)
    {
        Reader reader = Languages.Host(file.Language) switch
        {
            Language.Php => new PhpReader(tree, file),
            Language.Python => new PythonReader(tree, file),
            Language.Ruby => new RubyReader(tree, file),
            Language.CSharp => new CSharpReader(tree, file),
            _ => new JavaScriptReader(tree, file),
        };
        reader.Original = original ?? file;
        var body = reader.ReadFile();
        return new FileUnit(original ?? file, body)
        {
            NodeCount = tree.Count,
            OpaqueCount = reader._opaque.Values.Sum(),
            // Template code is put together from fragments; what does not parse there is mostly between them.
            ErrorCount = original is null || ReferenceEquals(original, file) ? tree.ErrorCount : 0,
            CutCount = tree.CutCount,
            OpaqueKinds = reader._opaque,
        };
    }

    protected abstract Block ReadFile();

    /// <summary>An operator of that name, unless it takes a part away: what is taken away is nothing afterwards.</summary>
    protected static Expression Removed(Expression part, string op, Span span) =>
        op is "delete" or "unset" && part is Member or IndexExpression ? new Assignment(part, null, new Literal(LiteralKind.Null, "null", span), span) : new Unary(op, part, span);

    /// <summary>Reads any node as an expression.</summary>
    protected abstract Expression ReadExpression(int node);

    protected byte FieldId(string name) => Tree.Grammar.FieldId(name);

    protected string Kind(int node) => Tree.Kind(node);

    protected Span SpanOf(int node) => Tree.SpanOf(node);

    protected string Text(int node) => Tree.Text(node);

    protected bool Has(int node, string token) => Tree.Child(node, token) >= 0;

    /// <summary>What is read was made from a page template.</summary>
    protected bool IsTemplate => Languages.IsTemplate(File.Language);

    /// <summary>The callee of a call, where the call is one that a template's unescaped output became: its own name, which no program has.</summary>
    private protected Expression Callee(int node, TemplateCalls calls)
    {
        var meaning = IsTemplate && node >= 0 ? calls.MeaningOf(Text(node)) : null;
        return meaning is null ? ReadExpression(node) : new Name(meaning, SpanOf(node));
    }

    protected List<Expression> ReadAll(int node)
    {
        var list = new List<Expression>();
        foreach (var child in Tree.NamedChildren(node))
        {
            list.Add(ReadExpression(child));
        }

        return list;
    }

    protected Block EmptyBlock(Span span) => new([], span);

    protected Literal NullLiteral(Span span) => new(LiteralKind.Null, "null", span);

    protected Opaque ReadOpaque(int node)
    {
        var kind = Kind(node);
        _opaque[kind] = _opaque.GetValueOrDefault(kind) + 1;
        var parts = new List<Expression>();
        foreach (var child in Tree.NamedChildren(node))
        {
            parts.Add(ReadExpression(child));
        }

        return new Opaque(kind, parts, SpanOf(node));
    }

    /// <summary>The expression inside the parentheses or other wrapping of a node.</summary>
    protected Expression ReadInner(int node)
    {
        var inner = Tree.FirstNamed(node);
        return inner < 0 ? NullLiteral(SpanOf(node)) : ReadExpression(inner);
    }
}
