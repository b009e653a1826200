using Bellator.Audit.Auditing;

namespace Bellator.Audit.Comparison;

/// <param name="Part">endpoints, tables, journeys or password policy.</param>
/// <param name="Kind">added, removed or changed.</param>
/// <param name="Text">What is otherwise, in a few words.</param>
/// <param name="At">Where; null for what is gone.</param>
/// <param name="IsWorse">A reviewer should look at it: less is asked of people, or less is kept.</param>
public sealed record PartChange(string Part, string Kind, string Subject, string Text, ReportedPlace? At, bool IsWorse);

/// <summary>One part of what an audit found the application to be. A stage joins the comparison by adding one of these to <see cref="ComparedParts"/>.</summary>
public interface IComparedPart
{
    string Name { get; }

    IEnumerable<PartChange> Compare(ReportedApplication before, ReportedApplication after);
}

public static class ComparedParts
{
    public static IReadOnlyList<IComparedPart> All { get; } = [new ComparedEndpoints(), new ComparedTables(), new ComparedJourneys(), new ComparedPolicies()];

    /// <summary>One change that touches more subjects than this is said once.</summary>
    private const int MostAlike = 3;

    /// <param name="root">How the folder that all paths begin with was called: addresses that are made of paths have it in them too.</param>
    public static IReadOnlyList<PartChange> Compare(ReportedApplication before, ReportedApplication after, PathRoots? root = null) =>
        [.. All.SelectMany(p => p.Compare(Rooted(before, root ?? PathRoots.Same), after)).GroupBy(c => (c.Part, c.Kind, c.IsWorse, Text: c.Kind == "changed" ? c.Text : c.Subject))
            .SelectMany(g => g.Key.Kind == "changed" && g.Count() > MostAlike ? [g.First() with { Subject = $"{g.Count()} {g.Key.Part}, such as {g.First().Subject}" }] : g.AsEnumerable())
            .OrderBy(c => All.ToList().FindIndex(p => p.Name == c.Part)).ThenByDescending(c => c.IsWorse)];

    private static ReportedApplication Rooted(ReportedApplication application, PathRoots root)
    {
        string Address(string address) => address.StartsWith("/" + root.Before, StringComparison.Ordinal) ? "/" + root.After + address[(root.Before.Length + 1)..] : address;
        return root.Before == root.After ? application : application with
        {
            Surface = application.Surface with { Entries = [.. application.Surface.Entries.Select(e => e with { Path = Address(e.Path) })] },
            Accounts = application.Accounts is { } accounts ? accounts with { Journeys = [.. accounts.Journeys.Select(j => j with { Address = j.Address.Replace("/" + root.Before, "/" + root.After, StringComparison.Ordinal) })] } : null,
        };
    }

    /// <summary>What is there in both, and what only in one, by a key; where several have one key, the first counts.</summary>
    internal static (IReadOnlyList<T> Added, IReadOnlyList<T> Removed, IReadOnlyList<(T Before, T After)> Kept) Sort<T>(IEnumerable<T> before, IEnumerable<T> after, Func<T, string> key)
    {
        var old = before.DistinctBy(key).ToDictionary(key);
        var now = after.DistinctBy(key).ToDictionary(key);
        return ([.. now.Where(p => !old.ContainsKey(p.Key)).Select(p => p.Value)], [.. old.Where(p => !now.ContainsKey(p.Key)).Select(p => p.Value)], [.. now.Where(p => old.ContainsKey(p.Key)).Select(p => (old[p.Key], p.Value))]);
    }
}

internal sealed class ComparedEndpoints : IComparedPart
{
    public string Name => "endpoints";

    public IEnumerable<PartChange> Compare(ReportedApplication before, ReportedApplication after)
    {
        var (added, removed, kept) = ComparedParts.Sort(before.Surface.Entries, after.Surface.Entries, e => $"{e.Method} {e.Path}");
        foreach (var entry in added)
        {
            yield return new PartChange(Name, "added", $"{entry.Method} {entry.Path}", SignIn(entry.SignIn), entry.Declared, entry.SignIn != "needed");
        }

        foreach (var entry in removed)
        {
            yield return new PartChange(Name, "removed", $"{entry.Method} {entry.Path}", "", null, false);
        }

        foreach (var (old, now) in kept)
        {
            if (old.SignIn != now.SignIn)
            {
                yield return new PartChange(Name, "changed", $"{now.Method} {now.Path}", $"{SignIn(now.SignIn)}; before: {SignIn(old.SignIn)}", now.Declared, old.SignIn == "needed");
            }

            var names = now.Guards.Select(g => g.Name).ToHashSet(StringComparer.Ordinal);
            var guards = old.Guards.Where(g => !names.Contains(g.Name)).ToList();
            if (guards.Count > 0)
            {
                var asks = guards.Exists(g => g.Asks is "signIn" or "role" or "forgery" or "throttle");
                yield return new PartChange(Name, "changed", $"{now.Method} {now.Path}", $"no longer on the way: {string.Join(", ", guards.Select(g => g.Name).Distinct())}", now.Declared, asks);
            }

            var tables = now.Accesses.Select(a => $"{a.Table} ({a.Action})").Except(old.Accesses.Select(a => $"{a.Table} ({a.Action})")).ToList();
            if (tables.Count > 0)
            {
                yield return new PartChange(Name, "changed", $"{now.Method} {now.Path}", $"uses more tables: {string.Join(", ", tables)}", now.Declared, false);
            }
        }
    }

    private static string SignIn(string state) => state switch
    {
        "needed" => "sign-in needed",
        "unclear" => "unclear whether sign-in is needed",
        _ => "open to anybody",
    };
}

internal sealed class ComparedTables : IComparedPart
{
    public string Name => "tables";

    public IEnumerable<PartChange> Compare(ReportedApplication before, ReportedApplication after)
    {
        var (added, removed, kept) = ComparedParts.Sort(before.Surface.Tables, after.Surface.Tables, t => t.Name.ToUpperInvariant());
        foreach (var table in added)
        {
            yield return new PartChange(Name, "added", table.Name, $"{table.Columns.Count} {(table.Columns.Count == 1 ? "column" : "columns")}", table.Origins.Count > 0 ? table.Origins[0].At : null, false);
        }

        foreach (var table in removed)
        {
            yield return new PartChange(Name, "removed", table.Name, "", null, false);
        }

        foreach (var (old, now) in kept)
        {
            if (old.RowSecurity != now.RowSecurity)
            {
                yield return new PartChange(Name, "changed", now.Name, now.RowSecurity ? "row security switched on" : "row security switched off", now.Origins.Count > 0 ? now.Origins[0].At : null, old.RowSecurity);
            }

            foreach (var change in Columns(old, now))
            {
                yield return change;
            }

            foreach (var rule in old.Rules.Except(now.Rules))
            {
                yield return new PartChange(Name, "removed", now.Name, rule, null, rule.StartsWith("unique", StringComparison.Ordinal));
            }

            foreach (var rule in now.Rules.Except(old.Rules))
            {
                yield return new PartChange(Name, "added", now.Name, rule, now.Origins.Count > 0 ? now.Origins[0].At : null, false);
            }
        }
    }

    private static IEnumerable<PartChange> Columns(ReportedTable before, ReportedTable after)
    {
        var (added, removed, kept) = ComparedParts.Sort(before.Columns, after.Columns, c => c.Name.ToUpperInvariant());
        foreach (var column in added)
        {
            yield return new PartChange("tables", "added", $"{after.Name}.{column.Name}", column.Meaning.Length > 0 ? $"holds {column.Meaning}" : column.Type, column.Origin.At, false);
        }

        foreach (var column in removed)
        {
            yield return new PartChange("tables", "removed", $"{after.Name}.{column.Name}", "", null, false);
        }

        foreach (var (old, now) in kept)
        {
            var narrower = now.Length < old.Length;
            foreach (var (text, worse) in (IEnumerable<(string, bool)>)
            [
                (old.Length == now.Length ? "" : narrower ? $"narrowed from {old.Length} to {now.Length}" : $"length {Word(old.Length)} became {Word(now.Length)}", narrower),
                (old.NotNull == now.NotNull ? "" : now.NotNull ? "may no longer be null" : "may be null now", !now.NotNull),
                (old.Unique == now.Unique ? "" : now.Unique ? "is unique now" : "is no longer unique", !now.Unique),
                (old.Meaning == now.Meaning ? "" : $"was taken for {Word(old.Meaning)}, and now for {Word(now.Meaning)}", false),
            ])
            {
                if (text.Length > 0)
                {
                    yield return new PartChange("tables", "changed", $"{after.Name}.{now.Name}", text, now.Origin.At, worse);
                }
            }
        }
    }

    private static string Word(int? length) => length?.ToString(System.Globalization.CultureInfo.InvariantCulture) ?? "without a bound";

    private static string Word(string meaning) => meaning.Length > 0 ? meaning : "nothing in particular";
}

internal sealed class ComparedJourneys : IComparedPart
{
    public string Name => "journeys";

    public IEnumerable<PartChange> Compare(ReportedApplication before, ReportedApplication after)
    {
        var (added, removed, kept) = ComparedParts.Sort(before.Accounts?.Journeys ?? [], after.Accounts?.Journeys ?? [], j => $"{j.Kind} {j.Address}");
        foreach (var journey in added)
        {
            yield return new PartChange(Name, "added", $"{JourneyText.Title(journey.Kind)} {journey.Address}", "", journey.At, false);
        }

        foreach (var journey in removed)
        {
            yield return new PartChange(Name, "removed", $"{JourneyText.Title(journey.Kind)} {journey.Address}", "", null, false);
        }

        foreach (var (old, now) in kept)
        {
            var (_, _, steps) = ComparedParts.Sort(old.Steps, now.Steps, s => s.Name);
            foreach (var (was, step) in steps.Where(s => s.Before.State != s.After.State))
            {
                yield return new PartChange(Name, "changed", $"{JourneyText.Title(now.Kind)} {now.Address}", $"{step.Text}: was {JourneyText.State(was.State)}, is {JourneyText.State(step.State)}", step.Evidence.Count > 0 ? step.Evidence[0].At : now.At, was.State == "shown");
            }
        }
    }
}

internal sealed class ComparedPolicies : IComparedPart
{
    public string Name => "password policy";

    public IEnumerable<PartChange> Compare(ReportedApplication before, ReportedApplication after)
    {
        var (added, removed, kept) = ComparedParts.Sort(before.Accounts?.Policies ?? [], after.Accounts?.Policies ?? [], p => p.Name);
        foreach (var policy in added)
        {
            yield return new PartChange(Name, "added", policy.Name, Rules(policy), policy.Rules.Count > 0 ? policy.Rules[0].At : null, false);
        }

        foreach (var policy in removed)
        {
            yield return new PartChange(Name, "removed", policy.Name, "", null, false);
        }

        foreach (var (old, now) in kept)
        {
            if (Rules(old) != Rules(now))
            {
                yield return new PartChange(Name, "changed", now.Name, $"{Rules(now)}; before: {Rules(old)}", now.Rules.Count > 0 ? now.Rules[0].At : null, now.Minimum < old.Minimum || now.Accepted > old.Accepted);
            }

            if (old.Scheme != now.Scheme && now.Scheme is not null && old.Scheme is not null)
            {
                yield return new PartChange(Name, "changed", now.Name, $"hashed with {now.Scheme}; before: {old.Scheme}", now.Rules.Count > 0 ? now.Rules[0].At : null, false);
            }
        }
    }

    private static string Rules(ReportedPolicy policy) => policy.Rules.Count == 0 ? "no rule was found" : string.Join(", ", policy.Rules.Select(r => $"{r.Kind} {r.Value}".Trim()).Distinct().Order(StringComparer.Ordinal));
}
