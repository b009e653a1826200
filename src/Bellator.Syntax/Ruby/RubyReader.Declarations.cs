using Bellator.Text;

namespace Bellator.Syntax.Ruby;

internal sealed partial class RubyReader
{
    private FunctionDeclaration ReadMethod(int node, bool isPrivate = false, bool isStatic = false)
    {
        var outerNames = _assigned;
        var outerMethod = _methodName;
        var outerLoops = _loops;
        _assigned = new HashSet<string>(StringComparer.Ordinal);
        _loops = 0;
        _methodName = Text(Tree.Field(node, _name));
        var parameters = ReadParameters(Tree.Field(node, _parameters));
        var body = ReturnLast(ReadBody(Tree.Field(node, _body)));
        var function = new FunctionDeclaration(_methodName == "initialize" ? "constructor" : _methodName, parameters, body, SpanOf(node))
        {
            IsStatic = isStatic || Kind(node) == "singleton_method",
            Annotations = isPrivate ? [new Annotation("private", [], Span.None)] : [],
        };
        _assigned = outerNames;
        _methodName = outerMethod;
        _loops = outerLoops;
        return function;
    }

    /// <summary>The body with what it evaluates last returned.</summary>
    private static Block ReturnLast(Block body)
    {
        if (body.Statements.Count == 0)
        {
            return body;
        }

        Statement last = body.Statements[^1] switch
        {
            ExpressionStatement { Expression: not (ThrowExpression or ExitExpression) } statement => new Return(statement.Expression, statement.Span),
            If branch => new If(branch.Condition, ReturnLast(AsBlock(branch.Then)), branch.Otherwise is null ? null : ReturnLast(AsBlock(branch.Otherwise)), branch.Span),
            Block inner => ReturnLast(inner),
            Try attempt => new Try(
                ReturnLast(attempt.Body), [.. attempt.Catches.Select(c => c with { Body = ReturnLast(c.Body) })], attempt.Finally, attempt.Span),
            var other => other,
        };
        return new Block([.. body.Statements.Take(body.Statements.Count - 1), last], body.Span);
    }

    private static Block AsBlock(Statement statement) => statement as Block ?? new Block([statement], statement.Span);

    private List<Parameter> ReadParameters(int node)
    {
        var list = new List<Parameter>();
        if (node < 0)
        {
            return list;
        }

        foreach (var child in Tree.NamedChildren(node))
        {
            switch (Kind(child))
            {
                case "identifier":
                    list.Add(new Parameter(Declared(child), null, null, false, false, []));
                    break;
                case "optional_parameter" or "keyword_parameter":
                    var value = Tree.Field(child, _value);
                    list.Add(new Parameter(Declared(Tree.Field(child, _name)), value < 0 ? null : ReadExpression(value), null, false, false, []));
                    break;
                case "splat_parameter" or "hash_splat_parameter" or "block_parameter":
                    var name = Tree.Field(child, _name);
                    if (name >= 0)
                    {
                        list.Add(new Parameter(Declared(name), null, null, Kind(child) == "splat_parameter", false, []));
                    }

                    break;
                case "destructured_parameter":
                    var entries = ReadParameters(child).Select(p => new Entry(null, null, p.Target)).ToList();
                    list.Add(new Parameter(new ObjectLiteral(entries, true, SpanOf(child)), null, null, false, false, []));
                    break;
            }
        }

        return list;
    }

    private Name Declared(int node)
    {
        _assigned.Add(Text(node));
        return new Name(Text(node), SpanOf(node));
    }

    private Lambda ReadClosure(int node, int parameters, int body)
    {
        var outer = _assigned;
        var outerLoops = _loops;
        _loops = 0;
        _assigned = new HashSet<string>(outer, StringComparer.Ordinal);
        var declared = ReadParameters(parameters);
        var block = ReturnLast(ReadBody(body));
        if (declared.Count == 0 && UsesImplicit(body))
        {
            declared.Add(new Parameter(new Name("it", SpanOf(node)), null, null, false, false, []));
        }

        _assigned = outer;
        _loops = outerLoops;
        return new Lambda(new FunctionDeclaration("", declared, block, SpanOf(node)) { IsArrow = true }, SpanOf(node));
    }

    /// <summary>The block's parameter is not named but used as <c>it</c>.</summary>
    private bool UsesImplicit(int body)
    {
        if (body < 0)
        {
            return false;
        }

        for (var at = body; at < (int)Tree.Node(body).Next; at++)
        {
            if (Tree.Node(at).IsNamed && Kind(at) == "identifier" && Tree.Bytes(at).SequenceEqual("it"u8))
            {
                return true;
            }
        }

        return false;
    }

    private Lambda ReadBlockOf(int node) => ReadClosure(node, Tree.Field(node, _parameters), Tree.Field(node, _body));

    private void AddClass(int node, List<Statement> list, string prefix)
    {
        var name = prefix + Text(Tree.Field(node, _name)).TrimStart(':');
        var superclass = Tree.Field(node, FieldId("superclass"));
        var members = new Members(name);
        var body = Tree.Field(node, _body);
        if (body >= 0)
        {
            foreach (var member in Tree.NamedChildren(body))
            {
                ReadMember(member, members, list);
            }
        }

        if (members.Body.Count > 0)
        {
            members.Methods.Add(new FunctionDeclaration("<body>", [], new Block(members.Body, SpanOf(node)), SpanOf(node)) { IsStatic = true });
        }

        list.Add(new ClassStatement(
            new ClassDeclaration(name, Kind(node) == "module" ? ClassKind.Trait : ClassKind.Class, SpanOf(node))
            {
                Base = superclass < 0 ? null : BaseOf(superclass),
                Traits = members.Traits,
                Fields = members.Fields,
                Methods = members.Methods,
                Annotations = members.Annotations,
            },
            SpanOf(node)));
    }

    /// <summary>The class that is derived from; <c>ActiveRecord::Migration[7.1]</c> is that class as it was in a version.</summary>
    private Expression? BaseOf(int superclass) => ReadInner(superclass) is var read && read is IndexExpression versions ? versions.Target : read;

    private void ReadMember(int member, Members members, List<Statement> outside)
    {
        switch (Kind(member))
        {
            case "method":
                members.Methods.Add(ReadMethod(member, members.IsPrivate));
                break;
            case "singleton_method":
                members.Methods.Add(ReadMethod(member, isStatic: true));
                break;
            case "singleton_class":
                foreach (var child in Tree.NamedChildren(Tree.Field(member, _body)))
                {
                    if (Kind(child) == "method")
                    {
                        members.Methods.Add(ReadMethod(child, isStatic: true));
                    }
                }

                break;
            case "class" or "module":
                AddClass(member, outside, members.Name + "::");
                break;
            case "identifier" when Text(member) is "private" or "protected" or "public":
                members.IsPrivate = Text(member) != "public";
                break;
            case "identifier":
                // A directive without arguments: has_secure_password
                members.Annotations.Add(new Annotation(Text(member), [], SpanOf(member)));
                AddStatement(member, members.Body);
                break;
            case "assignment" when Kind(Tree.Field(member, _left)) is "constant" or "class_variable":
                members.Fields.Add(new Field(Text(Tree.Field(member, _left)).TrimStart('@'), ReadExpression(Tree.Field(member, _right)), null, true, [], SpanOf(member)));
                break;
            case "call" when Tree.Field(member, _receiver) < 0:
                ReadDirective(member, members, outside);
                break;
            default:
                AddStatement(member, members.Body);
                break;
        }
    }

    /// <summary>A call in the body of a class, such as <c>before_action :sign_in</c>: kept as a declaration, and run as code for its blocks.</summary>
    private void ReadDirective(int node, Members members, List<Statement> outside)
    {
        var name = Text(Tree.Field(node, _method));
        var argumentList = Tree.Field(node, _arguments);
        if (name is "private" or "protected" or "private_class_method" && argumentList >= 0 && Tree.FirstNamed(argumentList) is >= 0 and var first && Kind(first) == "method")
        {
            members.Methods.Add(ReadMethod(first, true));
            return;
        }

        if (name is "included" or "class_methods" && Tree.Field(node, _block) is >= 0 and var block)
        {
            foreach (var child in Tree.NamedChildren(Tree.Field(block, _body)))
            {
                ReadMember(child, members, outside);
            }

            return;
        }

        var arguments = ReadArguments(argumentList);
        if (name is "include" or "prepend" or "extend")
        {
            members.Traits.AddRange(arguments.Select(a => a.Value).OfType<Name>().Select(n => n.Text));
        }

        members.Annotations.Add(new Annotation(name, arguments, SpanOf(node)));
        members.Body.Add(new ExpressionStatement(ReadExpression(node), SpanOf(node)));
    }

    private sealed class Members(string name)
    {
        public string Name { get; } = name;

        public List<FunctionDeclaration> Methods { get; } = [];

        public List<Field> Fields { get; } = [];

        public List<string> Traits { get; } = [];

        public List<Annotation> Annotations { get; } = [];

        public List<Statement> Body { get; } = [];

        public bool IsPrivate { get; set; }
    }
}
