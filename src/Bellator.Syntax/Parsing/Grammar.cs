using System.Runtime.InteropServices;
using Bellator.Text;

namespace Bellator.Syntax.Parsing;

/// <summary>A grammar of the parser library with the names of its symbols and fields.</summary>
public sealed class Grammar
{
    private static readonly Lazy<Grammar> Php = new(() => new Grammar(Native.tree_sitter_php()));
    private static readonly Lazy<Grammar> JavaScript = new(() => new Grammar(Native.tree_sitter_javascript()));
    private static readonly Lazy<Grammar> TypeScript = new(() => new Grammar(Native.tree_sitter_typescript()));
    private static readonly Lazy<Grammar> Tsx = new(() => new Grammar(Native.tree_sitter_tsx()));
    private static readonly Lazy<Grammar> Python = new(() => new Grammar(Native.tree_sitter_python()));
    private static readonly Lazy<Grammar> Ruby = new(() => new Grammar(Native.tree_sitter_ruby()));
    private static readonly Lazy<Grammar> CSharp = new(() => new Grammar(Native.tree_sitter_c_sharp()));
    private static readonly Lazy<Grammar> Sql = new(() => new Grammar(Native.tree_sitter_sql()));
    private readonly string[] _symbols;
    private readonly Dictionary<string, byte> _fields = new(StringComparer.Ordinal);

    private Grammar(nint handle)
    {
        Handle = handle;
        _symbols = new string[Native.ts_language_symbol_count(handle)];
        for (var i = 0; i < _symbols.Length; i++)
        {
            _symbols[i] = string.Intern(Marshal.PtrToStringUTF8(Native.ts_language_symbol_name(handle, (ushort)i)) ?? "");
        }

        var fields = Native.ts_language_field_count(handle);
        for (ushort i = 1; i <= fields; i++)
        {
            _fields[Marshal.PtrToStringUTF8(Native.ts_language_field_name_for_id(handle, i)) ?? ""] = (byte)i;
        }
    }

    internal nint Handle { get; }

    public static Grammar For(Language language) => language switch
    {
        Language.Php => Php.Value,
        Language.JavaScript => JavaScript.Value,
        Language.TypeScript => TypeScript.Value,
        Language.Tsx => Tsx.Value,
        Language.Python => Python.Value,
        Language.Ruby => Ruby.Value,
        Language.CSharp => CSharp.Value,
        Language.Sql => Sql.Value,
        _ => throw new ArgumentOutOfRangeException(nameof(language), language, "no grammar"),
    };

    /// <summary>The name of a symbol as the grammar has it; "ERROR" for a stretch that did not parse.</summary>
    public string SymbolName(ushort symbol) => symbol < _symbols.Length ? _symbols[symbol] : "ERROR";

    /// <summary>The id of a field, or 255 where this grammar has none of that name (255 is never used).</summary>
    public byte FieldId(string name) => _fields.GetValueOrDefault(name, (byte)255);
}
