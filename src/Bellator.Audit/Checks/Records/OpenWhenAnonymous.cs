using System.Globalization;
using Bellator.Analysis.Queries;
using Bellator.Audit.Endpoints;
using Bellator.Audit.RowSecurity;

namespace Bellator.Audit.Checks.Records;

/// <summary>Where nobody is signed in, the rule does not hold.</summary>
public sealed class OpenWhenAnonymous : PolicyCheck
{
    public override string Id => "records/open-when-anonymous";

    public override string Title => "Rule does not hold when nobody is signed in";

    public override IReadOnlyList<int> Cwes => [636, 284, 862];

    public override IReadOnlyList<string> Asvs => ["V8.2.2", "V8.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:L/A:N";

    public override string Why => "A missing identity should get nothing. A rule that is skipped then opens the records to every path that forgets to say who is asking.";

    public override string FalsePositiveIf => "Every connection to the database states a person, and none that does not can reach these rows.";

    public override string HowToFix(string language) => "Let a missing person make the condition false or NULL; give jobs that need all rows a database role and a policy of their own.";

    public override IEnumerable<Finding> Run(CheckContext context) => base.Run(context).Concat(InScopes(context));

    /// <summary>A condition that the mapper puts on all queries of a class, and leaves out where there is nobody.</summary>
    private IEnumerable<Finding> InScopes(CheckContext context)
    {
        foreach (var scope in ScopeBodies.Of(context.Program, context.Flow.Facts).DistinctBy(s => s.Given))
        {
            if (ScopeBodies.OpenWays(scope.Given).FirstOrDefault(o => AuthorizationChecks.IsPresence(o.Function, o.Condition) != o.WhereTrue && (context.Accounts.Surface.AskedBy(o.Function, o.Condition) == Requirement.SignIn || ScopeBodies.IsUsed(context.Program, o))) is { } open)
            {
                var at = open.Function.LocationOf(open.Condition);
                yield return Found(at, $"“{context.Program.Tree.TextOf(at)}” decides whether the default scope adds its condition: a query on behalf of nobody gets every row.", "default scope", Certainty.Traced, scope.At);
            }
        }
    }

    protected override IEnumerable<Finding> Run(CheckContext context, RowSecurityModel model, PolicyTerms terms)
    {
        foreach (var policy in Permissive(context, model))
        {
            if (!PolicyTerms.IsAlwaysTrue(policy.Using) && terms.KindOf(policy.Using) != PersonKind.None && terms.WithoutPerson(policy.Using) == Truth.True)
            {
                yield return Found(policy.At, $"Policy “{policy.Name}” lets every row of {policy.Table} through when nobody is signed in.", policy.Name);
            }
        }

        foreach (var function in model.Functions.Values.Where(f => f.Query is { From.Count: 0 }))
        {
            if (terms.KindOf(function.Query) == PersonKind.Direct && DefaultOf(function.Query!) is { } person && model.Policies.Find(p => IsUsed(p, function)) is { } policy)
            {
                yield return Found(function.At, $"When nobody is signed in, {function.Name}() answers {person}: whoever asks then gets the rows of that person by policy “{policy.Name}” on {policy.Table}.", function.Name, Certainty.Traced, policy.At);
            }
        }
    }

    private static bool IsUsed(RowPolicy policy, SqlFunction function) => new[] { policy.Using, policy.Check }.SelectMany(c => c?.All() ?? []).OfType<SqlCall>().Any(c => c.ShortName.Equals(function.Name, StringComparison.OrdinalIgnoreCase));

    /// <summary>The person that stands in for a missing one: a number above zero, or an id that is not all zeros.</summary>
    private static string? DefaultOf(SqlQuery query) => query.All().OfType<SqlCall>().Where(c => c.ShortName == "coalesce" && c.Arguments.Count > 1).Select(c => (c.Arguments[^1] as SqlConstant)?.Value)
        .FirstOrDefault(v => (long.TryParse(v, CultureInfo.InvariantCulture, out var number) && number > 0) || (Guid.TryParse(v, out var id) && id != Guid.Empty));
}
