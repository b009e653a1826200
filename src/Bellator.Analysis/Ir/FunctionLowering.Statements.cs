using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Ir;

internal sealed partial class FunctionLowering
{
    private void LowerStatement(Statement statement)
    {
        switch (statement)
        {
            case ExpressionStatement { Expression: Call call } when _demands.Count > 0 && Demanded(call) is { } outcome:
                LowerDemand(call, outcome);
                break;
            case ExpressionStatement expression:
                Lower(expression.Expression);
                break;
            case Block block:
                LowerStatements(block.Statements);
                break;
            case VariableDeclaration declaration:
                LowerDeclaration(declaration);
                break;
            case If branch:
                LowerIf(branch);
                break;
            case Loop loop:
                LowerLoop(loop);
                break;
            case ForEach loop:
                LowerForEach(loop);
                break;
            case Switch choice:
                LowerSwitch(choice);
                break;
            case Try attempt:
                LowerTry(attempt);
                break;
            case Return result:
                _code.Emit(Opcode.Return, result.Span, result.Value is null ? -1 : Lower(result.Value));
                EndHere();
                break;
            case Break end:
                Leave(end.Label, end.Levels, false);
                break;
            case Continue next:
                Leave(next.Label, next.Levels, true);
                break;
            case Labeled labeled:
                LowerLabeled(labeled);
                break;
            case Output output:
                _code.EmitList(Opcode.Output, output.Span, [.. output.Values.Select(v => new Operand(Lower(v)))]);
                break;
            case ClassStatement type when !_rules.GlobalClasses:
                var value = _code.Emit(Opcode.Class, type.Span, LowerClass(type.Declaration));
                if (type.Binding is Variable variable)
                {
                    WriteVariable(variable, value, type.Span);
                }

                break;
            case Import import:
                LowerImport(import);
                break;
            case Export export:
                LowerExport(export);
                break;
            case NamespaceStatement space:
                _file.Namespace = space.Name;
                break;
            case TypeStatement named when _function.IsTopLevel:
                _file.NamedTypes[named.Name] = named.Type;
                break;
            case UseStatement use:
                _file.Aliases[use.Alias] = use.Qualified;
                break;
        }
    }

    private void LowerDeclaration(VariableDeclaration declaration)
    {
        if (declaration.Value is not null)
        {
            AssignTo(declaration.Target, Lower(declaration.Value), declaration.Span);
        }
        else if (declaration is { FunctionWide: false, Target: Name })
        {
            AssignTo(declaration.Target, _code.Emit(Opcode.Undefined, declaration.Span), declaration.Span);
        }
    }

    private void LowerIf(If branch)
    {
        var then = _code.NewBlock();
        var after = _code.NewBlock();
        var otherwise = branch.Otherwise is null ? after : _code.NewBlock();
        LowerCondition(branch.Condition, then, otherwise);
        _code.Seal(then);
        _code.Start(then);
        LowerStatement(branch.Then);
        _code.Jump(after);
        if (branch.Otherwise is not null)
        {
            _code.Seal(otherwise);
            _code.Start(otherwise);
            LowerStatement(branch.Otherwise);
            _code.Jump(after);
        }

        _code.Seal(after);
        _code.Start(after);
    }

    private void LowerLoop(Loop loop)
    {
        if (loop.Initial is not null)
        {
            LowerStatement(loop.Initial);
        }

        var head = _code.NewBlock();
        var body = _code.NewBlock();
        var next = _code.NewBlock();
        var after = _code.NewBlock();
        _code.Jump(loop.TestLast ? body : head);
        if (!loop.TestLast)
        {
            _code.Start(head);
            BranchOn(loop.Condition, body, after);
            _code.Seal(body);
        }

        _code.Start(body);
        _loops.Push(new LoopTarget(TakeLabel(), after, next));
        LowerStatement(loop.Body);
        _loops.Pop();
        _code.Jump(next);
        _code.Seal(next);
        _code.Start(next);
        if (loop.Update is not null)
        {
            Lower(loop.Update);
        }

        _code.Jump(head);
        if (loop.TestLast)
        {
            _code.Seal(head);
            _code.Start(head);
            BranchOn(loop.Condition, body, after);
            _code.Seal(body);
        }
        else
        {
            _code.Seal(head);
        }

        _code.Seal(after);
        _code.Start(after);
    }

    private void BranchOn(Expression? condition, SsaBuilder.BlockBuilder body, SsaBuilder.BlockBuilder after)
    {
        if (condition is null)
        {
            _code.Jump(body);
        }
        else
        {
            LowerCondition(condition, body, after);
        }
    }

    private void LowerForEach(ForEach loop)
    {
        var source = Lower(loop.Source);
        var head = _code.NewBlock();
        var body = _code.NewBlock();
        var after = _code.NewBlock();
        _code.Jump(head);
        _code.Start(head);
        var more = _code.Emit(Opcode.Unary, loop.Source.Span, source, text: "more");
        _code.Branch(more, body, after);
        _code.Seal(body);
        _code.Start(body);
        if (loop.Key is not null)
        {
            AssignTo(loop.Key, _code.Emit(Opcode.ElementKey, loop.Key.Span, source), loop.Key.Span);
        }

        AssignTo(loop.Value, _code.Emit(loop.OverKeys ? Opcode.ElementKey : Opcode.Element, loop.Value.Span, source), loop.Value.Span);
        _loops.Push(new LoopTarget(TakeLabel(), after, head));
        LowerStatement(loop.Body);
        _loops.Pop();
        _code.Jump(head);
        _code.Seal(head);
        _code.Seal(after);
        _code.Start(after);
    }

    private void LowerSwitch(Switch choice)
    {
        var subject = Lower(choice.Subject);
        var after = _code.NewBlock();
        var bodies = choice.Cases.Select(_ => _code.NewBlock()).ToList();
        var fallback = after;
        for (var i = 0; i < choice.Cases.Count; i++)
        {
            if (choice.Cases[i].Value is not { } value)
            {
                fallback = bodies[i];
                continue;
            }

            var test = _code.NewBlock();
            var equal = _code.Emit(Opcode.Binary, value.Span, subject, Lower(value), text: "==");
            _code.Branch(equal, bodies[i], test);
            _code.Seal(test);
            _code.Start(test);
        }

        _code.Jump(fallback);
        _loops.Push(new LoopTarget(TakeLabel(), after, _php ? after : null));
        for (var i = 0; i < bodies.Count; i++)
        {
            _code.Seal(bodies[i]);
            _code.Start(bodies[i]);
            LowerStatements(choice.Cases[i].Body);
            if (i + 1 < bodies.Count)
            {
                _code.Jump(bodies[i + 1]);
            }
            else
            {
                _code.Jump(after);
            }
        }

        _loops.Pop();
        _code.Seal(after);
        _code.Start(after);
    }

    private void LowerTry(Try attempt)
    {
        var body = _code.NewBlock();
        var after = _code.NewBlock();
        var handlers = attempt.Catches.Select(_ => _code.NewBlock()).ToList();
        foreach (var handler in handlers)
        {
            _code.MayGoTo(handler);
        }

        _code.Jump(body);
        _code.Seal(body);
        _code.Start(body);
        LowerStatements(attempt.Body.Statements);
        foreach (var handler in handlers)
        {
            if (!_code.Current.Ended)
            {
                _code.MayGoTo(handler);
            }
        }

        _code.Jump(after);
        for (var i = 0; i < handlers.Count; i++)
        {
            _code.Seal(handlers[i]);
            _code.Start(handlers[i]);
            if (attempt.Catches[i].Target is { } target)
            {
                AssignTo(target, _code.Emit(Opcode.Caught, target.Span), target.Span);
            }

            LowerStatements(attempt.Catches[i].Body.Statements);
            _code.Jump(after);
        }

        _code.Seal(after);
        _code.Start(after);
        if (attempt.Finally is not null)
        {
            LowerStatements(attempt.Finally.Statements);
        }
    }

    private void LowerLabeled(Labeled labeled)
    {
        if (labeled.Body is Block { Statements: [Loop or ForEach or Switch] } || labeled.Body is Loop or ForEach or Switch)
        {
            _pendingLabel = labeled.Label;
            LowerStatement(labeled.Body);
            _pendingLabel = null;
            return;
        }

        var after = _code.NewBlock();
        _loops.Push(new LoopTarget(labeled.Label, after, null));
        LowerStatement(labeled.Body);
        _loops.Pop();
        _code.Jump(after);
        _code.Seal(after);
        _code.Start(after);
    }

    private string? TakeLabel()
    {
        var label = _pendingLabel;
        _pendingLabel = null;
        return label;
    }

    private void Leave(string? label, int levels, bool repeat)
    {
        foreach (var target in _loops)
        {
            if (label is not null ? target.Label == label : (!repeat || target.Continue is not null) && --levels == 0)
            {
                _code.Jump((repeat ? target.Continue : target.Break) ?? target.Break);
                break;
            }
        }

        EndHere();
    }

    private void EndHere()
    {
        _code.End();
        var unreachable = _code.NewBlock();
        _code.Seal(unreachable);
        _code.Start(unreachable);
    }

    private void LowerImport(Import import)
    {
        foreach (var imported in import.Names)
        {
            _file.Imports[imported.Local.Text] = (import.Module, imported.Imported);
            var value = EmitImport(import.Module, imported.Imported, import.Span);
            if (imported.Local.Binding is Variable variable)
            {
                WriteVariable(variable, value, imported.Local.Span);
            }
        }
    }

    private int EmitImport(string module, string name, Span span) => _code.EmitList(Opcode.Import, span, [new Operand(-1, name)], text: module);

    private void LowerExport(Export export)
    {
        int value;
        if (export.Module is { } module)
        {
            value = EmitImport(module, (export.Value as Name)?.Text ?? "*", export.Span);
        }
        else
        {
            value = export.Value is null ? -1 : Lower(export.Value);
        }

        if (value >= 0)
        {
            _code.Emit(Opcode.Export, export.Span, value, text: export.Exported);
        }
    }

    /// <summary>When the function goes on after the call; null for calls that demand nothing.</summary>
    private DemandOutcome? Demanded(Call call) =>
        WrittenCallee(call) is { } written && _demands.TryGetValue(written.TrimStart('\\'), out var outcome)
        && (outcome == DemandOutcome.Never || call.Arguments is [{ Spread: false }, ..]) ? outcome : null;

    private string? WrittenCallee(Call call) => call.Callee switch
    {
        StaticMember { Target: Name type } member => $"{type.Text}::{member.MemberName}",
        Name or Member { Target: Name or ThisExpression } => _file.Source.Text(call.Callee.Span),
        _ => null,
    };

    /// <summary>What is answered to those who may not (RFC 9110, 15.5.4).</summary>
    private const string Forbidden = "403";

    /// <summary>A test that ends the request: what comes after it runs only where it was passed.</summary>
    private void LowerDemand(Call call, DemandOutcome outcome)
    {
        if (outcome == DemandOutcome.Never)
        {
            Lower(new ThrowExpression(call, call.Span));
            return;
        }

        var goesOn = new Block([], call.Span);
        if (outcome == DemandOutcome.Answers)
        {
            LowerIf(new If(call, goesOn, new ExpressionStatement(new ThrowExpression(new Literal(LiteralKind.Number, Forbidden, call.Span), call.Span), call.Span), call.Span));
            return;
        }

        var refusal = new Call(call.Callee, [.. call.Arguments.Skip(1)], false, call.Span);
        var ends = new ExpressionStatement(new ThrowExpression(refusal, call.Span), call.Span);
        LowerIf(outcome == DemandOutcome.Holds ? new If(call.Arguments[0].Value, goesOn, ends, call.Span) : new If(call.Arguments[0].Value, ends, goesOn, call.Span));
    }
}
