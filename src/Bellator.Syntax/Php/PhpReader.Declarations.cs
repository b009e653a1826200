namespace Bellator.Syntax.Php;

internal sealed partial class PhpReader
{
    private FunctionDeclaration ReadFunction(int node)
    {
        var name = Tree.Field(node, _name);
        var body = Tree.Field(node, _body);
        var kind = Kind(node);
        List<Name>? uses = null;
        if (kind == "anonymous_function")
        {
            var clause = Tree.Child(node, "anonymous_function_use_clause");
            uses = [];
            if (clause >= 0)
            {
                foreach (var child in Tree.NamedChildren(clause))
                {
                    if (ReadExpression(child) is Name used)
                    {
                        uses.Add(used);
                    }
                }
            }
        }

        Block block;
        if (kind == "arrow_function")
        {
            var value = ReadExpression(body);
            block = new Block([new Return(value, value.Span)], SpanOf(body));
        }
        else
        {
            block = ReadBlock(body);
        }

        return new FunctionDeclaration(name < 0 ? "" : Text(name), ReadParameters(Tree.Field(node, _parameters)), block, SpanOf(node))
        {
            IsArrow = kind == "arrow_function",
            IsStatic = Has(node, "static_modifier"),
            IsAbstract = body < 0,
            Uses = uses,
            ReturnType = ReadType(Tree.Field(node, FieldId("return_type"))),
            Annotations = [.. ReadAnnotations(node), .. Visibility(node)],
        };
    }

    /// <summary>A method that is not public says so as an annotation.</summary>
    private IEnumerable<Annotation> Visibility(int node) =>
        Tree.Child(node, "visibility_modifier") is >= 0 and var modifier && Text(modifier) is "private" or "protected" ? [new Annotation(Text(Tree.Child(node, "visibility_modifier")), [], SpanOf(node))] : [];

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
            if (kind is not ("simple_parameter" or "variadic_parameter" or "property_promotion_parameter"))
            {
                continue;
            }

            var name = Tree.Field(child, _name);
            var fallback = Tree.Field(child, FieldId("default_value"));
            list.Add(new Parameter(
                ReadExpression(name),
                fallback < 0 ? null : ReadExpression(fallback),
                ReadType(Tree.Field(child, _type)),
                kind == "variadic_parameter",
                kind == "property_promotion_parameter",
                ReadAnnotations(child)));
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
            case "named_type" or "primitive_type" or "name" or "qualified_name":
                return TypeName.Of(Text(node));
            default:
                // Of a union the first class named is taken: the others are mostly null or scalars.
                foreach (var child in Tree.NamedChildren(node))
                {
                    if (ReadType(child) is { } type && type.Name is not ("null" or "false"))
                    {
                        return type;
                    }
                }

                return TypeName.Of(Text(node));
        }
    }

    private List<Annotation> ReadAnnotations(int node)
    {
        var list = new List<Annotation>();
        var attributes = Tree.Field(node, FieldId("attributes"));
        if (attributes < 0)
        {
            return list;
        }

        foreach (var group in Tree.NamedChildren(attributes))
        {
            foreach (var attribute in Tree.NamedChildren(group))
            {
                var name = Tree.FirstNamed(attribute);
                if (Kind(attribute) == "attribute" && name >= 0)
                {
                    list.Add(new Annotation(Text(name), ReadArguments(Tree.Field(attribute, _parameters)), SpanOf(attribute)));
                }
            }
        }

        return list;
    }

    private ClassDeclaration ReadClass(int node)
    {
        var name = Tree.Field(node, _name);
        var bases = Tree.Child(node, "base_clause");
        var interfaces = new List<string>();
        var traits = new List<string>();
        var fields = new List<Field>();
        var methods = new List<FunctionDeclaration>();
        var implements = Tree.Child(node, "class_interface_clause");
        if (implements >= 0)
        {
            foreach (var child in Tree.NamedChildren(implements))
            {
                interfaces.Add(Text(child));
            }
        }

        var kind = Kind(node) switch
        {
            "interface_declaration" => ClassKind.Interface,
            "trait_declaration" => ClassKind.Trait,
            "enum_declaration" => ClassKind.Enum,
            _ => ClassKind.Class,
        };
        var body = Tree.Field(node, _body);
        if (body >= 0)
        {
            foreach (var member in Tree.NamedChildren(body))
            {
                ReadClassMember(member, fields, methods, traits);
            }
        }

        foreach (var method in methods.Where(m => m.Name.Equals("__construct", StringComparison.OrdinalIgnoreCase)))
        {
            foreach (var parameter in method.Parameters.Where(p => p is { Promoted: true, Name: not null }))
            {
                fields.Add(new Field(parameter.Name![1..], null, parameter.Type, false, [], parameter.Target.Span));
            }
        }

        return new ClassDeclaration(name < 0 ? "" : Text(name), kind, SpanOf(node))
        {
            Base = bases < 0 ? null : ReadInner(bases),
            Interfaces = interfaces,
            Traits = traits,
            Fields = fields,
            Methods = methods,
            Annotations = ReadAnnotations(node),
        };
    }

    private void ReadClassMember(int member, List<Field> fields, List<FunctionDeclaration> methods, List<string> traits)
    {
        switch (Kind(member))
        {
            case "method_declaration":
                methods.Add(ReadFunction(member));
                break;
            case "property_declaration":
                var type = ReadType(Tree.Field(member, _type));
                foreach (var child in Tree.NamedChildren(member))
                {
                    if (Kind(child) == "property_element")
                    {
                        var value = Tree.Field(child, FieldId("default_value"));
                        fields.Add(new Field(
                            Text(Tree.Field(child, _name))[1..],
                            value < 0 ? null : ReadExpression(value),
                            type,
                            Has(member, "static_modifier"),
                            ReadAnnotations(member),
                            SpanOf(child)));
                    }
                }

                break;
            case "const_declaration":
                foreach (var child in Tree.NamedChildren(member))
                {
                    if (Kind(child) == "const_element")
                    {
                        var constant = (Call)ReadConstant(child).Expression;
                        fields.Add(new Field(((Literal)constant.Arguments[0].Value).Text, constant.Arguments[1].Value, null, true, [], SpanOf(child)));
                    }
                }

                break;
            case "enum_case":
                var backing = Tree.Field(member, _value);
                fields.Add(new Field(Text(Tree.Field(member, _name)), backing < 0 ? null : ReadExpression(backing), null, true, [], SpanOf(member)));
                break;
            case "use_declaration":
                foreach (var child in Tree.NamedChildren(member))
                {
                    if (Kind(child) is "name" or "qualified_name")
                    {
                        traits.Add(Text(child));
                    }
                }

                break;
        }
    }
}
