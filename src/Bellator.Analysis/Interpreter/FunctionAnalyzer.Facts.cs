using System.Globalization;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Guards;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Summaries;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>Applies what the facts say of a call.</summary>
internal sealed partial class FunctionAnalyzer
{
    private AbstractValue ApplyFact(CallModel fact, CallSite site, bool guessed)
    {
        if (fact.AsksPolicy is { } policy)
        {
            return AskPolicy(policy, site) ?? UnknownCall(site, passArguments: false);
        }

        DefineAbility(fact, site);
        site = fact.Query is { Interpolated: true } ? WithBoundHoles(site) : site;
        var named = site;
        if (site.Names.Count > 0)
        {
            RaiseSinks(fact, site, guessed);
            site = site.Arranged(fact.Names);
            RaiseEvents(fact, site, guessed);
        }
        else
        {
            RaiseSinks(fact, site, guessed);
            RaiseEvents(fact, site, guessed);
        }

        if (fact.IsOfSurface)
        {
            RaiseSurface(fact, site, named, guessed);
        }

        if (fact.ContentType is { } announced)
        {
            NoteAnnounced(site.Argument(announced), _function.BlockOf[site.Index]);
        }

        if (fact.Announces is { } said)
        {
            NoteAnnounced(said, site);
        }

        if (fact.Render is { } render)
        {
            HandToView(render, named);
        }

        if (fact.Settings is { } subject && site.Argument(subject).Constant is { } set)
        {
            KeepSettings(set, named);
        }

        if (fact.Test is { } test)
        {
            NoteTest(test, site);
        }

        if (fact.Verdict is { } accepting)
        {
            NoteVerdict(site.Index, accepting, false);
        }

        NoteMemberSet(fact, site);
        AbstractValue? fromCallback = null;
        if (fact.Callback is { } callback)
        {
            fromCallback = ApplyCallback(fact, callback, site);
        }

        if (fact.Runs is { } work)
        {
            RunLater(work, site, named);
        }

        var result = fact.IsOnlyOfSurface || fact.Runs is not null ? UnknownCall(site, passArguments: _function.Instructions[site.Index].Op == Opcode.Call) : ResultOf(fact, site);
        var isWhole = fact.WholeIf is { } all && (site.Arguments.Count == 0 || site.Argument(0).Constant == all);
        foreach (var type in fact.ReturnTypes.Where(t => !isWhole || t != SomeColumns))
        {
            result = type == "self" ? (fact.Update is null ? site.Receiver : result) : result.With(types: result.Types.Contains(type) ? result.Types : [.. result.Types, type]);
        }

        if (!isWhole && (fact.ReturnTypes.Contains(Projected) || fact.ReturnTypes.Contains(SomeColumns)))
        {
            var along = fact.ReturnTypes.Contains(SomeColumns);
            result = result.With(types: [.. result.Types.Where(t => t[0] != WholeMark || (along && t.Contains(RelationMark, StringComparison.Ordinal)))]);
        }

        if (fact.ReturnsClass.Count > 0)
        {
            return fact.ReturnsClass.Select(_program.Program.OnlyDerived).FirstOrDefault(c => c is not null) is { } own ? new AbstractValue { Targets = [own] } : new AbstractValue { Library = fact.ReturnsClass[^1] };
        }

        if (fact.ReturnsOwn is { } library && _program.Program.OnlyDerived(library) is { } derived)
        {
            result = result.With(types: [.. result.Types, .. TypedValue("#" + derived.Id).Types]);
        }

        if (fact.ArgumentsAs.Count > 0 && site.Arguments.Count > 0)
        {
            result = result.With(fields: fact.ArgumentsAs.Select((n, i) => (Name: n, At: i)).Where(n => site.Has(n.At)).ToDictionary(n => n.Name, n => site.Argument(n.At), StringComparer.Ordinal));
        }

        if (fact.CopiesFields.Count > 0 && Kept(fact, site) is { Fields.Count: > 0 } kept)
        {
            result = result.With(fields: kept.Fields);
        }

        if (fact.Instantiates && site.Receiver.Targets.OfType<IrClass>().FirstOrDefault() is { } made)
        {
            return TypedValue("#" + made.Primary.Id);
        }

        if (fact.FirstRecords)
        {
            return FirstRecords(site);
        }

        if (fact.IsOfSurface)
        {
            result = Marked(fact, site, result);
        }

        if (fact.Loads is { } loads)
        {
            result = WithLoaded(loads, site, result);
        }

        if (StatedByCall(fact, site) is { } stated)
        {
            return stated;
        }

        if (fact.HasConditions)
        {
            result = result.With(carried: WithConditions(fact, named));
        }

        if (fact.RemovesFields is { } removed)
        {
            WithoutFields(site, removed);
        }

        result = fact.Serializes is { } whole ? AsSerialized(result, whole < 0 ? site.Receiver : site.Argument(whole)) : WithStatement(fact, site, result);
        result = ChosenBySubject(fact, site, result);
        if (fact.Access is null && fact.Query is null && fact.Sinks.Count == 0 && fact.Source is null)
        {
            NoteDecision(site, CalledName(site.Index), fact.Compare.Count > 0);
        }

        if (fact.Elements)
        {
            // A function that is not known may hand on what it gets.
            return new AbstractValue { Fields = new Dictionary<string, AbstractValue> { ["*"] = fromCallback ?? UnknownCall(site with { Receiver = FieldAccess.Element(site.Receiver) }, false) }, Types = ["list"] };
        }

        return fromCallback is null ? result : AbstractValue.Join(result, fromCallback);
    }

    private static AbstractValue? Kept(CallModel fact, CallSite site) => fact.CopiesFieldsUnless is { } decides && HasPart(site.Receiver, decides, 0) ? null
        : fact.CopiesFields.Select(p => p < 0 ? site.Receiver : site.Has(p) ? site.Argument(p) : null).FirstOrDefault(v => v is not null);

    /// <summary>A part has the name, or one that is not known may have it.</summary>
    private static bool HasPart(AbstractValue value, string name, int depth) =>
        value.Fields is { } fields && (fields.ContainsKey(name) || fields.ContainsKey("*") || fields.Values.Any(f => f.Constant == name || (depth < 2 && HasPart(f, name, depth + 1))));

    /// <summary>The text as far as it is known from its beginning.</summary>
    private static string? Beginning(AbstractValue value) => value.Constant ?? (value.Text?.Alternatives[0] is [{ IsHole: false } first, ..] ? first.Literal : null);

    /// <summary>One of the values that make a call harmless is chosen, or it is chosen elsewhere, in what a parameter brings.</summary>
    private static bool IsChosen(AbstractValue choice, List<string> values) => (choice.Library ?? choice.Constant) is { } chosen ? values.Contains(chosen) : choice.Taints.Any(t => t.IsParameter);

    private AbstractValue ResultOf(CallModel fact, CallSite site)
    {
        var at = At(site.Index);
        if (fact.SanitizesIf is { } condition && site.Has(condition.At) && IsChosen(site.Argument(condition.At), condition.Values))
        {
            NoteFiltered(site.Argument(fact.ReturnsArgument ?? 0));
            return AbstractValue.Unknown;
        }

        if (MemberGot(fact, site) is { } ofApplication)
        {
            return ofApplication;
        }

        if (fact.StackTrace)
        {
            return ErrorDetail(site.Index, CalledName(site.Index));
        }

        if (fact.Checked is { } check)
        {
            return Checked(check, fact, site);
        }

        if (fact.Becomes is { } becomes)
        {
            return KeptRule(site.Receiver.With(types: [becomes]));
        }

        if (fact.Narrow is { } narrow)
        {
            return Narrowed(narrow, site);
        }

        if (fact.Chain is { } chain)
        {
            return ChainFor(chain, site);
        }

        if (fact.Chains is { } chains)
        {
            return ChainsOf(chains, site);
        }

        if (fact.Member is { } member)
        {
            return MemberRule(site, member);
        }

        if (fact.Source is { } part)
        {
            var name = fact.SourceName ?? (fact.Named is { } named ? site.Argument(named).Constant : null);
            var sent = SourceTaint(part, name, fact.SafeFor, site.Index, name ?? part);
            if (name is null && part != SubjectPart && fact.Named is { } naming && OwnParameter(site.Argument(naming)) is { } parameter)
            {
                sent = sent with { Origin = sent.Origin with { Name = Origin.AnyName, Index = parameter } };
            }

            return AsRewritten(WithDefault(new AbstractValue { Taints = [sent], Name = name, Types = fact.Returns is { } kind && name is null ? [kind] : [] }, site, fact.Named), null);
        }

        if (fact.Hash is not null || fact.Digest)
        {
            return HashResult(fact, site);
        }

        if (fact.Mac is { } message)
        {
            return MacOf(site, message);
        }

        if (fact.Escape is { } escape && fact.Encode is null)
        {
            return Escaped(escape, fact, site);
        }

        if (fact.Replace is [var what, var by, var within] && QuoteEscaping(site.Argument(what), site.Argument(by)) is { Count: > 0 } positions)
        {
            return Escaped(new EscapeModel { Value = within, For = positions }, fact, site);
        }

        if (fact.RemovesMatches is [var found, var put, _] && site.Argument(found).Constant is { } forbidden && RegexSafety.FindsForbidden(forbidden)
            && site.Argument(put) is { IsTainted: false, Constant: { } instead } && instead.All(c => char.IsLetterOrDigit(c) || c is '_' or '-' or '.'))
        {
            return AbstractValue.Unknown;
        }

        if (StripsParents(fact, site) is { } inside)
        {
            return Escaped(new EscapeModel { Value = inside, For = ["path"] }, fact, site);
        }

        if (fact.RemovesMatches is [_, var escaping, var escaped] && site.Argument(escaping).Constant is "\\$&" or "\\\\$&" or "\\\\\\0")
        {
            return Escaped(new EscapeModel { Value = escaped, For = ["pattern"] }, fact, site);
        }

        if (fact.EncodesAs.Count > 0 && site.Argument(0).Constant is { } spelling && fact.EncodesAs.Contains(spelling))
        {
            return Hidden(FieldAccess.DeepTaints(site.Receiver), PasswordTransform.Encoded, OutputContext.All, site, spelling);
        }

        if (fact.Encode is not null)
        {
            return Hidden(FieldAccess.DeepTaints(site.Argument(0)), PasswordTransform.Encoded, fact.Escape?.For.Aggregate(OutputContext.None, (p, name) => p | OutputContexts.Named(name)) ?? OutputContext.All, site, fact.Encode);
        }

        if (fact.Encrypt is { } encrypted)
        {
            return Hidden(FieldAccess.DeepTaints(site.Argument(encrypted)), PasswordTransform.Encrypted, OutputContext.All, site, "encrypted");
        }

        if (fact.Sanitizes is { } clean)
        {
            return clean == "configuration"
                ? new AbstractValue { IsConfiguration = true, Name = site.Argument(0).Constant, Fallback = site.Argument(1) is { Constant.Length: > 0, ConstantKind: LiteralKind.Text } otherwise ? otherwise.Constant : null, Types = fact.MissingFails || site.Has(1) ? [] : [AbstractValue.MayBeMissing] }
                : clean == "number" ? AsNumber(site.Arguments.Count > 0 ? site.Argument(0).Taints : site.Receiver.Taints) : AbstractValue.Unknown;
        }

        if (fact.ReturnsArgument is { } same)
        {
            var unchanged = site.Argument(same);
            if (fact.UnsafeAgain.Count > 0)
            {
                var reopened = fact.UnsafeAgain.Aggregate(OutputContext.None, (p, n) => p | OutputContexts.Named(n));
                return unchanged.With(taints: [.. unchanged.Taints.Select(t => t with { Safe = t.Safe & ~reopened })]);
            }

            return fact.SafeFor.Count > 0 ? MadeSafe(unchanged, fact.SafeFor) : unchanged;
        }

        if (fact.Defines is [var methodName, var methodBody] && site.Argument(methodName).Constant is { } defined && (_function.Class is not null || fact.DefinedOn is not null))
        {
            if (_function.Class is { } definer)
            {
                Keep(new StoreKey(StoreKind.Field, definer.Primary.Id, defined), site.Argument(methodBody));
            }

            Define(defined, site.Argument(methodBody), fact.DefinedOn);
            return AbstractValue.Unknown;
        }

        if (fact.Item is { } key)
        {
            var piece = site.Argument(key).Constant is { } keyName ? ReadField(site.Index, site.Receiver, keyName)
                : site.Receiver.Types.Contains("row") ? AbstractValue.OfTaints([StoredTaint(site.Index, "*")]) : FieldAccess.Element(site.Receiver);
            if (piece.IsConfiguration)
            {
                piece = piece.With(types: fact.MissingFails || (fact.Otherwise is { } stand && site.Has(stand)) ? [] : [AbstractValue.MayBeMissing]);
            }

            return WithOtherwise(piece, site, fact.Otherwise);
        }

        if (fact.Allow is { } firstAllowed)
        {
            return Allowed(site, firstAllowed);
        }

        if (fact.Expect)
        {
            return Expected(site);
        }

        if (fact.Pairs is { } paired)
        {
            return PairsOf(site.Argument(paired));
        }

        if (fact.Transpose && FieldAccess.Element(site.Receiver) is { Fields: { Count: > 0 } columns })
        {
            return new AbstractValue { Fields = columns.ToDictionary(c => c.Key, c => new AbstractValue { Fields = new Dictionary<string, AbstractValue> { ["*"] = c.Value }, Types = ["list"] }, StringComparer.Ordinal), Types = ["list"] };
        }

        if (fact.Concat)
        {
            return site.Arguments.Count == 0 ? AbstractValue.Unknown : AbstractValue.OfText(site.Arguments.Select(a => PartOfText(a, at)).Aggregate(StringPattern.Concat));
        }

        if (fact.AppendsText is { } added && IsText(site.Receiver))
        {
            var grownText = StringPattern.Concat(PartOfText(site.Receiver, at), PartOfText(site.Argument(added), at));
            var longer = AbstractValue.OfText(grownText).With(types: site.Receiver.Types);
            UpdateReceiver(site, longer);
            NoteSelf(site);
            return longer;
        }

        if (fact.Update is { } feed)
        {
            var fed = AbstractValue.Join(site.Receiver.Payload, site.Argument(feed));
            var updated = site.Receiver.With(carried: fed);
            UpdateReceiver(site, updated);
            NoteSelf(site);
            return updated;
        }

        if (fact.Append)
        {
            var grown = site.Receiver;
            foreach (var argument in site.Arguments)
            {
                grown = WithPart(grown, "+", argument);
            }

            UpdateReceiver(site, grown);
            KeepGrown(site);
            return grown;
        }

        if (fact.Format is { } format)
        {
            return Formatted(format, site);
        }

        if (fact.Join is { } join)
        {
            return Joined(join, site);
        }

        if (fact.Query is { Prepare: true } query)
        {
            var prepared = new AbstractValue { Payload = QueryText(query, site) };
            UpdateReceiver(site, site.Receiver.With(carried: prepared.Payload));
            return prepared;
        }

        if (fact.Keys is not null || fact.ValuesToKeys is not null || fact.SelectKeys.Count == 2)
        {
            return KeyedResult(fact, site);
        }

        if (fact is { Test: { Kind: "pattern" } matched, Propagates.Count: > 0 } && PatternAndValue(matched, site) is var (harmless, _) && RegexSafety.IsHarmless(harmless))
        {
            return AbstractValue.Unknown;
        }

        return fact.Propagates.Count > 0 ? Passed(fact, site) : AbstractValue.Unknown;
    }

    /// <summary>Where a replacement of one text by another makes harmless: putting a quote or backslash before each quote. Empty for any other.</summary>
    private static List<string> QuoteEscaping(AbstractValue what, AbstractValue by)
    {
        var quotes = Literals(what);
        var doubled = Literals(by);
        return quotes.Count > 0 && doubled.Count > 0 && quotes.TrueForAll(q => q is "'" or "\"" or "`") && doubled.TrueForAll(d => d.Length == 2 && quotes.Contains(d[1..]))
            ? [.. quotes.Select(q => q == "`" ? "sql-identifier" : "sql-text").Distinct()]
            : [];
    }

    /// <summary>The texts it may be, if all are known.</summary>
    private static List<string> Literals(AbstractValue value)
    {
        if (value.Constant is not null && value.Taints.Count == 0)
        {
            return [value.Constant];
        }

        return value.Text is not null && value.Text.Alternatives.All(a => a is [{ IsHole: false }]) ? [.. value.Text.Alternatives.Select(a => a[0].Literal!)] : [];
    }

    /// <summary>The argument from which a replacement takes every "..", so that a name stays in its folder; null for any other.</summary>
    private static int? StripsParents(CallModel fact, CallSite site)
    {
        var what = fact.Replace is [var text, _, _] ? site.Argument(text).Constant : null;
        var pattern = fact.RemovesMatches is [var expression, _, _] ? site.Argument(expression).Constant : null;
        return what is ".." or "../" ? fact.Replace[2]
            : pattern is not null && pattern.Trim('/', '#', '@', '~', '+', '*') is "\\.\\." or "\\.\\.\\/" or "\\.{2,}" or "\\.\\.*\\." ? fact.RemovesMatches[2]
            : pattern is "@\\.\\.*@" or "/\\.\\.+/" ? fact.RemovesMatches[2] : null;
    }

    private static bool IsText(AbstractValue value) => value.Text is not null || value is { Constant: not null, ConstantKind: LiteralKind.Text } || value.Types.Contains(TextType);

    private AbstractValue Passed(CallModel fact, CallSite site)
    {
        if (fact.Mapper is { } mapper && MappedBy(site.Argument(mapper), site, fact.Propagates[0]) is { } mapped)
        {
            return mapped;
        }

        IReadOnlyList<Taint> taints = [];
        Dictionary<string, AbstractValue>? fields = null;
        foreach (var position in fact.Propagates)
        {
            var argument = site.Argument(position);
            taints = AbstractValue.Union(taints, argument.Taints);
            if (fields is null)
            {
                fields = argument.Fields;
            }
            else if (argument.Fields is not null)
            {
                fields = AbstractValue.Join(new AbstractValue { Fields = fields }, new AbstractValue { Fields = argument.Fields }).Fields;
            }
        }

        var types = site.Argument(fact.Propagates[0]).Types;
        return new AbstractValue { Taints = [.. taints.Select(t => t.Altered ? t : t with { Altered = true })], Fields = fields, Types = types };
    }
}
