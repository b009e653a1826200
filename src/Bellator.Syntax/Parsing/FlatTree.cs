using System.Runtime.CompilerServices;
using System.Text;
using Bellator.Text;
using CommunityToolkit.HighPerformance.Buffers;

namespace Bellator.Syntax.Parsing;

/// <summary>
/// A syntax tree as one array in depth-first order; a node is its index. The memory is native and is given back on disposal,
/// so nothing of it may be kept: readers copy what they need.
/// </summary>
public sealed unsafe class FlatTree : IDisposable
{
    private readonly SourceFile _file;
    private readonly Grammar _grammar;
    private FlatNode* _nodes;

    internal FlatTree(Grammar grammar, SourceFile file, NativeFlatTree flat)
    {
        _grammar = grammar;
        _file = file;
        _nodes = (FlatNode*)flat.Nodes;
        Count = (int)flat.Count;
        ErrorCount = (int)flat.Errors;
        CutCount = (int)flat.Cut;
    }

    public int Count { get; }

    /// <summary>Stretches that did not parse and tokens that are missing.</summary>
    public int ErrorCount { get; }

    /// <summary>Subtrees left out because they lie too deep.</summary>
    public int CutCount { get; }

    public Grammar Grammar => _grammar;

    /// <summary>What is read where a node lacks the child that its grammar promises: broken code has such, and code that was cut at the greatest depth.</summary>
    private static readonly FlatNode Missing;

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public ref readonly FlatNode Node(int node)
    {
        if ((uint)node < (uint)Count)
        {
            return ref _nodes[node];
        }

        return ref Missing;
    }

    public string Kind(int node) => (uint)node < (uint)Count ? _grammar.SymbolName(_nodes[node].Symbol) : "";

    public Span SpanOf(int node)
    {
        ref readonly var flat = ref Node(node);
        return new((int)flat.Start, (int)flat.End);
    }

    public ReadOnlySpan<byte> Bytes(int node)
    {
        ref readonly var flat = ref Node(node);
        return _file.Content.AsSpan((int)flat.Start, (int)(flat.End - flat.Start));
    }

    /// <summary>The node's text, shared between equal texts.</summary>
    public string Text(int node)
    {
        var bytes = Bytes(node);
        return bytes.Length > 128 ? Encoding.UTF8.GetString(bytes) : StringPool.Shared.GetOrAdd(bytes, Encoding.UTF8);
    }

    /// <summary>First child with the field, or -1.</summary>
    public int Field(int node, byte field)
    {
        var end = Node(node).Next;
        for (var child = (uint)node + 1; child < end; child = _nodes[child].Next)
        {
            if (_nodes[child].Field == field)
            {
                return (int)child;
            }
        }

        return -1;
    }

    /// <summary>First child of the kind, or -1.</summary>
    public int Child(int node, string kind)
    {
        var end = Node(node).Next;
        for (var child = (uint)node + 1; child < end; child = _nodes[child].Next)
        {
            if (ReferenceEquals(Kind((int)child), kind) || Kind((int)child) == kind)
            {
                return (int)child;
            }
        }

        return -1;
    }

    public ChildEnumerable Children(int node) => new(this, node, false);

    /// <summary>Named children, without comments.</summary>
    public ChildEnumerable NamedChildren(int node) => new(this, node, true);

    public int FirstNamed(int node)
    {
        foreach (var child in NamedChildren(node))
        {
            return child;
        }

        return -1;
    }

    public void Dispose()
    {
        if (_nodes != null)
        {
            Native.bellator_free((nint)_nodes);
            _nodes = null;
        }
    }

    public readonly struct ChildEnumerable(FlatTree tree, int node, bool named)
    {
        public ChildEnumerator GetEnumerator() => new(tree, node, named);
    }

    public struct ChildEnumerator(FlatTree tree, int node, bool named)
    {
        private readonly int _end = (int)tree.Node(node).Next;
        private int _next = node + 1;

        public int Current { get; private set; }

        public bool MoveNext()
        {
            while (_next < _end)
            {
                Current = _next;
                ref readonly var flat = ref tree._nodes[_next];
                _next = (int)flat.Next;
                if (!named || (flat.IsNamed && !(flat.IsExtra && tree.Kind(Current) is "comment" or "html_comment")))
                {
                    return true;
                }
            }

            return false;
        }
    }
}
