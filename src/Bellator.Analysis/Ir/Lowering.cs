using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Ir;

/// <summary>Turns the syntax of one file into functions of basic blocks. The syntax is not needed afterwards.</summary>
public static class Lowering
{
    internal static readonly IReadOnlyDictionary<string, DemandOutcome> NoDemands = new Dictionary<string, DemandOutcome>();

    /// <param name="demands">Calls, as they are written, after which the request goes on only in one case.</param>
    public static IrFile Lower(FileUnit unit, IReadOnlyDictionary<string, DemandOutcome>? demands = null)
    {
        NameBinder.Bind(unit);
        var file = new IrFile(unit.File)
        {
            NodeCount = unit.NodeCount,
            OpaqueCount = unit.OpaqueCount,
            ErrorCount = unit.ErrorCount,
            DepthCutCount = unit.CutCount,
        };
        FunctionLowering.LowerTopLevel(file, unit, demands ?? NoDemands);
        return file;
    }

    /// <summary>Gives a class methods that its framework brings. They are shown at one place of the file, for their code is not part of it.</summary>
    internal static void Bring(IrFile file, IrClass type, BroughtCode code, Span at) => FunctionLowering.LowerBrought(file, type, code, at);
}

/// <summary>What a framework brings to one class.</summary>
/// <param name="Kind">The type that the framework's facts know such objects by.</param>
/// <param name="BasesBehind">Bases of the class that stand behind the framework's.</param>
internal sealed record BroughtCode(string Kind, IReadOnlyList<FunctionDeclaration> Methods, IReadOnlyList<string> BasesBehind);

/// <summary>Lowers one function; functions inside it get an instance of their own.</summary>
internal sealed partial class FunctionLowering
{
    private readonly IrFile _file;
    private readonly LanguageSemantics _rules;
    private readonly bool _php;
    private readonly IrFunction _function;
    private readonly SsaBuilder _code;
    private readonly Stack<LoopTarget> _loops = new();
    private string? _pendingLabel;

    private readonly Span? _at;

    private readonly IReadOnlyDictionary<string, DemandOutcome> _demands;

    private FunctionLowering(IrFile file, IrFunction function, FunctionDeclaration? declaration, IReadOnlyDictionary<string, DemandOutcome> demands, Span? at = null)
    {
        _demands = demands;
        _at = at;
        _file = file;
        _rules = LanguageSemantics.For(file.Source.Language);
        _php = _rules.Scope == ScopeRule.Dollar;
        _function = function;
        _code = new SsaBuilder(declaration) { At = at };
    }

    private sealed record LoopTarget(string? Label, SsaBuilder.BlockBuilder Break, SsaBuilder.BlockBuilder? Continue);

    public static void LowerTopLevel(IrFile file, FileUnit unit, IReadOnlyDictionary<string, DemandOutcome> demands)
    {
        var function = new IrFunction { File = file, Name = "<file>", Span = unit.Body.Span };
        file.Functions.Add(function);
        var lowering = new FunctionLowering(file, function, null, demands);

        // Classes are declared before the first statement runs, and their names already need these.
        foreach (var statement in unit.Body.Statements.Where(s => s is NamespaceStatement or UseStatement))
        {
            lowering.LowerStatement(statement);
        }

        lowering.LowerStatements(unit.Body.Statements);
        lowering._code.Finish(function);
    }

    public static void LowerBrought(IrFile file, IrClass type, BroughtCode code, Span at)
    {
        var brought = new IrClass { File = file, Name = type.Name + IrClass.BroughtMark, Kind = ClassKind.Class, Span = at, Base = type.Base, Traits = type.Traits, ActsFor = type, BroughtKind = code.Kind, BasesBehind = code.BasesBehind };
        file.Classes.Add(brought);
        type.Brought = brought;
        var lowering = new FunctionLowering(file, file.Functions[0], null, Lowering.NoDemands, at);
        foreach (var method in code.Methods)
        {
            brought.Methods[method.Name] = file.Functions[lowering.LowerFunction(method, brought)];
        }
    }

    private int LowerFunction(FunctionDeclaration declaration, IrClass? owner)
    {
        var function = new IrFunction
        {
            File = _file,
            Name = declaration.Name,
            Span = _at ?? declaration.Span,
            Class = owner ?? (declaration.IsArrow || _rules.ClosuresKeepClass ? _function.Class : null),
            IsStatic = declaration.IsStatic,
            IsArrow = declaration.IsArrow,
            Outer = _function,
            ReturnType = declaration.ReturnType,
            Annotations = declaration.Annotations,
            Parameters = [.. declaration.Parameters.Select(p => new IrParameter(p.Name ?? "", p.Type, p.Variadic, p.Annotations) { HasDefault = p.Default is not null })],
        };
        var index = _file.Functions.Count;
        _file.Functions.Add(function);
        var lowering = new FunctionLowering(_file, function, declaration, _demands, _at);
        lowering.LowerParameters(declaration, owner);
        lowering.LowerStatements(declaration.Body.Statements);
        lowering._code.Finish(function);
        return index;
    }

    private void LowerParameters(FunctionDeclaration declaration, IrClass? owner)
    {
        for (var i = 0; i < declaration.Parameters.Count; i++)
        {
            var parameter = declaration.Parameters[i];
            var value = _code.Emit(Opcode.Parameter, parameter.Target.Span, i, text: parameter.Name);
            if (parameter.Default is not null)
            {
                // Either the argument or the default: both may arrive.
                value = Either(value, parameter.Default, parameter.Target.Span);
            }

            AssignTo(parameter.Target, value, parameter.Target.Span);
            if (parameter is { Promoted: true, Name: { } name } && owner is not null)
            {
                var self = _code.Emit(Opcode.This, parameter.Target.Span);
                _code.Emit(Opcode.SetField, parameter.Target.Span, self, value, text: name.TrimStart('$'));
            }
        }
    }

    private void LowerStatements(IReadOnlyList<Statement> statements)
    {
        foreach (var statement in statements)
        {
            // Functions and classes can be used before the line that declares them.
            if (statement is FunctionStatement function)
            {
                Declare(function);
            }
            else if (statement is ClassStatement type && _rules.GlobalClasses)
            {
                LowerClass(type.Declaration);
            }
        }

        foreach (var statement in statements)
        {
            LowerStatement(statement);
        }
    }

    private void Declare(FunctionStatement statement)
    {
        var index = LowerFunction(statement.Function, null);
        var value = _code.Emit(Opcode.Function, statement.Span, index);
        if (statement.Binding is Variable variable)
        {
            WriteVariable(variable, value, statement.Span);
        }
    }

    private int LowerClass(ClassDeclaration declaration)
    {
        var name = declaration.Name;
        if (_php && _file.Namespace.Length > 0 && name.Length > 0)
        {
            name = _file.Namespace + "\\" + name;
        }

        var type = new IrClass
        {
            File = _file,
            Name = name,
            Kind = declaration.Kind,
            Span = declaration.Span,
            Base = QualifiedName(declaration.Base),
            BaseArguments = declaration.BaseArguments,
            Interfaces = Qualified(declaration.Interfaces),
            Traits = Qualified(declaration.Traits),
            Fields = declaration.Fields,
            Annotations = declaration.Annotations,
        };
        var index = _file.Classes.Count;
        _file.Classes.Add(type);

        // What a class's marks are given is made where the class is declared: @Module({ imports: [JwtModule.register({ … })] }).
        foreach (var call in _rules.CommonJs ? declaration.Annotations.SelectMany(a => a.Arguments).SelectMany(a => CallsIn(a.Value, 0)) : [])
        {
            Lower(call);
        }

        foreach (var method in declaration.Methods)
        {
            var function = _file.Functions[LowerFunction(method, type)];
            if (!type.Methods.TryAdd(method.Name, function) && type.Methods[method.Name].IsStatic != function.IsStatic)
            {
                // A class may have a method of the same name as its objects.
                var ofClass = function.IsStatic ? function : type.Methods[method.Name];
                type.Methods[method.Name] = function.IsStatic ? type.Methods[method.Name] : function;
                type.Methods[IrClass.OfClass + method.Name] = ofClass;
            }
        }

        if (declaration.Fields.Any(f => f.Value is not null))
        {
            var function = new IrFunction { File = _file, Name = "<fields>", Span = declaration.Span, Class = type, Outer = _function };
            _file.Functions.Add(function);

            // A declaration of its own, for null would make the variables of the top level its own.
            var initial = new FunctionDeclaration(function.Name, [], new Block([], declaration.Span), declaration.Span);
            new FunctionLowering(_file, function, initial, _demands).LowerFields(declaration, function);
        }

        return index;
    }

    private void LowerFields(ClassDeclaration declaration, IrFunction function)
    {
        foreach (var field in declaration.Fields)
        {
            if (field.Value is null)
            {
                continue;
            }

            var value = Lower(field.Value);
            if (field.IsStatic)
            {
                var self = _code.Emit(Opcode.Global, field.Span, text: "self");
                _code.Emit(Opcode.SetStatic, field.Span, self, value, text: field.Name);
            }
            else
            {
                var self = _code.Emit(Opcode.This, field.Span);
                _code.Emit(Opcode.SetField, field.Span, self, value, text: field.Name);
            }
        }

        _code.Finish(function);
    }

    /// <summary>Calls in the lists and objects of an expression.</summary>
    private static IEnumerable<Expression> CallsIn(Expression value, int depth) => value switch
    {
        Call => [value],
        ObjectLiteral literal when depth < MaxMarkDepth => literal.Entries.SelectMany(e => CallsIn(e.Value, depth + 1)),
        _ => [],
    };

    private const int MaxMarkDepth = 3;

    private string? QualifiedName(Expression? expression) => expression switch
    {
        // Broken code has places for names with nothing in them.
        Name { Text.Length: > 0 } name => _php ? QualifyClass(name.Text) : name.Text,
        Member member => QualifiedName(member.Target) + "." + member.MemberName,
        _ => null,
    };

    private List<string> Qualified(IReadOnlyList<string> names) => [.. names.Where(n => n.Length > 0).Select(QualifyClass)];

    private string QualifyClass(string name)
    {
        if (!_php)
        {
            return name;
        }

        if (name.StartsWith('\\'))
        {
            return name[1..];
        }

        var first = name.Split('\\')[0];
        if (_file.Aliases.TryGetValue(first, out var full))
        {
            return full + name[first.Length..];
        }

        return _file.Namespace.Length > 0 ? _file.Namespace + "\\" + name : name;
    }

    private void WriteVariable(Variable variable, int value, Span span)
    {
        if (variable.Shared && !ReferenceEquals(variable.Owner, _code.Declaration))
        {
            _code.Emit(Opcode.StoreShared, span, -1, value, text: variable.Name);
            return;
        }

        if (ReferenceEquals(variable.Owner, _code.Declaration))
        {
            _code.Write(variable, value);
            if (_rules.Scope == ScopeRule.AssignedPerMethod && variable.Name.Length > 0 && char.IsUpper(variable.Name[0]))
            {
                // Constants are seen everywhere.
                _code.Emit(Opcode.StoreShared, span, -1, value, text: variable.Name);
            }

            if (_rules.ExportsAll && _function.IsTopLevel)
            {
                _code.Emit(Opcode.Export, span, value, text: variable.Name);
            }

            if (variable.Shared)
            {
                // Files share their top-level variables; inside a function the name was declared global.
                _code.Emit(Opcode.StoreShared, span, -1, value, text: variable.Name);
            }

            if (variable.Captured)
            {
                _code.Emit(Opcode.StoreCell, span, Cell(variable), value, text: variable.Name);
            }

            return;
        }

        _code.Emit(Opcode.StoreCell, span, Cell(variable), value, text: variable.Name);
    }

    private int ReadVariable(Variable variable, Span span)
    {
        if (ReferenceEquals(variable.Owner, _code.Declaration) && !variable.WrittenInside)
        {
            if (variable.Shared && _code.Declaration is not null && !_code.IsWritten(variable))
            {
                return _code.Emit(Opcode.LoadShared, span, text: variable.Name);
            }

            return _code.Read(variable);
        }

        return variable.Shared
            ? _code.Emit(Opcode.LoadShared, span, text: variable.Name)
            : _code.Emit(Opcode.LoadCell, span, Cell(variable), text: variable.Name);
    }

    private int Cell(Variable variable)
    {
        if (variable.Cell < 0)
        {
            variable.Cell = _file.CellCount++;
        }

        return variable.Cell;
    }
}
