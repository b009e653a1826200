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

    /// <summary>The parameter that names the kind of content which the function announces, or -1.</summary>
    private int _announces = -1;

    /// <summary>A header is sent: it may say that what follows is no page, or let the caller say it.</summary>
    private void NoteAnnounced(Value header, int block)
    {
        const string Name = "content-type:";
        if (Beginning(header) is not { } kind || !kind.StartsWith(Name, StringComparison.OrdinalIgnoreCase))
        {
            return;
        }

        if (kind.Length > Name.Length + 1)
        {
            NoteNotPage(kind, block);
        }
        else if (IsOnEveryWay(block) && header.Text?.Alternatives[0] is [_, { IsHole: true, Taints: [{ Origin: { Kind: OriginKind.Parameter } parameter }] }, ..] && parameter.Function == _function.Id && parameter.Part.Length == 0)
        {
            _announces = parameter.Index;
        }
    }

    /// <summary>What a call of the program's own announces by what it is given.</summary>
    private void NoteAnnouncedBy(Summary summary, IReadOnlyList<Value> arguments, int block)
    {
        if (summary.IsNotPage)
        {
            NoteNotPage("", block);
        }
        else if (summary.Announces >= 0 && summary.Announces < arguments.Count && arguments[summary.Announces].Constant is { } kind && kind.Contains('/', StringComparison.Ordinal))
        {
            NoteNotPage(kind, block);
        }
    }

    private void NoteNotPage(string kind, int block)
    {
        if (!kind.Contains("html", StringComparison.OrdinalIgnoreCase))
        {
            _notPage = true;
            _neverPage |= IsOnEveryWay(block);
        }
    }

    /// <summary>It was announced on every way through the function: then it holds for its callers too.</summary>
    private bool _neverPage;

    /// <summary>Every way that comes back to the caller leads through the block.</summary>
    private bool IsOnEveryWay(int block)
    {
        foreach (var end in _function.Order)
        {
            if (_function.Blocks[end] is not { Successors.Count: 0, EndsHere: false })
            {
                continue;
            }

            var at = end;
            while (at >= 0 && at != block)
            {
                at = _function.Blocks[at].Dominator;
            }

            if (at < 0)
            {
                return false;
            }
        }

        return true;
    }

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
            NoteSink(WrittenPage, index, value, StandingOf(_page.Position, _page.StartsAddress, value, false));
        }

        _page.Value();
    }

    /// <summary>Where an address begins, what cannot leave the attribute's quotes can still name a scheme that runs script.</summary>
    private static Position StandingOf(Position position, bool startsAddress, Value value, bool escaped) =>
        position == Position.Attribute && startsAddress && (escaped || value.Taints.All(t => (t.Safe & Position.Attribute) != 0)) && BeginsFreely(value) ? Position.Address : position;

    /// <summary>Nothing stands before the value that would make it part of an address, and nothing has looked at how it begins.</summary>
    private static bool BeginsFreely(Value value) =>
        value.Taints.All(t => t.Origin.Kind == OriginKind.Request && (t.Safe & (Position.Redirect | Position.Address)) == 0) && (value.Text is null || value.Text.Alternatives.Any(a => a is [{ IsHole: true }, ..]));

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
