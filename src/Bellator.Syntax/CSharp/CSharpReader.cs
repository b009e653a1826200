using Bellator.Syntax.Parsing;
using Bellator.Syntax.Templates;
using Bellator.Text;

namespace Bellator.Syntax.CSharp;

/// <summary>Reads C#'s statements.</summary>
internal sealed partial class CSharpReader : Reader
{
    private readonly byte _expression, _initializer;

    /// <summary>Names that expressions of the function around declare: <c>out var x</c>, <c>is string x</c>.</summary>
    private List<Name> _declaredInExpressions = [];
    private string _namespace = "";

    internal CSharpReader(FlatTree tree, SourceFile file)
        : base(tree, file)
    {
        _expression = FieldId("expression");
        _initializer = FieldId("initializer");
    }

    protected override Block ReadFile()
    {
        var list = new List<Statement>();
        if (IsTemplate)
        {
            var type = RazorTemplate.ModelType(Original.Content);
            Expression model = new Name("<model>", Span.None);
            list.Add(new VariableDeclaration(new Name("Model", Span.None), type is null ? model : new Cast("as:" + type, model, Span.None), false, Span.None));
        }

        AddDeclarations(0, list);
        return WithDeclared(new Block(list, SpanOf(0)), []);
    }

    private void AddDeclarations(int node, List<Statement> list)
    {
        foreach (var child in Tree.NamedChildren(node))
        {
            switch (Kind(child))
            {
                case "using_directive" or "extern_alias_directive" or "global_attribute" or "preproc_arg" or "shebang_directive" or "delegate_declaration":
                    break;
                case "namespace_declaration":
                    var outer = _namespace;
                    var name = Text(Tree.Field(child, _name));
                    _namespace = outer.Length == 0 ? name : outer + "." + name;
                    AddDeclarations(Tree.Field(child, _body), list);
                    _namespace = outer;
                    break;
                case "file_scoped_namespace_declaration":
                    _namespace = Text(Tree.Field(child, _name));
                    AddDeclarations(child, list);
                    break;
                case "class_declaration" or "record_declaration" or "struct_declaration" or "interface_declaration" or "enum_declaration":
                    AddClass(child, list, _namespace.Length == 0 ? "" : _namespace + ".");
                    break;
                case "global_statement":
                    foreach (var statement in Tree.NamedChildren(child))
                    {
                        AddStatement(statement, list);
                    }

                    break;
                case "preproc_if" or "preproc_elif" or "preproc_else":
                    AddDeclarations(child, list);
                    break;
                default:
                    if (!IsPreprocessor(child) && Tree.Node(child).Field == 0)
                    {
                        AddStatement(child, list);
                    }

                    break;
            }
        }
    }

    private bool IsPreprocessor(int node) => Kind(node).StartsWith("preproc_", StringComparison.Ordinal);

    private Block ReadBlock(int node)
    {
        if (node < 0)
        {
            return EmptyBlock(Span.None);
        }

        var list = new List<Statement>();
        switch (Kind(node))
        {
            case "block":
                foreach (var child in Tree.NamedChildren(node))
                {
                    AddStatement(child, list);
                }

                break;
            case "arrow_expression_clause":
                var value = ReadInner(node);
                list.Add(value is ThrowExpression ? new ExpressionStatement(value, value.Span) : new Return(value, value.Span));
                break;
            default:
                AddStatement(node, list);
                break;
        }

        return new Block(list, SpanOf(node));
    }

    /// <summary>The body with the variables that its expressions declare.</summary>
    private Block WithDeclared(Block body, List<Name> outer)
    {
        var names = _declaredInExpressions;
        _declaredInExpressions = outer;
        return names.Count == 0 ? body : new Block([.. names.Select(n => new VariableDeclaration(n, null, true, n.Span)), .. body.Statements], body.Span);
    }

    private void AddStatement(int node, List<Statement> list)
    {
        var span = SpanOf(node);
        switch (Kind(node))
        {
            case "empty_statement" or "comment" or "goto_statement":
                break;
            case "block":
                list.Add(ReadBlock(node));
                break;
            case "expression_statement":
                list.Add(new ExpressionStatement(ReadInner(node), span));
                break;
            case "local_declaration_statement":
                AddVariables(Tree.Child(node, "variable_declaration"), list);
                break;
            case "variable_declaration":
                AddVariables(node, list);
                break;
            case "if_statement":
                var alternative = Tree.Field(node, _alternative);
                list.Add(new If(ReadExpression(Tree.Field(node, _condition)), ReadBlock(Tree.Field(node, _consequence)), alternative < 0 ? null : ReadBlock(alternative), span));
                break;
            case "while_statement" or "do_statement":
                list.Add(new Loop(null, ReadExpression(Tree.Field(node, _condition)), null, ReadBlock(Tree.Field(node, _body)), Kind(node)[0] == 'd', span));
                break;
            case "for_statement":
                list.Add(ReadFor(node));
                break;
            case "foreach_statement":
                list.Add(new ForEach(
                    null, ReadTarget(Tree.Field(node, _left)), ReadExpression(Tree.Field(node, _right)), ReadBlock(Tree.Field(node, _body)), true, false, span));
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
            case "yield_statement":
                var yielded = Tree.FirstNamed(node);
                list.Add(yielded < 0 ? new Return(null, span) : new ExpressionStatement(new PassThrough("yield", ReadExpression(yielded), span), span));
                break;
            case "throw_statement":
                list.Add(new ExpressionStatement(new ThrowExpression(ReadInner(node), span), span));
                break;
            case "break_statement":
                list.Add(new Break(null, 1, span));
                break;
            case "continue_statement":
                list.Add(new Continue(null, 1, span));
                break;
            case "local_function_statement":
                list.Add(new FunctionStatement(ReadFunction(node, arrow: true), span));
                break;
            case "using_statement" or "lock_statement" or "fixed_statement" or "checked_statement" or "unsafe_statement" or "labeled_statement":
                ReadWrapped(node, list);
                break;
            case "preproc_if" or "preproc_elif" or "preproc_else":
                foreach (var child in Tree.NamedChildren(node))
                {
                    if (Tree.Node(child).Field != _condition)
                    {
                        AddStatement(child, list);
                    }
                }

                break;
            default:
                if (!IsPreprocessor(node))
                {
                    list.Add(new ExpressionStatement(ReadExpression(node), span));
                }

                break;
        }
    }

    private void ReadWrapped(int node, List<Statement> list)
    {
        var inner = new List<Statement>();
        foreach (var child in Tree.NamedChildren(node))
        {
            if (Kind(node) == "labeled_statement" && Kind(child) == "identifier")
            {
                continue;
            }

            AddStatement(child, inner);
        }

        list.Add(new Block(inner, SpanOf(node)));
    }

    private void AddVariables(int declaration, List<Statement> list)
    {
        if (declaration < 0)
        {
            return;
        }

        var type = ReadType(Tree.Field(declaration, _type));
        foreach (var child in Tree.NamedChildren(declaration))
        {
            if (Kind(child) != "variable_declarator")
            {
                continue;
            }

            var span = SpanOf(child);
            var name = Tree.FirstNamed(child);
            var value = Initial(child);
            var target = ReadTarget(name);
            list.Add(new VariableDeclaration(target, value is null ? null : Typed(Named(value, type)!, type), false, span));
        }
    }

    private Expression? Initial(int declarator)
    {
        var first = Tree.FirstNamed(declarator);
        foreach (var child in Tree.NamedChildren(declarator))
        {
            if (child != first && Kind(child) != "bracketed_argument_list")
            {
                return ReadExpression(child);
            }
        }

        return null;
    }

    private static Expression Typed(Expression value, TypeName? type) =>
        type is null || type.Name is "var" or "string" or "object" or "dynamic" ? value : new Cast(CastName(type.Name), value, value.Span);

    /// <summary>An object that is made without naming its class is of the declared one.</summary>
    private static Expression? Named(Expression? value, TypeName? type) =>
        value is NewExpression { Type: Name { Text: Implied } } made && type is not null ? new NewExpression(new Name(type.Name.TrimEnd('?'), made.Type.Span), made.Arguments, made.Span) : value;

    /// <summary>Stands for the class of an object that is made without naming it.</summary>
    private const string Implied = "<implied>";

    private static string CastName(string type) => type.TrimEnd('?') switch
    {
        "int" or "long" or "short" or "byte" or "uint" or "ulong" or "ushort" or "sbyte" or "char" => "int",
        "double" or "float" or "decimal" => "float",
        "bool" => "bool",
        "string" or "object" or "dynamic" => "",
        var other => "as:" + other,
    };

    private Loop ReadFor(int node)
    {
        var initial = new List<Statement>();
        var update = new List<Expression>();
        foreach (var child in Tree.NamedChildren(node))
        {
            var field = Tree.Node(child).Field;
            if (field == _initializer)
            {
                AddStatement(child, initial);
            }
            else if (field == FieldId("update"))
            {
                update.Add(ReadExpression(child));
            }
        }

        var condition = Tree.Field(node, _condition);
        return new Loop(
            initial.Count == 0 ? null : new Block(initial, SpanOf(node)),
            condition < 0 ? null : ReadExpression(condition),
            update.Count == 0 ? null : new Sequence(update, SpanOf(node)),
            ReadBlock(Tree.Field(node, _body)),
            false,
            SpanOf(node));
    }

    private Switch ReadSwitch(int node)
    {
        var subject = ReadExpression(Tree.Field(node, _value));
        var cases = new List<SwitchCase>();
        foreach (var section in Tree.NamedChildren(Tree.Field(node, _body)))
        {
            if (Kind(section) != "switch_section")
            {
                continue;
            }

            Expression? value = null;
            var body = new List<Statement>();
            var label = true;
            foreach (var child in Tree.Children(section))
            {
                if (!Tree.Node(child).IsNamed)
                {
                    label &= Kind(child) != ":";
                }
                else if (!label)
                {
                    AddStatement(child, body);
                }
                else if (Kind(child) == "when_clause")
                {
                    value = new Unary("matches", ReadInner(child), SpanOf(child));
                }
                else
                {
                    value = PatternConstant(child) ?? new Unary("matches", NullLiteral(SpanOf(child)), SpanOf(child));
                }
            }

            cases.Add(new SwitchCase(value, body));
        }

        return new Switch(subject, cases, SpanOf(node));
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
                    var declaration = Tree.Child(child, "catch_declaration");
                    var name = declaration < 0 ? -1 : Tree.Field(declaration, _name);
                    catches.Add(new CatchClause(name < 0 ? null : new Name(Text(name), SpanOf(name)), ReadBlock(Tree.Field(child, _body))));
                    break;
                case "finally_clause":
                    last = ReadBlock(Tree.Child(child, "block"));
                    break;
            }
        }

        return new Try(ReadBlock(Tree.Field(node, _body)), catches, last, SpanOf(node));
    }
}
