namespace Bellator.Analysis.Domain;

/// <summary>Places in which a value may stand, each with its own way of breaking out. A value can be harmless in some and not in others.</summary>
[Flags]
public enum OutputContext
{
    None = 0,

    /// <summary>Inside the quotes of a text in SQL.</summary>
    SqlString = 1,

    /// <summary>Inside the quotes of an identifier in SQL.</summary>
    SqlIdentifier = 2,

    /// <summary>In SQL without quotes: a number, a name, a keyword.</summary>
    SqlUnquoted = 4,

    Html = 8,

    Url = 16,

    Shell = 32,

    Path = 64,

    /// <summary>In program code.</summary>
    Code = 128,

    Header = 256,

    Ldap = 512,

    Xpath = 1024,

    /// <summary>In a regular expression or search pattern.</summary>
    Pattern = 2048,

    /// <summary>Where an object would be taken apart: harmless once it is text or a number for certain.</summary>
    Object = 4096,

    /// <summary>In the source of a template.</summary>
    Template = 8192,

    /// <summary>An address to send the browser to.</summary>
    Redirect = 16384,

    /// <summary>Bytes that become objects.</summary>
    Serialised = 32768,

    /// <summary>In the value of an attribute of a page, between quotes.</summary>
    Attribute = 65536,

    /// <summary>In a script of a page.</summary>
    Script = 131072,

    /// <summary>At the beginning of an address in a page, where a scheme could stand that runs script.</summary>
    Address = 262144,

    /// <summary>The name of a file that is made: its ending decides what a server does with it.</summary>
    FileName = 524288,

    /// <summary>An address that the server itself sends a request to.</summary>
    ServerAddress = 1048576,

    All = ~0,
}
