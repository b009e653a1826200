using Bellator.Syntax.Parsing;
using Bellator.Text;

namespace Bellator.Syntax.Php;

/// <summary>Reads PHP, with the page text around it as output statements.</summary>
internal sealed partial class PhpReader : Reader
{
    private readonly byte _scope;

    internal PhpReader(FlatTree tree, SourceFile file)
        : base(tree, file)
    {
        _scope = FieldId("scope");
    }

    protected override Block ReadFile() => new(ReadStatements(0), SpanOf(0));

    /// <summary>The opening tag before was one that writes the expression after it.</summary>
    private bool _writes;

    private List<Statement> ReadStatements(int node)
    {
        var list = new List<Statement>();
        foreach (var child in Tree.NamedChildren(node))
        {
            AddStatement(child, list);
        }

        return list;
    }

    private Block ReadBlock(int node)
    {
        if (node < 0)
        {
            return EmptyBlock(Span.None);
        }

        if (Kind(node) is "compound_statement" or "colon_block")
        {
            return new Block(ReadStatements(node), SpanOf(node));
        }

        var list = new List<Statement>();
        AddStatement(node, list);
        return new Block(list, SpanOf(node));
    }

    private void AddStatement(int node, List<Statement> list)
    {
        var span = SpanOf(node);
        switch (Kind(node))
        {
            case "php_tag":
                _writes = Tree.Bytes(node).SequenceEqual("<?="u8);
                break;
            case "expression_statement" when _writes:
                _writes = false;
                list.Add(new Output([ReadInner(node)], span));
                break;
            case "php_end_tag" or "empty_statement" or "declare_statement" or "comment" or "named_label_statement" or "goto_statement" or "attribute_list":
                break;
            case "text":
                list.Add(new Output([new Literal(LiteralKind.Text, Text(node), span)], span));
                break;
            case "text_interpolation":
                foreach (var child in Tree.Children(node))
                {
                    AddStatement(child, list);
                }

                break;
            case "expression_statement":
                list.Add(new ExpressionStatement(ReadInner(node), span));
                break;
            case "echo_statement":
                list.Add(new Output(ReadSequence(node), span));
                break;
            case "compound_statement" or "colon_block":
                list.Add(ReadBlock(node));
                break;
            case "if_statement":
                list.Add(ReadIf(node));
                break;
            case "while_statement":
                list.Add(new Loop(null, ReadExpression(Tree.Field(node, _condition)), null, ReadBlock(Tree.Field(node, _body)), false, span));
                break;
            case "do_statement":
                list.Add(new Loop(null, ReadExpression(Tree.Field(node, _condition)), null, ReadBlock(Tree.Field(node, _body)), true, span));
                break;
            case "for_statement":
                list.Add(ReadFor(node));
                break;
            case "foreach_statement":
                list.Add(ReadForEach(node));
                break;
            case "switch_statement":
                list.Add(ReadSwitch(node));
                break;
            case "try_statement":
                list.Add(ReadTry(node));
                break;
            case "return_statement":
                var value = Tree.FirstNamed(node);
                list.Add(new Return(value < 0 ? null : ReadExpression(value), span));
                break;
            case "exit_statement":
                var shown = Tree.FirstNamed(node);
                list.Add(new ExpressionStatement(new ExitExpression(shown < 0 ? null : ReadExpression(shown), span), span));
                break;
            case "break_statement":
                list.Add(new Break(null, Levels(node), span));
                break;
            case "continue_statement":
                list.Add(new Continue(null, Levels(node), span));
                break;
            case "function_definition":
                list.Add(new FunctionStatement(ReadFunction(node), span));
                break;
            case "class_declaration" or "interface_declaration" or "trait_declaration" or "enum_declaration":
                list.Add(new ClassStatement(ReadClass(node), span));
                break;
            case "global_declaration":
                list.Add(new GlobalDeclaration([.. NamesIn(node)], span));
                break;
            case "function_static_declaration":
                foreach (var child in Tree.NamedChildren(node))
                {
                    var initial = Tree.Field(child, _value);
                    if (initial >= 0)
                    {
                        list.Add(new VariableDeclaration(ReadExpression(Tree.Field(child, _name)), ReadExpression(initial), true, SpanOf(child)));
                    }
                }

                break;
            case "unset_statement":
                foreach (var child in Tree.NamedChildren(node))
                {
                    // What is taken away is nothing afterwards.
                    list.Add(new ExpressionStatement(new Assignment(ReadExpression(child), null, new Literal(LiteralKind.Null, "null", SpanOf(child)), SpanOf(child)), SpanOf(child)));
                }

                break;
            case "const_declaration":
                foreach (var child in Tree.NamedChildren(node))
                {
                    if (Kind(child) == "const_element")
                    {
                        list.Add(ReadConstant(child));
                    }
                }

                break;
            case "namespace_definition":
                var ns = Tree.Field(node, _name);
                list.Add(new NamespaceStatement(ns < 0 ? "" : Text(ns), span));
                var body = Tree.Field(node, _body);
                if (body >= 0)
                {
                    list.AddRange(ReadStatements(body));
                }

                break;
            case "namespace_use_declaration":
                AddUses(node, list);
                break;
            default:
                list.Add(new ExpressionStatement(ReadExpression(node), span));
                break;
        }
    }

    private ExpressionStatement ReadConstant(int element)
    {
        int name = -1, value = -1;
        foreach (var child in Tree.NamedChildren(element))
        {
            if (name < 0)
            {
                name = child;
            }
            else
            {
                value = child;
            }
        }

        var span = SpanOf(element);
        var key = new Literal(LiteralKind.Text, name < 0 ? "" : Text(name), span);
        var arguments = new Argument[] { new(key), new(value < 0 ? NullLiteral(span) : ReadExpression(value)) };
        return new ExpressionStatement(new Call(new Name("define", span), arguments, false, span), span);
    }

    private void AddUses(int node, List<Statement> list)
    {
        var prefix = "";
        foreach (var child in Tree.NamedChildren(node))
        {
            switch (Kind(child))
            {
                case "namespace_name":
                    prefix = Text(child) + "\\";
                    break;
                case "namespace_use_clause":
                    AddUse(prefix, child, list);
                    break;
                case "namespace_use_group":
                    foreach (var clause in Tree.NamedChildren(child))
                    {
                        AddUse(prefix, clause, list);
                    }

                    break;
            }
        }
    }

    private void AddUse(string prefix, int clause, List<Statement> list)
    {
        var alias = Tree.Field(clause, FieldId("alias"));
        var target = Tree.FirstNamed(clause);
        if (target < 0)
        {
            return;
        }

        var qualified = prefix + Text(target).TrimStart('\\');
        list.Add(new UseStatement(qualified, alias >= 0 ? Text(alias) : qualified[(qualified.LastIndexOf('\\') + 1)..], SpanOf(clause)));
    }

    private int Levels(int node)
    {
        var level = Tree.FirstNamed(node);
        return level >= 0 && int.TryParse(Text(level), out var levels) && levels is > 0 and < 100 ? levels : 1;
    }

    private IEnumerable<Name> NamesIn(int node)
    {
        var names = new List<Name>();
        foreach (var child in Tree.NamedChildren(node))
        {
            if (Kind(child) == "variable_name")
            {
                names.Add(new Name(Text(child), SpanOf(child)));
            }
        }

        return names;
    }

    private If ReadIf(int node)
    {
        var branches = new List<int>();
        foreach (var child in Tree.NamedChildren(node))
        {
            if (Kind(child) is "else_clause" or "else_if_clause")
            {
                branches.Add(child);
            }
        }

        Statement? otherwise = null;
        for (var i = branches.Count - 1; i >= 0; i--)
        {
            var body = ReadBlock(Tree.Field(branches[i], _body));
            otherwise = Kind(branches[i]) == "else_clause"
                ? body
                : new If(ReadExpression(Tree.Field(branches[i], _condition)), body, otherwise, SpanOf(branches[i]));
        }

        return new If(ReadExpression(Tree.Field(node, _condition)), ReadBlock(Tree.Field(node, _body)), otherwise, SpanOf(node));
    }

    private Loop ReadFor(int node)
    {
        var span = SpanOf(node);
        var initial = Tree.Field(node, FieldId("initialize"));
        var condition = Tree.Field(node, _condition);
        var update = Tree.Field(node, FieldId("update"));
        var body = new List<Statement>();
        foreach (var child in Tree.NamedChildren(node))
        {
            if (Tree.Node(child).Field == _body)
            {
                AddStatement(child, body);
            }
        }

        return new Loop(
            initial < 0 ? null : new ExpressionStatement(ReadExpression(initial), SpanOf(initial)),
            condition < 0 ? null : ReadExpression(condition),
            update < 0 ? null : ReadExpression(update),
            new Block(body, span),
            false,
            span);
    }

    private ForEach ReadForEach(int node)
    {
        int source = -1, target = -1, body = Tree.Field(node, _body);
        foreach (var child in Tree.NamedChildren(node))
        {
            if (child == body)
            {
                continue;
            }

            if (source < 0)
            {
                source = child;
            }
            else if (target < 0)
            {
                target = child;
            }
        }

        Expression? key = null;
        Expression value;
        if (target >= 0 && Kind(target) == "pair")
        {
            var parts = new List<int>();
            foreach (var part in Tree.NamedChildren(target))
            {
                parts.Add(part);
            }

            key = parts.Count > 0 ? ReadExpression(parts[0]) : null;
            value = parts.Count > 1 ? ReadExpression(parts[1]) : NullLiteral(SpanOf(target));
        }
        else
        {
            value = target < 0 ? NullLiteral(SpanOf(node)) : ReadExpression(target);
        }

        var from = source < 0 ? NullLiteral(SpanOf(node)) : ReadExpression(source);
        return new ForEach(key, value, from, ReadBlock(body), false, false, SpanOf(node));
    }

    private Switch ReadSwitch(int node)
    {
        var cases = new List<SwitchCase>();
        var body = Tree.Field(node, _body);
        if (body >= 0)
        {
            foreach (var child in Tree.NamedChildren(body))
            {
                var value = Kind(child) == "case_statement" ? Tree.Field(child, _value) : -1;
                var statements = new List<Statement>();
                foreach (var inner in Tree.NamedChildren(child))
                {
                    if (inner != value)
                    {
                        AddStatement(inner, statements);
                    }
                }

                cases.Add(new SwitchCase(value < 0 ? null : ReadExpression(value), statements));
            }
        }

        return new Switch(ReadExpression(Tree.Field(node, _condition)), cases, SpanOf(node));
    }

    private Try ReadTry(int node)
    {
        var catches = new List<CatchClause>();
        Block? last = null;
        foreach (var child in Tree.NamedChildren(node))
        {
            switch (Kind(child))
            {
                case "catch_clause":
                    var name = Tree.Field(child, _name);
                    catches.Add(new CatchClause(name < 0 ? null : ReadExpression(name), ReadBlock(Tree.Field(child, _body))));
                    break;
                case "finally_clause":
                    last = ReadBlock(Tree.Field(child, _body));
                    break;
            }
        }

        return new Try(ReadBlock(Tree.Field(node, _body)), catches, last, SpanOf(node));
    }
}
