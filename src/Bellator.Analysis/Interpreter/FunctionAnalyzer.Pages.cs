using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Summaries;

namespace Bellator.Analysis.Interpreter;

/// <summary>What the language itself writes into the page, or runs as a file.</summary>
internal sealed partial class FunctionAnalyzer
{
    private static readonly SinkModel WrittenPage = new() { Kind = "page" };
    private static readonly SinkModel IncludedPath = new() { Kind = "path" };

    /// <summary>What holds at the end of each block; null where it was not evaluated yet.</summary>
    private readonly BlockState?[] _states;

    /// <summary>What holds at the instruction that is being evaluated.</summary>
    private BlockState _state = BlockState.Initial;

    /// <summary>The parameter that names the kind of content which the function announces, or -1.</summary>
    private int _announces = -1;

    /// <summary>A header is sent: it may say that what follows is no page, or let the caller say it.</summary>
    private void NoteAnnounced(AbstractValue header, int block)
    {
        const string Name = "content-type:";
        if (Beginning(header) is not { } kind || !kind.StartsWith(Name, StringComparison.OrdinalIgnoreCase))
        {
            return;
        }

        if (kind.Length > Name.Length + 1)
        {
            NoteKind(kind);
        }
        else if (IsOnEveryWay(block) && header.Text?.Alternatives[0] is [_, { IsHole: true, Taints: [{ Origin: { Kind: OriginKind.Parameter } parameter }] }, ..] && parameter.Function == _function.Id && parameter.Part.Length == 0)
        {
            _announces = parameter.Index;
        }
    }

    /// <summary>A call says by its facts what kind of content the answer is.</summary>
    private void NoteAnnounced(AnnouncedModel said, CallSite site)
    {
        if (said.Header is { } header && site.Argument(header).Constant?.Equals("content-type", StringComparison.OrdinalIgnoreCase) is not true && (said.Headers is null || site.Argument(header).Constant is not null))
        {
            return;
        }

        var kind = said.Headers is { } headers && site.Argument(headers).Fields?.FirstOrDefault(f => f.Key.Equals("content-type", StringComparison.OrdinalIgnoreCase)).Value is { } among ? among
            : said.Kind is { } at ? site.Argument(at) : null;
        if (kind is not null)
        {
            // A kind that is worked out is one of many, of which a page is the rarest.
            NoteKind(Beginning(kind) ?? "");
        }
    }

    /// <summary>Whether what is sent here may be a page.</summary>
    private bool MayBePage(SinkModel sink) => sink.SentAs switch
    {
        "page" => _state.MayBePage,
        "announced" => _state.MayBeAnnouncedPage,
        _ => true,
    };

    /// <summary>What a call of the program's own announces by what it is given.</summary>
    private void NoteAnnouncedBy(FunctionSummary summary, IReadOnlyList<AbstractValue> arguments)
    {
        if (summary.IsNotPage)
        {
            NoteKind("");
        }
        else if (summary.ContentTypeParameter >= 0 && summary.ContentTypeParameter < arguments.Count && arguments[summary.ContentTypeParameter].Constant is { } kind && kind.Contains('/', StringComparison.Ordinal))
        {
            NoteKind(kind);
        }
    }

    /// <summary>From here on what is sent is of this kind: the last one that is announced counts.</summary>
    private void NoteKind(string kind)
    {
        var isPage = kind.Contains("htm", StringComparison.OrdinalIgnoreCase);
        _state = _state.With(p => p.IsPage == isPage && p.IsAnnouncedPage == isPage ? p : p with { IsPage = isPage, IsAnnouncedPage = isPage });
    }

    /// <summary>What holds where a block begins: what its predecessors left.</summary>
    private BlockState StateBefore(int block)
    {
        BlockState? joined = null;
        foreach (var before in _function.Blocks[block].Predecessors)
        {
            joined = BlockState.Join(joined, _states[before] is { } left && IsSentAlready(before, block) ? left.With(p => p with { IsPage = false }) : _states[before], made => _values[made], (both, one, other) => WithSometimes(both, [one, other], _function.Blocks[block]) ?? both, part => IsIdle(part, block));
        }

        return joined ?? BlockState.Initial;
    }

    /// <summary>On this edge the program has just learned that what is sent was decided elsewhere.</summary>
    private bool IsSentAlready(int from, int to)
    {
        var block = _function.Blocks[from];
        var truth = block.Condition >= 0 && block.Successors is [var then, var otherwise] && then != otherwise ? to == then : (bool?)null;
        for (var at = block.Condition; truth is { } holds; truth = !holds)
        {
            ref readonly var asked = ref _function.Instructions[at];
            if (asked.Op == Opcode.Call)
            {
                return holds && (Get(asked.A).Library ?? Get(asked.A).Constant) is { } name && _facts.Call(name) is { AsksWhetherSent: true };
            }

            if (asked is not { Op: Opcode.Unary, Text: "!" })
            {
                return false;
            }

            at = asked.A;
        }

        return false;
    }

    /// <summary>It is no page on any way that comes back to the caller: then it is none for the caller either.</summary>
    private bool IsNeverPage()
    {
        var ends = _function.Order.Where(ComesBackFrom).ToList();
        return ends.Count > 0 && ends.TrueForAll(b => _states[b] is { MayBePage: false });
    }

    /// <summary>Every way that comes back to the caller leads through the block.</summary>
    private bool IsOnEveryWay(int block)
    {
        foreach (var end in _function.Order)
        {
            if (!ComesBackFrom(end))
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
            NoteSerialized(index, value);
            if (value.IsTainted)
            {
                value = Refine(value, _function.BlockOf[index], operand.Value);
                if (value.Text is null && value.Taints.All(t => t.Safe == OutputContext.All))
                {
                    value = AbstractValue.Unknown;
                }
            }

            if (value.Text is { } text)
            {
                _state = _state.WithAny(text.Alternatives.Select(a => (Func<BlockState, BlockState>)(s => AfterText(s, index, a))));
            }
            else if (value.Constant is { } constant && !value.IsTainted)
            {
                _state = _state.With(p => p.After(constant));
            }
            else
            {
                _state = AfterValue(_state, index, value);
            }
        }
    }

    /// <summary>Notes the values of a text that is written, each where it stands in the page.</summary>
    /// <returns>What holds after the text.</returns>
    private BlockState AfterText(BlockState state, int index, IReadOnlyList<Piece> pieces)
    {
        foreach (var piece in pieces)
        {
            state = piece.IsHole ? AfterValue(state, index, AbstractValue.OfTaints(piece.Taints)) : state.With(p => p.After(piece.Literal!));
        }

        return state;
    }

    private BlockState AfterValue(BlockState state, int index, AbstractValue value)
    {
        if (value.IsTainted)
        {
            // On each way it may stand elsewhere, and has to be harmless in all of these places.
            foreach (var standing in state.Pages.Where(p => p.IsPage).Select(p => StandingOf(p.Position, p.StartsAddress, value, false)).Distinct())
            {
                NoteSink(WrittenPage, index, value, standing);
            }
        }

        return state.With(p => p.AfterValue());
    }

    /// <summary>Where an address begins, what cannot leave the attribute's quotes can still name a scheme that runs script.</summary>
    private static OutputContext StandingOf(OutputContext position, bool startsAddress, AbstractValue value, bool escaped) =>
        position == OutputContext.Attribute && startsAddress && (escaped || value.Taints.All(t => (t.Safe & OutputContext.Attribute) != 0)) && BeginsFreely(value) ? OutputContext.Address : position;

    /// <summary>Nothing stands before the value that would make it part of an address, and nothing has looked at how it begins.</summary>
    private static bool BeginsFreely(AbstractValue value) =>
        value.Taints.All(t => t.Origin.Kind == OriginKind.Request && (t.Safe & (OutputContext.Redirect | OutputContext.Address)) == 0) && (value.Text is null || value.Text.Alternatives.Any(a => a is [{ IsHole: true }, ..]));

    private void NoteSink(SinkModel sink, int index, AbstractValue value, OutputContext? standing)
    {
        if (value.IsTainted)
        {
            AddEvent(new AnalysisEvent
            {
                Kind = EventKind.Sink,
                Fact = null,
                Sink = sink,
                Context = standing,
                Function = _function,
                At = At(index),
                Roles = new Dictionary<string, AbstractValue>(StringComparer.Ordinal) { ["value"] = Refine(value, _function.BlockOf[index], -1) },
            });
        }
    }
}
