using Bellator.Syntax.Parsing;
using Bellator.Text;

namespace Bellator.Syntax.Ruby;

/// <summary>Reads Ruby's statements. What a method evaluates last is what it returns; a block is a closure handed over as the last argument.</summary>
internal sealed partial class RubyReader : Reader
{
    private readonly byte _method, _receiver, _block;

    /// <summary>Texts of here-documents in the order in which they are announced.</summary>
    private readonly Dictionary<int, int> _heredocs = [];
    private HashSet<string> _assigned = new(StringComparer.Ordinal);
    private string _methodName = "";
    private int _loops;

    internal RubyReader(FlatTree tree, SourceFile file)
        : base(tree, file)
    {
        _method = FieldId("method");
        _receiver = FieldId("receiver");
        _block = FieldId("block");
        PairHeredocs();
    }

    protected override Block ReadFile() => new(ReadStatements(0), SpanOf(0));

    private void PairHeredocs()
    {
        var open = new Queue<int>();
        for (var node = 0; node < Tree.Count; node++)
        {
            if (!Tree.Node(node).IsNamed)
            {
                continue;
            }

            switch (Kind(node))
            {
                case "heredoc_beginning":
                    open.Enqueue(node);
                    break;
                case "heredoc_body":
                    if (open.TryDequeue(out var beginning))
                    {
                        _heredocs[beginning] = node;
                    }

                    break;
            }
        }
    }

    private List<Statement> ReadStatements(int node)
    {
        var list = new List<Statement>();
        if (node >= 0)
        {
            foreach (var child in Tree.NamedChildren(node))
            {
                AddStatement(child, list);
            }
        }

        return list;
    }

    /// <summary>A body with its rescue and ensure clauses.</summary>
    private Block ReadBody(int node)
    {
        if (node < 0)
        {
            return EmptyBlock(Span.None);
        }

        var span = SpanOf(node);
        if (Kind(node) is not ("body_statement" or "begin" or "block_body" or "then" or "do" or "else" or "ensure" or "program" or "parenthesized_statements"))
        {
            var single = new List<Statement>();
            AddStatement(node, single);
            return new Block(single, span);
        }

        var statements = new List<Statement>();
        var catches = new List<CatchClause>();
        Block? last = null;
        foreach (var child in Tree.NamedChildren(node))
        {
            switch (Kind(child))
            {
                case "rescue":
                    var variable = Tree.Field(child, FieldId("variable"));
                    catches.Add(new CatchClause(variable < 0 ? null : ReadTarget(Tree.FirstNamed(variable)) as Name, ReadBody(Tree.Field(child, _body))));
                    break;
                case "ensure":
                    last = ReadBody(child);
                    break;
                case "else":
                    statements.AddRange(ReadStatements(child));
                    break;
                default:
                    AddStatement(child, statements);
                    break;
            }
        }

        return catches.Count == 0 && last is null ? new Block(statements, span) : new Block([new Try(new Block(statements, span), catches, last, span)], span);
    }

    private void AddStatement(int node, List<Statement> list)
    {
        var span = SpanOf(node);
        switch (Kind(node))
        {
            case "comment" or "empty_statement" or "heredoc_body" or "alias" or "undef" or "uninterpreted" or "begin_block" or "end_block":
                break;
            case "method" or "singleton_method":
                list.Add(new FunctionStatement(ReadMethod(node), span));
                break;
            case "class" or "module":
                AddClass(node, list, "");
                break;
            case "if" or "unless" or "elsif":
                list.Add(ReadIf(node));
                break;
            case "if_modifier" or "unless_modifier":
                var modified = ReadCondition(node, Kind(node) == "unless_modifier");
                list.Add(new If(modified, ReadBody(Tree.Field(node, _body)), null, span));
                break;
            case "while" or "until":
                list.Add(new Loop(null, ReadCondition(node, Kind(node) == "until"), null, InLoop(() => ReadBody(Tree.Field(node, _body))), false, span));
                break;
            case "while_modifier" or "until_modifier":
                list.Add(new Loop(null, ReadCondition(node, Kind(node) == "until_modifier"), null, InLoop(() => ReadBody(Tree.Field(node, _body))), false, span));
                break;
            case "for":
                var source = ReadInner(Tree.Field(node, _value));
                var target = ReadTarget(Tree.Field(node, _pattern));
                list.Add(new ForEach(null, target, source, InLoop(() => ReadBody(Tree.Field(node, _body))), false, false, span));
                break;
            case "case" or "case_match":
                list.Add(ReadCase(node));
                break;
            case "begin" or "parenthesized_statements":
                list.Add(ReadBody(node));
                break;
            case "return":
                list.Add(new Return(ReadReturned(node), span));
                break;
            case "next" or "redo" or "retry" or "break":
                list.Add(_loops == 0 ? new Return(ReadReturned(node), span) : Kind(node) == "break" ? new Break(null, 1, span) : new Continue(null, 1, span));
                break;
            case "binary" when Text(Tree.Field(node, _operator)) is "and" or "or" or "&&" or "||" && IsLeaving(Tree.Field(node, _right)):
                var condition = ReadExpression(Tree.Field(node, _left));
                var leaving = new List<Statement>();
                AddStatement(Tree.Field(node, _right), leaving);
                list.Add(new If(Text(Tree.Field(node, _operator)) is "and" or "&&" ? condition : new Unary("!", condition, span), new Block(leaving, span), null, span));
                break;
            default:
                list.Add(new ExpressionStatement(ReadExpression(node), span));
                break;
        }
    }

    private bool IsLeaving(int node) => node >= 0 && Kind(node) is "return" or "next" or "break";

    private Block InLoop(Func<Block> read)
    {
        _loops++;
        var block = read();
        _loops--;
        return block;
    }

    private Expression? ReadReturned(int node)
    {
        var list = Tree.FirstNamed(node);
        if (list < 0)
        {
            return null;
        }

        var values = ReadArguments(list);
        return values.Count == 1 ? values[0].Value : new ObjectLiteral([.. values.Select(v => new Entry(v.Name, null, v.Value, v.Spread))], true, SpanOf(node));
    }

    private Expression ReadCondition(int node, bool negated)
    {
        var condition = ReadExpression(Tree.Field(node, _condition));
        return negated ? new Unary("!", condition, condition.Span) : condition;
    }

    private If ReadIf(int node)
    {
        var condition = ReadCondition(node, Kind(node) == "unless");
        var then = ReadBody(Tree.Field(node, _consequence));
        var alternative = Tree.Field(node, _alternative);
        Statement? otherwise = alternative < 0 ? null : Kind(alternative) == "elsif" ? ReadIf(alternative) : ReadBody(alternative);
        return new If(condition, then, otherwise, SpanOf(node));
    }

    /// <summary>A chain of tests. What a pattern other than a constant says of the subject is not known.</summary>
    private Statement ReadCase(int node)
    {
        var value = Tree.Field(node, _value);
        var subject = value < 0 ? null : ReadExpression(value);
        var arms = new List<(Expression Test, Block Body, Span Span)>();
        Statement? rest = null;
        foreach (var child in Tree.NamedChildren(node))
        {
            if (child == value)
            {
                continue;
            }

            switch (Kind(child))
            {
                case "when":
                    Expression? test = null;
                    foreach (var pattern in Tree.NamedChildren(child))
                    {
                        if (Kind(pattern) == "pattern")
                        {
                            var expected = ReadInner(pattern);
                            var equal = subject is null ? expected : new Binary(expected is Literal { Kind: not LiteralKind.Pattern } ? "==" : "matches", subject, expected, expected.Span);
                            test = test is null ? equal : new Binary("||", test, equal, expected.Span);
                        }
                    }

                    arms.Add((test ?? NullLiteral(SpanOf(child)), ReadBody(Tree.Field(child, _body)), SpanOf(child)));
                    break;
                case "in_clause":
                    arms.Add((new Unary("matches", subject ?? NullLiteral(SpanOf(child)), SpanOf(child)), ReadBody(Tree.Field(child, _body)), SpanOf(child)));
                    break;
                case "else":
                    rest = ReadBody(child);
                    break;
            }
        }

        for (var i = arms.Count - 1; i >= 0; i--)
        {
            rest = new If(arms[i].Test, arms[i].Body, rest, arms[i].Span);
        }

        return rest ?? EmptyBlock(SpanOf(node));
    }
}
