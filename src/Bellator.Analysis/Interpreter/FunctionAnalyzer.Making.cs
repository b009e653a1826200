using System.Globalization;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Interpreter;

/// <summary>Texts, objects and functions that expressions make.</summary>
internal sealed partial class FunctionAnalyzer
{
    private AbstractValue EvaluateConcat(int index, in Instruction instruction)
    {
        StringPattern? shape = null;
        var block = _function.BlockOf[index];
        foreach (var operand in _function.List(instruction))
        {
            var at = At(operand.At == default ? instruction.Span : operand.At);
            var value = Get(operand.Value);
            var part = PartOfText(value.IsTainted ? Refine(value, block, operand.Value) : value, at);
            shape = shape is null ? part : StringPattern.Concat(shape, part);
        }

        return AbstractValue.OfText(shape ?? StringPattern.OfLiteral(""));
    }

    /// <summary>
    /// A template with a tag: the tag is called with the pieces as a list, and the values. What a tag of a library makes of them is for facts to
    /// say; those of query builders keep values apart, so that without facts nothing is assumed.
    /// </summary>
    private AbstractValue EvaluateTagged(int index, in Instruction instruction)
    {
        var tag = Get(instruction.A);
        if ((tag.Library ?? tag.Constant) is { } name && _facts.Call(name) is { } fact)
        {
            return fact.Concat ? EvaluateConcat(index, in instruction) : ApplyFact(fact, TaggedSite(index, in instruction), false);
        }

        return tag.Targets.Count > 0 ? ApplyTargets(tag.Targets, TaggedSite(index, in instruction)) : RunsTagged(TaggedSite(index, in instruction));
    }

    private CallSite TaggedSite(int index, in Instruction instruction)
    {
        var pieces = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
        var (values, operands) = (new List<AbstractValue>(), new List<int>());
        foreach (var operand in _function.List(instruction))
        {
            if (_function.Instructions[operand.Value].Op == Opcode.Constant)
            {
                pieces[pieces.Count.ToString(System.Globalization.CultureInfo.InvariantCulture)] = Get(operand.Value);
            }
            else
            {
                values.Add(AsTested(index, operand.Value));
                operands.Add(operand.Value);
            }
        }

        return new CallSite(index, AbstractValue.Unknown, [new AbstractValue { Fields = pieces, Types = ["list"] }, .. values], [-1, .. operands]);
    }

    private static StringPattern PartOfText(AbstractValue value, Location at)
    {
        if (value is { Text.IsOnlyWrapping: true, IsTainted: true })
        {
            Taint Step(Taint t) => t with { Trace = Trace.Add(t.Trace, StepKind.Joined, at, "") };
            return value.Text.Map(p => [[p.PutInto(at, Step, true)]]);
        }

        if (value.Text is not null || value.Taints.Count == 0)
        {
            return value.AsText(at);
        }

        var joined = value.Taints.Select(t => t with { Trace = Trace.Add(t.Trace, StepKind.Joined, at, "") });
        return StringPattern.Of([Piece.Hole([.. joined], at)]);
    }

    private AbstractValue EvaluateCast(in Instruction instruction)
    {
        var value = Get(instruction.A);
        var type = instruction.Text ?? "";
        if (type is "int" or "float" or "bool" or "unset")
        {
            return value.Constant is not null && value.Taints.Count == 0 ? value : AsNumber(value.Taints);
        }

        if (type == "string")
        {
            return MadeSafe(value, ["object"]);
        }

        return type.StartsWith("as:", StringComparison.Ordinal) && type.Length > 3 && _program.TypeNamed(_file, type[3..]) is { } named
            ? AbstractValue.Join(value, TypedValue(named))
            : value;
    }

    private AbstractValue EvaluateObject(int index, in Instruction instruction)
    {
        var fields = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
        IReadOnlyList<Taint> spread = [];
        var open = false;
        AbstractValue? copied = null;
        List<string>? replaced = null;
        foreach (var operand in _function.List(instruction))
        {
            var value = AsTested(index, operand.Value);
            if (operand.Name is null)
            {
                copied = IsOfRecords(value) ? value : copied;
                open |= value.Fields is null || value.Types.Contains(AbstractValue.OpenObject);
                spread = AbstractValue.Union(spread, value.Taints);
                if (instruction.Op == Opcode.Object && (value.Fields is null || value.Fields.ContainsKey("*") || value.Types.Contains(AbstractValue.OpenObject)) && FieldAccess.DeepTaints(value).Any(t => t.IsSent))
                {
                    // What is sent may have a member of the same name, which counts.
                    replaced = [.. replaced ?? [], .. fields.Where(f => f.Key.Length > 0 && char.IsLetter(f.Key[0]) && NamesSubject(f.Value)).Select(f => IfAskedMark + f.Key)];
                }

                foreach (var (name, field) in value.Fields ?? new Dictionary<string, AbstractValue>())
                {
                    fields[name] = field;
                }
            }
            else if (fields.Count < AbstractValue.MaxFields)
            {
                fields[operand.Name] = operand.Name == "*" && fields.TryGetValue("*", out var any) ? AbstractValue.Join(any, value) : value;
            }
        }

        IReadOnlyList<string> types = instruction.Op == Opcode.List ? ["list"] : [.. open ? [AbstractValue.OpenObject] : Array.Empty<string>(), .. replaced ?? []];
        return new AbstractValue { Fields = AbstractValue.Bounded(fields), Taints = spread, Types = copied is null ? types : [.. types, .. copied.Types.Where(t => IsRowType(t) && !types.Contains(t))], Payload = copied?.Payload };
    }

    private AbstractValue EvaluateFunction(int index, int position)
    {
        var function = _file.Functions[position];

        // What the inner function does with this function's parameters is this function's to resolve.
        if (_visit.SummaryOf(function) is { } summary)
        {
            foreach (var inner in summary.Events)
            {
                if (inner.Roles.Values.Any(v => FieldAccess.DeepTaints(v).Any(t => t.IsParameter && t.Origin.Function != function.Id)))
                {
                    AddEvent(inner);
                }
            }
        }

        var made = new AbstractValue { Targets = [function] };
        ApplyDecorators(index, function, made);
        return made;
    }

    /// <summary>
    /// Where one of them keeps the function, to call it later, the program's own decorators are run on it, the last first: what is kept may
    /// be a wrapper that another one made. The name still stands for the function itself, since wrappers are found by the marks.
    /// </summary>
    private void ApplyDecorators(int index, IrFunction function, AbstractValue made)
    {
        if (function.Annotations.Count == 0 || _file.Source.Language != Language.Python || !function.Annotations.Any(m => _program.Program.FindNamedFunction(m.Name, _file) is { IsBrought: false } own && _program.Program.KeepsDecorated(own)))
        {
            return;
        }

        for (var i = function.Annotations.Count - 1; i >= 0; i--)
        {
            var mark = function.Annotations[i];
            if (_program.Program.FindNamedFunction(mark.Name, _file) is not { IsBrought: false } decorator)
            {
                continue;
            }

            var isMaker = mark.Arguments.Count > 0 || decorator.Parameters.Count == 0;
            var decorate = isMaker ? ApplyFunction(decorator, new CallSite(index, AbstractValue.Unknown, [.. mark.Arguments.Select(_ => AbstractValue.Unknown)], [])) : new AbstractValue { Targets = [decorator] };
            var around = ApplyTargets(decorate.Targets, new CallSite(index, AbstractValue.Unknown, [made], []));
            made = around.Targets.Count > 0 ? around : made;
        }
    }

    private AbstractValue EvaluateOpaque(int index, in Instruction instruction)
    {
        IReadOnlyList<Taint> taints = [];
        if (instruction.Text == "markup")
        {
            foreach (var operand in _function.List(instruction))
            {
                if (operand.Name is { } attribute && _facts.Setter("markup", attribute) is { } fact)
                {
                    ApplyFact(fact, new CallSite(index, AbstractValue.Unknown, [Get(operand.Value)], [operand.Value]), false);
                }
            }
        }
        else
        {
            foreach (var operand in _function.List(instruction))
            {
                taints = AbstractValue.Union(taints, Get(operand.Value).Taints);
            }
        }

        return AbstractValue.OfTaints([.. taints.Select(t => t with { Guessed = true, Altered = true })]);
    }

    /// <summary>What a call makes of the keys of a value: a list of them, an object of some, or keys of what were values.</summary>
    private static AbstractValue KeyedResult(CallModel fact, CallSite site)
    {
        if (fact.SelectKeys is [var from, var by])
        {
            var source = site.Argument(from);
            var keys = site.Argument(by);
            var element = FieldAccess.Element(source);
            return keys.Fields is { Count: > 0 }
                ? new AbstractValue { Fields = AbstractValue.Bounded(keys.Fields.Keys.ToDictionary(k => k, k => FieldAccess.Read(source, k))) }
                : new AbstractValue { Fields = new Dictionary<string, AbstractValue> { ["*"] = element }, Taints = keys.IsTainted ? source.Taints : [] };
        }

        var of = site.Argument(fact.Keys ?? fact.ValuesToKeys ?? 0);
        var list = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
        if (fact.ValuesToKeys is not null)
        {
            foreach (var field in of.Parts)
            {
                list[field.Constant ?? "*"] = AbstractValue.Unknown;
            }

            return new AbstractValue { Fields = list, Taints = of.Taints };
        }

        IReadOnlyList<Taint> names = [.. of.Taints.Where(t => t.Origin.NamesItsParts)];
        foreach (var name in of.PartNames)
        {
            list[list.Count.ToString(CultureInfo.InvariantCulture)] = name == "*" ? AbstractValue.OfTaints(names) : AbstractValue.OfConstant(LiteralKind.Text, name);
        }

        return new AbstractValue { Fields = list, Taints = names, Types = ["list"] };
    }
}
