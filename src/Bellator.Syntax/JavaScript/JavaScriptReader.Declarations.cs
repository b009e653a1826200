namespace Bellator.Syntax.JavaScript;

internal sealed partial class JavaScriptReader
{
    private FunctionDeclaration ReadFunction(int node, IReadOnlyList<Annotation>? decorators = null)
    {
        var name = Tree.Field(node, _name);
        var body = Tree.Field(node, _body);
        var parameters = Tree.Field(node, _parameters);
        var single = Tree.Field(node, FieldId("parameter"));
        Block block;
        if (body >= 0 && Kind(body) != "statement_block")
        {
            var value = ReadExpression(body);
            block = new Block([new Return(value, value.Span)], SpanOf(body));
        }
        else
        {
            block = ReadBlock(body);
        }

        return new FunctionDeclaration(
            name < 0 ? "" : KeyText(name) ?? Text(name),
            single >= 0 ? [new Parameter(ReadTarget(single), null, null, false, false, [])] : ReadParameters(parameters),
            block,
            SpanOf(node))
        {
            IsArrow = Kind(node) == "arrow_function",
            IsStatic = Has(node, "static"),
            IsAbstract = body < 0,
            Annotations = [.. decorators ?? [], .. ReadDecorators(node), .. Visibility(node)],
            ReturnType = ReadTypeName(Tree.Field(node, FieldId("return_type"))),
        };
    }

    private List<Parameter> ReadParameters(int node)
    {
        var list = new List<Parameter>();
        if (node < 0)
        {
            return list;
        }

        foreach (var child in Tree.NamedChildren(node))
        {
            var kind = Kind(child);
            if (kind is "required_parameter" or "optional_parameter")
            {
                var pattern = Tree.Field(child, _pattern);
                if (pattern < 0 || Kind(pattern) == "this")
                {
                    continue;
                }

                var value = Tree.Field(child, _value);
                list.Add(new Parameter(
                    ReadTarget(pattern),
                    value < 0 ? null : ReadExpression(value),
                    ReadTypeName(Tree.Field(child, _type)),
                    Kind(pattern) == "rest_pattern",
                    Tree.Child(child, "accessibility_modifier") >= 0 || Has(child, "readonly"),
                    ReadDecorators(child)));
            }
            else if (kind == "assignment_pattern")
            {
                list.Add(new Parameter(ReadTarget(Tree.Field(child, _left)), ReadExpression(Tree.Field(child, _right)), null, false, false, []));
            }
            else
            {
                list.Add(new Parameter(ReadTarget(child), null, null, kind == "rest_pattern", false, []));
            }
        }

        return list;
    }

    private TypeName? ReadTypeName(int node)
    {
        if (node < 0)
        {
            return null;
        }

        switch (Kind(node))
        {
            case "type_identifier" or "nested_type_identifier" or "identifier" or "predefined_type" or "member_expression":
                return TypeName.Of(Text(node));
            case "generic_type":
                var arguments = new List<TypeName>();
                var list = Tree.Child(node, "type_arguments");
                if (list >= 0)
                {
                    foreach (var child in Tree.NamedChildren(list))
                    {
                        if (ReadTypeName(child) is { } argument)
                        {
                            arguments.Add(argument);
                        }
                    }
                }

                var name = Text(Tree.Field(node, _name));
                return name == "Promise" && arguments.Count > 0 ? arguments[0] : new TypeName(name, arguments);
            case "type_annotation" or "parenthesized_type" or "readonly_type":
                return ReadTypeName(Tree.FirstNamed(node));
            case "union_type" or "intersection_type":
                foreach (var child in Tree.NamedChildren(node))
                {
                    if (ReadTypeName(child) is { } type)
                    {
                        return type;
                    }
                }

                return null;
            default:
                return null;
        }
    }

    private List<Annotation> ReadDecorators(int node)
    {
        var list = new List<Annotation>();
        foreach (var child in Tree.NamedChildren(node))
        {
            if (Kind(child) == "decorator")
            {
                AddDecorator(child, list);
            }
        }

        return list;
    }

    private IEnumerable<Annotation> Visibility(int node) =>
        Tree.Child(node, "accessibility_modifier") is >= 0 and var modifier && Text(modifier) != "public" ? [new Annotation(Text(modifier), [], SpanOf(modifier))] : [];

    private void AddDecorator(int child, List<Annotation> list)
    {
        var inner = Tree.FirstNamed(child);
        if (inner < 0)
        {
            return;
        }

        var isCall = Kind(inner) == "call_expression";
        var name = isCall ? Tree.Field(inner, _function) : inner;
        var arguments = isCall ? Tree.Field(inner, _arguments) : -1;
        list.Add(new Annotation(name < 0 ? "" : Text(name), arguments < 0 ? [] : ReadArguments(arguments), SpanOf(child)));
    }

    private ClassDeclaration ReadClass(int node)
    {
        var name = Tree.Field(node, _name);
        var fields = new List<Field>();
        var methods = new List<FunctionDeclaration>();
        var heritage = Tree.Child(node, "class_heritage");
        Expression? parent = null;
        var interfaces = new List<string>();
        if (heritage >= 0)
        {
            foreach (var child in Tree.NamedChildren(heritage))
            {
                if (Kind(child) == "extends_clause")
                {
                    parent = ReadExpression(Tree.Field(child, _value));
                }
                else if (Kind(child) == "implements_clause")
                {
                    foreach (var type in Tree.NamedChildren(child))
                    {
                        if (ReadTypeName(type) is { } implemented)
                        {
                            interfaces.Add(implemented.Name);
                        }
                    }
                }
                else
                {
                    parent = ReadExpression(child);
                }
            }
        }

        // A mixin gives the class that it was given, with more to it.
        parent = parent is Call { Arguments: [{ Value: Name given }, ..] } ? given : parent;
        var body = Tree.Field(node, _body);
        if (body >= 0)
        {
            var decorators = new List<Annotation>();
            foreach (var member in Tree.NamedChildren(body))
            {
                switch (Kind(member))
                {
                    case "decorator":
                        // They stand before the method, as its neighbours.
                        AddDecorator(member, decorators);
                        continue;
                    case "method_definition" when Has(member, "get") || Has(member, "set"):
                        AddAccessor(member, decorators, fields, methods);
                        break;
                    case "method_definition":
                        methods.Add(ReadFunction(member, decorators));
                        break;
                    case "public_field_definition" or "field_definition":
                        ReadField(member, fields);
                        break;
                }

                decorators = [];
            }
        }

        foreach (var method in methods.Where(m => m.Name == "constructor"))
        {
            foreach (var parameter in method.Parameters.Where(p => p is { Promoted: true, Name: not null }))
            {
                fields.Add(new Field(parameter.Name!, null, parameter.Type, false, [], parameter.Target.Span));
            }
        }

        return new ClassDeclaration(name < 0 ? "" : Text(name), ClassKind.Class, SpanOf(node))
        {
            Base = parent,
            Interfaces = interfaces,
            Fields = fields,
            Methods = methods,
            Annotations = [.. _exported, .. ReadDecorators(node)],
        };
    }

    private void AddAccessor(int member, List<Annotation> decorators, List<Field> fields, List<FunctionDeclaration> methods)
    {
        var function = ReadFunction(member, decorators);
        methods.Add(function.Named((Has(member, "get") ? Accessors.Get : Accessors.Set) + function.Name));
        if (Has(member, "get"))
        {
            fields.Add(Accessors.Read(function.Name, function.ReturnType, function.IsStatic, function.Annotations, SpanOf(member)));
        }
    }

    private void ReadField(int member, List<Field> fields)
    {
        var name = Tree.Field(member, _name);
        if (name < 0)
        {
            name = Tree.Field(member, _property);
        }

        var value = Tree.Field(member, _value);
        fields.Add(new Field(
            KeyText(name) ?? "",
            value < 0 ? null : ReadExpression(value),
            ReadTypeName(Tree.Field(member, _type)),
            Has(member, "static"),
            ReadDecorators(member),
            SpanOf(member)));
    }
}
