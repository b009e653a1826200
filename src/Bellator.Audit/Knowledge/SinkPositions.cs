namespace Bellator.Audit.Knowledge;

/// <summary>In which positions, in the words of facts files, a value has to be harmless for a weakness not to be one.</summary>
public static class SinkPositions
{
    private static readonly Dictionary<string, string[]> ByCheck = new(StringComparer.Ordinal)
    {
        ["injection/sql"] = ["sql-text", "sql-identifier", "sql-bare"],
        ["injection/query-language"] = ["sql-text", "sql-identifier", "sql-bare"],
        ["injection/nosql-operator"] = ["object"],
        ["injection/pattern-from-input"] = ["pattern"],
        ["injection/command"] = ["shell"],
        ["injection/code"] = ["code"],
        ["injection/page-output"] = ["html", "attribute", "script", "url", "address"],
        ["injection/template"] = ["template"],
        ["injection/path"] = ["path"],
        ["injection/redirect"] = ["redirect", "address"],
        ["injection/server-request"] = ["server-address"],
        ["injection/header"] = ["header"],
        ["injection/deserialise"] = ["serialised"],
        ["injection/ldap"] = ["ldap"],
        ["injection/xpath"] = ["xpath"],
    };

    /// <summary>Empty for a weakness that is not about a position.</summary>
    public static IReadOnlyList<string> Of(string checkId) => ByCheck.GetValueOrDefault(checkId) ?? [];

    internal static IEnumerable<string> Checks => ByCheck.Keys;
}
