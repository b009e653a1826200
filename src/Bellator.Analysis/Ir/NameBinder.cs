using Bellator.Syntax;

namespace Bellator.Analysis.Ir;

/// <summary>Connects names to the variables they mean, by the scope rules of the language, before lowering.</summary>
internal sealed partial class NameBinder
{
    private readonly LanguageSemantics _rules;
    private readonly bool _php;
    private Scope _scope;
    private FunctionDeclaration? _function;

    private NameBinder(LanguageSemantics rules)
    {
        _rules = rules;
        _php = rules.Scope == ScopeRule.Dollar;
        _scope = new Scope(null, null);
    }

    public static void Bind(FileUnit unit)
    {
        var binder = new NameBinder(LanguageSemantics.For(unit.File.Language));
        binder.VisitBody(unit.Body);
    }

    private void VisitBody(Block body)
    {
        if (_rules.IsAssigned)
        {
            HoistAssigned(body);
        }
        else if (!_php)
        {
            HoistFunctionWide(body);
            DeclareBlock(body.Statements);
        }

        foreach (var statement in body.Statements)
        {
            Visit(statement);
        }
    }

    private bool _inInitialValues;
    private Action<Node?>? _visit;

    private void Visit(Node? node)
    {
        switch (node)
        {
            case null:
                return;
            case Name name:
                name.Binding = Resolve(name.Text);
                return;
            case FunctionDeclaration function:
                VisitFunction(function);
                return;
            case ClassDeclaration type:
                VisitClass(type);
                return;
            case FunctionStatement statement when !_php:
                statement.Binding = Resolve(statement.Function.Name);
                VisitFunction(statement.Function);
                return;
            case ClassStatement statement when !_rules.GlobalClasses:
                statement.Binding = Resolve(statement.Declaration.Name);
                VisitChildren(statement);
                return;
            case ClassExpression { Declaration.Name.Length: > 0 } type when !_php:
                VisitChildren(type);
                return;
            case Block block when _rules.Scope == ScopeRule.Lexical:
                var outer = EnterScope();
                DeclareBlock(block.Statements);
                VisitChildren(block);
                _scope = outer;
                return;
            case Loop or ForEach or Switch when _rules.Scope == ScopeRule.Lexical:
                var around = EnterScope();
                DeclareLoop(node);
                VisitChildren(node);
                _scope = around;
                MarkTargets(node);
                return;
            case Try attempt when _rules.Scope == ScopeRule.Lexical:
                Visit(attempt.Body);
                foreach (var clause in attempt.Catches)
                {
                    var before = EnterScope();
                    DeclareTarget(clause.Target);
                    Visit(clause.Target);
                    Visit(clause.Body);
                    _scope = before;
                }

                Visit(attempt.Finally);
                return;
            case Import import:
                foreach (var imported in import.Names)
                {
                    imported.Local.Binding = Resolve(imported.Local.Text);
                }

                return;
            case GlobalDeclaration global:
                foreach (var name in global.Names.Where(_ => _php))
                {
                    name.Binding = _scope.Names[name.Text] = new Variable(name.Text, _function) { Shared = true };
                }

                return;
            case Assignment assignment:
                VisitChildren(assignment);
                MarkWritten(assignment.Target);
                return;
            default:
                VisitChildren(node);
                MarkTargets(node);
                return;
        }
    }

    private void MarkTargets(Node node)
    {
        if (node is ForEach loop)
        {
            MarkWritten(loop.Value);
            MarkWritten(loop.Key);
        }
    }

    private void VisitChildren(Node node)
    {
        NodeChildren.Each(node, _visit ??= Visit);
    }

    /// <summary>Opens a scope in the present one, which is to be put back afterwards.</summary>
    private Scope EnterScope()
    {
        var outer = _scope;
        _scope = new Scope(outer, outer.Function);
        return outer;
    }

    private void VisitFunction(FunctionDeclaration function)
    {
        foreach (var parameter in function.Parameters)
        {
            Visit(parameter.Default);
        }

        var outer = _scope;
        var outerFunction = _function;
        foreach (var used in function.Uses ?? [])
        {
            used.Binding = Resolve(used.Text);
        }

        _function = function;
        _scope = new Scope(_rules.Scope == ScopeRule.AssignedPerMethod && !function.IsArrow ? null : outer, function);
        foreach (var used in function.Uses ?? [])
        {
            if (used.Binding is Variable captured)
            {
                captured.Captured = true;
                _scope.Names[used.Text] = captured;
            }
        }

        foreach (var parameter in function.Parameters)
        {
            DeclareTarget(parameter.Target);
            Visit(parameter.Target);
        }

        if (_rules.Scope == ScopeRule.Lexical && !_rules.ImplicitReceiver && function.Name.Length > 0 && !_scope.Names.ContainsKey(function.Name) && outer.Find(function.Name) is null)
        {
            _scope.Names[function.Name] = new Variable(function.Name, function);
        }

        VisitBody(function.Body);
        _scope = outer;
        _function = outerFunction;
    }

    /// <summary>The initial values of a class become a function of their own: what they use is seen from inside it.</summary>
    private void VisitClass(ClassDeclaration type)
    {
        Visit(type.Base);
        foreach (var argument in _rules.CommonJs ? type.Annotations.SelectMany(a => a.Arguments) : [])
        {
            Visit(argument.Value);
        }

        var outer = _inInitialValues;
        _inInitialValues = true;
        foreach (var field in type.Fields)
        {
            Visit(field.Value);
        }

        _inInitialValues = outer;
        foreach (var method in type.Methods)
        {
            Visit(method);
        }
    }

    private Variable? Resolve(string name)
    {
        if (_php)
        {
            return ResolvePhp(name);
        }

        var variable = _scope.Find(name);
        if (variable is not null && (variable.Owner != _function || _inInitialValues))
        {
            variable.Captured = true;
        }

        return variable;
    }

    private Variable? ResolvePhp(string name)
    {
        if (!name.StartsWith('$') || name is "$GLOBALS" || (name.StartsWith("$_", StringComparison.Ordinal) && name.Length > 3 && char.IsUpper(name[2])))
        {
            return null;
        }

        if (_scope.Names.TryGetValue(name, out var known))
        {
            if (known.Owner != _function)
            {
                known.Captured = true;
            }

            return known;
        }

        if (_function is { IsArrow: true })
        {
            for (var scope = _scope.Parent; scope is not null; scope = scope.Function is { IsArrow: true } ? scope.Parent : null)
            {
                if (scope.Names.TryGetValue(name, out var outer))
                {
                    outer.Captured = true;
                    return outer;
                }
            }
        }

        return _scope.Names[name] = new Variable(name, _function) { Shared = _function is null };
    }

    private void MarkWritten(Expression? target)
    {
        switch (target)
        {
            case Name { Binding: Variable variable } when variable.Owner != _function && !variable.Shared:
                variable.WrittenInside = true;
                break;
            case DefaultTarget fallback:
                MarkWritten(fallback.Target);
                break;
            case Member member:
                MarkWritten(Root(member.Target));
                break;
            case IndexExpression index:
                MarkWritten(Root(index.Target));
                break;
            case ObjectLiteral pattern:
                foreach (var entry in pattern.Entries)
                {
                    MarkWritten(entry.Value);
                }

                break;
        }
    }

    private static Expression? Root(Expression target) => target switch
    {
        Member member => Root(member.Target),
        IndexExpression index => Root(index.Target),
        Name name => name,
        _ => null,
    };


    private sealed class Scope(Scope? parent, FunctionDeclaration? function)
    {
        public Scope? Parent { get; } = parent;

        public FunctionDeclaration? Function { get; } = function;

        public Dictionary<string, Variable> Names { get; } = new(StringComparer.Ordinal);

        public Variable? Find(string name)
        {
            for (var scope = this; scope is not null; scope = scope.Parent)
            {
                if (scope.Names.TryGetValue(name, out var variable))
                {
                    return variable;
                }
            }

            return null;
        }
    }
}
