using Bellator.Analysis.Domain;
using Bellator.Analysis.Libraries;
using Bellator.Text;

namespace Bellator.Analysis.Interpreter;

/// <summary>What a call makes of a value so that it does less harm: escaped, made safe for some positions, or hidden.</summary>
internal sealed partial class FunctionAnalyzer
{
    private static AbstractValue MadeSafe(AbstractValue value, List<string> positions)
    {
        var safe = positions.Aggregate(OutputContext.None, (p, n) => p | OutputContexts.Named(n));
        if (value.Taints.All(t => (t.Safe & safe) == safe))
        {
            return value;
        }

        Taint Mark(Taint t) => t with { Safe = t.Safe | safe };
        return value.Text is null ? value.With(taints: [.. value.Taints.Select(Mark)]) : AbstractValue.OfText(value.Text.Map(p => [[Piece.Hole([.. p.Taints.Select(Mark)], p.At)]]));
    }

    private AbstractValue Hidden(IReadOnlyList<Taint> taints, PasswordTransform hiding, OutputContext safe, CallSite site, string note)
    {
        var at = At(site.Index);
        return AbstractValue.OfTaints([.. taints.Select(t => t with
        {
            Transform = (PasswordTransform)Math.Max((int)t.Transform, (int)hiding),
            Safe = t.Safe | safe,
            Altered = true,
            Trace = Trace.Add(t.Trace, StepKind.Hashed, at, note),
        })]);
    }

    private AbstractValue Escaped(EscapeModel escape, CallModel fact, CallSite site)
    {
        var safe = escape.For.Aggregate(OutputContext.None, (p, name) => p | OutputContexts.Named(name));
        var at = At(site.Index);
        Taint Mark(Taint t) => t with { Safe = t.Safe | safe, Altered = true, Trace = Trace.Add(t.Trace, StepKind.Escaped, at, fact.Library) };
        var value = site.Argument(escape.Value);
        if (value.Text is not null)
        {
            var text = value.Text.Map(p => [[Piece.Hole([.. p.Taints.Select(Mark)], p.At)]]);
            return AbstractValue.OfText(Quoted(text, escape.Quotes));
        }

        if (value.Constant is not null && value.Taints.Count == 0)
        {
            return escape.Quotes.Length == 0 ? value : AbstractValue.OfText(Quoted(value.AsText(at), escape.Quotes));
        }

        var taints = FieldAccess.DeepTaints(value).Select(Mark).ToList();
        return escape.Quotes.Length == 0 ? AbstractValue.OfTaints(taints) : AbstractValue.OfText(Quoted(StringPattern.Of([Piece.Hole(taints, at)]), escape.Quotes));
    }

    private static StringPattern Quoted(StringPattern text, string quotes) => quotes.Length == 0
        ? text
        : StringPattern.Concat(StringPattern.Concat(StringPattern.OfLiteral(quotes), text), StringPattern.OfLiteral(quotes));
}
