using Bellator.Analysis.Domain;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>Calls that let only some parts of an object through: <c>params.require(:hive).permit(:label)</c>.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>What a program expects of a form: of the part that it names first, the members that it lists.</summary>
    private AbstractValue Expected(CallSite site)
    {
        if (site.Argument(0).Constant is { } name)
        {
            return ReadField(site.Index, site.Receiver, name.TrimStart(':'));
        }

        var (part, members) = site.Names is [{ } first, ..] ? (first, site.Arguments[0]) : site.Argument(0).Fields?.FirstOrDefault() is { Key: { } key, Value: { } listed } ? (key, listed) : ("", null);
        return members is null ? FieldAccess.Element(site.Receiver) : Allowed(new CallSite(site.Index, ReadField(site.Index, site.Receiver, part), [members], []), 0);
    }

    /// <summary>The named parts of the object and nothing else.</summary>
    private AbstractValue Allowed(CallSite site, int from)
    {
        var fields = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
        foreach (var argument in site.Arguments.Skip(from))
        {
            var names = argument.Fields is null ? [argument] : argument.Types.Contains("list") ? argument.Fields.Values : argument.Fields.Keys.Select(k => AbstractValue.OfConstant(LiteralKind.Text, k));
            foreach (var name in names)
            {
                if (name.Constant is { } constant && fields.Count < AbstractValue.MaxFields)
                {
                    var field = FieldAccess.Read(site.Receiver, constant);
                    fields[constant] = field.With(taints: [.. field.Taints.Select(t => t with { Trace = Trace.Add(t.Trace, StepKind.Checked, At(site.Index), constant) })]);
                }
            }
        }

        return new AbstractValue { Fields = fields };
    }
}
