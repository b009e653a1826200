using Bellator.Syntax;

namespace Bellator.Analysis.Ir;

/// <summary>Declares names before their scope is visited: those of a block, of a function, and those that an assignment makes.</summary>
internal sealed partial class NameBinder
{
    private void DeclareTarget(Expression? target)
    {
        switch (target)
        {
            case Name name:
                _scope.Names.TryAdd(name.Text, new Variable(name.Text, _function));
                break;
            case DefaultTarget fallback:
                DeclareTarget(fallback.Target);
                break;
            case ObjectLiteral pattern:
                foreach (var entry in pattern.Entries)
                {
                    DeclareTarget(entry.Value);
                }

                break;
        }
    }

    private void DeclareBlock(IReadOnlyList<Statement> statements)
    {
        foreach (var statement in statements)
        {
            switch (statement)
            {
                case VariableDeclaration { FunctionWide: false } declaration:
                    DeclareTarget(declaration.Target);
                    break;
                case FunctionStatement function:
                    _scope.Names.TryAdd(function.Function.Name, new Variable(function.Function.Name, _function));
                    break;
                case ClassStatement type when !_rules.GlobalClasses:
                    _scope.Names.TryAdd(type.Declaration.Name, new Variable(type.Declaration.Name, _function));
                    break;
                case Import import:
                    foreach (var imported in import.Names)
                    {
                        DeclareTarget(imported.Local);
                    }

                    break;
            }
        }
    }

    private void DeclareLoop(Node node)
    {
        switch (node)
        {
            case Loop { Initial: VariableDeclaration { FunctionWide: false } declaration }:
                DeclareTarget(declaration.Target);
                break;
            case Loop { Initial: Block several }:
                DeclareBlock(several.Statements);
                break;
            case ForEach { Declares: true } each:
                DeclareTarget(each.Value);
                break;
            case Switch choice:
                DeclareBlock([.. choice.Cases.SelectMany(c => c.Body)]);
                break;
        }
    }

    /// <summary>Declares the names that a function assigns anywhere, but for those it says are another's.</summary>
    private void HoistAssigned(Block body)
    {
        var foreign = new HashSet<string>(StringComparer.Ordinal);
        CollectForeign(body, foreign);
        HoistAssigned(body, foreign);
    }

    private static void CollectForeign(Node node, HashSet<string> foreign)
    {
        foreach (var child in NodeChildren.Of(node))
        {
            if (child is GlobalDeclaration global)
            {
                foreign.UnionWith(global.Names.Select(n => n.Text));
            }
            else if (child is Statement and not FunctionStatement and not ClassStatement)
            {
                CollectForeign(child, foreign);
            }
        }
    }

    private void HoistAssigned(Node node, HashSet<string> foreign)
    {
        foreach (var child in NodeChildren.Of(node))
        {
            switch (child)
            {
                case FunctionStatement function:
                    if (!_rules.ImplicitReceiver)
                    {
                        DeclareAssigned(new Name(function.Function.Name, function.Span), foreign);
                    }

                    break;
                case ClassStatement type:
                    if (!_rules.GlobalClasses)
                    {
                        DeclareAssigned(new Name(type.Declaration.Name, type.Span), foreign);
                    }

                    break;
                case null or FunctionDeclaration or ClassDeclaration:
                    break;
                case Import import:
                    foreach (var imported in import.Names)
                    {
                        DeclareAssigned(imported.Local, foreign);
                    }

                    break;
                case Assignment assignment:
                    DeclareAssigned(assignment.Target, foreign);
                    HoistAssigned(assignment, foreign);
                    break;
                case ForEach loop:
                    DeclareAssigned(loop.Value, foreign);
                    DeclareAssigned(loop.Key, foreign);
                    HoistAssigned(loop, foreign);
                    break;
                case VariableDeclaration declaration:
                    DeclareAssigned(declaration.Target, foreign);
                    HoistAssigned(declaration, foreign);
                    break;
                case Try attempt:
                    foreach (var clause in attempt.Catches)
                    {
                        DeclareAssigned(clause.Target, foreign);
                    }

                    HoistAssigned(attempt, foreign);
                    break;
                default:
                    HoistAssigned(child, foreign);
                    break;
            }
        }
    }

    private void DeclareAssigned(Expression? target, HashSet<string> foreign)
    {
        switch (target)
        {
            case Name name when !foreign.Contains(name.Text) && (_rules.Scope != ScopeRule.AssignedPerMethod || _scope.Find(name.Text) is null):
                DeclareTarget(name);
                break;
            case DefaultTarget fallback:
                DeclareAssigned(fallback.Target, foreign);
                break;
            case ObjectLiteral pattern:
                foreach (var entry in pattern.Entries)
                {
                    DeclareAssigned(entry.Value, foreign);
                }

                break;
        }
    }

    /// <summary>Declares <c>var</c> names of a whole function, wherever in it they stand.</summary>
    private void HoistFunctionWide(Node node)
    {
        foreach (var child in NodeChildren.Of(node))
        {
            switch (child)
            {
                case null or Expression or FunctionStatement or ClassStatement:
                    break;
                case VariableDeclaration declaration:
                    if (declaration.FunctionWide)
                    {
                        DeclareTarget(declaration.Target);
                    }

                    break;
                case FunctionDeclaration or ClassDeclaration:
                    break;
                case ForEach { FunctionWide: true } loop:
                    DeclareTarget(loop.Value);
                    HoistFunctionWide(loop);
                    break;
                default:
                    HoistFunctionWide(child);
                    break;
            }
        }
    }
}
