using Bellator.Text;

namespace Bellator.Syntax.CSharp;

internal sealed partial class CSharpReader
{
    /// <summary>What a <c>?.</c> further out continues.</summary>
    private Expression? _conditional;

    protected override Expression ReadExpression(int node)
    {
        if (node < 0)
        {
            return NullLiteral(Span.None);
        }

        var span = SpanOf(node);
        switch (Kind(node))
        {
            case "identifier" or "alias_qualified_name" or "predefined_type" or "implicit_type" or "nullable_type" or "array_type" or "pointer_type":
                return new Name(Text(node), span);
            case "this" or "this_expression":
                return new ThisExpression(span);
            case "base" or "base_expression":
                return new Name("parent", span);
            case "generic_name":
                return new Name(Text(Tree.FirstNamed(node)), span);
            case "qualified_name":
                return new Member(ReadExpression(Tree.Field(node, FieldId("qualifier"))), SimpleName(Tree.Field(node, _name)), false, span);
            case "integer_literal" or "real_literal":
                return new Literal(LiteralKind.Number, Text(node).Replace("_", "", StringComparison.Ordinal), span);
            case "boolean_literal":
                return new Literal(LiteralKind.Boolean, Text(node), span);
            case "null_literal" or "default_expression" or "discard":
                return NullLiteral(span);
            case "string_literal" or "character_literal" or "verbatim_string_literal" or "raw_string_literal":
                return new Literal(LiteralKind.Text, CSharpText.Value(Text(node)), span);
            case "interpolated_string_expression":
                return ReadInterpolated(node);
            case "parenthesized_expression" or "expression_element" or "ref_expression" or "checked_expression" or "argument" or "arrow_expression_clause" or "attribute_argument" or "spread_element" or "when_clause" or "collection_element":
                return ReadLastNamed(node);
            case "member_access_expression":
                return ReadMember(node);
            case "conditional_access_expression":
                return ReadConditionalAccess(node);
            case "member_binding_expression":
                return new Member(_conditional ?? NullLiteral(span), SimpleName(Tree.Field(node, _name)), true, span);
            case "element_binding_expression":
                return new IndexExpression(_conditional ?? NullLiteral(span), ReadInner(node), span);
            case "element_access_expression":
                var keys = ReadArguments(Tree.Field(node, FieldId("subscript")));
                return new IndexExpression(ReadExpression(Tree.Field(node, _expression)), keys.Count == 1 ? keys[0].Value : new Sequence([.. keys.Select(k => k.Value)], span), span);
            case "invocation_expression":
                return ReadCall(node);
            case "object_creation_expression" or "implicit_object_creation_expression":
                return ReadNew(node);
            case "anonymous_object_creation_expression":
                return ReadAnonymous(node);
            case "array_creation_expression" or "implicit_array_creation_expression" or "stackalloc_expression" or "implicit_stackalloc_expression":
                var elements = Tree.Child(node, "initializer_expression");
                return elements < 0 ? new ObjectLiteral([], true, span) : ReadInitializer(elements);
            case "initializer_expression" or "collection_expression":
                return ReadInitializer(node);
            case "tuple_expression":
                return new ObjectLiteral([.. ReadArguments(node).Select(a => new Entry(null, null, a.Value))], true, span);
            case "assignment_expression":
                var op = Text(Tree.Field(node, _operator));
                return new Assignment(ReadTarget(Tree.Field(node, _left)), op == "=" ? null : op[..^1], ReadExpression(Tree.Field(node, _right)), span);
            case "binary_expression":
                return new Binary(Text(Tree.Field(node, _operator)), ReadExpression(Tree.Field(node, _left)), ReadExpression(Tree.Field(node, _right)), span);
            case "prefix_unary_expression" or "postfix_unary_expression" or "unary_expression":
                return ReadUnary(node);
            case "conditional_expression":
                return new Conditional(
                    ReadExpression(Tree.Field(node, _condition)), ReadExpression(Tree.Field(node, _consequence)), ReadExpression(Tree.Field(node, _alternative)), span);
            case "cast_expression":
                var type = ReadType(Tree.Field(node, _type));
                return new Cast(type is null ? "" : CastName(type.Name), ReadExpression(Tree.Field(node, _value)), span);
            case "as_expression":
                var named = ReadType(Tree.Field(node, _right));
                return new Cast(named is null ? "" : "as:" + named.Name, ReadExpression(Tree.Field(node, _left)), span);
            case "is_expression":
                return new Unary("is", ReadExpression(Tree.Field(node, _left)), span);
            case "is_pattern_expression":
                return ReadPatternTest(ReadExpression(Tree.Field(node, _expression)), Tree.Field(node, FieldId("pattern")));
            case "await_expression":
                return new PassThrough(PassThrough.Await, ReadInner(node), span);
            case "throw_expression":
                return new ThrowExpression(ReadInner(node), span);
            case "lambda_expression" or "anonymous_method_expression":
                return ReadLambda(node);
            case "declaration_expression":
                var declared = new Name(Text(Tree.Field(node, _name)), SpanOf(Tree.Field(node, _name)));
                _declaredInExpressions.Add(declared);
                return declared;
            case "switch_expression":
                return ReadSwitchExpression(node);
            case "query_expression":
                return ReadQuery(node);
            case "with_expression":
                return new PassThrough("with", ReadInner(node), span);
            case "typeof_expression" or "sizeof_expression":
                return new Literal(LiteralKind.Text, Text(Tree.Field(node, _type)), span);
            case "range_expression" or "argument_list" or "bracketed_argument_list" or "makeref_expression" or "reftype_expression" or "refvalue_expression" or "with_initializer":
                return new Sequence([.. Children(node).Select(ReadExpression)], span);
            case "variable_declaration":
                return NullLiteral(span);
            default:
                return ReadOpaque(node);
        }
    }

    private List<int> Children(int node)
    {
        var list = new List<int>();
        foreach (var child in Tree.NamedChildren(node))
        {
            list.Add(child);
        }

        return list;
    }

    private Expression ReadLastNamed(int node)
    {
        var children = Children(node);
        return children.Count == 0 ? NullLiteral(SpanOf(node)) : ReadExpression(children[^1]);
    }

    private string SimpleName(int node) => node < 0 ? "" : Kind(node) == "generic_name" ? Text(Tree.FirstNamed(node)) : Text(node);

    private Expression ReadTarget(int node)
    {
        switch (node < 0 ? "" : Kind(node))
        {
            case "tuple_pattern" or "tuple_expression" or "parenthesized_variable_designation":
                return new ObjectLiteral([.. Children(node).Select(c => new Entry(null, null, ReadTarget(Kind(c) == "argument" ? Children(c)[^1] : c)))], true, SpanOf(node));
            case "identifier":
                return new Name(Text(node), SpanOf(node));
            default:
                return ReadExpression(node);
        }
    }

    private Expression ReadMember(int node)
    {
        var target = Tree.Field(node, _expression);
        var span = SpanOf(node);
        var name = SimpleName(Tree.Field(node, _name));
        return target >= 0 && Kind(target) is "base" or "base_expression"
            ? new StaticMember(new Name("parent", SpanOf(target)), name, span)
            : new Member(ReadExpression(target), name, false, span);
    }

    private Expression ReadConditionalAccess(int node)
    {
        var condition = Tree.Field(node, _condition);
        var outer = _conditional;
        _conditional = ReadExpression(condition);
        Expression result = _conditional;
        foreach (var child in Tree.NamedChildren(node))
        {
            if (child != condition)
            {
                result = ReadExpression(child);
            }
        }

        _conditional = outer;
        return result;
    }

    /// <summary>Methods whose type argument says what they give: <c>as:</c> an object of it, <c>of:</c> something about it; <c>with:</c> they are given it, as an argument would; <c>new:</c> they are given an object of it.</summary>
    private static readonly Dictionary<string, string> TypedCalls = new(StringComparer.Ordinal) { ["GetRequiredService"] = "as:", ["GetService"] = "as:", ["Get"] = "as:", ["Entity"] = "of:", ["AddEndpointFilter"] = With, ["Add"] = Made };

    private const string With = "with:";
    private const string Made = "new:";

    private Expression ReadCall(int node)
    {
        var span = SpanOf(node);
        var callee = Tree.Field(node, _function);
        var list = Tree.Field(node, _arguments);
        if (Kind(callee) == "identifier" && Text(callee) == "nameof" && Children(list) is [var named])
        {
            var full = Text(named);
            return new Literal(LiteralKind.Text, full[(full.LastIndexOf('.') + 1)..], span);
        }

        var call = new Call(ReadExpression(callee), ReadArguments(list), false, span);

        // A service asked for by its type is of that type.
        var generic = Kind(callee) == "generic_name" ? callee : Kind(callee) is "member_access_expression" or "member_binding_expression" ? Tree.Field(callee, _name) : -1;
        return generic >= 0 && Kind(generic) == "generic_name" && TypedCalls.TryGetValue(SimpleName(generic), out var kind) && ReadType(generic) is { Arguments: [var type] }
            ? kind == Made ? call.Arguments.Count == 0 ? new Call(call.Callee, [new Argument(new NewExpression(new Name(type.Name, SpanOf(generic)), [], span))], false, span) : call
            : kind == With ? new Call(call.Callee, [new Argument(new Name(type.Name, SpanOf(generic))), .. call.Arguments], false, span) : new Cast(kind + type.Name, call, span)
            : call;
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
            if (Kind(child) is "argument" or "attribute_argument")
            {
                var name = Tree.Field(child, _name);
                var parts = Children(child);
                list.Add(new Argument(ReadExpression(parts.Count == 0 ? -1 : parts[^1]), name < 0 || parts.Count < 2 ? null : Text(name)) { IsOut = Text(child).StartsWith("out ", StringComparison.Ordinal) });
            }
            else
            {
                list.Add(new Argument(ReadExpression(child)));
            }
        }

        return list;
    }

    private Expression ReadNew(int node)
    {
        var span = SpanOf(node);
        var type = ReadType(Tree.Field(node, _type));
        var arguments = ReadArguments(Kind(node)[0] == 'i' ? Tree.Child(node, "argument_list") : Tree.Field(node, _arguments));
        var initializer = Kind(node)[0] == 'i' ? Tree.Child(node, "initializer_expression") : Tree.Field(node, _initializer);
        if (initializer >= 0)
        {
            var entries = ReadInitializer(initializer);
            if (entries.IsList || entries.Entries.All(e => e.Name is null) || type is { Name: "Dictionary" or "List" or "HashSet" })
            {
                return entries;
            }

            // The equals sign tells members that are set from named arguments.
            arguments.AddRange(entries.Entries.Select(e => new Argument(e.Value, "=" + e.Name)));
        }

        return type is null && arguments.Count == 0
            ? new ObjectLiteral([], false, span)
            : new NewExpression(new Name(type?.Name ?? Implied, span), arguments, span);
    }

    private ObjectLiteral ReadInitializer(int node)
    {
        var entries = new List<Entry>();
        var list = true;
        foreach (var child in Tree.NamedChildren(node))
        {
            switch (Kind(child))
            {
                case "assignment_expression":
                    list = false;
                    var left = Tree.Field(child, _left);
                    var value = ReadExpression(Tree.Field(child, _right));
                    entries.Add(Kind(left) == "identifier" ? new Entry(Text(left), null, value) : Keyed(ReadExpression(Tree.FirstNamed(left)), value));
                    break;
                case "initializer_expression" when Children(child) is [var key, var item]:
                    list = false;
                    entries.Add(Keyed(ReadExpression(key), ReadExpression(item)));
                    break;
                case "spread_element":
                    entries.Add(new Entry(null, null, ReadInner(child), true));
                    break;
                default:
                    entries.Add(new Entry(null, null, ReadExpression(child)));
                    break;
            }
        }

        return new ObjectLiteral(entries, list, SpanOf(node));
    }

    private static Entry Keyed(Expression key, Expression value) => key is Literal literal ? new Entry(literal.Text, null, value) : new Entry(null, key, value);

    private ObjectLiteral ReadAnonymous(int node)
    {
        var entries = new List<Entry>();
        string? name = null;
        var children = new List<int>();
        foreach (var child in Tree.Children(node))
        {
            children.Add(child);
        }

        for (var i = 0; i < children.Count; i++)
        {
            if (!Tree.Node(children[i]).IsNamed)
            {
                continue;
            }

            if (i + 1 < children.Count && Kind(children[i + 1]) == "=")
            {
                name = Text(children[i]);
                continue;
            }

            var value = ReadExpression(children[i]);
            entries.Add(new Entry(name ?? (value as Member)?.MemberName ?? (value as Name)?.Text ?? "*", null, value));
            name = null;
        }

        return new ObjectLiteral(entries, false, SpanOf(node));
    }

    private Expression ReadUnary(int node)
    {
        var span = SpanOf(node);
        var sign = "";
        foreach (var child in Tree.Children(node))
        {
            if (!Tree.Node(child).IsNamed)
            {
                sign = Text(child);
            }
        }

        var operand = ReadInner(node);
        return sign switch
        {
            "++" or "--" => new Assignment(operand, "-", new Literal(LiteralKind.Number, "1", span), span),
            "!" when Kind(node).StartsWith("postfix", StringComparison.Ordinal) => operand,
            _ => new Unary(sign, operand, span),
        };
    }

    private Lambda ReadLambda(int node)
    {
        var outer = _declaredInExpressions;
        _declaredInExpressions = [];
        var parameters = ReadParameters(Tree.Field(node, _parameters));
        var body = Tree.Field(node, _body);
        body = body >= 0 ? body : Tree.Child(node, "block");
        Block block;
        if (body >= 0 && Kind(body) != "block")
        {
            var value = ReadExpression(body);
            block = new Block([new Return(value, value.Span)], value.Span);
        }
        else
        {
            block = ReadBlock(body);
        }

        return new Lambda(new FunctionDeclaration("", parameters, WithDeclared(block, outer), SpanOf(node)) { IsArrow = true, Annotations = ReadAttributes(node) }, SpanOf(node));
    }

    private Expression ReadPatternTest(Expression subject, int pattern)
    {
        var span = pattern < 0 ? subject.Span : SpanOf(pattern);
        switch (pattern < 0 ? "" : Kind(pattern))
        {
            case "constant_pattern":
                return new Binary("==", subject, ReadInner(pattern), span);
            case "parenthesized_pattern":
                return ReadPatternTest(subject, Tree.FirstNamed(pattern));
            case "negated_pattern":
                return new Unary("!", ReadPatternTest(subject, Tree.FirstNamed(pattern)), span);
            case "or_pattern" or "and_pattern":
                return new Binary(
                    Kind(pattern)[0] == 'o' ? "||" : "&&", ReadPatternTest(subject, Tree.Field(pattern, _left)), ReadPatternTest(subject, Tree.Field(pattern, _right)), span);
            case "relational_pattern":
                return new Binary(Text(pattern) is [_, '=', ..] and var sign ? sign[..2] : Text(pattern)[..1], subject, ReadInner(pattern), span);
            case "recursive_pattern":
                // What it is, and what its members are; what is called for it is called once.
                var held = Tree.Field(pattern, _name) is >= 0 and var given ? new Name(Text(given), SpanOf(given)) : subject is Name or Member ? subject : null;
                return held is null ? ReadDeclaredPattern(subject, pattern, span) : Children(pattern).Where(c => Kind(c) == "property_pattern_clause").SelectMany(Children).Where(c => Kind(c) == "subpattern")
                    .Select(c => ReadMemberTest(held, [.. Children(c)])).OfType<Expression>()
                    .Aggregate(ReadDeclaredPattern(subject, pattern, span), (all, test) => new Binary("&&", all, test, span));
            case "declaration_pattern" or "var_pattern":
                return ReadDeclaredPattern(subject, pattern, span);
            default:
                return new Unary("is", subject, span);
        }
    }

    private Expression ReadDeclaredPattern(Expression subject, int pattern, Span span)
    {
        var name = Tree.Field(pattern, _name);
        if (name < 0)
        {
            return new Unary("is", subject, span);
        }

        var declared = new Name(Text(name), SpanOf(name));
        _declaredInExpressions.Add(declared);
        return new Unary("is", new Assignment(declared, null, Typed(subject, ReadType(Tree.Field(pattern, _type))), span), span);
    }

    /// <summary><c>Length: &gt;= 12</c> of a subject.</summary>
    private Expression? ReadMemberTest(Expression subject, int[] parts) =>
        parts is [var member, var test] ? ReadPatternTest(Text(member).Split('.').Aggregate(subject, (of, name) => new Member(of, name, false, SpanOf(member))), test) : null;

    private Expression? PatternConstant(int pattern) => Kind(pattern) switch
    {
        "constant_pattern" or "parenthesized_pattern" => PatternConstant(Tree.FirstNamed(pattern)),
        "string_literal" or "integer_literal" or "boolean_literal" or "null_literal" or "character_literal" or "verbatim_string_literal" => ReadExpression(pattern),
        "member_access_expression" or "identifier" => ReadExpression(pattern),
        _ => null,
    };

    private MatchExpression ReadSwitchExpression(int node)
    {
        var subject = ReadInner(node);
        var arms = new List<MatchArm>();
        foreach (var arm in Tree.NamedChildren(node))
        {
            if (Kind(arm) != "switch_expression_arm")
            {
                continue;
            }

            var parts = Children(arm);
            var conditions = new List<Expression>();
            AddConditions(parts[0], conditions);
            arms.Add(new MatchArm(Kind(parts[0]) == "discard" ? [] : conditions, ReadExpression(parts[^1])));
        }

        return new MatchExpression(subject, arms, SpanOf(node));
    }

    private void AddConditions(int pattern, List<Expression> conditions)
    {
        if (Kind(pattern) == "or_pattern")
        {
            AddConditions(Tree.Field(pattern, _left), conditions);
            AddConditions(Tree.Field(pattern, _right), conditions);
            return;
        }

        conditions.Add(PatternConstant(pattern) ?? new Unary("matches", NullLiteral(SpanOf(pattern)), SpanOf(pattern)));
    }

    /// <summary>A query as nested functions over the elements, as in a comprehension.</summary>
    private Expression ReadQuery(int node) => ReadQuery(Children(node), 0, SpanOf(node));

    private Expression ReadQuery(List<int> clauses, int at, Span span)
    {
        if (at >= clauses.Count)
        {
            return NullLiteral(span);
        }

        var clause = clauses[at];
        var parts = Children(clause);
        switch (Kind(clause))
        {
            case "from_clause":
                var name = Tree.Field(clause, _name);
                var rest = ReadQuery(clauses, at + 1, span);
                Statement statement = rest is Conditional { Otherwise: Literal { Kind: LiteralKind.Null } } filtered
                    ? new If(filtered.Condition, new Return(filtered.Then, span), null, span)
                    : new Return(rest, span);
                var function = new FunctionDeclaration("", [new Parameter(new Name(Text(name), SpanOf(name)), null, null, false, false, [])], new Block([statement], span), span) { IsArrow = true };
                return new Call(new Member(ReadExpression(parts[^1]), "<each>", false, span), [new Argument(new Lambda(function, span))], false, span);
            case "where_clause":
                return new Conditional(ReadInner(clause), ReadQuery(clauses, at + 1, span), NullLiteral(span), span);
            case "select_clause" or "group_clause":
                return ReadInner(clause);
            default:
                return new Sequence([.. parts.Where(p => Kind(p) != "identifier").Select(ReadExpression), ReadQuery(clauses, at + 1, span)], span);
        }
    }

    private Template ReadInterpolated(int node)
    {
        var parts = new List<Expression>();
        foreach (var child in Tree.NamedChildren(node))
        {
            switch (Kind(child))
            {
                case "string_content":
                    parts.Add(new Literal(LiteralKind.Text, Text(child).Replace("{{", "{", StringComparison.Ordinal).Replace("}}", "}", StringComparison.Ordinal), SpanOf(child)));
                    break;
                case "escape_sequence":
                    parts.Add(new Literal(LiteralKind.Text, CSharpText.Escape(Text(child)), SpanOf(child)));
                    break;
                case "interpolation":
                    foreach (var inner in Tree.NamedChildren(child))
                    {
                        if (Kind(inner) is not ("interpolation_brace" or "interpolation_alignment_clause" or "interpolation_format_clause"))
                        {
                            parts.Add(ReadExpression(inner));
                            break;
                        }
                    }

                    break;
            }
        }

        return new Template(parts, null, SpanOf(node));
    }
}
