using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Scheduling;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>Rules about who may call which action, where a class gives them by a method.</summary>
internal sealed class ActionRules(ProgramModel program, ProgramAnalysis flow)
{
    /// <summary>What the class's rules ask for before the action.</summary>
    public IEnumerable<Middleware> Of(IrClass type, string action)
    {
        foreach (var fact in flow.Facts.For(Languages.Family(type.File.Source.Language)).ActionRules)
        {
            if (program.FindMethod(type.Primary, fact.Method) is not { } method || flow.SummaryOf(method).Returns is not { Fields: { Count: > 0 } given } returned)
            {
                continue;
            }

            foreach (var element in fact.Class.Count == 0 ? [returned] : given.Values.Where(v => fact.Class.Contains(IrClass.ShortOf(ClassOf(v)))))
            {
                var asks = Asked(fact, element, ActionOf(fact, action));
                if (asks != Requirement.Other)
                {
                    yield return new Middleware(fact.Method, asks, new Location(method.File.Index, method.Span.Start, Math.Min(method.Span.End, method.Span.Start + 1)), method);
                }
            }
        }
    }

    private static Requirement Asked(ActionRulesModel fact, AbstractValue element, string action)
    {
        if (fact.Only is not null && element.Field(fact.Only) is { } only && !Names(only).Contains(action))
        {
            return Requirement.Other;
        }

        foreach (var rule in ((fact.Rules is null ? element : element.Field(fact.Rules)) ?? AbstractValue.Unknown).Parts)
        {
            var allows = rule.Field(fact.Allow)?.Constant is "true" || rule.Field("0")?.Constant == fact.Allow;
            if (!allows || (rule.Field(fact.Actions) is { } actions && !Names(actions).Contains(action)))
            {
                continue;
            }

            var people = fact.People.Select(rule.Field).OfType<AbstractValue>().SelectMany(v => v.Constant is { } one ? [one] : v.Parts.Select(p => p.Constant ?? "")).ToList();
            return people.Count == 0 || people.Exists(fact.Anybody.Contains) ? Requirement.Other : people.Contains(fact.SignedIn) ? Requirement.SignIn : Requirement.Role;
        }

        // Whom no rule lets in stays outside.
        return Requirement.Role;
    }

    private static string ClassOf(AbstractValue element) =>
        element.Field("class") is { } type ? type.Constant ?? type.Library ?? type.Targets.OfType<IrClass>().FirstOrDefault()?.Name ?? ""
        : element.Field("0")?.Constant ?? element.Constant ?? "";

    private static HashSet<string> Names(AbstractValue value) => [.. (RouteScopes.NamesIn(value) ?? []).Select(Plain)];

    /// <summary>The action that a method stands for.</summary>
    private static string ActionOf(ActionRulesModel fact, string method) =>
        Plain(fact.Strip.Length > 0 && method.Length > fact.Strip.Length && method.StartsWith(fact.Strip, StringComparison.Ordinal) ? method[fact.Strip.Length..] : method);

    /// <summary>An action's name without what addresses have in it.</summary>
    private static string Plain(string action) => action.Replace("-", "", StringComparison.Ordinal).ToLowerInvariant();
}
