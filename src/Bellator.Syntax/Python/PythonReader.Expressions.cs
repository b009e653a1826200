using System.Globalization;
using Bellator.Syntax.Templates;
using Bellator.Text;

namespace Bellator.Syntax.Python;

internal sealed partial class PythonReader
{
    /// <summary>The call that a comprehension becomes: its function runs on each element, and the results are the new elements.</summary>
    private const string EachElement = "<each>";

    /// <summary>The same for one that makes a dictionary: each result has one key and its value, and all of them are parts of the whole. Where a condition leaves some out, what there is under a name is not known.</summary>
    private const string EachKeyed = "<keyed>";

    protected override Expression ReadExpression(int node)
    {
        if (node < 0)
        {
            return NullLiteral(Span.None);
        }

        var span = SpanOf(node);
        switch (Kind(node))
        {
            case "identifier":
                return Text(node) == _self ? new ThisExpression(span) : new Name(Text(node), span);
            case "dotted_name":
                return new Name(Text(node), span);
            case "integer" or "float":
                return new Literal(LiteralKind.Number, Text(node).Replace("_", "", StringComparison.Ordinal), span);
            case "true" or "false":
                return new Literal(LiteralKind.Boolean, Text(node).ToLowerInvariant(), span);
            case "none" or "ellipsis":
                return NullLiteral(span);
            case "string":
                return ReadString(node);
            case "concatenated_string":
                return new Template(ReadAll(node), null, span);
            case "parenthesized_expression" or "expression_statement" or "type" or "list_splat" or "dictionary_splat" or "parenthesized_list_splat" or "if_clause" or "chevron" or "format_expression":
                return ReadInner(node);
            case "attribute":
                return new Member(ReadExpression(Tree.Field(node, _object)), Text(Tree.Field(node, _attribute)), false, span);
            case "subscript":
                return ReadSubscript(node);
            case "slice":
                return new Sequence(ReadAll(node), span);
            case "call":
                return ReadCall(node);
            case "assignment":
                var right = Tree.Field(node, _right);
                var left = Tree.Field(node, _left);
                if (right < 0)
                {
                    return NullLiteral(span);
                }

                var assigned = ReadExpression(right);
                if (Tree.Field(node, _type) is >= 0 and var declared && ReadType(declared) is { } type)
                {
                    assigned = new Cast("as:" + type.Name, assigned, span);
                }

                return new Assignment(ReadTarget(left), null, assigned, span);
            case "augmented_assignment":
                return new Assignment(ReadTarget(Tree.Field(node, _left)), Text(Tree.Field(node, _operator))[..^1], ReadExpression(Tree.Field(node, _right)), span);
            case "named_expression" when IsTemplate:
                // The name stands for each element of a loop.
                return new Assignment(ReadTarget(Tree.Field(node, _name)), null, new IndexExpression(ReadExpression(Tree.Field(node, _value)), new Literal(LiteralKind.Number, "0", span), span), span);
            case "named_expression":
                return new Assignment(ReadTarget(Tree.Field(node, _name)), null, ReadExpression(Tree.Field(node, _value)), span);
            case "binary_operator" when IsTemplate && Text(Tree.Field(node, _operator)) == "|":
                return ReadFilter(node);
            case "binary_operator":
                return new Binary(Text(Tree.Field(node, _operator)), ReadExpression(Tree.Field(node, _left)), ReadExpression(Tree.Field(node, _right)), span);
            case "boolean_operator":
                return new Binary(
                    Text(Tree.Field(node, _operator)) == "and" ? "&&" : "||", ReadExpression(Tree.Field(node, _left)), ReadExpression(Tree.Field(node, _right)), span);
            case "not_operator":
                return new Unary("!", ReadExpression(Tree.Field(node, FieldId("argument"))), span);
            case "unary_operator":
                return new Unary(Text(Tree.Field(node, _operator)), ReadExpression(Tree.Field(node, FieldId("argument"))), span);
            case "comparison_operator":
                return ReadComparison(node);
            case "conditional_expression":
                var parts = ReadAll(node);
                return parts.Count == 3 ? new Conditional(parts[1], parts[0], parts[2], span) : ReadOpaque(node);
            case "lambda":
                var body = ReadExpression(Tree.Field(node, _body));
                return new Lambda(
                    new FunctionDeclaration("", ReadParameters(Tree.Field(node, _parameters)), new Block([new Return(body, body.Span)], body.Span), span) { IsArrow = true },
                    span);
            case "await":
                return new PassThrough(PassThrough.Await, ReadInner(node), span);
            case "yield":
                return new PassThrough("yield", ReadInner(node), span);
            case "list" or "tuple" or "set" or "expression_list" or "pattern_list" or "tuple_pattern" or "list_pattern":
                return new ObjectLiteral(ReadEntries(node), true, span);
            case "dictionary":
                return new ObjectLiteral(ReadEntries(node), false, span);
            case "list_comprehension" or "set_comprehension" or "generator_expression" or "dictionary_comprehension":
                return ReadComprehension(node);
            case "as_pattern":
                var alias = Tree.Field(node, _alias);
                var value = ReadInner(node);
                return alias < 0 ? value : new Assignment(ReadTarget(alias), null, value, span);
            case "pair":
                return new ObjectLiteral([ReadPair(node)], false, span);
            case "keyword_argument":
                return ReadExpression(Tree.Field(node, _value));
            case "list_splat_pattern" or "dictionary_splat_pattern" or "as_pattern_target":
                return ReadInner(node);
            case "ERROR":
                return ReadOpaque(node);
            default:
                return ReadOpaque(node);
        }
    }

    private Expression ReadTarget(int node)
    {
        if (node < 0)
        {
            return NullLiteral(Span.None);
        }

        switch (Kind(node))
        {
            case "tuple_pattern" or "list_pattern" or "pattern_list" or "tuple" or "list" or "expression_list":
                var entries = new List<Entry>();
                foreach (var child in Tree.NamedChildren(node))
                {
                    entries.Add(new Entry(null, null, ReadTarget(child), Kind(child) is "list_splat_pattern" or "list_splat"));
                }

                return new ObjectLiteral(entries, true, SpanOf(node));
            case "list_splat_pattern" or "list_splat" or "as_pattern_target" or "parenthesized_expression" or "dictionary_splat_pattern":
                return ReadTarget(Tree.FirstNamed(node));
            case "identifier":
                return new Name(Text(node), SpanOf(node));
            default:
                return ReadExpression(node);
        }
    }

    private List<Entry> ReadEntries(int node)
    {
        var entries = new List<Entry>();
        foreach (var child in Tree.NamedChildren(node))
        {
            entries.Add(Kind(child) switch
            {
                "pair" => ReadPair(child),
                "list_splat" or "dictionary_splat" or "parenthesized_list_splat" => new Entry(null, null, ReadInner(child), true),
                _ => new Entry(null, null, ReadExpression(child)),
            });
        }

        return entries;
    }

    private Entry ReadPair(int node)
    {
        var key = ReadExpression(Tree.Field(node, FieldId("key")));
        var value = ReadExpression(Tree.Field(node, _value));
        return key is Literal { Kind: LiteralKind.Text or LiteralKind.Number } literal ? new Entry(literal.Text, null, value) : new Entry(null, key, value);
    }

    private Expression ReadSubscript(int node)
    {
        var target = ReadExpression(Tree.Field(node, _value));
        var keys = new List<Expression>();
        var slice = false;
        foreach (var child in Tree.NamedChildren(node))
        {
            if (Tree.Node(child).Field == FieldId("subscript"))
            {
                slice |= Kind(child) == "slice";
                keys.Add(ReadExpression(child));
            }
        }

        var span = SpanOf(node);
        return slice
            ? new Call(new Member(target, "<slice>", false, span), [.. keys.Select(k => new Argument(k))], false, span)
            : new IndexExpression(target, keys.Count == 1 ? keys[0] : new Sequence(keys, span), span);
    }

    /// <summary>A filter takes what stands before it, and its own arguments.</summary>
    private Call ReadFilter(int node)
    {
        var right = Tree.Field(node, _right);
        var called = Kind(right) == "call";
        var name = Text(called ? Tree.Field(right, _function) : right);
        var arguments = new List<Argument> { new(ReadExpression(Tree.Field(node, _left))) };
        if (called)
        {
            arguments.AddRange(ReadArguments(Tree.Field(right, _arguments)));
        }

        return new Call(new Name("<filter>" + name, SpanOf(right)), arguments, false, SpanOf(node));
    }

    private Expression ReadCall(int node)
    {
        var span = SpanOf(node);
        var callee = Tree.Field(node, _function);
        var arguments = ReadArguments(Tree.Field(node, _arguments));
        if (Kind(callee) == "attribute" && Tree.Field(callee, _object) is >= 0 and var target && Kind(target) == "call" && Text(Tree.Field(target, _function)) == "super")
        {
            var method = Text(Tree.Field(callee, _attribute));
            return new Call(new StaticMember(new Name("parent", SpanOf(target)), method == "__init__" ? "constructor" : method, SpanOf(callee)), arguments, false, span);
        }

        return new Call(Callee(callee, TemplateCalls.Python), arguments, false, span);
    }

    private List<Argument> ReadArguments(int node)
    {
        var list = new List<Argument>();
        if (node < 0)
        {
            return list;
        }

        if (Kind(node) == "generator_expression")
        {
            list.Add(new Argument(ReadComprehension(node)));
            return list;
        }

        foreach (var child in Tree.NamedChildren(node))
        {
            list.Add(Kind(child) switch
            {
                "keyword_argument" => new Argument(ReadExpression(Tree.Field(child, _value)), Text(Tree.Field(child, _name))),
                "list_splat" => new Argument(ReadInner(child), null, true),
                "dictionary_splat" => new Argument(ReadInner(child), "**", false),
                _ => new Argument(ReadExpression(child)),
            });
        }

        return list;
    }

    private Expression ReadComparison(int node)
    {
        var operands = new List<Expression>();
        var operators = new List<string>();
        foreach (var child in Tree.Children(node))
        {
            if (Tree.Node(child).Field == FieldId("operators"))
            {
                operators.Add(Text(child));
            }
            else if (Tree.Node(child).IsNamed)
            {
                operands.Add(ReadExpression(child));
            }
        }

        Expression? chain = null;
        for (var i = 0; i < operators.Count && i + 1 < operands.Count; i++)
        {
            var (first, second) = (operands[i], operands[i + 1]);
            if (i + 1 < operators.Count && second is not (Name or Literal or Member { Target: Name }))
            {
                // What is compared twice runs once, and stands in the tree once.
                var middle = new Name("<compared " + second.Span.Start.ToString(CultureInfo.InvariantCulture) + ">", second.Span);
                operands[i + 1] = middle;
                second = new Assignment(new Name(middle.Text, second.Span), null, second, second.Span);
            }

            var compared = Compare(operators[i], first, second, SpanOf(node));
            chain = chain is null ? compared : new Binary("&&", chain, compared, SpanOf(node));
        }

        return chain ?? ReadOpaque(node);
    }

    private static Expression Compare(string op, Expression left, Expression right, Span span) => op switch
    {
        "in" => new Binary("in", left, right, span),
        "is" => new Binary("==", left, right, span),
        "is not" or "<>" => new Binary("!=", left, right, span),
        _ when op.StartsWith("not", StringComparison.Ordinal) => new Unary("!", new Binary("in", left, right, span), span),
        _ when op.StartsWith("is", StringComparison.Ordinal) => new Binary("!=", left, right, span),
        _ => new Binary(op, left, right, span),
    };

    private Expression ReadComprehension(int node)
    {
        var clauses = new List<int>();
        foreach (var child in Tree.NamedChildren(node))
        {
            if (Kind(child) is "for_in_clause" or "if_clause")
            {
                clauses.Add(child);
            }
        }

        var body = Tree.Field(node, _body);
        Expression element = ReadExpression(body);
        return Nest(clauses, 0, element, Kind(node) == "dictionary_comprehension" && clauses.TrueForAll(c => Kind(c) != "if_clause") ? EachKeyed : EachElement, SpanOf(node));
    }

    private Expression Nest(List<int> clauses, int at, Expression element, string each, Span span)
    {
        if (at >= clauses.Count)
        {
            return element;
        }

        var source = ReadExpression(Tree.Field(clauses[at], _right));
        var target = ReadTarget(Tree.Field(clauses[at], _left));
        var next = at + 1;
        Expression? condition = null;
        while (next < clauses.Count && Kind(clauses[next]) == "if_clause")
        {
            var test = ReadInner(clauses[next]);
            condition = condition is null ? test : new Binary("&&", condition, test, test.Span);
            next++;
        }

        var result = Nest(clauses, next, element, each, span);
        Statement statement = new Return(result, result.Span);
        if (condition is not null)
        {
            statement = new If(condition, statement, null, condition.Span);
        }

        var function = new FunctionDeclaration("", [new Parameter(target, null, null, false, false, [])], new Block([statement], span), span) { IsArrow = true };
        return new Call(new Member(source, each, false, span), [new Argument(new Lambda(function, span))], false, span);
    }

    private Expression ReadString(int node)
    {
        var span = SpanOf(node);
        var raw = false;
        var parts = new List<Expression>();
        foreach (var child in Tree.NamedChildren(node))
        {
            switch (Kind(child))
            {
                case "string_start":
                    raw = Text(child).AsSpan().IndexOfAny('r', 'R') >= 0;
                    break;
                case "string_content":
                    var text = Text(child);
                    parts.Add(new Literal(LiteralKind.Text, raw ? text : EscapedText.Unescape(text), SpanOf(child)));
                    break;
                case "interpolation":
                    parts.Add(ReadExpression(Tree.Field(child, FieldId("expression"))));
                    break;
            }
        }

        return parts.Count == 0 ? new Literal(LiteralKind.Text, "", span)
            : parts is [Literal only] ? new Literal(LiteralKind.Text, only.Text, span)
            : new Template(parts, null, span);
    }
}
