using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Queries;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>What a function gives back.</summary>
internal sealed partial class FunctionAnalyzer
{
    private void EvaluateReturn(int index, int value, int block)
    {
        if (value < 0)
        {
            return;
        }

        if (Get(value).Text is { } page && _visit.Entry() is { } sent && (sent.Returns == "page" || sent.TextIsPage || IsMarkedPage(sent)) && page.Alternatives.Any(a => a.Any(p => p.Literal?.Contains('<', StringComparison.Ordinal) == true)))
        {
            foreach (var alternative in page.Alternatives)
            {
                AfterText(BlockState.Initial, index, alternative);
            }
        }

        if (_visit.Entry() is { Returns: "session" or "response" } entry && !HasAnswerType(entry))
        {
            NoteAnswer(_function, entry.AnswerField is null ? Get(value) : AsRecords(Get(value)), entry.Returns == "session" ? IntoSession : Answer);
        }

        _returns = AbstractValue.Join(_returns, Refine(Get(value), block, value)).WidenedForStore();
        foreach (var tested in _guards.TestedBy(value, true).Where(t => t.Safe == OutputContext.All && t.Of is null))
        {
            if (Get(tested.Value).WholeParameter is { } parameter && parameter.Origin.Function == _function.Id && parameter.Origin.Part.Length == 0)
            {
                (_vouches ??= []).Add(parameter.Origin.Index);
            }
        }
    }

    private bool IsMarkedPage(EntryModel entry) =>
        entry.PageFields.Count > 0 && _function.Annotations.Any(m => m.Arguments.Any(a => a.Name is { } name && entry.PageFields.TryGetValue(name, out var kind) && IrClass.ShortOf(_file.Source.Text(a.Value.Span)) == kind));

    /// <summary>An object of a class that stands for a table is a whole record where the framework itself makes it into an answer.</summary>
    private AbstractValue AsRecords(AbstractValue value)
    {
        List<string> records = [.. value.Types.Where(t => t[0] == '#').Select(t => _program.Program.Classes[ClassNumber(t)])
            .Where(c => _facts.Tables.Exists(f => _program.Program.Kinds(c).Skip(1).Any(k => f.Base.Contains(IrClass.ShortOf(k))))).Select(c => WholeMark + c.ShortName)];
        return records.Count == 0 ? value : value.With(types: [.. value.Types, .. records]);
    }

    /// <summary>What leaves is what a declared type has, not what the record has.</summary>
    private bool HasAnswerType(EntryModel entry) => entry.AnswerField is { } field
        && (_function.ReturnType is not null || _function.Annotations.Any(m => m.Arguments.Any(a => a.Name == field && a.Value is not Literal { Kind: LiteralKind.Null })));

    /// <summary>What comes back of a parameter has no keys left that are operators, where the function takes them away.</summary>
    private AbstractValue WithoutOperators(AbstractValue value) =>
        value.Text is null && value.Taints.Any(t => t.IsParameter) && OperatorKeys.AreRemovedBy(_function)
            ? value.With(taints: [.. value.Taints.Select(t => t.IsParameter ? t with { Safe = t.Safe | OutputContext.Object } : t)])
            : value;

    /// <summary>
    /// A function that gives back its parameter escaped on one way and as it was on another is an escaper with a case in which
    /// there is nothing to escape (no connection yet, an asterisk for a name): what comes raw counts as escaped, as a guess.
    /// </summary>
    private static AbstractValue MarkHalfEscaped(AbstractValue value)
    {
        var escaped = (value.Text is null ? value.Taints : value.Text.Alternatives.SelectMany(a => a).SelectMany(p => p.Taints))
            .Where(t => t is { Transform: PasswordTransform.Plain, IsRaw: false } && t.Safe != OutputContext.All && t.Origin.Kind != OriginKind.Stored).ToList();
        if (escaped.Count == 0)
        {
            return value;
        }

        // An escaper that also sets the quotes stands without any in the case where it does nothing.
        var quotes = value.Text?.Alternatives.Any(a => a is [{ IsHole: false, Literal: "`" or "'" or "\"" }, ..]) ?? false;
        Taint Mark(Taint taint)
        {
            if (taint is not { IsRaw: true } || taint.Origin.Kind == OriginKind.Stored)
            {
                return taint;
            }

            var safe = escaped.Where(e => e.Origin == taint.Origin).Aggregate(OutputContext.None, (p, e) => p | e.Safe);
            if (safe != OutputContext.None && quotes)
            {
                safe |= OutputContext.SqlUnquoted;
            }

            return safe == OutputContext.None ? taint : taint with { Safe = taint.Safe | safe, Guessed = true };
        }

        return value.Text is null
            ? value.With(taints: [.. value.Taints.Select(Mark)])
            : AbstractValue.OfText(value.Text.Map(p => [[Piece.Hole([.. p.Taints.Select(Mark)], p.At)]]));
    }
}
