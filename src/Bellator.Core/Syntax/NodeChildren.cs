namespace Bellator.Core.Syntax;

/// <summary>The direct parts of a node, in the order in which they run.</summary>
public static class NodeChildren
{
    public static IEnumerable<Node?> Of(Node node) => node switch
    {
        Member member => [member.Target],
        StaticMember member => [member.Target],
        IndexExpression index => [index.Target, index.Key],
        Call call => [call.Callee, .. call.Arguments.Select(a => a.Value)],
        NewExpression creation => [creation.Type, .. creation.Arguments.Select(a => a.Value)],
        Binary binary => [binary.Left, binary.Right],
        Unary unary => [unary.Operand],
        Assignment assignment => [assignment.Value, assignment.Target],
        DefaultTarget target => [target.Fallback, target.Target],
        Conditional conditional => [conditional.Condition, conditional.Then, conditional.Otherwise],
        Template template => [template.Tag, .. template.Parts],
        Lambda lambda => [lambda.Function],
        ClassExpression type => [type.Declaration],
        ObjectLiteral literal => literal.Entries.SelectMany(e => new Node?[] { e.Key, e.Value }),
        Cast cast => [cast.Value],
        PassThrough pass => [pass.Value],
        MatchExpression match => [match.Subject, .. match.Arms.SelectMany(a => a.Conditions.Append(a.Result))],
        Include include => [include.Path],
        Sequence sequence => sequence.Items,
        ExitExpression exit => [exit.Value],
        ThrowExpression thrown => [thrown.Value],
        Markup markup => [.. markup.Attributes.Select(a => a.Value), .. markup.Children],
        Opaque opaque => opaque.Parts,
        ExpressionStatement statement => [statement.Expression],
        Block block => block.Statements,
        VariableDeclaration declaration => [declaration.Value, declaration.Target],
        If branch => [branch.Condition, branch.Then, branch.Otherwise],
        Loop loop => [loop.Initial, loop.Condition, loop.Body, loop.Update],
        ForEach loop => [loop.Source, loop.Key, loop.Value, loop.Body],
        Switch choice => [choice.Subject, .. choice.Cases.SelectMany(c => c.Body.Cast<Node?>().Prepend(c.Value))],
        Try attempt => [attempt.Body, .. attempt.Catches.SelectMany(c => new Node?[] { c.Target, c.Body }), attempt.Finally],
        Return result => [result.Value],
        Labeled labeled => [labeled.Body],
        Output output => output.Values,
        FunctionStatement statement => [statement.Function],
        ClassStatement statement => [statement.Declaration],
        Export export => [export.Value],
        FunctionDeclaration function => [.. function.Parameters.SelectMany(p => new Node?[] { p.Default, p.Target }), function.Body],
        ClassDeclaration type => [type.Base, .. type.Fields.Select(f => f.Value), .. type.Methods],
        _ => [],
    };
}
