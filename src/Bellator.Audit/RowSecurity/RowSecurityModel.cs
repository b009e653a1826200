using Bellator.Analysis.Libraries;
using Bellator.Text;

namespace Bellator.Audit.RowSecurity;

/// <summary>What a policy is for; null in <see cref="RowPolicy.For"/> means all of them.</summary>
public enum PolicyCommand
{
    Select,
    Insert,
    Update,
    Delete,
}

/// <summary>A rule of row-level security, as CREATE POLICY states it.</summary>
/// <param name="IsRestrictive">It narrows what the others allow; permissive ones are joined with OR.</param>
/// <param name="Roles">The roles it is for; empty for everybody.</param>
/// <param name="Using">The condition on rows that are there.</param>
/// <param name="Check">The condition on rows that are written; for updates <paramref name="Using"/> serves where it is left out.</param>
public sealed record RowPolicy(string Name, string Table, bool IsRestrictive, PolicyCommand? For, IReadOnlyList<string> Roles, SqlExpression? Using, SqlExpression? Check, Location At)
{
    public bool Covers(PolicyCommand command) => For is null || For == command;

    /// <summary>It holds for people at large, not only for roles of the application's own choosing.</summary>
    public bool IsForPeople(IdentifierClassifier words) => Roles.Count == 0 || Roles.Any(words.IsSqlPeople);
}

/// <summary>A table's row security: whether it is on, and whom it binds.</summary>
public sealed record ProtectedTable(string Name)
{
    public Location? Enabled { get; set; }

    /// <summary>It binds the owner of the table too.</summary>
    public bool IsForced { get; set; }

    public (string Role, Location At)? Owner { get; set; }
}

/// <param name="IsDefiner">It runs with the rights of whoever made it.</param>
/// <param name="HasSearchPath">The names in it mean the same whoever calls it.</param>
/// <param name="Query">The query that its body is, or its first; null if it has none.</param>
/// <param name="Words">All words of the body, in lower case.</param>
public sealed record SqlFunction(string Name, bool IsDefiner, bool HasSearchPath, bool IsTrigger, int Parameters, SqlQuery? Query, IReadOnlySet<string> Words, IReadOnlyList<SqlQuery> Queries, Location At);

/// <param name="IsInvoker">It reads with the rights of whoever asks.</param>
public sealed record SqlView(string Name, bool IsMaterialized, SqlQuery? Query, Location At)
{
    public bool IsInvoker { get; set; }
}

/// <param name="Columns">The columns that the privilege is limited to; empty for all.</param>
public sealed record SqlGrant(string Privilege, IReadOnlyList<string> Columns, string Object, string Role, Location At);

public sealed record SqlRole(string Name, bool CanLogIn, bool BypassesRowSecurity, Location At);

/// <summary>Row-level security as the SQL of an application sets it up.</summary>
public sealed class RowSecurityModel
{
    public List<RowPolicy> Policies { get; } = [];

    public Dictionary<string, ProtectedTable> Tables { get; } = new(StringComparer.OrdinalIgnoreCase);

    public Dictionary<string, SqlFunction> Functions { get; } = new(StringComparer.OrdinalIgnoreCase);

    public Dictionary<string, SqlView> Views { get; } = new(StringComparer.OrdinalIgnoreCase);

    public List<SqlGrant> Grants { get; } = [];

    public Dictionary<string, SqlRole> Roles { get; } = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>A block enables row security for tables that it names while it runs: which ones was not understood.</summary>
    public bool EnablesByName { get; set; }

    public ProtectedTable Table(string name) => Tables.TryGetValue(name, out var known) ? known : Tables[name] = new ProtectedTable(name);

    /// <summary>Rows of the table are for some people only.</summary>
    public bool IsProtected(string table) => Tables.TryGetValue(table, out var known) && known.Enabled is not null && Policies.Exists(p => p.Table.Equals(table, StringComparison.OrdinalIgnoreCase));

    public IEnumerable<RowPolicy> Of(string table) => Policies.Where(p => p.Table.Equals(table, StringComparison.OrdinalIgnoreCase));
}
