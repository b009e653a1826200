namespace Bellator.Syntax;

/// <summary>The direct parts of a node, in the order in which they run.</summary>
public static class NodeChildren
{
    public static IEnumerable<Node?> Of(Node node)
    {
        var children = new List<Node?>();
        Each(node, children.Add);
        return children;
    }

    /// <summary>Shows each part to somebody. There are millions of nodes: no list is made of their parts.</summary>
    public static void Each(Node node, Action<Node?> visit)
    {
        switch (node)
        {
            case Member member:
                visit(member.Target);
                break;
            case StaticMember member:
                visit(member.Target);
                break;
            case IndexExpression index:
                visit(index.Target);
                visit(index.Key);
                break;
            case Call call:
                visit(call.Callee);
                foreach (var argument in call.Arguments)
                {
                    visit(argument.Value);
                }
                break;
            case NewExpression creation:
                visit(creation.Type);
                foreach (var argument in creation.Arguments)
                {
                    visit(argument.Value);
                }
                break;
            case Binary binary:
                visit(binary.Left);
                visit(binary.Right);
                break;
            case Unary unary:
                visit(unary.Operand);
                break;
            case Assignment assignment:
                visit(assignment.Value);
                visit(assignment.Target);
                break;
            case DefaultTarget target:
                visit(target.Fallback);
                visit(target.Target);
                break;
            case Conditional conditional:
                visit(conditional.Condition);
                visit(conditional.Then);
                visit(conditional.Otherwise);
                break;
            case Template template:
                visit(template.Tag);
                All(template.Parts, visit);
                break;
            case Lambda lambda:
                visit(lambda.Function);
                break;
            case ClassExpression type:
                visit(type.Declaration);
                break;
            case ObjectLiteral literal:
                foreach (var entry in literal.Entries)
                {
                    visit(entry.Key);
                    visit(entry.Value);
                }
                break;
            case Cast cast:
                visit(cast.Value);
                break;
            case PassThrough pass:
                visit(pass.Value);
                break;
            case MatchExpression match:
                visit(match.Subject);
                foreach (var arm in match.Arms)
                {
                    All(arm.Conditions, visit);
                    visit(arm.Result);
                }
                break;
            case Include include:
                visit(include.Path);
                break;
            case Sequence sequence:
                All(sequence.Items, visit);
                break;
            case ExitExpression exit:
                visit(exit.Value);
                break;
            case ThrowExpression thrown:
                visit(thrown.Value);
                break;
            case Markup markup:
                foreach (var attribute in markup.Attributes)
                {
                    visit(attribute.Value);
                }

                All(markup.Children, visit);
                break;
            case Opaque opaque:
                All(opaque.Parts, visit);
                break;
            case ExpressionStatement statement:
                visit(statement.Expression);
                break;
            case Block block:
                All(block.Statements, visit);
                break;
            case VariableDeclaration declaration:
                visit(declaration.Value);
                visit(declaration.Target);
                break;
            case If branch:
                visit(branch.Condition);
                visit(branch.Then);
                visit(branch.Otherwise);
                break;
            case Loop loop:
                visit(loop.Initial);
                visit(loop.Condition);
                visit(loop.Body);
                visit(loop.Update);
                break;
            case ForEach loop:
                visit(loop.Source);
                visit(loop.Key);
                visit(loop.Value);
                visit(loop.Body);
                break;
            case Switch choice:
                visit(choice.Subject);
                foreach (var one in choice.Cases)
                {
                    visit(one.Value);
                    All(one.Body, visit);
                }
                break;
            case Try attempt:
                visit(attempt.Body);
                foreach (var clause in attempt.Catches)
                {
                    visit(clause.Target);
                    visit(clause.Body);
                }

                visit(attempt.Finally);
                break;
            case Return result:
                visit(result.Value);
                break;
            case Labeled labeled:
                visit(labeled.Body);
                break;
            case Output output:
                All(output.Values, visit);
                break;
            case FunctionStatement statement:
                visit(statement.Function);
                break;
            case ClassStatement statement:
                visit(statement.Declaration);
                break;
            case Export export:
                visit(export.Value);
                break;
            case FunctionDeclaration function:
                foreach (var parameter in function.Parameters)
                {
                    visit(parameter.Default);
                    visit(parameter.Target);
                }

                visit(function.Body);
                break;
            case ClassDeclaration type:
                visit(type.Base);
                foreach (var field in type.Fields)
                {
                    visit(field.Value);
                }

                All(type.Methods, visit);
                break;
        }
    }

    private static void All(IReadOnlyList<Node?> nodes, Action<Node?> visit)
    {
        for (var i = 0; i < nodes.Count; i++)
        {
            visit(nodes[i]);
        }
    }
}
