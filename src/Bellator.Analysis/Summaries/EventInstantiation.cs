using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Text;

namespace Bellator.Analysis.Summaries;

/// <summary>What happens in a function, as one call of it makes it happen.</summary>
internal static class EventInstantiation
{
    /// <summary>The event as one call of the function makes it, or null if it then says nothing a check could use.</summary>
    public static AnalysisEvent? Instantiate(this AnalysisEvent happening, Substitution substitution, Location call)
    {
        // Most repetitions say nothing: a table is only made for those that do.
        var applications = new AbstractValue[happening.Roles.Count];
        var tells = happening.Kind is EventKind.Connect or >= EventKind.Route;
        var changed = false;
        var at = 0;
        foreach (var (name, value) in happening.Roles)
        {
            var applied = applications[at++] = happening.Kind is EventKind.Hash or EventKind.Compare ? FieldAccess.Flattened(substitution.Apply(value)) : substitution.Apply(value);
            changed |= !ReferenceEquals(applied, value);
            tells |= applied.IsTainted || applied.HasParameters || (name == "value" && (FieldAccess.DeepTaints(applied).Count > 0 || (happening.Sink is { TakesRecords: true } && !ReferenceEquals(applied, AbstractValue.Unknown)))) || (name is "cost" or "salt" && applied.Constant is not null) || (name == "values" && FieldAccess.DeepTaints(applied).Count > 0)
                || (name == "value" && happening.Sink is { TakesConstants: true } && (applied.Constant ?? applied.Fallback) is not null)
                || (name == "text" && (applied.Constant is not null || applied.Text is not null));
        }

        if (!changed || !tells)
        {
            return null;
        }

        var roles = new Dictionary<string, AbstractValue>(happening.Roles.Count, StringComparer.Ordinal);
        at = 0;
        foreach (var name in happening.Roles.Keys)
        {
            roles[name] = applications[at++];
        }

        var settled = happening.Role("text").HasParameters || happening.Role("cost").HasParameters || (happening.Sink is { TakesRecords: true } && happening.Role("value").WholeParameter is not null) ? call : happening.Place;
        return new AnalysisEvent { Kind = happening.Kind, Fact = happening.Fact, Sink = happening.Sink, Context = happening.Context, Function = happening.Function, At = happening.At, Place = settled, Places = happening.Places, Roles = roles, Guessed = happening.Guessed, Depth = happening.Depth + 1 };
    }
}
