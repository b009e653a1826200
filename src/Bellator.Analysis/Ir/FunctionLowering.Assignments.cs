using System.Globalization;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Ir;

/// <summary>What is stored, and where: variables, members, items, patterns.</summary>
internal sealed partial class FunctionLowering
{
    /// <summary>
    /// The keys on the way to what is assigned, and what the way begins with: they are read for the old value and once more for each step
    /// of the new one, but run once. Lowering them each time would double the work with each such assignment inside of another.
    /// </summary>
    private readonly Dictionary<Expression, int> _loweredOnce = [];

    private void LowerPartsOnce(Expression target)
    {
        while (true)
        {
            var next = target switch { IndexExpression index => index.Target, Member member => member.Target, _ => null };
            if (next is null)
            {
                return;
            }

            if (target is IndexExpression { Key: { } key and not (Name or Literal) })
            {
                _loweredOnce.TryAdd(key, -1);
            }

            if (next is not (Name or ThisExpression or Member or IndexExpression or Literal))
            {
                _loweredOnce.TryAdd(next, -1);
            }

            target = next;
        }
    }

    private int LowerAssignment(Assignment assignment)
    {
        var span = assignment.Span;
        int value;
        LowerPartsOnce(assignment.Target);
        switch (assignment.Operator)
        {
            case null:
                value = Lower(assignment.Value);
                break;
            case "??" or "||" or "&&":
                value = Either(Lower(assignment.Target), assignment.Value, span);
                break;
            case "." or "+" when assignment.Operator == _rules.Join:
                var before = Lower(assignment.Target);
                value = _code.EmitList(Opcode.Concat, span, [new Operand(before, At: assignment.Target.Span), new Operand(Lower(assignment.Value), At: assignment.Value.Span)]);
                break;
            default:
                var left = Lower(assignment.Target);
                value = _code.Emit(Opcode.Binary, span, left, Lower(assignment.Value), text: assignment.Operator);
                break;
        }

        AssignTo(assignment.Target, value, span);
        return value;
    }

    /// <summary>Stores a value in a variable, field, item or pattern. A change of a part of a variable is a new value of the variable.</summary>
    private void AssignTo(Expression target, int value, Span span)
    {
        switch (target)
        {
            case Name { Binding: Variable variable }:
                WriteVariable(variable, value, span);
                break;
            case Name { Binding: null, Text: "_" } when _rules.Discards:
                break;
            case Name { Binding: null, Text: ['$', '_', ..] } everywhere:
                // Of the whole program, wherever it is set: $_GET.
                _code.Emit(Opcode.StoreShared, span, -1, value, text: everywhere.Text);
                break;
            case Name { Binding: null } bare when _rules.ImplicitReceiver:
                _code.Emit(Opcode.SetField, span, _code.Emit(Opcode.This, span), value, text: bare.Text);
                break;
            case DefaultTarget fallback:
                AssignTo(fallback.Target, Either(value, fallback.Fallback, span), span);
                break;
            case Member { Target: Name { Text: "module", Binding: null }, MemberName: "exports" } when _rules.CommonJs:
                _code.Emit(Opcode.Export, span, value, text: "module.exports");
                break;
            case Member { Target: Name { Text: "exports", Binding: null } or Member { Target: Name { Text: "module", Binding: null }, MemberName: "exports" } } export when _rules.CommonJs:
                _code.Emit(Opcode.Export, span, value, text: export.MemberName);
                break;
            case Member { Target: ThisExpression self } member:
                _code.Emit(Opcode.SetField, span, Lower(self), value, text: member.MemberName);
                break;
            case Member member when IsVariablePath(member.Target):
                AssignTo(member.Target, _code.Emit(Opcode.WithField, span, Lower(member.Target), value, text: member.MemberName), span);
                break;
            case Member member:
                _code.Emit(Opcode.SetField, span, Lower(member.Target), value, text: member.MemberName);
                break;
            case StaticMember member:
                _code.Emit(Opcode.SetStatic, span, LowerClassName(member.Target), value, text: member.MemberName);
                break;
            case IndexExpression index:
                var container = Lower(index.Target);
                var key = index.Key is null ? -1 : Lower(index.Key);
                if (IsVariablePath(index.Target))
                {
                    AssignTo(index.Target, _code.Emit(Opcode.WithItem, span, container, key, value), span);
                }
                else
                {
                    _code.Emit(Opcode.SetItem, span, container, key, value);
                }

                break;
            case ObjectLiteral pattern:
                Destructure(pattern, value);
                break;
            case Cast or PassThrough or Call or Literal or Opaque:
                Lower(target);
                break;
        }
    }

    /// <summary>What is left of an object once the named parts were taken out.</summary>
    private int Without(ObjectLiteral pattern, int value, Span span)
    {
        var taken = _code.Emit(Opcode.Undefined, span);
        return _code.EmitList(Opcode.Object, span, [new Operand(value, null, true, span), .. pattern.Entries.Where(e => e is { Spread: false, Name: not null }).Select(e => new Operand(taken, e.Name, false, span))]);
    }

    private static bool IsVariablePath(Expression target) => target switch
    {
        Name { Binding: Variable } => true,
        Member { Target: ThisExpression } => true,
        Member member => IsVariablePath(member.Target),
        IndexExpression index => IsVariablePath(index.Target),
        _ => false,
    };

    private void Destructure(ObjectLiteral pattern, int value)
    {
        var position = 0;
        foreach (var entry in pattern.Entries)
        {
            int part;
            if (entry.Spread)
            {
                part = pattern.IsList ? value : Without(pattern, value, entry.Value.Span);
            }
            else if (entry.Name is not null && !pattern.IsList && _rules.Scope == ScopeRule.Lexical)
            {
                part = _code.Emit(Opcode.GetField, entry.Value.Span, value, text: entry.Name);
            }
            else
            {
                var key = entry.Key is not null && entry.Name is null
                    ? Lower(entry.Key)
                    : _code.Constant(LiteralKind.Text, entry.Name ?? position.ToString(CultureInfo.InvariantCulture), entry.Value.Span);
                part = _code.Emit(Opcode.GetItem, entry.Value.Span, value, key);
            }

            position++;
            AssignTo(entry.Value, part, entry.Value.Span);
        }
    }
}
