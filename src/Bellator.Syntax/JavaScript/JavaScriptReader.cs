using Bellator.Syntax.Parsing;
using Bellator.Text;

namespace Bellator.Syntax.JavaScript;

/// <summary>Reads JavaScript and TypeScript, with JSX. Types are kept only where they say which class a value has.</summary>
internal sealed partial class JavaScriptReader : Reader
{
    /// <summary>Decorators that stand before an export and belong to the class in it.</summary>
    private List<Annotation> _exported = [];

    private readonly byte _source;

    internal JavaScriptReader(FlatTree tree, SourceFile file)
        : base(tree, file)
    {
        _source = FieldId("source");
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

    private Block ReadBlock(int node)
    {
        if (node < 0)
        {
            return EmptyBlock(Span.None);
        }

        if (Kind(node) is "statement_block")
        {
            return new Block(ReadStatements(node), SpanOf(node));
        }

        var list = new List<Statement>();
        if (Kind(node) == "else_clause")
        {
            node = Tree.FirstNamed(node);
            if (node < 0)
            {
                return EmptyBlock(Span.None);
            }
        }

        AddStatement(node, list);
        return new Block(list, SpanOf(node));
    }

    private void AddStatement(int node, List<Statement> list)
    {
        var span = SpanOf(node);
        switch (Kind(node))
        {
            case "empty_statement" or "comment" or "html_comment" or "hash_bang_line" or "debugger_statement" or "interface_declaration" or "type_alias_declaration"
                or "ambient_declaration" or "function_signature" or "import_alias":
                break;
            case "expression_statement":
                var inner = Tree.FirstNamed(node);
                if (inner >= 0 && Kind(inner) is "internal_module" or "module")
                {
                    list.Add(ReadBlock(Tree.Field(inner, _body)));
                }
                else
                {
                    list.Add(new ExpressionStatement(ReadInner(node), span));
                }

                break;
            case "internal_module" or "module":
                list.Add(ReadBlock(Tree.Field(node, _body)));
                break;
            case "statement_block" or "class_static_block":
                list.Add(ReadBlock(Kind(node) == "class_static_block" ? Tree.Field(node, _body) : node));
                break;
            case "variable_declaration" or "lexical_declaration" or "using_declaration":
                AddDeclarations(node, list);
                break;
            case "if_statement":
                var otherwise = Tree.Field(node, _alternative);
                list.Add(new If(
                    ReadExpression(Tree.Field(node, _condition)),
                    ReadBlock(Tree.Field(node, _consequence)),
                    otherwise < 0 ? null : ReadBlock(otherwise),
                    span));
                break;
            case "for_statement":
                list.Add(ReadFor(node));
                break;
            case "for_in_statement":
                list.Add(ReadForIn(node));
                break;
            case "while_statement":
                list.Add(new Loop(null, ReadExpression(Tree.Field(node, _condition)), null, ReadBlock(Tree.Field(node, _body)), false, span));
                break;
            case "do_statement":
                list.Add(new Loop(null, ReadExpression(Tree.Field(node, _condition)), null, ReadBlock(Tree.Field(node, _body)), true, span));
                break;
            case "switch_statement":
                list.Add(ReadSwitch(node));
                break;
            case "try_statement":
                list.Add(ReadTry(node));
                break;
            case "with_statement":
                list.Add(new ExpressionStatement(ReadExpression(Tree.Field(node, _object)), span));
                list.Add(ReadBlock(Tree.Field(node, _body)));
                break;
            case "return_statement":
                var value = Tree.FirstNamed(node);
                list.Add(new Return(value < 0 ? null : ReadExpression(value), span));
                break;
            case "throw_statement":
                list.Add(new ExpressionStatement(new ThrowExpression(ReadInner(node), span), span));
                break;
            case "break_statement":
                list.Add(new Break(LabelOf(node), 1, span));
                break;
            case "continue_statement":
                list.Add(new Continue(LabelOf(node), 1, span));
                break;
            case "labeled_statement":
                list.Add(new Labeled(Text(Tree.Field(node, FieldId("label"))), ReadBlock(Tree.Field(node, _body)), span));
                break;
            case "function_declaration" or "generator_function_declaration":
                list.Add(new FunctionStatement(ReadFunction(node), span));
                break;
            case "class_declaration" or "abstract_class_declaration":
                list.Add(new ClassStatement(ReadClass(node), span));
                break;
            case "enum_declaration":
                list.Add(ReadEnum(node));
                break;
            case "import_statement":
                AddImport(node, list);
                break;
            case "export_statement":
                _exported = ReadDecorators(node);
                AddExport(node, list);
                _exported = [];
                break;
            default:
                list.Add(new ExpressionStatement(ReadExpression(node), span));
                break;
        }
    }

    private string? LabelOf(int node)
    {
        var label = Tree.Field(node, FieldId("label"));
        return label < 0 ? null : Text(label);
    }

    private void AddDeclarations(int node, List<Statement> list)
    {
        var functionWide = Kind(node) == "variable_declaration";
        foreach (var child in Tree.NamedChildren(node))
        {
            if (Kind(child) != "variable_declarator")
            {
                continue;
            }

            var value = Tree.Field(child, _value);
            var type = Tree.Field(child, _type);
            Expression? initial = value < 0 ? null : ReadExpression(value);
            if (initial is not null && type >= 0 && ReadTypeName(type) is { } declared)
            {
                initial = new Cast("as:" + declared.Name, initial, initial.Span);
            }

            list.Add(new VariableDeclaration(ReadTarget(Tree.Field(child, _name)), initial, functionWide, SpanOf(child)));
        }
    }

    private Loop ReadFor(int node)
    {
        var initial = Tree.Field(node, FieldId("initializer"));
        var condition = Tree.Field(node, _condition);
        var increment = Tree.Field(node, FieldId("increment"));
        var first = new List<Statement>();
        if (initial >= 0)
        {
            if (Kind(initial).EndsWith("_declaration", StringComparison.Ordinal))
            {
                AddDeclarations(initial, first);
            }
            else if (Kind(initial) != "empty_statement")
            {
                first.Add(new ExpressionStatement(ReadExpression(initial), SpanOf(initial)));
            }
        }

        var usable = condition >= 0 && Tree.Node(condition).IsNamed && Kind(condition) != "empty_statement";
        var loop = new Loop(
            first.Count == 1 ? first[0] : first.Count == 0 ? null : new Block(first, SpanOf(initial)),
            usable ? ReadExpression(Kind(condition) == "expression_statement" ? Tree.FirstNamed(condition) : condition) : null,
            increment < 0 ? null : ReadExpression(increment),
            ReadBlock(Tree.Field(node, _body)),
            false,
            SpanOf(node));
        return loop;
    }

    private ForEach ReadForIn(int node)
    {
        var op = Tree.Field(node, _operator);
        var kind = Tree.Field(node, FieldId("kind"));
        var wide = kind >= 0 && Text(kind) == "var";
        return new ForEach(
            null,
            ReadTarget(Tree.Field(node, _left)),
            ReadExpression(Tree.Field(node, _right)),
            ReadBlock(Tree.Field(node, _body)),
            kind >= 0 && !wide,
            op >= 0 && Text(op) == "in",
            SpanOf(node))
        { FunctionWide = wide };
    }

    private Switch ReadSwitch(int node)
    {
        var cases = new List<SwitchCase>();
        foreach (var child in Tree.NamedChildren(Tree.Field(node, _body)))
        {
            var value = Kind(child) == "switch_case" ? Tree.Field(child, _value) : -1;
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

        return new Switch(ReadExpression(Tree.Field(node, _value)), cases, SpanOf(node));
    }

    private Try ReadTry(int node)
    {
        var catches = new List<CatchClause>();
        var handler = Tree.Field(node, FieldId("handler"));
        if (handler >= 0)
        {
            var parameter = Tree.Field(handler, FieldId("parameter"));
            catches.Add(new CatchClause(parameter < 0 ? null : ReadTarget(parameter), ReadBlock(Tree.Field(handler, _body))));
        }

        var last = Tree.Field(node, FieldId("finalizer"));
        return new Try(ReadBlock(Tree.Field(node, _body)), catches, last < 0 ? null : ReadBlock(Tree.Field(last, _body)), SpanOf(node));
    }

    private VariableDeclaration ReadEnum(int node)
    {
        var entries = new List<Entry>();
        foreach (var member in Tree.NamedChildren(Tree.Field(node, _body)))
        {
            var name = Kind(member) == "enum_assignment" ? Tree.Field(member, _name) : member;
            var value = Kind(member) == "enum_assignment" ? Tree.Field(member, _value) : -1;
            var text = KeyText(name) ?? "";
            entries.Add(new Entry(text, null, value < 0 ? new Literal(LiteralKind.Text, text, SpanOf(member)) : ReadExpression(value)));
        }

        var span = SpanOf(node);
        return new VariableDeclaration(ReadTarget(Tree.Field(node, _name)), new ObjectLiteral(entries, false, span), false, span);
    }

    private void AddImport(int node, List<Statement> list)
    {
        var source = Tree.Field(node, _source);
        var names = new List<ImportedName>();
        var module = source < 0 ? "" : JavaScriptText.Unquote(Text(source));
        foreach (var clause in Tree.NamedChildren(node))
        {
            if (Kind(clause) == "import_require_clause")
            {
                module = JavaScriptText.Unquote(Text(Tree.Field(clause, _source)));
                names.Add(new ImportedName("*", NameAt(Tree.FirstNamed(clause))));
            }

            if (Kind(clause) != "import_clause")
            {
                continue;
            }

            foreach (var child in Tree.NamedChildren(clause))
            {
                switch (Kind(child))
                {
                    case "identifier":
                        names.Add(new ImportedName("default", NameAt(child)));
                        break;
                    case "namespace_import":
                        names.Add(new ImportedName("*", NameAt(Tree.FirstNamed(child))));
                        break;
                    case "named_imports":
                        foreach (var specifier in Tree.NamedChildren(child))
                        {
                            var name = Tree.Field(specifier, _name);
                            var alias = Tree.Field(specifier, FieldId("alias"));
                            if (name >= 0)
                            {
                                names.Add(new ImportedName(Text(name), NameAt(alias < 0 ? name : alias)));
                            }
                        }

                        break;
                }
            }
        }

        list.Add(new Import(module, names, SpanOf(node)));
    }

    private void AddExport(int node, List<Statement> list)
    {
        var span = SpanOf(node);
        var declaration = Tree.Field(node, FieldId("declaration"));
        var value = Tree.Field(node, _value);
        var source = Tree.Field(node, _source);
        var module = source < 0 ? null : JavaScriptText.Unquote(Text(source));
        var isDefault = Has(node, "default");
        if (declaration >= 0)
        {
            var from = list.Count;
            AddStatement(declaration, list);
            var exported = list.GetRange(from, list.Count - from);
            foreach (var statement in exported)
            {
                foreach (var name in DeclaredNames(statement))
                {
                    list.Add(new Export(isDefault ? "default" : name.Text, new Name(name.Text, name.Span), null, span));
                }
            }

            return;
        }

        if (value >= 0)
        {
            list.Add(new Export("default", ReadExpression(value), null, span));
            return;
        }

        var any = false;
        foreach (var child in Tree.NamedChildren(node))
        {
            switch (Kind(child))
            {
                case "export_clause":
                    any = true;
                    foreach (var specifier in Tree.NamedChildren(child))
                    {
                        var name = Tree.Field(specifier, _name);
                        var alias = Tree.Field(specifier, FieldId("alias"));
                        if (name >= 0)
                        {
                            var local = NameAt(name);
                            list.Add(new Export(Text(alias < 0 ? name : alias), local, module, SpanOf(specifier)));
                        }
                    }

                    break;
                case "identifier" when !any && module is null:
                    // export = value
                    list.Add(new Export("module.exports", ReadExpression(child), null, span));
                    any = true;
                    break;
                case "function_expression" or "class" or "arrow_function" or "object" or "call_expression" when module is null:
                    list.Add(new Export("default", ReadExpression(child), null, span));
                    any = true;
                    break;
            }
        }

        if (!any && module is not null)
        {
            list.Add(new Export("*", null, module, span));
        }
    }

    private static IEnumerable<Name> DeclaredNames(Statement statement) => statement switch
    {
        VariableDeclaration declaration => TargetNames(declaration.Target),
        FunctionStatement function => [new Name(function.Function.Name, function.Function.Span)],
        ClassStatement type => [new Name(type.Declaration.Name, type.Declaration.Span)],
        _ => [],
    };

    private static IEnumerable<Name> TargetNames(Expression target) => target switch
    {
        Name name => [name],
        DefaultTarget fallback => TargetNames(fallback.Target),
        ObjectLiteral pattern => pattern.Entries.SelectMany(e => TargetNames(e.Value)),
        _ => [],
    };

    private Name NameAt(int node) => new(node < 0 ? "" : Text(node), node < 0 ? Span.None : SpanOf(node));
}
