using System.Globalization;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Ir;

internal sealed partial class FunctionLowering
{
    private int Lower(Expression expression)
    {
        if (_loweredOnce.Count == 0 || !_loweredOnce.TryGetValue(expression, out var known))
        {
            return LowerAnew(expression);
        }

        return known >= 0 ? known : _loweredOnce[expression] = LowerAnew(expression);
    }

    private int LowerAnew(Expression expression)
    {
        var span = expression.Span;
        switch (expression)
        {
            case Literal literal:
                return _code.Constant(literal.Kind, literal.Text, span);
            case Name name:
                return LowerName(name);
            case ThisExpression:
                return _code.Emit(Opcode.This, span);
            case Member { Target: Name { Text: "module", Binding: null }, MemberName: "exports" } when _rules.CommonJs:
                return EmitImport(".", "*", span);
            case Member member:
                return _code.Emit(Opcode.GetField, span, Lower(member.Target), text: member.MemberName);
            case StaticMember member:
                return _code.Emit(Opcode.GetStatic, span, LowerClassName(member.Target), text: member.MemberName);
            case IndexExpression index:
                return _code.Emit(Opcode.GetItem, span, Lower(index.Target), index.Key is null ? -1 : Lower(index.Key));
            case Call call:
                return LowerCall(call);
            case NewExpression creation:
                var type = LowerClassName(creation.Type);
                return _code.EmitList(Opcode.New, span, LowerArguments(creation.Arguments), type);
            case Binary binary:
                return LowerBinary(binary);
            case Unary unary:
                return _code.Emit(Opcode.Unary, span, Lower(unary.Operand), text: unary.Operator);
            case Assignment assignment:
                return LowerAssignment(assignment);
            case DefaultTarget fallback:
                return Lower(fallback.Target);
            case Conditional conditional:
                return LowerConditional(conditional);
            case Template template:
                return LowerTemplate(template);
            case Lambda lambda:
                return _code.Emit(Opcode.Function, span, LowerFunction(lambda.Function, null));
            case ClassExpression type2:
                return _code.Emit(Opcode.Class, span, LowerClass(type2.Declaration));
            case ObjectLiteral literal:
                return LowerObject(literal);
            case Cast cast:
                return _code.Emit(Opcode.Cast, span, Lower(cast.Value), text: cast.Type);
            case PassThrough pass:
                return _code.Emit(Opcode.Cast, span, Lower(pass.Value), text: pass.Kind == PassThrough.Await ? pass.Kind : "");
            case MatchExpression match:
                return LowerMatch(match);
            case Include include:
                return _code.Emit(Opcode.Include, span, Lower(include.Path));
            case Sequence sequence:
                var last = -1;
                foreach (var item in sequence.Items)
                {
                    last = Lower(item);
                }

                return last >= 0 ? last : _code.Emit(Opcode.Undefined, span);
            case ExitExpression exit:
                if (exit.Value is not null)
                {
                    _code.EmitList(Opcode.Output, span, [new Operand(Lower(exit.Value))]);
                }

                _code.Emit(Opcode.Exit, span);
                EndHere();
                return _code.Emit(Opcode.Undefined, span);
            case ThrowExpression thrown:
                _code.Emit(Opcode.Throw, span, Lower(thrown.Value));
                EndHere();
                return _code.Emit(Opcode.Undefined, span);
            case Markup markup:
                var parts = markup.Attributes.Select(a => new Operand(Lower(a.Value), a.Name)).Concat(markup.Children.Select(c => new Operand(Lower(c))));
                return _code.EmitList(Opcode.Opaque, span, [.. parts], text: "markup");
            case Opaque opaque:
                return _code.EmitList(Opcode.Opaque, span, [.. opaque.Parts.Select(p => new Operand(Lower(p)))], text: opaque.Kind);
            default:
                return _code.Emit(Opcode.Undefined, span);
        }
    }

    private int LowerName(Name name)
    {
        if (name.Binding is Variable variable)
        {
            return ReadVariable(variable, name.Span);
        }

        if (_rules.ImplicitReceiver && IsVariableName(name.Text))
        {
            return _code.EmitList(Opcode.CallMethod, name.Span, [], _code.Emit(Opcode.This, name.Span), name.Text);
        }

        return name.Text == "exports" && _rules.CommonJs ? EmitImport(".", "*", name.Span) : _code.Emit(Opcode.Global, name.Span, text: name.Text);
    }

    /// <summary>In Ruby a bare name in lower case that is no variable calls a method; C#'s are told from types when they are evaluated.</summary>
    private bool IsVariableName(string name) => _rules.IsAssigned && name.Length > 0 && (char.IsLower(name[0]) || name[0] == '_');

    private int LowerClassName(Expression expression)
    {
        if (_php && expression is Name { Binding: null } name && !name.Text.StartsWith('$'))
        {
            var text = name.Text.ToLowerInvariant() is "self" or "static" or "parent" ? name.Text.ToLowerInvariant() : QualifyClass(name.Text);
            return _code.Emit(Opcode.Global, name.Span, text: text);
        }

        return Lower(expression);
    }

    private List<Operand> LowerArguments(IReadOnlyList<Argument> arguments)
    {
        var list = new List<Operand>(arguments.Count);
        foreach (var argument in arguments)
        {
            list.Add(new Operand(Lower(argument.Value), argument.Name, argument.Spread, argument.Value.Span));
        }

        return list;
    }

    private int LowerCall(Call call)
    {
        if (call is { Callee: Name { Text: "require" or "import", Binding: null }, Arguments: [{ Value: Literal { Kind: LiteralKind.Text } module }] } && _rules.CommonJs)
        {
            return EmitImport(module.Text, "*", call.Span);
        }

        // A variable that the call is given to fill in; in PHP one that first appears as an argument.
        var fresh = new List<(int Position, Variable Variable)>();
        if (_php || call.Arguments.Any(a => a.IsOut))
        {
            for (var i = 0; i < call.Arguments.Count; i++)
            {
                if (call.Arguments[i] is { IsOut: true, Value: Name { Binding: Variable filled } })
                {
                    fresh.Add((i, filled));
                }
                else if (_php && call.Arguments[i].Value is Name { Binding: Variable { WrittenInside: false } variable }
                    && ReferenceEquals(variable.Owner, _code.Declaration) && !_code.IsWritten(variable) && !(variable.Shared && _code.Declaration is not null))
                {
                    fresh.Add((i, variable));
                }
            }
        }

        int result;
        switch (call.Callee)
        {
            case Member member:
                var target = Lower(member.Target);
                result = _code.EmitList(Opcode.CallMethod, call.Span, LowerArguments(call.Arguments), target, member.MemberName);
                break;
            case StaticMember member:
                var type = LowerClassName(member.Target);
                result = _code.EmitList(Opcode.CallStatic, call.Span, LowerArguments(call.Arguments), type, member.MemberName);
                break;
            case Name { Binding: null } bare when _rules.ImplicitReceiver:
                result = _code.EmitList(Opcode.CallMethod, call.Span, LowerArguments(call.Arguments), _code.Emit(Opcode.This, bare.Span), bare.Text);
                break;
            default:
                var callee = Lower(call.Callee);
                result = _code.EmitList(Opcode.Call, call.Span, LowerArguments(call.Arguments), callee);
                break;
        }

        foreach (var (position, variable) in fresh)
        {
            WriteVariable(variable, _code.Emit(Opcode.OutArgument, call.Span, result, position), call.Span);
        }

        if (call.Callee is Member { Target: Name { Text: "process", Binding: null }, MemberName: "exit" } && _rules.CommonJs)
        {
            _code.Emit(Opcode.Exit, call.Span);
            EndHere();
        }

        return result;
    }

    private int LowerBinary(Binary binary)
    {
        if (binary.Operator is "&&" or "||")
        {
            // As a value: the first operand, or the second where the first does not decide.
            var left = Lower(binary.Left);
            var more = _code.NewBlock();
            var after = _code.NewBlock();
            if (binary.Operator == "&&")
            {
                _code.Branch(left, more, after);
            }
            else
            {
                _code.Branch(left, after, more);
            }

            return Merge(left, binary.Right, more, after, binary.Span);
        }

        if (binary.Operator is "??")
        {
            return Either(Lower(binary.Left), binary.Right, binary.Span);
        }

        var first = Lower(binary.Left);
        var second = Lower(binary.Right);
        return binary.Operator == _rules.Join
            ? _code.EmitList(Opcode.Concat, binary.Span, [new Operand(first, At: binary.Left.Span), new Operand(second, At: binary.Right.Span)])
            : _code.Emit(Opcode.Binary, binary.Span, first, second, text: binary.Operator);
    }

    /// <summary>The value, or what the other expression gives where the value is missing.</summary>
    private int Either(int value, Expression other, Span span)
    {
        var more = _code.NewBlock();
        var after = _code.NewBlock();
        var present = _code.Emit(Opcode.Unary, span, value, text: "present");
        _code.Branch(present, after, more);
        return Merge(value, other, more, after, span);
    }

    private int Merge(int first, Expression second, SsaBuilder.BlockBuilder more, SsaBuilder.BlockBuilder after, Span span)
    {
        var result = new Variable("", _code.Declaration);
        _code.Write(result, first);
        _code.Seal(more);
        _code.Start(more);
        _code.Write(result, Lower(second));
        _code.Jump(after);
        _code.Seal(after);
        _code.Start(after);
        _ = span;
        return _code.Read(result);
    }

    private int LowerConditional(Conditional conditional)
    {
        if (conditional.Then is null)
        {
            return LowerBinary(new Binary("||", conditional.Condition, conditional.Otherwise, conditional.Span));
        }

        var then = _code.NewBlock();
        var otherwise = _code.NewBlock();
        var after = _code.NewBlock();
        LowerCondition(conditional.Condition, then, otherwise);
        var result = new Variable("", _code.Declaration);
        _code.Seal(then);
        _code.Start(then);
        _code.Write(result, Lower(conditional.Then));
        _code.Jump(after);
        _code.Seal(otherwise);
        _code.Start(otherwise);
        _code.Write(result, Lower(conditional.Otherwise));
        _code.Jump(after);
        _code.Seal(after);
        _code.Start(after);
        return _code.Read(result);
    }

    private int LowerMatch(MatchExpression match)
    {
        var subject = Lower(match.Subject);
        var after = _code.NewBlock();
        var result = new Variable("", _code.Declaration);
        foreach (var arm in match.Arms.OrderBy(a => a.Conditions.Count == 0))
        {
            if (arm.Conditions.Count == 0)
            {
                _code.Write(result, Lower(arm.Result));
                _code.Jump(after);
                break;
            }

            var body = _code.NewBlock();
            foreach (var condition in arm.Conditions)
            {
                var next = _code.NewBlock();
                var equal = _code.Emit(Opcode.Binary, condition.Span, subject, Lower(condition), text: "===");
                _code.Branch(equal, body, next);
                _code.Seal(next);
                _code.Start(next);
            }

            var rest = _code.Current;
            _code.Seal(body);
            _code.Start(body);
            _code.Write(result, Lower(arm.Result));
            _code.Jump(after);
            _code.Start(rest);
        }

        // Without a matching arm the language raises an error.
        _code.End();
        _code.Seal(after);
        _code.Start(after);
        return _code.Read(result);
    }

    /// <summary>Lowers a condition so that each part of it decides a branch of its own, as guards are found on branches.</summary>
    private void LowerCondition(Expression condition, SsaBuilder.BlockBuilder then, SsaBuilder.BlockBuilder otherwise)
    {
        switch (condition)
        {
            case Unary { Operator: "!" } not:
                LowerCondition(not.Operand, otherwise, then);
                break;
            case Binary { Operator: "&&" } both:
                var second = _code.NewBlock();
                LowerCondition(both.Left, second, otherwise);
                _code.Seal(second);
                _code.Start(second);
                LowerCondition(both.Right, then, otherwise);
                break;
            case Binary { Operator: "||" } any:
                var other = _code.NewBlock();
                LowerCondition(any.Left, then, other);
                _code.Seal(other);
                _code.Start(other);
                LowerCondition(any.Right, then, otherwise);
                break;
            default:
                _code.Branch(Lower(condition), then, otherwise);
                break;
        }
    }

    private int LowerTemplate(Template template)
    {
        var parts = new List<Operand>();
        var tag = template.Tag is null ? -1 : Lower(template.Tag);
        foreach (var part in template.Parts)
        {
            parts.Add(new Operand(Lower(part), At: part.Span));
        }

        return tag >= 0 ? _code.EmitList(Opcode.TaggedTemplate, template.Span, parts, tag) : _code.EmitList(Opcode.Concat, template.Span, parts);
    }

    private int LowerObject(ObjectLiteral literal)
    {
        var list = new List<Operand>();
        var position = 0;
        foreach (var entry in literal.Entries)
        {
            var name = entry.Name;
            if (entry.Key is not null && name is null)
            {
                Lower(entry.Key);
                name = "*";
            }

            name ??= entry.Spread ? null : position++.ToString(CultureInfo.InvariantCulture);
            list.Add(new Operand(Lower(entry.Value), name, entry.Spread, entry.Value.Span));
        }

        return _code.EmitList(literal.IsList ? Opcode.List : Opcode.Object, literal.Span, list);
    }
}
