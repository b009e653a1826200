using Bellator.Core.Code;
using Bellator.Core.Facts;

namespace Bellator.Core.Flow;

/// <summary>What the language itself writes into the page, or runs as a file.</summary>
internal sealed partial class FunctionFlow
{
    private static readonly SinkFact WrittenPage = new() { Kind = "page" };
    private static readonly SinkFact IncludedPath = new() { Kind = "path" };
    private PageState _page = new();

    /// <summary>Another kind of content than a page was announced.</summary>
    private bool _notPage;

    private void NoteOutput(int index, in Instruction instruction)
    {
        foreach (var operand in _function.List(instruction))
        {
            var value = Get(operand.Value);
            if (value.IsTainted)
            {
                value = Refine(value, _function.BlockOf[index], operand.Value);
            }

            if (value.Text is not null)
            {
                WriteText(index, value.Text.Alternatives[0]);
            }
            else if (value.Constant is not null && !value.IsTainted)
            {
                _page.Feed(value.Constant);
            }
            else
            {
                NoteWritten(index, value);
            }
        }
    }

    private void WriteText(int index, IReadOnlyList<Piece> pieces)
    {
        foreach (var piece in pieces)
        {
            if (piece.IsHole)
            {
                NoteWritten(index, Value.OfTaints(piece.Taints));
            }
            else
            {
                _page.Feed(piece.Literal!);
            }
        }
    }

    private void NoteWritten(int index, Value value)
    {
        if (value.IsTainted && !_notPage)
        {
            NoteSink(WrittenPage, index, value, _page.Position);
        }

        _page.Value();
    }

    private void NoteSink(SinkFact sink, int index, Value value, Position? standing)
    {
        if (value.IsTainted)
        {
            AddEvent(new FlowEvent
            {
                Kind = EventKind.Sink,
                Fact = null,
                Sink = sink,
                Standing = standing,
                Function = _function,
                At = At(index),
                Roles = new Dictionary<string, Value>(StringComparer.Ordinal) { ["value"] = Refine(value, _function.BlockOf[index], -1) },
            });
        }
    }
}
