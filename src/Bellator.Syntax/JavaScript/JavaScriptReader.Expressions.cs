using Bellator.Syntax.Templates;
using Bellator.Text;

namespace Bellator.Syntax.JavaScript;

internal sealed partial class JavaScriptReader
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
            case "identifier" or "shorthand_property_identifier" or "undefined" or "super" or "import" or "nested_identifier" or "meta_property"
                or "type_identifier" or "property_identifier":
                return new Name(Text(node), span);
            case "this":
                return new ThisExpression(span);
            case "number":
                return new Literal(LiteralKind.Number, Text(node).Replace("_", "", StringComparison.Ordinal), span);
            case "string":
                return new Literal(LiteralKind.Text, JavaScriptText.Unquote(Text(node)), span);
            case "true" or "false":
                return new Literal(LiteralKind.Boolean, Text(node), span);
            case "null":
                return NullLiteral(span);
            case "regex":
                return new Literal(LiteralKind.Pattern, Text(node), span);
            case "template_string":
                return ReadTemplate(node, null);
            case "parenthesized_expression" or "expression_statement" or "decorator" or "computed_property_name" or "jsx_expression":
                return ReadInner(node);
            case "non_null_expression" or "satisfies_expression" or "instantiation_expression":
                return ReadInner(node);
            case "type_assertion":
                var asserted = Tree.Child(node, "type_arguments");
                var operandOfAssertion = -1;
                foreach (var child in Tree.NamedChildren(node))
                {
                    operandOfAssertion = child;
                }

                return new Cast("as:" + (asserted < 0 ? "" : ReadTypeName(Tree.FirstNamed(asserted))?.Name ?? ""), ReadExpression(operandOfAssertion), span);
            case "as_expression":
                var last = -1;
                foreach (var child in Tree.NamedChildren(node))
                {
                    last = child;
                }

                return new Cast("as:" + (ReadTypeName(last)?.Name ?? ""), ReadInner(node), span);
            case "sequence_expression":
                return new Sequence(ReadAll(node), span);
            case "assignment_expression":
                return new Assignment(ReadTarget(Tree.Field(node, _left)), null, ReadExpression(Tree.Field(node, _right)), span);
            case "augmented_assignment_expression":
                var op = Text(Tree.Field(node, _operator));
                return new Assignment(ReadTarget(Tree.Field(node, _left)), op[..^1], ReadExpression(Tree.Field(node, _right)), span);
            case "binary_expression":
                return new Binary(Text(Tree.Field(node, _operator)), ReadExpression(Tree.Field(node, _left)), ReadExpression(Tree.Field(node, _right)), span);
            case "unary_expression":
                return Removed(ReadExpression(Tree.Field(node, _argument)), Text(Tree.Field(node, _operator)), span);
            case "update_expression":
                return new Assignment(ReadTarget(Tree.Field(node, _argument)), "-", new Literal(LiteralKind.Number, "1", span), span);
            case "ternary_expression":
                return new Conditional(
                    ReadExpression(Tree.Field(node, _condition)),
                    ReadExpression(Tree.Field(node, _consequence)),
                    ReadExpression(Tree.Field(node, _alternative)),
                    span);
            case "await_expression":
                return new PassThrough(PassThrough.Await, ReadInner(node), span);
            case "yield_expression":
                return new PassThrough("yield", ReadInner(node), span);
            case "member_expression":
                var property = Tree.Field(node, _property);
                var optional = Tree.Child(node, "optional_chain") >= 0;
                return new Member(ReadExpression(Tree.Field(node, _object)), property < 0 ? "" : Text(property), optional, span);
            case "subscript_expression":
                return ReadSubscript(node);
            case "call_expression":
                return ReadCall(node);
            case "new_expression":
                var arguments = Tree.Field(node, _arguments);
                return new NewExpression(ReadExpression(Tree.Field(node, FieldId("constructor"))), arguments < 0 ? [] : ReadArguments(arguments), span);
            case "arrow_function" or "function_expression" or "generator_function" or "function":
                return new Lambda(ReadFunction(node), span);
            case "class":
                return new ClassExpression(ReadClass(node), span);
            case "object":
                return ReadObject(node);
            case "array":
                return ReadArray(node);
            case "object_pattern" or "array_pattern" or "assignment_pattern" or "object_assignment_pattern" or "rest_pattern" or "shorthand_property_identifier_pattern":
                return ReadTarget(node);
            case "spread_element":
                return ReadInner(node);
            case "jsx_element" or "jsx_self_closing_element":
                return ReadMarkup(node);
            case "jsx_text" or "string_fragment" or "html_character_reference":
                return new Literal(LiteralKind.Text, Text(node), span);
            case "escape_sequence":
                return new Literal(LiteralKind.Text, JavaScriptText.Escape(Text(node)), span);
            case "jsx_namespace_name" or "private_property_identifier" or "statement_identifier":
                return new Literal(LiteralKind.Text, Text(node), span);
            default:
                return ReadOpaque(node);
        }
    }

    private Expression ReadSubscript(int node)
    {
        var key = Tree.Field(node, FieldId("index"));
        var target = ReadExpression(Tree.Field(node, _object));
        var read = key < 0 ? null : ReadExpression(key);
        return read is Literal { Kind: LiteralKind.Text } name
            ? new Member(target, name.Text, false, SpanOf(node))
            : new IndexExpression(target, read, SpanOf(node));
    }

    private Expression ReadCall(int node)
    {
        var arguments = Tree.Field(node, _arguments);
        var callee = Callee(Tree.Field(node, _function), File.Language is Language.Vue or Language.Angular ? TemplateCalls.Component : TemplateCalls.JavaScript);
        if (arguments >= 0 && Kind(arguments) == "template_string")
        {
            return ReadTemplate(arguments, callee);
        }

        return new Call(callee, arguments < 0 ? [] : ReadArguments(arguments), Tree.Child(node, "optional_chain") >= 0, SpanOf(node));
    }

    private List<Argument> ReadArguments(int node)
    {
        var list = new List<Argument>();
        foreach (var child in Tree.NamedChildren(node))
        {
            list.Add(new Argument(ReadExpression(child), null, Kind(child) == "spread_element"));
        }

        return list;
    }

    private Template ReadTemplate(int node, Expression? tag)
    {
        var parts = new List<Expression>();
        var text = new System.Text.StringBuilder();
        var start = (int)Tree.Node(node).Start;
        foreach (var child in Tree.NamedChildren(node))
        {
            switch (Kind(child))
            {
                case "string_fragment":
                    text.Append(Text(child));
                    break;
                case "escape_sequence":
                    text.Append(JavaScriptText.Escape(Text(child)));
                    break;
                default:
                    if (text.Length > 0)
                    {
                        parts.Add(new Literal(LiteralKind.Text, text.ToString(), new Span(start, (int)Tree.Node(child).Start)));
                        text.Clear();
                    }

                    parts.Add(ReadInner(child));
                    start = (int)Tree.Node(child).End;
                    break;
            }
        }

        if (text.Length > 0 || parts.Count == 0)
        {
            parts.Add(new Literal(LiteralKind.Text, text.ToString(), new Span(start, (int)Tree.Node(node).End)));
        }

        return new Template(parts, tag, SpanOf(node));
    }

    private ObjectLiteral ReadObject(int node)
    {
        var entries = new List<Entry>();
        foreach (var child in Tree.NamedChildren(node))
        {
            switch (Kind(child))
            {
                case "pair":
                    var key = Tree.Field(child, FieldId("key"));
                    var name = KeyText(key);
                    entries.Add(new Entry(name, name is null ? ReadExpression(key) : null, ReadExpression(Tree.Field(child, _value))));
                    break;
                case "shorthand_property_identifier":
                    entries.Add(new Entry(Text(child), null, new Name(Text(child), SpanOf(child))));
                    break;
                case "spread_element":
                    entries.Add(new Entry(null, null, ReadInner(child), true));
                    break;
                case "method_definition" when Has(child, "set"):
                    break;
                case "method_definition" when Has(child, "get"):
                    // What its getter gives is what the member is.
                    entries.Add(new Entry(KeyText(Tree.Field(child, _name)) ?? "", null, new Call(new Lambda(ReadFunction(child), SpanOf(child)), [], false, SpanOf(child))));
                    break;
                case "method_definition":
                    entries.Add(new Entry(KeyText(Tree.Field(child, _name)) ?? "", null, new Lambda(ReadFunction(child), SpanOf(child))));
                    break;
            }
        }

        return new ObjectLiteral(entries, false, SpanOf(node));
    }

    private ObjectLiteral ReadArray(int node)
    {
        var entries = new List<Entry>();
        foreach (var child in Tree.NamedChildren(node))
        {
            entries.Add(new Entry(null, null, ReadExpression(child), Kind(child) == "spread_element"));
        }

        return new ObjectLiteral(entries, true, SpanOf(node));
    }

    private string? KeyText(int key) => key < 0 ? null : Kind(key) switch
    {
        "property_identifier" or "private_property_identifier" or "number" or "identifier" => Text(key),
        "string" => JavaScriptText.Unquote(Text(key)),
        _ => null,
    };

    /// <summary>Reads what stands left of an assignment or in a declaration, patterns included.</summary>
    private Expression ReadTarget(int node)
    {
        if (node < 0)
        {
            return NullLiteral(Span.None);
        }

        var span = SpanOf(node);
        switch (Kind(node))
        {
            case "shorthand_property_identifier_pattern":
                return new Name(Text(node), span);
            case "assignment_pattern" or "object_assignment_pattern":
                return new DefaultTarget(ReadTarget(Tree.Field(node, _left)), ReadExpression(Tree.Field(node, _right)), span);
            case "rest_pattern":
                return ReadTarget(Tree.FirstNamed(node));
            case "object_pattern":
                return ReadObjectPattern(node);
            case "array_pattern":
                return ReadArrayPattern(node);
            default:
                return ReadExpression(node);
        }
    }

    private ObjectLiteral ReadObjectPattern(int node)
    {
        var entries = new List<Entry>();
        foreach (var child in Tree.NamedChildren(node))
        {
            switch (Kind(child))
            {
                case "shorthand_property_identifier_pattern":
                    entries.Add(new Entry(Text(child), null, new Name(Text(child), SpanOf(child))));
                    break;
                case "object_assignment_pattern":
                    var left = Tree.Field(child, _left);
                    entries.Add(new Entry(left < 0 ? null : Text(left), null, ReadTarget(child)));
                    break;
                case "pair_pattern":
                    var key = Tree.Field(child, FieldId("key"));
                    var name = KeyText(key);
                    entries.Add(new Entry(name, name is null ? ReadExpression(key) : null, ReadTarget(Tree.Field(child, _value))));
                    break;
                case "rest_pattern":
                    entries.Add(new Entry(null, null, ReadTarget(child), true));
                    break;
            }
        }

        return new ObjectLiteral(entries, false, SpanOf(node));
    }

    private ObjectLiteral ReadArrayPattern(int node)
    {
        var entries = new List<Entry>();
        var position = 0;
        foreach (var child in Tree.Children(node))
        {
            if (Kind(child) == ",")
            {
                position++;
            }
            else if (Tree.Node(child).IsNamed && !Tree.Node(child).IsExtra)
            {
                entries.Add(new Entry(position.ToString(System.Globalization.CultureInfo.InvariantCulture), null, ReadTarget(child), Kind(child) == "rest_pattern"));
            }
        }

        return new ObjectLiteral(entries, true, SpanOf(node));
    }

    private Markup ReadMarkup(int node)
    {
        var open = Kind(node) == "jsx_element" ? Tree.Field(node, FieldId("open_tag")) : node;
        var attributes = new List<Entry>();
        var children = new List<Expression>();
        var name = open < 0 ? -1 : Tree.Field(open, _name);
        if (open >= 0)
        {
            foreach (var child in Tree.NamedChildren(open))
            {
                if (Kind(child) == "jsx_attribute")
                {
                    int key = -1, value = -1;
                    foreach (var part in Tree.NamedChildren(child))
                    {
                        if (key < 0)
                        {
                            key = part;
                        }
                        else
                        {
                            value = part;
                        }
                    }

                    attributes.Add(new Entry(key < 0 ? "" : Text(key), null, value < 0 ? NullLiteral(SpanOf(child)) : ReadExpression(value)));
                }
                else if (Kind(child) == "jsx_expression")
                {
                    attributes.Add(new Entry(null, null, ReadInner(child), true));
                }
            }
        }

        if (Kind(node) == "jsx_element")
        {
            foreach (var child in Tree.NamedChildren(node))
            {
                if (Kind(child) is not ("jsx_opening_element" or "jsx_closing_element"))
                {
                    children.Add(ReadExpression(child));
                }
            }
        }

        return new Markup(name < 0 ? "" : Text(name), attributes, children, SpanOf(node));
    }
}
