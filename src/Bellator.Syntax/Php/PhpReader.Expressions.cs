using Bellator.Syntax.Templates;
using Bellator.Text;

namespace Bellator.Syntax.Php;

internal sealed partial class PhpReader
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
            case "variable_name":
                return Tree.Bytes(node).SequenceEqual("$this"u8) ? new ThisExpression(span) : new Name(Text(node), span);
            case "name" or "qualified_name" or "relative_name" or "namespace_name" or "relative_scope":
                return new Name(Text(node), span);
            case "integer" or "float":
                return new Literal(LiteralKind.Number, Text(node).Replace("_", "", StringComparison.Ordinal), span);
            case "boolean":
                return new Literal(LiteralKind.Boolean, Text(node).ToLowerInvariant(), span);
            case "null":
                return NullLiteral(span);
            case "string":
                return new Literal(LiteralKind.Text, PhpText.Unquote(Text(node)), span);
            case "encapsed_string" or "heredoc_body":
                return ReadInterpolated(node);
            case "shell_command_expression":
                return new Call(new Name("<shell>", span), [new Argument(ReadInterpolated(node))], false, span);
            case "heredoc" or "nowdoc":
                var body = Tree.Field(node, _value);
                return body < 0 ? new Literal(LiteralKind.Text, "", span) : ReadExpression(body);
            case "nowdoc_body":
                return new Literal(LiteralKind.Text, Text(node), span);
            case "string_content":
                return new Literal(LiteralKind.Text, Text(node), span);
            case "escape_sequence":
                return new Literal(LiteralKind.Text, PhpText.Escape(Text(node)), span);
            case "text":
                return new Literal(LiteralKind.Text, Text(node), span);
            case "parenthesized_expression":
                return ReadInner(node);
            case "expression_statement":
                return ReadInner(node);
            case "assignment_expression":
                return new Assignment(ReadExpression(Tree.Field(node, _left)), null, ReadExpression(Tree.Field(node, _right)), span);
            case "reference_assignment_expression":
                return new Assignment(ReadExpression(Tree.Field(node, _left)), null, ReadExpression(Tree.Field(node, _right)), span);
            case "augmented_assignment_expression":
                var op = Text(Tree.Field(node, _operator));
                return new Assignment(ReadExpression(Tree.Field(node, _left)), op[..^1], ReadExpression(Tree.Field(node, _right)), span);
            case "binary_expression":
                return new Binary(Operator(node), ReadExpression(Tree.Field(node, _left)), ReadExpression(Tree.Field(node, _right)), span);
            case "unary_op_expression":
                var sign = Tree.Field(node, _operator);
                var operand = Tree.Field(node, _argument);
                return new Unary(sign < 0 ? "-" : Text(sign), operand < 0 ? ReadInner(node) : ReadExpression(operand), span);
            case "update_expression":
                return new Assignment(ReadExpression(Tree.Field(node, _argument)), "-", new Literal(LiteralKind.Number, "1", span), span);
            case "cast_expression":
                return new Cast(CastType(Text(Tree.Field(node, _type))), ReadExpression(Tree.Field(node, _value)), span);
            case "conditional_expression":
                var then = Tree.Field(node, _body);
                return new Conditional(ReadExpression(Tree.Field(node, _condition)), then < 0 ? null : ReadExpression(then), ReadExpression(Tree.Field(node, _alternative)), span);
            case "error_suppression_expression" or "by_ref" or "variadic_unpacking" or "attribute_group":
                return ReadInner(node);
            case "clone_expression":
                return new PassThrough("clone", ReadInner(node), span);
            case "yield_expression":
                return new PassThrough("yield", ReadInner(node), span);
            case "print_intrinsic":
                return new Call(new Name("print", span), [new Argument(ReadInner(node))], false, span);
            case "throw_expression":
                return new ThrowExpression(ReadInner(node), span);
            case "exit_statement":
                var shown = Tree.FirstNamed(node);
                return new ExitExpression(shown < 0 ? null : ReadExpression(shown), span);
            case "include_expression" or "include_once_expression" or "require_expression" or "require_once_expression":
                return new Include(ReadInner(node), span);
            case "subscript_expression":
                return ReadSubscript(node);
            case "member_access_expression" or "nullsafe_member_access_expression":
                return ReadMember(node);
            case "class_constant_access_expression":
                return ReadClassConstant(node);
            case "scoped_property_access_expression":
                var scope = ReadExpression(Tree.Field(node, _scope));
                return new StaticMember(scope, Text(Tree.Field(node, _name)), span);
            case "function_call_expression" or "member_call_expression" or "scoped_call_expression" when ReadCallable(node) is { } callable:
                return callable;
            case "function_call_expression":
                return ReadFunctionCall(node);
            case "member_call_expression" or "nullsafe_member_call_expression":
                return new Call(ReadMember(node), ReadArguments(Tree.Field(node, _arguments)), Kind(node)[0] == 'n', span);
            case "scoped_call_expression":
                var method = Tree.Field(node, _name);
                Expression callee = Kind(method) == "name"
                    ? new StaticMember(ReadExpression(Tree.Field(node, _scope)), Text(method), span)
                    : new IndexExpression(ReadExpression(Tree.Field(node, _scope)), ReadExpression(method), span);
                return new Call(callee, ReadArguments(Tree.Field(node, _arguments)), false, span);
            case "object_creation_expression":
                return ReadNew(node);
            case "array_creation_expression" or "list_literal":
                return ReadArray(node);
            case "anonymous_function" or "arrow_function":
                return new Lambda(ReadFunction(node), span);
            case "match_expression":
                return ReadMatch(node);
            case "sequence_expression":
                return new Sequence(ReadSequence(node), span);
            case "dynamic_variable_name":
                return new IndexExpression(new Name("$GLOBALS", span), ReadInner(node), span);
            case "argument":
                return ReadArgument(node).Value;
            case "arguments" or "match_condition_list":
                return new Sequence(ReadSequence(node), span);
            default:
                return ReadOpaque(node);
        }
    }

    private List<Expression> ReadSequence(int node)
    {
        var list = new List<Expression>();
        foreach (var child in Tree.NamedChildren(node))
        {
            if (Kind(child) == "sequence_expression")
            {
                list.AddRange(ReadSequence(child));
            }
            else
            {
                list.Add(ReadExpression(child));
            }
        }

        return list;
    }

    private string Operator(int node)
    {
        var op = Tree.Field(node, _operator);
        var text = op < 0 ? "" : Text(op).ToLowerInvariant();
        return text switch { "and" => "&&", "or" => "||", "<>" => "!=", _ => text };
    }

    private static string CastType(string type) => type.Trim().ToLowerInvariant() switch
    {
        "int" or "integer" => "int",
        "float" or "double" or "real" => "float",
        "bool" or "boolean" => "bool",
        var other => other,
    };

    private Expression ReadInterpolated(int node)
    {
        var parts = new List<Expression>();
        var at = -1;
        foreach (var child in Tree.NamedChildren(node))
        {
            // Heredoc bodies keep line ends outside of any child; they belong to the text.
            var start = (int)Tree.Node(child).Start;
            if (at >= 0 && start > at && Kind(node) == "heredoc_body" && Kind(child) == "string_content")
            {
                parts.Add(new Literal(LiteralKind.Text, File.Text(new Span(at, start)).Replace("}", "", StringComparison.Ordinal), new Span(at, start)));
            }

            parts.Add(ReadExpression(child));
            at = (int)Tree.Node(child).End;
        }

        var span = SpanOf(node);
        if (parts.Count == 0)
        {
            return new Literal(LiteralKind.Text, "", span);
        }

        if (parts.TrueForAll(p => p is Literal { Kind: LiteralKind.Text }))
        {
            return new Literal(LiteralKind.Text, string.Concat(parts.Select(p => ((Literal)p).Text)), span);
        }

        var template = new Template(parts, null, span);
        return Kind(node) == "shell_command_expression" ? new Call(new Name("shell_exec", span), [new Argument(template)], false, span) : template;
    }

    private IndexExpression ReadSubscript(int node)
    {
        int target = -1, key = -1;
        foreach (var child in Tree.NamedChildren(node))
        {
            if (target < 0)
            {
                target = child;
            }
            else
            {
                key = child;
            }
        }

        Expression? index = key < 0 ? null : ReadExpression(key);
        if (index is Name { Text: var bare } && !bare.StartsWith('$') && IsInsideText(node))
        {
            // Inside a text, $row[name] means the key 'name'.
            index = new Literal(LiteralKind.Text, bare, SpanOf(key));
        }

        return new IndexExpression(ReadExpression(target), index, SpanOf(node));
    }

    private bool IsInsideText(int node)
    {
        // Between the quotes nothing precedes the dollar sign but text, so the brace form can be told by the byte before.
        var start = (int)Tree.Node(node).Start;
        var key = SpanOf(node);
        return start > 0 && File.Content[start - 1] != (byte)'{' && !Tree.Bytes(node).Contains((byte)'\'') && key.End < File.Content.Length;
    }

    private Expression ReadMember(int node)
    {
        var target = ReadExpression(Tree.Field(node, _object));
        var name = Tree.Field(node, _name);
        var optional = Kind(node)[0] == 'n';
        return name >= 0 && Kind(name) == "name"
            ? new Member(target, Text(name), optional, new Span(target.Span.Start, SpanOf(name).End))
            : new IndexExpression(target, name < 0 ? null : ReadExpression(name), SpanOf(node));
    }

    private StaticMember ReadClassConstant(int node)
    {
        int scope = -1, name = -1;
        foreach (var child in Tree.NamedChildren(node))
        {
            if (scope < 0)
            {
                scope = child;
            }
            else
            {
                name = child;
            }
        }

        return new StaticMember(ReadExpression(scope), name < 0 ? "class" : Text(name), SpanOf(node));
    }

    /// <summary>A function that is not called but handed on, <c>f(...)</c>, <c>$o->m(...)</c> or <c>X::m(...)</c>: written as PHP's older form of the same, a name or a pair.</summary>
    private Expression? ReadCallable(int node)
    {
        var arguments = Tree.Field(node, _arguments);
        if (arguments < 0 || Tree.FirstNamed(arguments) is not (>= 0 and var first) || Kind(first) != "variadic_placeholder")
        {
            return null;
        }

        var span = SpanOf(node);
        if (Tree.Field(node, _function) is >= 0 and var called)
        {
            return Kind(called) is "name" or "qualified_name" ? new Literal(LiteralKind.Text, Text(called), span) : ReadExpression(called);
        }

        if (Tree.Field(node, _name) is not (>= 0 and var name) || Kind(name) != "name")
        {
            return null;
        }

        var method = new Entry(null, null, new Literal(LiteralKind.Text, Text(name), SpanOf(name)));
        return Tree.Field(node, _scope) is >= 0 and var scope
            ? new ObjectLiteral([new Entry(null, null, new StaticMember(ReadExpression(scope), "class", SpanOf(scope))), method], true, span)
            : new ObjectLiteral([new Entry(null, null, ReadExpression(Tree.Field(node, _object))), method], true, span);
    }

    private Expression ReadFunctionCall(int node)
    {
        var callee = Tree.Field(node, _function);
        var arguments = ReadArguments(Tree.Field(node, _arguments));
        if (Kind(callee) == "name" && Text(callee) is "exit" or "die")
        {
            return new ExitExpression(arguments.Count > 0 ? arguments[0].Value : null, SpanOf(node));
        }

        if (Kind(callee) == "name" && Tree.Bytes(callee).SequenceEqual("compact"u8) && arguments.TrueForAll(a => a.Value is Literal { Kind: LiteralKind.Text }))
        {
            // It collects the variables of these names.
            return new ObjectLiteral([.. arguments.Select(a => new Entry(((Literal)a.Value).Text, null, new Name("$" + ((Literal)a.Value).Text, a.Value.Span)))], false, SpanOf(node));
        }

        return new Call(Callee(callee, TemplateCalls.Php), arguments, false, SpanOf(node));
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
            if (Kind(child) == "argument")
            {
                list.Add(ReadArgument(child));
            }
        }

        return list;
    }

    private Argument ReadArgument(int node)
    {
        var name = Tree.Field(node, _name);
        var value = -1;
        foreach (var child in Tree.NamedChildren(node))
        {
            if (child != name && Kind(child) != "reference_modifier")
            {
                value = child;
            }
        }

        if (value < 0)
        {
            value = name;
            name = -1;
        }

        return new Argument(ReadExpression(value), name < 0 ? null : Text(name), value >= 0 && Kind(value) == "variadic_unpacking");
    }

    private Expression ReadNew(int node)
    {
        var span = SpanOf(node);
        int type = -1, arguments = -1;
        foreach (var child in Tree.NamedChildren(node))
        {
            if (Kind(child) == "arguments")
            {
                arguments = child;
            }
            else if (type < 0)
            {
                type = child;
            }
        }

        if (type < 0)
        {
            return ReadOpaque(node);
        }

        if (Kind(type) == "anonymous_class")
        {
            var inner = Tree.Child(type, "arguments");
            return new NewExpression(new ClassExpression(ReadClass(type), SpanOf(type)), ReadArguments(inner), span);
        }

        return new NewExpression(ReadExpression(type), ReadArguments(arguments), span);
    }

    private ObjectLiteral ReadArray(int node)
    {
        var entries = new List<Entry>();
        var keyed = false;
        var isList = Kind(node) == "list_literal";
        if (isList)
        {
            ReadListTargets(node, entries);
            return new ObjectLiteral(entries, entries.TrueForAll(e => e.Key is null), SpanOf(node));
        }

        foreach (var element in Tree.NamedChildren(node))
        {
            if (Kind(element) != "array_element_initializer")
            {
                continue;
            }

            var parts = new List<int>();
            foreach (var part in Tree.NamedChildren(element))
            {
                parts.Add(part);
            }

            if (parts.Count >= 2)
            {
                keyed = true;
                var key = ReadExpression(parts[0]);
                entries.Add(new Entry(key is Literal { Kind: LiteralKind.Text or LiteralKind.Number } literal ? literal.Text : null, key, ReadExpression(parts[1])));
            }
            else if (parts.Count == 1)
            {
                entries.Add(new Entry(null, null, ReadExpression(parts[0]), Kind(parts[0]) == "variadic_unpacking"));
            }
        }

        return new ObjectLiteral(entries, !keyed, SpanOf(node));
    }

    private void ReadListTargets(int node, List<Entry> entries)
    {
        var items = new List<int>();
        var arrow = false;
        foreach (var child in Tree.Children(node))
        {
            var kind = Kind(child);
            if (kind == "=>")
            {
                arrow = true;
            }
            else if (Tree.Node(child).IsNamed)
            {
                if (arrow && items.Count > 0)
                {
                    var key = ReadExpression(items[^1]);
                    items.RemoveAt(items.Count - 1);
                    entries.Add(new Entry((key as Literal)?.Text, key, ReadExpression(child)));
                    arrow = false;
                }
                else
                {
                    items.Add(child);
                }
            }
            else if (kind == "," && items.Count > 0)
            {
                entries.Add(new Entry(null, null, ReadExpression(items[^1])));
                items.Clear();
            }
        }

        if (items.Count > 0)
        {
            entries.Add(new Entry(null, null, ReadExpression(items[^1])));
        }
    }

    private MatchExpression ReadMatch(int node)
    {
        var arms = new List<MatchArm>();
        var body = Tree.Field(node, _body);
        if (body >= 0)
        {
            foreach (var arm in Tree.NamedChildren(body))
            {
                var conditions = Tree.Field(arm, FieldId("conditional_expressions"));
                var result = ReadExpression(Tree.Field(arm, FieldId("return_expression")));
                arms.Add(new MatchArm(conditions < 0 ? [] : ReadSequence(conditions), result));
            }
        }

        return new MatchExpression(ReadExpression(Tree.Field(node, _condition)), arms, SpanOf(node));
    }
}
