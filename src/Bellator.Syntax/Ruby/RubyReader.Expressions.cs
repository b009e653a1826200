using Bellator.Syntax.Templates;
using Bellator.Text;

namespace Bellator.Syntax.Ruby;

internal sealed partial class RubyReader
{
    protected override Expression ReadExpression(int node)
    {
        if (node < 0)
        {
            return NullLiteral(Span.None);
        }

        var span = SpanOf(node);
        switch (Kind(node))
        {
            case "identifier" or "constant" or "global_variable":
                return new Name(Text(node), span);
            case "scope_resolution":
                return new Name(Text(node).TrimStart(':'), span);
            case "instance_variable" or "class_variable":
                return new Member(new ThisExpression(span), Text(node).TrimStart('@'), false, span);
            case "self":
                return new ThisExpression(span);
            case "integer" or "float" or "rational" or "complex":
                return new Literal(LiteralKind.Number, Text(node).Replace("_", "", StringComparison.Ordinal), span);
            case "true" or "false":
                return new Literal(LiteralKind.Boolean, Text(node), span);
            case "nil":
                return NullLiteral(span);
            case "simple_symbol":
                return new Literal(LiteralKind.Text, Text(node).TrimStart(':'), span);
            case "hash_key_symbol" or "bare_symbol" or "character" or "file" or "line" or "encoding":
                return new Literal(LiteralKind.Text, Text(node).Trim('"', '\'', ':', '?'), span);
            case "string" or "delimited_symbol" or "bare_string" or "heredoc_body" or "chained_string":
                return ReadText(node);
            case "heredoc_beginning":
                return _heredocs.TryGetValue(node, out var body) ? ReadText(body) : new Literal(LiteralKind.Text, "", span);
            case "subshell":
                return new Call(new Name("<shell>", span), [new Argument(ReadText(node))], false, span);
            case "regex":
                return ReadPattern(node);
            case "interpolation":
                return new Sequence(ReadAll(node), span);
            case "array" or "string_array" or "symbol_array" or "right_assignment_list":
                return new ObjectLiteral([.. ReadArguments(node).Select(a => new Entry(a.Name, null, a.Value, a.Spread))], true, span);
            case "hash":
                return ReadHash(node);
            case "pair":
                return new ObjectLiteral([ReadPair(node)], false, span);
            case "parenthesized_statements" or "begin" or "then" or "else" or "do" or "body_statement" or "block_body":
                return ReadInline(ReadBody(node), span);
            case "if" or "unless" or "elsif":
                var branch = ReadIf(node);
                return new Conditional(branch.Condition, ReadInline(AsBlock(branch.Then), span), branch.Otherwise is null ? NullLiteral(span) : ReadInline(AsBlock(branch.Otherwise), span), span);
            case "case" or "case_match":
                return ReadInline(AsBlock(ReadCase(node)), span);
            case "if_modifier" or "unless_modifier" or "while_modifier" or "until_modifier":
                var modified = new List<Statement>();
                AddStatement(node, modified);
                return ReadInline(new Block(modified, span), span);
            case "conditional":
                return new Conditional(
                    ReadExpression(Tree.Field(node, _condition)), ReadExpression(Tree.Field(node, _consequence)), ReadExpression(Tree.Field(node, _alternative)), span);
            case "rescue_modifier":
                return new Binary("??", ReadExpression(Tree.Field(node, _body)), ReadExpression(Tree.Field(node, FieldId("handler"))), span);
            case "assignment":
                var assigned = ReadExpression(Tree.Field(node, _right));
                return new Assignment(ReadTarget(Tree.Field(node, _left)), null, assigned, span);
            case "operator_assignment":
                var op = Text(Tree.Field(node, _operator))[..^1];
                var added = ReadExpression(Tree.Field(node, _right));
                return new Assignment(ReadTarget(Tree.Field(node, _left)), op, added, span);
            case "binary":
                return ReadBinary(node);
            case "unary":
                var sign = Text(Tree.Field(node, _operator));
                return new Unary(sign is "not" ? "!" : sign, ReadExpression(Tree.Field(node, FieldId("operand"))), span);
            case "element_reference":
                return ReadElement(node);
            case "call":
                return ReadCall(node);
            case "super":
                return new Call(new StaticMember(new Name("parent", span), ParentMethod, span), [], false, span);
            case "yield":
                return new Call(new Name("<yield>", span), ReadArguments(Tree.FirstNamed(node)), false, span);
            case "lambda":
                var block = Tree.Field(node, _body);
                return ReadClosure(node, Tree.Field(node, _parameters), Tree.Field(block, _body));
            case "block" or "do_block":
                return ReadBlockOf(node);
            case "block_argument":
                return ReadInner(node);
            case "splat_argument" or "hash_splat_argument" or "rest_assignment" or "exceptions" or "exception_variable" or "in" or "superclass" or "pattern":
                return ReadInner(node);
            case "argument_list":
                return new Sequence([.. ReadArguments(node).Select(a => a.Value)], span);
            case "range":
                return new ObjectLiteral([], true, span);
            case "method" or "singleton_method":
                return new Lambda(ReadMethod(node), span);
            case "return" or "next" or "break" or "redo" or "retry":
                return new Sequence([ReadReturned(node) ?? NullLiteral(span)], span);
            case "match_pattern" or "test_pattern":
                return new Unary("matches", ReadExpression(Tree.Field(node, _value)), span);
            case "while" or "until" or "for" or "class" or "module":
                var statements = new List<Statement>();
                AddStatement(node, statements);
                return ReadInline(new Block(statements, span), span);
            case "operator" or "setter" or "forward_argument" or "escape_sequence" or "string_content" or "heredoc_content":
                return new Literal(LiteralKind.Text, Text(node), span);
            default:
                return ReadOpaque(node);
        }
    }

    private string ParentMethod => _methodName == "initialize" ? "constructor" : _methodName;

    /// <summary>Statements where a value is meant: the value of the last one.</summary>
    private static Expression ReadInline(Block block, Span span)
    {
        if (block.Statements.All(s => s is ExpressionStatement))
        {
            return new Sequence([.. block.Statements.Select(s => ((ExpressionStatement)s).Expression)], span);
        }

        if (block.Statements is [If branch])
        {
            return new Conditional(branch.Condition, ReadInline(AsBlock(branch.Then), span), branch.Otherwise is null ? new Literal(LiteralKind.Null, "nil", span) : ReadInline(AsBlock(branch.Otherwise), span), span);
        }

        var function = new FunctionDeclaration("", [], ReturnLast(block), span) { IsArrow = true };
        return new Call(new Lambda(function, span), [], false, span);
    }

    private Expression ReadTarget(int node)
    {
        if (node < 0)
        {
            return NullLiteral(Span.None);
        }

        switch (Kind(node))
        {
            case "identifier":
                return Declared(node);
            case "left_assignment_list" or "destructured_left_assignment":
                var entries = new List<Entry>();
                foreach (var child in Tree.NamedChildren(node))
                {
                    entries.Add(new Entry(null, null, ReadTarget(child), Kind(child) == "rest_assignment"));
                }

                return new ObjectLiteral(entries, true, SpanOf(node));
            case "rest_assignment":
                return ReadTarget(Tree.FirstNamed(node));
            case "call" when Tree.Field(node, _receiver) is >= 0 and var receiver:
                return new Member(ReadExpression(receiver), Text(Tree.Field(node, _method)), false, SpanOf(node));
            default:
                return ReadExpression(node);
        }
    }

    private Expression ReadBinary(int node)
    {
        var span = SpanOf(node);
        var op = Text(Tree.Field(node, _operator));
        var leftNode = Tree.Field(node, _left);
        var left = ReadExpression(leftNode);
        var right = ReadExpression(Tree.Field(node, _right));
        if (op == "<<")
        {
            var grown = new Call(new Member(left, "<<", false, span), [new Argument(right)], false, span);

            // The variable itself grows; as a new value of it, so that branches and loops are kept apart.
            return left is Name name && _assigned.Contains(name.Text) || left is Member { Target: ThisExpression } ? new Assignment(left, null, grown, span) : grown;
        }

        return op switch
        {
            "and" => new Binary("&&", left, right, span),
            "or" => new Binary("||", left, right, span),
            "=~" => new Call(new Member(left, "match?", false, span), [new Argument(right)], false, span),
            "!~" => new Unary("!", new Call(new Member(left, "match?", false, span), [new Argument(right)], false, span), span),
            "===" => new Binary("matches", left, right, span),
            _ => new Binary(op, left, right, span),
        };
    }

    private Expression ReadElement(int node)
    {
        var span = SpanOf(node);
        var target = ReadExpression(Tree.Field(node, _object));
        Expression? key = null;
        var count = 0;
        foreach (var child in Tree.NamedChildren(node))
        {
            if (Tree.Node(child).Field != _object)
            {
                key = ReadExpression(child);
                count++;
            }
        }

        return count == 1 ? new IndexExpression(target, key, span) : new Call(new Member(target, "slice", false, span), [], false, span);
    }

    private Expression ReadCall(int node)
    {
        var span = SpanOf(node);
        var receiver = Tree.Field(node, _receiver);
        var method = Tree.Field(node, _method);
        var arguments = ReadArguments(Tree.Field(node, _arguments));
        var block = Tree.Field(node, _block);
        if (block >= 0)
        {
            arguments.Add(new Argument(ReadBlockOf(block)));
        }

        if (method >= 0 && Kind(method) == "super")
        {
            return new Call(new StaticMember(new Name("parent", span), ParentMethod, span), arguments, false, span);
        }

        var name = method < 0 ? "call" : Text(method);
        if (receiver < 0)
        {
            switch (name)
            {
                case "raise" or "fail":
                    return new ThrowExpression(new Sequence([.. arguments.Select(a => a.Value).DefaultIfEmpty(NullLiteral(span))], span), span);
                case "exit" or "abort" or "exit!":
                    return new ExitExpression(null, span);
                case "lambda" or "proc" when arguments is [{ Value: Lambda closure }]:
                    return closure;
                default:
                    return new Call(Callee(method, TemplateCalls.Ruby) is Name called ? called : new Name(name, SpanOf(method)), arguments, false, span);
            }
        }

        var target = ReadExpression(receiver);
        return new Call(new Member(target, name, Has(node, "&."), span), arguments, false, span);
    }

    private List<Argument> ReadArguments(int node)
    {
        var list = new List<Argument>();
        if (node < 0)
        {
            return list;
        }

        foreach (var child in Tree.NamedChildren(node))
        {
            switch (Kind(child))
            {
                case "pair":
                    var entry = ReadPair(child);
                    list.Add(entry.Name is not null ? new Argument(entry.Value, entry.Name) : new Argument(new ObjectLiteral([entry], false, SpanOf(child))));
                    break;
                case "splat_argument":
                    list.Add(new Argument(ReadInner(child), null, true));
                    break;
                case "hash_splat_argument":
                    list.Add(new Argument(ReadInner(child), "**"));
                    break;
                case "heredoc_body" or "comment":
                    break;
                default:
                    list.Add(new Argument(ReadExpression(child)));
                    break;
            }
        }

        return list;
    }

    private ObjectLiteral ReadHash(int node)
    {
        var entries = new List<Entry>();
        foreach (var child in Tree.NamedChildren(node))
        {
            entries.Add(Kind(child) == "pair" ? ReadPair(child) : new Entry(null, null, ReadInner(child), true));
        }

        return new ObjectLiteral(entries, false, SpanOf(node));
    }

    private Entry ReadPair(int node)
    {
        var keyNode = Tree.Field(node, FieldId("key"));
        var valueNode = Tree.Field(node, _value);
        var key = ReadExpression(keyNode);
        if (key is Literal { Kind: LiteralKind.Text or LiteralKind.Number } literal)
        {
            // "name:" alone hands over the variable of that name.
            return new Entry(literal.Text, null, valueNode < 0 ? new Name(literal.Text, SpanOf(node)) : ReadExpression(valueNode));
        }

        return new Entry(null, key, ReadExpression(valueNode));
    }

    private Expression ReadPattern(int node)
    {
        var text = ReadText(node);
        if (text is Literal literal)
        {
            var source = Text(node);
            var flags = source[(source.LastIndexOf('/') + 1)..];
            return new Literal(LiteralKind.Pattern, "/" + literal.Text + "/" + (flags.All(char.IsLetter) ? flags : ""), SpanOf(node));
        }

        return new Call(new Member(new Name("Regexp", SpanOf(node)), "new", false, SpanOf(node)), [new Argument(text)], false, SpanOf(node));
    }

    private Expression ReadText(int node)
    {
        var span = SpanOf(node);
        var parts = new List<Expression>();
        foreach (var child in Tree.NamedChildren(node))
        {
            switch (Kind(child))
            {
                case "string_content" or "heredoc_content":
                    parts.Add(new Literal(LiteralKind.Text, Text(child), SpanOf(child)));
                    break;
                case "escape_sequence":
                    parts.Add(new Literal(LiteralKind.Text, Kind(node) == "regex" ? Text(child) : EscapedText.Unescape(Text(child)), SpanOf(child)));
                    break;
                case "interpolation":
                    parts.Add(ReadExpression(child));
                    break;
                case "string":
                    parts.Add(ReadText(child));
                    break;
            }
        }

        return parts.TrueForAll(p => p is Literal)
            ? new Literal(LiteralKind.Text, string.Concat(parts.Select(p => ((Literal)p).Text)), span)
            : new Template(parts, null, span);
    }
}
