namespace Bellator.Syntax.Python;

internal sealed partial class PythonReader
{
    private List<Annotation> ReadDecorators(int node)
    {
        var list = new List<Annotation>();
        foreach (var child in Tree.NamedChildren(node))
        {
            if (Kind(child) != "decorator")
            {
                continue;
            }

            var inner = Tree.FirstNamed(child);
            if (inner < 0)
            {
                continue;
            }

            var call = Kind(inner) == "call";
            var name = call ? Tree.Field(inner, _function) : inner;
            list.Add(new Annotation(Text(name), call ? ReadArguments(Tree.Field(inner, _arguments)) : [], SpanOf(child)));
        }

        return list;
    }

    /// <param name="method">It stands directly in a class.</param>
    private FunctionDeclaration ReadFunction(int node, IReadOnlyList<Annotation> annotations, bool method = false)
    {
        var outerSelf = _self;
        var parameters = Tree.Field(node, _parameters);
        var isStatic = annotations.Any(a => a.Name == "staticmethod");
        var skip = -1;
        if (method && !isStatic)
        {
            skip = parameters < 0 ? -1 : Tree.FirstNamed(parameters);
            _self = skip >= 0 && Kind(skip) == "identifier" ? Text(skip) : skip >= 0 && Kind(skip) == "typed_parameter" ? Text(Tree.FirstNamed(skip)) : null;
        }

        var name = Text(Tree.Field(node, _name));
        var function = new FunctionDeclaration(
            method && name == "__init__" ? "constructor" : name,
            ReadParameters(parameters, _self is null ? -1 : skip),
            ReadBlock(Tree.Field(node, _body)),
            SpanOf(node))
        {
            // A function inside a method knows the method's object.
            IsArrow = !method && outerSelf is not null,
            IsStatic = isStatic,
            ReturnType = ReadType(Tree.Field(node, FieldId("return_type"))),
            Annotations = annotations,
        };
        _self = outerSelf;
        return function;
    }

    private List<Parameter> ReadParameters(int node, int skip = -1)
    {
        var list = new List<Parameter>();
        if (node < 0)
        {
            return list;
        }

        foreach (var child in Tree.NamedChildren(node))
        {
            if (child == skip)
            {
                continue;
            }

            switch (Kind(child))
            {
                case "identifier":
                    list.Add(new Parameter(ReadParameterName(child), null, null, false, false, []));
                    break;
                case "default_parameter":
                    list.Add(WithDefault(child, null));
                    break;
                case "typed_parameter":
                    var inner = Tree.FirstNamed(child);
                    var variadic = Kind(inner) is "list_splat_pattern" or "dictionary_splat_pattern";
                    list.Add(new Parameter(ReadParameterName(variadic ? Tree.FirstNamed(inner) : inner), null, ReadType(Tree.Field(child, _type)), variadic, false, MarksIn(Tree.Field(child, _type))));
                    break;
                case "typed_default_parameter":
                    list.Add(WithDefault(child, ReadType(Tree.Field(child, _type))));
                    break;
                case "list_splat_pattern" or "dictionary_splat_pattern":
                    list.Add(new Parameter(ReadParameterName(Tree.FirstNamed(child)), null, null, true, false, []));
                    break;
                case "tuple_pattern":
                    list.Add(new Parameter(ReadTarget(child), null, null, false, false, []));
                    break;
            }
        }

        return list;
    }

    private Expression ReadParameterName(int node) => node >= 0 && Kind(node) == "identifier" ? new Name(Text(node), SpanOf(node)) : ReadTarget(node);

    /// <summary>A call as a default value says of the parameter what marks say elsewhere: <c>db = Depends(get_db)</c>.</summary>
    private Parameter WithDefault(int node, TypeName? type)
    {
        var value = ReadExpression(Tree.Field(node, _value));
        List<Annotation> marks = [.. MarksIn(Tree.Field(node, _type))];
        if (value is Call call && Dotted(call.Callee) is { } name)
        {
            marks.Add(new Annotation(name, call.Arguments, call.Span));
        }

        return new Parameter(ReadParameterName(Tree.Field(node, _name)), value, type, false, false, marks);
    }

    /// <summary>The calls in a type with additions: <c>Annotated[Session, Depends(get_db)]</c>.</summary>
    private List<Annotation> MarksIn(int type)
    {
        var marks = new List<Annotation>();
        if (type < 0 || !Text(type).Contains('(', StringComparison.Ordinal))
        {
            return marks;
        }

        Collect(type, 0);
        return marks;

        void Collect(int node, int depth)
        {
            if (depth >= 4)
            {
                return;
            }

            foreach (var child in Tree.NamedChildren(node))
            {
                if (Kind(child) == "call" && ReadExpression(child) is Call call && Dotted(call.Callee) is { } name)
                {
                    marks.Add(new Annotation(name, call.Arguments, call.Span));
                }
                else
                {
                    Collect(child, depth + 1);
                }
            }
        }
    }

    /// <summary>A name for a type with additions, which others use as a type.</summary>
    private void AddNamedType(int name, int type, List<Statement> list)
    {
        while (type >= 0 && Kind(type) == "type")
        {
            type = Tree.FirstNamed(type);
        }

        while (name >= 0 && Kind(name) == "type")
        {
            name = Tree.FirstNamed(name);
        }

        if (name >= 0 && type >= 0 && Kind(name) == "identifier" && Kind(type) is "subscript" or "generic_type" && IsAnnotated(Text(Tree.FirstNamed(type))) && ReadType(type) is { } meant)
        {
            list.Add(new TypeStatement(Text(name), new NamedType(meant, MarksIn(type)), SpanOf(name)));
        }
    }

    private static bool IsAnnotated(string name) => name is "Annotated" or "typing.Annotated";

    private TypeName? ReadType(int node)
    {
        if (node < 0)
        {
            return null;
        }

        switch (Kind(node))
        {
            case "type" or "constrained_type" or "parenthesized_expression":
                return ReadType(Tree.FirstNamed(node));
            case "identifier" or "attribute" or "member_type" or "dotted_name":
                return TypeName.Of(Text(node));
            case "string":
                return TypeName.Of(Text(node).Trim('"', '\''));
            case "generic_type" or "subscript":
                var head = Tree.FirstNamed(node);
                var arguments = new List<TypeName>();
                var list = Tree.Child(node, "type_parameter");
                foreach (var child in Tree.NamedChildren(list < 0 ? node : list))
                {
                    if (child != head && ReadType(child) is { } argument)
                    {
                        arguments.Add(argument);
                    }
                }

                // Optional[T] and Annotated[T, …] are T for our purposes.
                var name = Text(head);
                return (IsAnnotated(name) || name is "Optional" or "typing.Optional" or "Final" or "ClassVar") && arguments.Count > 0 ? arguments[0] : new TypeName(name, arguments);
            case "binary_operator" or "union_type":
                var left = Tree.Field(node, _left);
                return ReadType(left >= 0 ? left : Tree.FirstNamed(node));
            default:
                return null;
        }
    }

    private ClassDeclaration ReadClass(int node, IReadOnlyList<Annotation> annotations)
    {
        var outerSelf = _self;
        _self = null;
        var bases = new List<Expression>();
        var supers = Tree.Field(node, FieldId("superclasses"));
        if (supers >= 0)
        {
            foreach (var child in Tree.NamedChildren(supers))
            {
                if (Kind(child) is "identifier" or "attribute" or "subscript" or "call")
                {
                    bases.Add(ReadExpression(Kind(child) == "subscript" ? Tree.Field(child, _value) : child));
                }
            }
        }

        var fields = new List<Field>();
        var methods = new List<FunctionDeclaration>();
        foreach (var member in Tree.NamedChildren(Tree.Field(node, _body)))
        {
            ReadMember(member, fields, methods);
        }

        _self = outerSelf;
        return new ClassDeclaration(Text(Tree.Field(node, _name)), ClassKind.Class, SpanOf(node))
        {
            Base = bases.Count > 0 ? bases[0] : null,
            Traits = [.. bases.Skip(1).Select(Dotted).OfType<string>()],
            Fields = fields,
            Methods = methods,
            Annotations = annotations,
        };
    }

    private void ReadMember(int member, List<Field> fields, List<FunctionDeclaration> methods)
    {
        switch (Kind(member))
        {
            case "function_definition":
                methods.Add(ReadFunction(member, [], method: true));
                break;
            case "decorated_definition":
                var definition = Tree.Field(member, FieldId("definition"));
                if (definition >= 0 && Kind(definition) == "function_definition")
                {
                    var marks = ReadDecorators(member);
                    var function = ReadFunction(definition, marks, method: true);
                    if (marks.Exists(m => m.Name is "property" or "cached_property" or "functools.cached_property"))
                    {
                        methods.Add(function.Named(Accessors.Get + function.Name));
                        fields.Add(Accessors.Read(function.Name, function.ReturnType, false, marks, SpanOf(member)));
                    }
                    else
                    {
                        methods.Add(marks.Exists(m => m.Name == function.Name + ".setter") ? function.Named(Accessors.Set + function.Name) : function);
                    }
                }
                else if (definition >= 0)
                {
                    fields.Add(NestedClass(definition));
                }

                break;
            case "class_definition":
                fields.Add(NestedClass(member));
                break;
            case "expression_statement":
                var inner = Tree.FirstNamed(member);
                if (inner >= 0 && Kind(inner) == "assignment" && Tree.Field(inner, _left) is >= 0 and var left && Kind(left) == "identifier")
                {
                    var right = Tree.Field(inner, _right);
                    fields.Add(new Field(Text(left), right < 0 ? null : ReadExpression(right), ReadType(Tree.Field(inner, _type)), true, MarksIn(Tree.Field(inner, _type)), SpanOf(inner)));
                }

                break;
            case "if_statement" or "try_statement" or "block":
                foreach (var child in Tree.NamedChildren(member))
                {
                    ReadMember(child, fields, methods);
                }

                break;
        }
    }

    private Field NestedClass(int node)
    {
        var type = ReadClass(node, []);
        return new Field(type.Name, new ClassExpression(type, SpanOf(node)), null, true, [], SpanOf(node));
    }

    private static string? Dotted(Expression expression) => expression switch
    {
        Name name => name.Text,
        Member member => Dotted(member.Target) is { } target ? target + "." + member.MemberName : null,
        _ => null,
    };
}
