namespace Bellator.Syntax.CSharp;

internal sealed partial class CSharpReader
{
    /// <summary>Set on a method whose first parameter is the object it is called on.</summary>
    private const string Extension = "<extension>";

    private FunctionDeclaration ReadFunction(int node, bool arrow = false, string? name = null, int body = -1)
    {
        var outer = _declaredInExpressions;
        _declaredInExpressions = [];
        var parameterList = Tree.Field(node, _parameters);
        var parameters = ReadParameters(parameterList);
        body = body >= 0 ? body : Tree.Field(node, _body);
        var block = ReadBlock(body);
        if (Kind(node) == "constructor_declaration" && Tree.Child(node, "constructor_initializer") is >= 0 and var chained)
        {
            var arguments = ReadArguments(Tree.Child(chained, "argument_list"));
            var target = Has(chained, "base") ? "parent" : "self";
            var call = new Call(new StaticMember(new Name(target, SpanOf(chained)), "constructor", SpanOf(chained)), arguments, false, SpanOf(chained));
            block = new Block([new ExpressionStatement(call, SpanOf(chained)), .. block.Statements], block.Span);
        }

        var annotations = ReadAttributes(node);
        if (parameterList >= 0 && Tree.Child(parameterList, "parameter") is >= 0 and var first && HasModifier(first, "this"))
        {
            annotations.Add(new Annotation(Extension, [], SpanOf(node)));
        }

        foreach (var modifier in (ReadOnlySpan<string>)["public", "private", "protected", "internal"])
        {
            if (HasModifier(node, modifier))
            {
                annotations.Add(new Annotation(modifier, [], SpanOf(node)));
            }
        }

        var nameNode = Tree.Field(node, _name);
        return new FunctionDeclaration(name ?? (nameNode < 0 ? "" : Text(nameNode)), parameters, WithDeclared(block, outer), SpanOf(node))
        {
            IsArrow = arrow,
            IsStatic = HasModifier(node, "static"),
            IsAbstract = body < 0,
            ReturnType = Unwrapped(ReadType(Tree.Field(node, FieldId("returns")) is >= 0 and var returns ? returns : Tree.Field(node, _type))),
            Annotations = annotations,
        };
    }

    private bool HasModifier(int node, string modifier)
    {
        foreach (var child in Tree.NamedChildren(node))
        {
            if (Kind(child) == "modifier" && Text(child) == modifier)
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>Of a task or an action's result, what it is of.</summary>
    private static TypeName? Unwrapped(TypeName? type) =>
        type is { Name: "Task" or "ValueTask" or "ActionResult" or "IEnumerable", Arguments: [var inner] } ? Unwrapped(inner) : type;

    private List<Parameter> ReadParameters(int node)
    {
        var list = new List<Parameter>();
        if (node < 0)
        {
            return list;
        }

        if (Kind(node) is "implicit_parameter" or "identifier")
        {
            list.Add(new Parameter(new Name(Text(node), SpanOf(node)), null, null, false, false, []));
            return list;
        }

        foreach (var child in Tree.NamedChildren(node))
        {
            if (Kind(child) == "identifier" && Tree.Node(child).Field == _name)
            {
                // "params T[] rest" stands in the list itself.
                list.Add(new Parameter(new Name(Text(child), SpanOf(child)), null, ReadType(Tree.Field(node, _type)), true, false, []));
            }

            if (Kind(child) is not ("parameter" or "implicit_parameter"))
            {
                continue;
            }

            var name = Tree.Field(child, _name);
            Expression? fallback = null;
            foreach (var inner in Tree.NamedChildren(child))
            {
                if (inner != name && inner != Tree.Field(child, _type) && Kind(inner) is not ("attribute_list" or "modifier" or "preproc_if_in_attribute_list"))
                {
                    fallback = ReadExpression(inner);
                }
            }

            var text = name < 0 ? Text(child) : Text(name);
            list.Add(new Parameter(new Name(text, SpanOf(name < 0 ? child : name)), fallback, ReadType(Tree.Field(child, _type)), HasModifier(child, "params"), false, ReadAttributes(child)));
        }

        return list;
    }

    private TypeName? ReadType(int node)
    {
        if (node < 0)
        {
            return null;
        }

        switch (Kind(node))
        {
            case "identifier" or "predefined_type" or "alias_qualified_name" or "implicit_type":
                return TypeName.Of(Text(node));
            case "qualified_name":
                return ReadType(Tree.Field(node, _name));
            case "nullable_type" or "ref_type" or "scoped_type" or "pointer_type":
                return ReadType(Tree.Field(node, _type));
            case "array_type":
                return new TypeName("[]", ReadType(Tree.Field(node, _type)) is { } element ? [element] : []);
            case "generic_name":
                var arguments = new List<TypeName>();
                var list = Tree.Child(node, "type_argument_list");
                if (list >= 0)
                {
                    foreach (var child in Tree.NamedChildren(list))
                    {
                        if (ReadType(child) is { } argument)
                        {
                            arguments.Add(argument);
                        }
                    }
                }

                return new TypeName(Text(Tree.FirstNamed(node)), arguments);
            default:
                return null;
        }
    }

    private List<Annotation> ReadAttributes(int node)
    {
        var list = new List<Annotation>();
        foreach (var child in Tree.NamedChildren(node))
        {
            if (Kind(child) != "attribute_list")
            {
                continue;
            }

            foreach (var attribute in Tree.NamedChildren(child))
            {
                if (Kind(attribute) == "attribute")
                {
                    var arguments = Tree.Child(attribute, "attribute_argument_list");
                    list.Add(new Annotation(Text(Tree.Field(attribute, _name)), ReadArguments(arguments), SpanOf(attribute)));
                }
            }
        }

        return list;
    }

    private void AddClass(int node, List<Statement> list, string prefix)
    {
        var name = prefix + Text(Tree.Field(node, _name));
        var fields = new List<Field>();
        var methods = new List<FunctionDeclaration>();
        var interfaces = new List<string>();
        Expression? parent = null;
        IReadOnlyList<string> of = [];
        if (Tree.Child(node, "base_list") is >= 0 and var bases)
        {
            foreach (var child in Tree.NamedChildren(bases))
            {
                var type = ReadType(Kind(child) == "primary_constructor_base_type" ? Tree.FirstNamed(child) : child);
                if (type is null)
                {
                    continue;
                }

                // By convention interfaces, and only they, begin with a capital I before another capital.
                if (type.Name is ['I', >= 'A' and <= 'Z', ..] || parent is not null)
                {
                    interfaces.Add(type.Name);
                }
                else
                {
                    parent = new Name(type.Name, SpanOf(child));
                    of = [.. type.Arguments.Select(a => a.Name)];
                }
            }
        }

        var kind = Kind(node) switch { "interface_declaration" => ClassKind.Interface, "enum_declaration" => ClassKind.Enum, _ => ClassKind.Class };
        AddPrimaryConstructor(node, fields, methods);
        var body = Tree.Field(node, _body);
        if (body >= 0)
        {
            AddMembers(body, name, fields, methods, list);
        }

        var annotations = ReadAttributes(node);
        if (HasModifier(node, "partial"))
        {
            annotations.Add(new Annotation("<partial>", [], SpanOf(node)));
        }

        list.Add(new ClassStatement(
            new ClassDeclaration(name, kind, SpanOf(node)) { Base = parent, BaseArguments = of, Interfaces = interfaces, Fields = fields, Methods = methods, Annotations = annotations },
            SpanOf(node)));
    }

    /// <summary>The parameters of a class or record are members that its constructor fills.</summary>
    private void AddPrimaryConstructor(int node, List<Field> fields, List<FunctionDeclaration> methods)
    {
        var list = Tree.Child(node, "parameter_list");
        if (list < 0)
        {
            return;
        }

        var parameters = ReadParameters(list).ConvertAll(p => p with { Promoted = true });
        fields.AddRange(parameters.Where(p => p.Name is not null).Select(p => new Field(p.Name!, null, p.Type, false, p.Annotations, p.Target.Span)));
        methods.Add(new FunctionDeclaration("constructor", parameters, EmptyBlock(SpanOf(list)), SpanOf(list)));
    }

    private void AddMembers(int body, string name, List<Field> fields, List<FunctionDeclaration> methods, List<Statement> outside)
    {
        foreach (var member in Tree.NamedChildren(body))
        {
            switch (Kind(member))
            {
                case "method_declaration" or "operator_declaration" or "conversion_operator_declaration" or "destructor_declaration":
                    methods.Add(ReadFunction(member));
                    break;
                case "constructor_declaration":
                    methods.Add(ReadFunction(member, name: "constructor"));
                    break;
                case "field_declaration" or "event_field_declaration":
                    AddFields(member, fields);
                    break;
                case "property_declaration" or "indexer_declaration":
                    AddProperty(member, fields, methods);
                    break;
                case "enum_member_declaration":
                    fields.Add(new Field(Text(Tree.Field(member, _name)), null, null, true, [], SpanOf(member)));
                    break;
                case "class_declaration" or "record_declaration" or "struct_declaration" or "interface_declaration" or "enum_declaration":
                    AddClass(member, outside, name + ".");
                    break;
                case "preproc_if" or "preproc_else" or "preproc_elif":
                    AddMembers(member, name, fields, methods, outside);
                    break;
            }
        }
    }

    private void AddFields(int member, List<Field> fields)
    {
        var declaration = Tree.Child(member, "variable_declaration");
        if (declaration < 0)
        {
            return;
        }

        var type = ReadType(Tree.Field(declaration, _type));
        foreach (var child in Tree.NamedChildren(declaration))
        {
            if (Kind(child) == "variable_declarator")
            {
                fields.Add(new Field(
                    Text(Tree.FirstNamed(child)), Named(Initial(child), type), type, HasModifier(member, "static") || HasModifier(member, "const"), ReadAttributes(member), SpanOf(child)));
            }
        }
    }

    private void AddProperty(int member, List<Field> fields, List<FunctionDeclaration> methods)
    {
        var nameNode = Tree.Field(member, _name);
        var name = nameNode < 0 ? "this[]" : Text(nameNode);
        var span = SpanOf(member);
        var value = Tree.Field(member, _value);
        var initial = value < 0 ? null : Named(ReadExpression(Kind(value) == "arrow_expression_clause" ? Tree.FirstNamed(value) : value), ReadType(Tree.Field(member, _type)));
        var accessors = Tree.Field(member, FieldId("accessors"));
        if (accessors >= 0)
        {
            foreach (var accessor in Tree.NamedChildren(accessors))
            {
                var body = Tree.Field(accessor, _body);
                if (Kind(accessor) != "accessor_declaration" || body < 0)
                {
                    continue;
                }

                var kind = Text(Tree.Field(accessor, _name));
                var function = ReadFunction(accessor, name: kind + "_" + name, body: body);
                if (kind == "get")
                {
                    // Reading the property runs its getter.
                    initial = Accessors.Read(name, null, false, [], span).Value;
                    methods.Add(function);
                }
                else
                {
                    methods.Add(new FunctionDeclaration(
                        function.Name, [new Parameter(new Name("value", span), null, ReadType(Tree.Field(member, _type)), false, false, [])], function.Body, function.Span));
                }
            }
        }

        fields.Add(new Field(name, initial, ReadType(Tree.Field(member, _type)), HasModifier(member, "static"), ReadAttributes(member), span));
    }
}
