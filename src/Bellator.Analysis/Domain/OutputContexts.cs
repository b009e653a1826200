namespace Bellator.Analysis.Domain;

/// <summary>The names that facts use for positions.</summary>
public static class OutputContexts
{
    private static readonly Dictionary<string, OutputContext> ByName = new(StringComparer.Ordinal)
    {
        ["sql-text"] = OutputContext.SqlString,
        ["sql-identifier"] = OutputContext.SqlIdentifier,
        ["sql-bare"] = OutputContext.SqlUnquoted,
        ["html"] = OutputContext.Html,
        ["attribute"] = OutputContext.Attribute,
        ["script"] = OutputContext.Script,
        ["url"] = OutputContext.Url | OutputContext.Address,
        ["shell"] = OutputContext.Shell,
        ["path"] = OutputContext.Path | OutputContext.FileName,
        ["folder"] = OutputContext.Path,
        ["file-name"] = OutputContext.FileName,
        ["code"] = OutputContext.Code,
        ["header"] = OutputContext.Header,
        ["ldap"] = OutputContext.Ldap,
        ["xpath"] = OutputContext.Xpath,
        ["pattern"] = OutputContext.Pattern,
        ["object"] = OutputContext.Object,
        ["template"] = OutputContext.Template,
        ["redirect"] = OutputContext.Redirect | OutputContext.Address,
        ["serialised"] = OutputContext.Serialised,
        ["address"] = OutputContext.Address,
        ["server-address"] = OutputContext.ServerAddress,
        ["all"] = OutputContext.All,
    };

    /// <summary>The position of a name, or none if there is no such name.</summary>
    public static OutputContext Named(string name) => ByName.GetValueOrDefault(name);

    /// <summary>The position in which the argument of a sink of this kind stands.</summary>
    public static OutputContext OfSink(string kind) => kind switch
    {
        "command" => OutputContext.Shell,
        "code" => OutputContext.Code,
        "page" => OutputContext.Html,
        "template" => OutputContext.Template,
        "path" => OutputContext.Path,
        "redirect" => OutputContext.Redirect,
        "server-request" => OutputContext.ServerAddress,
        "header" => OutputContext.Header,
        "deserialise" => OutputContext.Serialised,
        "ldap" => OutputContext.Ldap,
        "xpath" => OutputContext.Xpath,
        "filter" or "assign" => OutputContext.Object,
        "pattern" => OutputContext.Pattern,
        _ => OutputContext.None,
    };
}
