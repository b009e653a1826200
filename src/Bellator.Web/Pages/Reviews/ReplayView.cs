using Bellator.Audit.Witnesses;

namespace Bellator.Web.Pages.Reviews;

/// <summary>What a replayed statement did, in words.</summary>
public static class ReplayView
{
    public static string Did(ReplayedStatement statement) => statement switch
    {
        { Error: { } error } => $"was refused (“{error}”)",
        { Changed: true, Count: 1 } => "changed 1 row",
        { Changed: true } => $"changed {statement.Count} rows",
        { Count: 0 } => "brought no row",
        { Count: 1 } => "brought 1 row",
        _ => $"brought {statement.Count} rows",
    };
}
