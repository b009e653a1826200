using Bellator.Analysis.Domain;
using Bellator.Analysis.Libraries;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>Schemas that are written as a table: request values by name, and for each the names of its rules with what they are given.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>The schemas that such a table stands for, as calls of the chain's methods would have made them.</summary>
    private AbstractValue ChainsOf(ChainsModel chains, CallSite site)
    {
        var made = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
        var otherwise = PartsIn(chains, chains.DefaultsAt is { } at ? site.Argument(at) : AbstractValue.Unknown);
        foreach (var (name, rules) in site.Argument(chains.At).Fields ?? new Dictionary<string, AbstractValue>())
        {
            foreach (var part in rules.Fields?.GetValueOrDefault(chains.In) is { } said ? PartsIn(chains, said) : otherwise)
            {
                var chain = AbstractValue.OfType(chains.Of).With(carried: AbstractValue.OfConstant(LiteralKind.Text, name).With(label: part));
                foreach (var (rule, given) in rules.Fields ?? new Dictionary<string, AbstractValue>())
                {
                    if (given.Constant != "false" && _facts.Method(chain.Types[0], rule) is { } fact)
                    {
                        var options = FieldAccess.Read(given, chains.Options);
                        var first = options.Fields?.GetValueOrDefault("0") ?? options;
                        chain = fact.Becomes is { } becomes ? chain.With(types: [becomes])
                            : fact.Narrow is { } narrow ? Narrowed(narrow, new CallSite(site.Index, chain, [first], [-1])) : chain;
                    }
                }

                made[made.Count.ToString(System.Globalization.CultureInfo.InvariantCulture)] = chain;
            }
        }

        return new AbstractValue { Fields = AbstractValue.Bounded(made), Types = ["list"] };
    }

    /// <summary>The request parts that are named, one or several; any part if none is.</summary>
    private static List<string> PartsIn(ChainsModel chains, AbstractValue named)
    {
        var names = named.Constant is { } one ? [one] : named.Parts.Select(v => v.Constant).OfType<string>().ToList();
        return names.Count == 0 ? [Origin.AnyName] : names.ConvertAll(n => chains.Parts.GetValueOrDefault(n, n));
    }
}
