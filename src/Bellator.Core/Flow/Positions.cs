namespace Bellator.Core.Flow;

/// <summary>The names that facts use for positions.</summary>
public static class Positions
{
    private static readonly Dictionary<string, Position> ByName = new(StringComparer.Ordinal)
    {
        ["sql-text"] = Position.SqlText,
        ["sql-identifier"] = Position.SqlIdentifier,
        ["sql-bare"] = Position.SqlBare,
        ["html"] = Position.Html,
        ["attribute"] = Position.Attribute,
        ["script"] = Position.Script,
        ["url"] = Position.Url | Position.Address,
        ["shell"] = Position.Shell,
        ["path"] = Position.Path | Position.FileName,
        ["folder"] = Position.Path,
        ["file-name"] = Position.FileName,
        ["code"] = Position.Code,
        ["header"] = Position.Header,
        ["ldap"] = Position.Ldap,
        ["xpath"] = Position.Xpath,
        ["pattern"] = Position.Pattern,
        ["object"] = Position.Object,
        ["template"] = Position.Template,
        ["redirect"] = Position.Redirect | Position.Address,
        ["serialised"] = Position.Serialised,
        ["address"] = Position.Address,
        ["all"] = Position.All,
    };

    /// <summary>The position of a name, or none if there is no such name.</summary>
    public static Position Named(string name) => ByName.GetValueOrDefault(name);

    /// <summary>The position in which the argument of a sink of this kind stands.</summary>
    public static Position OfSink(string kind) => kind switch
    {
        "command" => Position.Shell,
        "code" => Position.Code,
        "page" => Position.Html,
        "template" => Position.Template,
        "path" => Position.Path,
        "redirect" => Position.Redirect,
        "header" => Position.Header,
        "deserialise" => Position.Serialised,
        "ldap" => Position.Ldap,
        "xpath" => Position.Xpath,
        "filter" or "assign" => Position.Object,
        "pattern" => Position.Pattern,
        _ => Position.None,
    };
}
