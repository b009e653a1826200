using Bellator.Syntax.Parsing;
using Bellator.Text;

namespace Bellator.Syntax.Python;

/// <summary>Reads Python's statements. A method's first parameter becomes the object itself.</summary>
internal sealed partial class PythonReader : Reader
{
    private readonly byte _attribute, _alias;

    /// <summary>The name under which the method around knows its object.</summary>
    private string? _self;

    internal PythonReader(FlatTree tree, SourceFile file)
        : base(tree, file)
    {
        _attribute = FieldId("attribute");
        _alias = FieldId("alias");
    }

    protected override Block ReadFile() => new(ReadStatements(0), SpanOf(0));

    private List<Statement> ReadStatements(int node)
    {
        var list = new List<Statement>();
        foreach (var child in Tree.NamedChildren(node))
        {
            AddStatement(child, list);
        }

        return list;
    }

    private Block ReadBlock(int node) => node < 0 ? EmptyBlock(Span.None) : new Block(ReadStatements(node), SpanOf(node));

    /// <summary>Over the items of a dictionary, names and values are told apart.</summary>
    private ForEach ReadForEach(int node, Span span)
    {
        var left = Tree.Field(node, _left);
        var source = ReadExpression(Tree.Field(node, _right));
        var parts = new List<int>();
        if (left >= 0 && Kind(left) is "pattern_list" or "tuple_pattern")
        {
            foreach (var child in Tree.NamedChildren(left))
            {
                parts.Add(child);
            }
        }

        return parts.Count == 2 && source is Call { Arguments.Count: 0, Callee: Member { MemberName: "items" } items }
            ? new ForEach(ReadTarget(parts[0]), ReadTarget(parts[1]), items.Target, ReadBlock(Tree.Field(node, _body)), false, false, span)
            : new ForEach(null, ReadTarget(left), source, ReadBlock(Tree.Field(node, _body)), false, false, span);
    }

    private void AddStatement(int node, List<Statement> list)
    {
        var span = SpanOf(node);
        switch (Kind(node))
        {
            case "comment" or "line_continuation" or "pass_statement" or "future_import_statement":
                break;
            case "expression_statement":
                foreach (var child in Tree.NamedChildren(node))
                {
                    list.Add(new ExpressionStatement(ReadExpression(child), SpanOf(child)));
                    if (Kind(child) == "assignment")
                    {
                        AddNamedType(Tree.Field(child, _left), Tree.Field(child, _right), list);
                    }
                }

                break;
            case "type_alias_statement":
                var meant = -1;
                foreach (var child in Tree.NamedChildren(node))
                {
                    meant = child;
                }

                AddNamedType(Tree.FirstNamed(node), meant, list);
                break;
            case "block":
                list.AddRange(ReadStatements(node));
                break;
            case "if_statement":
                list.Add(ReadIf(node));
                break;
            case "while_statement":
                list.Add(new Loop(null, ReadExpression(Tree.Field(node, _condition)), null, ReadBlock(Tree.Field(node, _body)), false, span));
                AddElse(node, list);
                break;
            case "for_statement":
                list.Add(ReadForEach(node, span));
                AddElse(node, list);
                break;
            case "try_statement":
                list.Add(ReadTry(node));
                break;
            case "with_statement":
                ReadWith(node, list);
                break;
            case "return_statement":
                var value = Tree.FirstNamed(node);
                list.Add(new Return(value < 0 ? null : ReadExpression(value), span));
                break;
            case "raise_statement":
                list.Add(new ExpressionStatement(new ThrowExpression(ReadInner(node), span), span));
                break;
            case "assert_statement":
                var refused = new ThrowExpression(NullLiteral(span), span);
                list.Add(new If(ReadInner(node), EmptyBlock(span), new ExpressionStatement(refused, span), span));
                break;
            case "delete_statement":
                list.Add(new ExpressionStatement(Removed(ReadInner(node), "unset", span), span));
                break;
            case "break_statement":
                list.Add(new Break(null, 1, span));
                break;
            case "continue_statement":
                list.Add(new Continue(null, 1, span));
                break;
            case "function_definition":
                list.Add(new FunctionStatement(ReadFunction(node, []), span));
                break;
            case "class_definition":
                list.Add(new ClassStatement(ReadClass(node, []), span));
                break;
            case "decorated_definition":
                AddDecorated(node, list);
                break;
            case "global_statement" or "nonlocal_statement":
                list.Add(new GlobalDeclaration([.. NamesIn(node)], span));
                break;
            case "import_statement":
                AddImports(node, list);
                break;
            case "import_from_statement":
                AddImportFrom(node, list);
                break;
            case "match_statement":
                list.Add(ReadMatch(node));
                break;
            case "print_statement" or "exec_statement":
                list.Add(new ExpressionStatement(ReadOpaque(node), span));
                break;
            default:
                list.Add(new ExpressionStatement(ReadExpression(node), span));
                break;
        }
    }

    private List<Name> NamesIn(int node)
    {
        var names = new List<Name>();
        foreach (var child in Tree.NamedChildren(node))
        {
            names.Add(new Name(Text(child), SpanOf(child)));
        }

        return names;
    }

    private void AddElse(int node, List<Statement> list)
    {
        var alternative = Tree.Field(node, _alternative);
        if (alternative >= 0)
        {
            list.Add(ReadBlock(Tree.Field(alternative, _body)));
        }
    }

    private If ReadIf(int node)
    {
        Statement? otherwise = null;
        var branches = new List<int>();
        foreach (var child in Tree.NamedChildren(node))
        {
            if (Kind(child) is "elif_clause" or "else_clause")
            {
                branches.Add(child);
            }
        }

        for (var i = branches.Count - 1; i >= 0; i--)
        {
            otherwise = Kind(branches[i]) == "else_clause"
                ? ReadBlock(Tree.Field(branches[i], _body))
                : new If(ReadExpression(Tree.Field(branches[i], _condition)), ReadBlock(Tree.Field(branches[i], _consequence)), otherwise, SpanOf(branches[i]));
        }

        return new If(ReadExpression(Tree.Field(node, _condition)), ReadBlock(Tree.Field(node, _consequence)), otherwise, SpanOf(node));
    }

    private Try ReadTry(int node)
    {
        var catches = new List<CatchClause>();
        var body = new List<Statement>(ReadStatements(Tree.Field(node, _body)));
        Block? last = null;
        foreach (var child in Tree.NamedChildren(node))
        {
            switch (Kind(child))
            {
                case "except_clause" or "except_group_clause":
                    var alias = Tree.Field(child, _alias);
                    var block = Tree.Child(child, "block");
                    Expression? target = alias >= 0 ? ReadTarget(alias) : null;
                    var pattern = Tree.Child(child, "as_pattern");
                    if (pattern >= 0 && Tree.Field(pattern, _alias) is >= 0 and var inner)
                    {
                        target = ReadTarget(inner);
                    }

                    catches.Add(new CatchClause(target as Name, ReadBlock(block)));
                    break;
                case "else_clause":
                    body.AddRange(ReadStatements(Tree.Field(child, _body)));
                    break;
                case "finally_clause":
                    last = ReadBlock(Tree.Child(child, "block"));
                    break;
            }
        }

        return new Try(new Block(body, SpanOf(Tree.Field(node, _body))), catches, last, SpanOf(node));
    }

    private void ReadWith(int node, List<Statement> list)
    {
        var clause = Tree.Child(node, "with_clause");
        if (clause >= 0 && Suppresses(clause))
        {
            // What is suppressed is caught, and nothing is done about it.
            list.Add(new Try(new Block(ReadStatements(Tree.Field(node, _body)), SpanOf(node)), [new CatchClause(null, EmptyBlock(SpanOf(node)))], null, SpanOf(node)));
            return;
        }

        if (clause >= 0)
        {
            foreach (var item in Tree.NamedChildren(clause))
            {
                var value = Tree.Field(item, _value);
                if (value < 0)
                {
                    continue;
                }

                var alias = Kind(value) == "as_pattern" ? Tree.Field(value, _alias) : -1;
                var opened = ReadExpression(alias >= 0 ? Tree.FirstNamed(value) : value);
                list.Add(alias >= 0
                    ? new ExpressionStatement(new Assignment(ReadTarget(alias), null, opened, SpanOf(item)), SpanOf(item))
                    : new ExpressionStatement(opened, SpanOf(item)));
            }
        }

        list.AddRange(ReadStatements(Tree.Field(node, _body)));
    }

    private bool Suppresses(int clause)
    {
        foreach (var item in Tree.NamedChildren(clause))
        {
            if (Tree.Field(item, _value) is >= 0 and var value && Kind(value) == "call" && Text(Tree.Field(value, _function)) is "suppress" or "contextlib.suppress")
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>A chain of tests: only patterns of constants say what the subject is.</summary>
    private Statement ReadMatch(int node)
    {
        var subject = ReadExpression(Tree.Field(node, FieldId("subject")));
        var cases = new List<int>();
        foreach (var child in Tree.NamedChildren(Tree.Field(node, _body)))
        {
            if (Kind(child) == "case_clause")
            {
                cases.Add(child);
            }
        }

        Statement? rest = null;
        for (var i = cases.Count - 1; i >= 0; i--)
        {
            var body = ReadBlock(Tree.Field(cases[i], _consequence));
            var patterns = new List<Expression>();
            foreach (var child in Tree.NamedChildren(cases[i]))
            {
                if (Kind(child) == "case_pattern")
                {
                    AddPatterns(child, patterns);
                }
            }

            Expression? test = null;
            foreach (var pattern in patterns)
            {
                Expression equal = pattern is Literal ? new Binary("==", subject, pattern, pattern.Span) : pattern;
                test = test is null ? equal : new Binary("||", test, equal, pattern.Span);
            }

            rest = new If(test ?? NullLiteral(SpanOf(cases[i])), body, rest, SpanOf(cases[i]));
        }

        return rest ?? EmptyBlock(SpanOf(node));
    }

    private void AddPatterns(int pattern, List<Expression> list)
    {
        var inner = Tree.FirstNamed(pattern);
        if (inner >= 0 && Kind(inner) == "union_pattern")
        {
            foreach (var one in Tree.NamedChildren(inner))
            {
                list.Add(ReadPattern(one));
            }
        }
        else
        {
            list.Add(inner < 0 ? NullLiteral(SpanOf(pattern)) : ReadPattern(inner));
        }
    }

    private Expression ReadPattern(int node) => Kind(node) is "string" or "integer" or "float" or "true" or "false" or "none"
        ? ReadExpression(node)
        : new Unary("matches", NullLiteral(SpanOf(node)), SpanOf(node));

    private void AddImports(int node, List<Statement> list)
    {
        foreach (var child in Tree.NamedChildren(node))
        {
            var span = SpanOf(child);
            if (Kind(child) == "aliased_import")
            {
                var alias = Tree.Field(child, _alias);
                list.Add(new Import(Text(Tree.Field(child, _name)), [new ImportedName("*", new Name(Text(alias), SpanOf(alias)))], span));
            }
            else
            {
                // "import a.b" makes the name a; its parts are found from there.
                var root = Text(child).Split('.')[0];
                list.Add(new Import(root, [new ImportedName("*", new Name(root, span))], span));
            }
        }
    }

    private void AddImportFrom(int node, List<Statement> list)
    {
        var module = Tree.Field(node, FieldId("module_name"));
        var names = new List<ImportedName>();
        foreach (var child in Tree.NamedChildren(node))
        {
            if (child == module)
            {
                continue;
            }

            switch (Kind(child))
            {
                case "aliased_import":
                    var alias = Tree.Field(child, _alias);
                    names.Add(new ImportedName(Text(Tree.Field(child, _name)), new Name(Text(alias), SpanOf(alias))));
                    break;
                case "dotted_name":
                    names.Add(new ImportedName(Text(child), new Name(Text(child), SpanOf(child))));
                    break;
            }
        }

        if (module >= 0)
        {
            list.Add(new Import(Text(module), names, SpanOf(node)));
        }
    }

    private void AddDecorated(int node, List<Statement> list)
    {
        var annotations = ReadDecorators(node);
        var definition = Tree.Field(node, FieldId("definition"));
        if (definition < 0)
        {
            return;
        }

        if (Kind(definition) == "class_definition")
        {
            list.Add(new ClassStatement(ReadClass(definition, annotations), SpanOf(node)));
            return;
        }

        var function = ReadFunction(definition, annotations);
        list.Add(new FunctionStatement(function, SpanOf(node)));
        foreach (var child in Tree.NamedChildren(node))
        {
            if (Kind(child) != "decorator" || Tree.FirstNamed(child) is not (>= 0 and var decorator) || Kind(decorator) != "attribute")
            {
                continue;
            }

            // An object is told of the function: @app.before_request. What the method gives back is the function, as a rule.
            list.Add(new ExpressionStatement(new Call(ReadExpression(decorator), [new Argument(new Name(function.Name, SpanOf(Tree.Field(definition, _name))))], false, SpanOf(decorator)), SpanOf(decorator)));
        }
    }
}
