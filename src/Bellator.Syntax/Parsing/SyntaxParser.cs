using Bellator.Text;

namespace Bellator.Syntax.Parsing;

/// <summary>Parses files of one thread. Not to be shared: a parser keeps state while it works.</summary>
public sealed class SyntaxParser : IDisposable
{
    /// <summary>Real files take milliseconds; a file that needs longer was made to be slow, and is noted and left out.</summary>
    private const ulong TimeoutMicros = 8_000_000;

    private readonly nint _parser = Native.ts_parser_new();
    private bool _disposed;

    /// <summary>Parses the file, or returns null if the parser gave up on it. The caller disposes the tree.</summary>
    public unsafe FlatTree? Parse(SourceFile file)
    {
        ObjectDisposedException.ThrowIf(_disposed, this);
        var grammar = Grammar.For(Languages.Host(file.Language));
        if (!Native.ts_parser_set_language(_parser, grammar.Handle))
        {
            throw new InvalidOperationException("the parser library and its grammars do not fit; run native/build again");
        }

        Native.ts_parser_set_timeout_micros(_parser, TimeoutMicros);
        nint tree;
        fixed (byte* text = file.Content)
        {
            tree = Native.ts_parser_parse_string(_parser, 0, text, (uint)file.Content.Length);
        }

        if (tree == 0)
        {
            Native.ts_parser_reset(_parser);
            return null;
        }

        try
        {
            return Native.bellator_flatten(tree, out var flat) == 0 ? new FlatTree(grammar, file, flat) : null;
        }
        finally
        {
            Native.ts_tree_delete(tree);
        }
    }

    public void Dispose()
    {
        if (!_disposed)
        {
            _disposed = true;
            Native.ts_parser_delete(_parser);
        }
    }
}
