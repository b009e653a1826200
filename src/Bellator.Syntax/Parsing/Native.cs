using System.Runtime.InteropServices;

namespace Bellator.Syntax.Parsing;

/// <summary>One node of the flattened tree; the layout is that of native/flatten.c.</summary>
[StructLayout(LayoutKind.Sequential)]
public readonly struct FlatNode
{
    public readonly ushort Symbol;
    public readonly byte Field;
    public readonly byte Flags;
    public readonly uint Start;
    public readonly uint End;
    public readonly uint Next;

    public bool IsNamed => (Flags & 1) != 0;

    public bool IsError => (Flags & 2) != 0;

    public bool IsMissing => (Flags & 4) != 0;

    public bool IsExtra => (Flags & 8) != 0;
}

[StructLayout(LayoutKind.Sequential)]
internal struct NativeFlatTree
{
    public nint Nodes;
    public uint Count;
    public uint Errors;
    public uint Cut;
}

/// <summary>The parser library that native/build makes: tree-sitter's C interface and our flattening of its trees.</summary>
internal static partial class Native
{
    private const string Library = "libbellator-parsers.so";

    [LibraryImport(Library)]
    internal static partial nint ts_parser_new();

    [LibraryImport(Library)]
    internal static partial void ts_parser_delete(nint parser);

    [LibraryImport(Library)]
    [return: MarshalAs(UnmanagedType.U1)]
    internal static partial bool ts_parser_set_language(nint parser, nint language);

    [LibraryImport(Library)]
    internal static partial void ts_parser_set_timeout_micros(nint parser, ulong micros);

    [LibraryImport(Library)]
    internal static partial void ts_parser_reset(nint parser);

    [LibraryImport(Library)]
    internal static unsafe partial nint ts_parser_parse_string(nint parser, nint oldTree, byte* text, uint length);

    [LibraryImport(Library)]
    internal static partial void ts_tree_delete(nint tree);

    [LibraryImport(Library)]
    internal static partial uint ts_language_symbol_count(nint language);

    [LibraryImport(Library)]
    internal static partial nint ts_language_symbol_name(nint language, ushort symbol);

    [LibraryImport(Library)]
    internal static partial uint ts_language_field_count(nint language);

    [LibraryImport(Library)]
    internal static partial nint ts_language_field_name_for_id(nint language, ushort field);

    [LibraryImport(Library)]
    internal static partial int bellator_flatten(nint tree, out NativeFlatTree flat);

    [LibraryImport(Library)]
    internal static partial void bellator_free(nint nodes);

    [LibraryImport(Library)]
    internal static partial nint tree_sitter_php();

    [LibraryImport(Library)]
    internal static partial nint tree_sitter_javascript();

    [LibraryImport(Library)]
    internal static partial nint tree_sitter_typescript();

    [LibraryImport(Library)]
    internal static partial nint tree_sitter_tsx();

    [LibraryImport(Library)]
    internal static partial nint tree_sitter_python();

    [LibraryImport(Library)]
    internal static partial nint tree_sitter_ruby();

    [LibraryImport(Library)]
    internal static partial nint tree_sitter_c_sharp();

    [LibraryImport(Library)]
    internal static partial nint tree_sitter_sql();
}
