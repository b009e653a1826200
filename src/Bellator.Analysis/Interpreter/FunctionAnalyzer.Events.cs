using System.Globalization;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>Notes what checks look for: queries, hashes, comparisons, connections.</summary>
internal sealed partial class FunctionAnalyzer
{
    private void RaiseEvents(CallModel fact, CallSite site, bool guessed)
    {
        if (fact.Query is { } query)
        {
            // A statement that was prepared before was noted there: here it runs, with its values.
            var text = QueryText(query, site);
            var prepared = query.Prepare ? null : text.Payload;
            Raise(prepared is null ? EventKind.Query : EventKind.Run, fact, site, guessed, ("text", prepared ?? text), ("values", QueryValues(query, site)));
        }

        if (fact.Run is { } run)
        {
            var values = run.Values is { } at && site.Has(at) && site.Argument(at).Fields is not null ? site.Argument(at)
                : run.From is { } from ? ListFrom(site, from) : run.Values is { } only && site.Has(only) ? site.Argument(only) : BoundTo(site.Receiver);
            Raise(EventKind.Run, fact, site, guessed, ("text", site.Receiver.Payload ?? AbstractValue.Unknown), ("values", values));
        }

        if (fact.Bind is { } bind)
        {
            RaiseBinding(fact, bind, site, guessed);
        }

        if (fact.Hash is { } hash && (hash.Value is not null || hash.MakesSalt))
        {
            RaiseHash(fact, site.Argument(hash.Value ?? int.MaxValue), site);
        }

        if (fact.Digest && site.Receiver is { Hash: { } begun, Payload: { } fed })
        {
            RaiseHash(begun.Fact, fed, new CallSite(site.Index, site.Receiver, begun.Arguments, []));
        }

        if (fact.Compare is [var left, var right])
        {
            RaiseComparison(site.Index, site.Argument(left), site.Argument(right), null, null, null, fact.ComparesEarly ? null : fact);
        }

        if (fact.Verify is { } verify)
        {
            Raise(EventKind.Verify, fact, site, guessed, ("password", site.Argument(verify.Password)), ("hash", site.Argument(verify.Hash)));
        }

        if (fact.Connect is { } connect)
        {
            RaiseConnect(fact, connect, site);
        }
    }

    /// <summary>Notes the values at places where they could do harm.</summary>
    private void RaiseSinks(CallModel fact, CallSite site, bool guessed)
    {
        var options = new OptionState(site, IsWrittenOut);
        foreach (var sink in fact.Sinks)
        {
            AbstractValue? Option(string name) => site.Option(name) ?? (fact.Names.IndexOf(name) is >= 0 and var position && site.Has(position) ? site.Argument(position) : null);
            if (sink.When.Any(w => Option(w.Key)?.Constant?.ToLowerInvariant() != w.Value)
                || sink.WhenAt.Any(w => (site.Argument(w.Key).Constant ?? site.Argument(w.Key).Library) is not { } given || !w.Value.Contains(given))
                || (sink.Off.Count > 0 && !sink.Off.TrueForAll(o => options.IsOff(o, sink.DefaultOn, sink.Off.Exists(p => !p.Contains('.', StringComparison.Ordinal)))))
                || (sink.Given.Count > 0 && !sink.Given.Exists(o => options.IsGiven(o)))
                || (sink.Mixes is { } mixed && !options.MixesKeys(mixed))
                || (sink.Lists.Count > 0 && !sink.Lists.Any(o => options.Has(o.Key, o.Value)))
                || site.Has(sink.Without)
                || (sink.On.Count > 0 && !site.Argument(sink.Model).Types.Any(t => sink.On.Contains(t)))
                || sink.Unless.Any(u => u.Key.Contains('.', StringComparison.Ordinal) ? options.IsGiven(u.Key) : Option(u.Key) is { } given && (u.Value == "*" || given.Constant == u.Value || given.Library?.EndsWith(u.Value, StringComparison.Ordinal) == true)))
            {
                continue;
            }

            var arranged = site.Names.Count == 0 ? site : site.Arranged(fact.Names);
            var value = arranged.Argument(sink.At);
            if (sink.Field is { } field)
            {
                value = value.Field(field) ?? AbstractValue.Unknown;
            }

            if (sink.FilledFrom is { } part)
            {
                value = value.With(taints: [RequestTaint(part, null, site.Index, part)]);
            }

            if (sink.Prefix is { } prefix && !BeginsWith(value, prefix))
            {
                continue;
            }

            if (!MayBePage(sink))
            {
                continue;
            }

            if (sink.OnlyText && (value.Types.Contains("list") || value.Fields is not null))
            {
                continue;
            }

            if (sink.Kind is "page" or "response")
            {
                NoteSerialized(site.Index, value);
            }

            if (sink.Kind == "sql")
            {
                // Several pieces of a statement may come as a list.
                Raise(EventKind.Query, fact, arranged, guessed, ("text", value.Types.Contains("list") && value.Text is null ? FieldAccess.Element(value) : value));
                continue;
            }

            if (!sink.Parts && !sink.IsSwitch && value.Fields is not null && value.Taints.Count == 0)
            {
                continue;
            }

            if (sink.IsSwitch && _guards.InBlock(_function.BlockOf[site.Index]).Any(t => t.Of is { Kind: OriginKind.Error }))
            {
                // A setting decides whether it is done.
                continue;
            }

            OutputContext? standing = sink.Context is { } given ? OutputContexts.Named(given) : null;
            if (sink.Kind == "page" && IsTemplate)
            {
                var place = _program.Pages.At(_file, _function.Instructions[site.Index].Span.Start);
                var isEscaped = sink.Escaped && !IsUnescaped;
                standing = StandingOf(place.Position, place.StartsAddress, value, isEscaped);
                if (isEscaped)
                {
                    if (standing is OutputContext.Html or OutputContext.Attribute || place.IsInScriptText)
                    {
                        continue;
                    }

                    value = MadeSafe(value, ["html", "attribute"]);
                }
            }

            if (sink.Allowed is { } rules)
            {
                value = OnlyAllowed(value, arranged.Argument(sink.Model), rules, sink.Refused);
            }

            AddEvent(new AnalysisEvent
            {
                Kind = EventKind.Sink,
                Fact = fact,
                Sink = sink,
                Context = standing,
                Function = _function,
                At = At(site.Index),
                Guessed = guessed,
                Roles = new Dictionary<string, AbstractValue>(StringComparer.Ordinal) { ["value"] = value, ["model"] = sink.Kind == "assign" ? arranged.Argument(sink.Model) : AbstractValue.Unknown, ["name"] = sink.NameAt is { } named ? arranged.Argument(named) : AbstractValue.Unknown, ["called"] = sink.NameAt is null ? AbstractValue.Unknown : Named(NamesIn(arranged.Operand(sink.At), 0)) },
            });
        }
    }

    /// <summary>The value is written out in the code, here or where a constant of the file or class is set; not what a call gave, or one of several.</summary>
    private bool IsWrittenOut(int operand) => operand >= 0 && _function.Instructions[operand] switch
    {
        { Op: Opcode.Object or Opcode.List or Opcode.Constant or Opcode.New or Opcode.LoadShared or Opcode.GetStatic or Opcode.GetField or Opcode.Global or Opcode.Concat or Opcode.Binary } => true,
        { Op: Opcode.WithField or Opcode.WithItem or Opcode.Cast, A: var changed } => IsWrittenOut(changed),
        { Op: Opcode.LoadCell, A: var cell } => IsSetOnce(cell),
        _ => false,
    };

    /// <summary>An outer variable that is set in one place, to something written out.</summary>
    private bool IsSetOnce(int cell)
    {
        var stores = _file.Functions.SelectMany(f => f.Instructions.Where(i => i.Op == Opcode.StoreCell && i.A == cell).Select(i => f.Instructions[i.B].Op)).Take(2).ToList();
        return stores is [Opcode.Object or Opcode.List or Opcode.Constant or Opcode.New];
    }

    /// <summary>The names of variables and members that an argument is put together from.</summary>
    private string NamesIn(int operand, int depth)
    {
        if (operand < 0 || depth > 2)
        {
            return "";
        }

        var instruction = _function.Instructions[operand];
        return instruction.Op is Opcode.Concat or Opcode.Call or Opcode.CallMethod or Opcode.CallStatic
            ? string.Join(' ', _function.List(instruction).ToArray().Select(o => NamesIn(o.Value, depth + 1)).Prepend(NameOf(operand, AbstractValue.Unknown) ?? ""))
            : NameOf(operand, AbstractValue.Unknown) ?? "";
    }

    /// <summary>The columns of the value that the model's rules name: each rule begins with one or more of them.</summary>
    private AbstractValue OnlyAllowed(AbstractValue value, AbstractValue model, string method, string? refused)
    {
        var names = new HashSet<string>(StringComparer.Ordinal);
        foreach (var type in model.Types.Where(t => t[0] == '#'))
        {
            var rules = _program.Program.FindMethod(_program.Program.Classes[ClassNumber(type)], method) is { } given ? _visit.SummaryOf(given)?.Returns : null;
            foreach (var rule in (rules ?? AbstractValue.Unknown).Parts)
            {
                var first = rule.Field("0");
                if (first is not null && (refused is null || rule.Field("1")?.Constant != refused))
                {
                    names.UnionWith(first.Constant?.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries) ?? first.Fields?.Values.Select(v => v.Constant).OfType<string>() ?? []);
                }
            }
        }

        return new AbstractValue { Fields = names.Order(StringComparer.Ordinal).Take(AbstractValue.MaxFields).ToDictionary(n => n, n => FieldAccess.Read(value, n), StringComparer.Ordinal) };
    }

    private static bool BeginsWith(AbstractValue value, string prefix) =>
        (value.Text?.Alternatives.Any(a => a is [{ IsHole: false } first, ..] && first.Literal!.StartsWith(prefix, StringComparison.OrdinalIgnoreCase)) ?? false)
        || (value.Constant?.StartsWith(prefix, StringComparison.OrdinalIgnoreCase) ?? false);

    private void Raise(EventKind kind, CallModel fact, CallSite site, bool guessed, params (string Name, AbstractValue Value)[] roles) =>
        Raise(kind, fact, site.Index, guessed, roles);

    private void Raise(EventKind kind, CallModel? fact, int index, bool guessed, params (string Name, AbstractValue Value)[] roles) => AddEvent(new AnalysisEvent
    {
        Kind = kind,
        Fact = fact,
        Function = _function,
        At = At(index),
        Guessed = guessed,
        Roles = roles.Where(r => !ReferenceEquals(r.Value, AbstractValue.Unknown)).ToDictionary(r => r.Name, r => r.Value, StringComparer.Ordinal),
    });

    private static AbstractValue QueryText(QueryModel query, CallSite site)
    {
        var text = site.Argument(query.Text);
        return query.TextField is { } field && text.Field(field) is { } inner ? inner : text;
    }

    private static AbstractValue QueryValues(QueryModel query, CallSite site)
    {
        if (query.ValuesField is { } field && site.Argument(query.Text).Field(field) is { } inner)
        {
            return inner;
        }

        return query.From is { } from ? ListFrom(site, from)
            : query.Values is not { } at ? AbstractValue.Unknown
            : site.Argument(at) is { Fields: null, Types.Count: 0 } && TakesOneByOne(site.Argument(query.Text), site.Arguments.Count - at) ? ListFrom(site, at)
            : site.Argument(at);
    }

    /// <summary>Numbered places, and as many values behind the statement: they are given one by one, whatever the library was taken for.</summary>
    private static bool TakesOneByOne(AbstractValue statement, int given) =>
        given > 0 && (statement.Constant ?? statement.Text?.Alternatives[0].FirstOrDefault(p => p.Literal?.Contains("$1", StringComparison.Ordinal) == true)?.Literal) is { } text
        && text.Contains("$1", StringComparison.Ordinal) && (given > 1 || !text.Contains("$2", StringComparison.Ordinal));

    private static AbstractValue ListFrom(CallSite site, int from)
    {
        var fields = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
        for (var i = from; i < site.Arguments.Count; i++)
        {
            fields[(i - from).ToString(CultureInfo.InvariantCulture)] = site.Arguments[i];
        }

        return fields.Count == 0 ? AbstractValue.Unknown : new AbstractValue { Fields = fields };
    }

    private void RaiseHash(CallModel fact, AbstractValue input, CallSite site)
    {
        var hash = fact.Hash!;
        var scheme = SchemeOf(hash, site);
        var roles = new List<(string, AbstractValue)> { ("input", input) };
        roles.Add(("scheme", scheme is null ? site.Argument(hash.SchemeAt ?? -2) : AbstractValue.OfConstant(LiteralKind.Text, scheme)));
        if (hash.Scheme is not null && hash.SchemeAt is { } digest && hash.Schemes.Count == 0)
        {
            roles.Add(("digest", site.Argument(digest) is { Constant: null, Library: { } named } ? AbstractValue.OfConstant(LiteralKind.Text, IrClass.ShortOf(named)) : site.Argument(digest)));
        }

        if (hash.Salt is { } salt)
        {
            roles.Add(("salt", site.Has(salt) ? site.Argument(salt) : AbstractValue.OfConstant(LiteralKind.Null, "null")));
        }

        if (hash.Cost is { } cost)
        {
            roles.Add(("cost", site.Has(cost) ? site.Argument(cost) : hash.DefaultCost is { } standard ? AbstractValue.OfConstant(LiteralKind.Number, standard) : AbstractValue.Unknown));
        }

        Raise(EventKind.Hash, fact, site, false, [.. roles]);
    }

    private static string? SchemeOf(HashModel hash, CallSite site)
    {
        if (hash.SchemeAt is { } at && hash.Scheme is null)
        {
            return site.Argument(at).Constant?.ToLowerInvariant();
        }

        if (hash.SchemeAt is { } choice && hash.Schemes.Count > 0 && site.Argument(choice).Constant is { } name)
        {
            return hash.Schemes.GetValueOrDefault(name, name.ToLowerInvariant());
        }

        return hash.Scheme;
    }

    private AbstractValue HashResult(CallModel fact, CallSite site)
    {
        if (fact.Digest)
        {
            return site.Receiver is { Hash: { } begun, Payload: { } fed }
                ? HashOf(begun.Fact.Hash!, fed, new CallSite(site.Index, site.Receiver, begun.Arguments, []))
                : AbstractValue.Unknown;
        }

        var hash = fact.Hash!;
        return hash.Value is { } value
            ? HashOf(hash, site.Argument(value), site)
            : new AbstractValue { Hash = new PendingDigest(fact, site.Arguments) };
    }

    private AbstractValue HashOf(HashModel hash, AbstractValue input, CallSite site)
    {
        var scheme = SchemeOf(hash, site) ?? "";
        var taints = AbstractValue.Union(FieldAccess.DeepTaints(input), input.Text is null ? [] : input.Text.Taints);
        var hashed = Hidden(taints, HashSchemeNames.IsFast(scheme) ? PasswordTransform.FastHash : PasswordTransform.SlowHash, OutputContext.All, site, scheme);
        return hash.Keyed ? WithKey(hashed, DigestKey.Keyed)
            : !HashSchemeNames.IsFast(scheme) || !HoldsMore(input) ? hashed
            : WithKey(hashed, NamesIn(Unencoded(site.Operand(hash.Value ?? int.MaxValue)), 0).Split(' ').Any(_program.Vocabulary.NamesKey) ? DigestKey.Keyed : DigestKey.Mixed);
    }

    /// <summary>Beside what came in from outside something of the program's own was hashed, in one text: a key put before the message.</summary>
    private static bool HoldsMore(AbstractValue input) =>
        input.Text is { } text && text.Alternatives.Any(a => a.Any(p => p is { IsHole: true, Taints.Count: > 0 } && a.Any(o => o.IsHole && o != p && !o.Taints.Any(t => p.Taints.Any(u => u.Origin == t.Origin)))));

    /// <summary>What a text was before it was made into bytes: <c>text.encode()</c>.</summary>
    private int Unencoded(int operand) => operand >= 0 && _function.Instructions[operand] is { Op: Opcode.CallMethod, C: 0, A: var text } ? text : operand;

    private static AbstractValue WithKey(AbstractValue digest, DigestKey key) => digest.With(taints: [.. digest.Taints.Select(t => t with { Key = key })]);

    private AbstractValue MacOf(CallSite site, int message)
    {
        var input = site.Argument(message);
        return WithKey(Hidden(AbstractValue.Union(FieldAccess.DeepTaints(input), input.Text is null ? [] : input.Text.Taints), PasswordTransform.FastHash, OutputContext.All, site, "hmac"), DigestKey.Keyed);
    }

    private void EvaluateComparison(int index, in Instruction instruction)
    {
        if (instruction.Text is "==" or "===" or "!=" or "!==")
        {
            var (left, right) = (NameOf(instruction.A, AbstractValue.Unknown), NameOf(instruction.B, AbstractValue.Unknown));
            RaiseComparison(index, Get(instruction.A), Get(instruction.B), instruction.Text, left, right);
            NoteDecision(index, Get(instruction.A), Get(instruction.B), left, right);
        }
        else if (instruction.Text is "in" or "not in" or "<>")
        {
            NoteDecision(index, Get(instruction.A), Get(instruction.B), null, null);
        }
    }

    private void RaiseComparison(int index, AbstractValue left, AbstractValue right, string? sign, string? leftName, string? rightName, CallModel? fact = null)
    {
        if (MayBePassword(left) || MayBePassword(right) || _program.Vocabulary.IsPasswordColumn(leftName) || _program.Vocabulary.IsPasswordColumn(rightName)
            || _program.Vocabulary.IsCredential(leftName ?? left.Name ?? "") || _program.Vocabulary.IsCredential(rightName ?? right.Name ?? "")
            || (left.IsConfiguration && right.Taints.Any(t => t.IsSent)) || (right.IsConfiguration && left.Taints.Any(t => t.IsSent))
            || IsDigestOfRequest(left, right) || IsDigestOfRequest(right, left) || left.Taints.Any(t => t.Key != DigestKey.None) || right.Taints.Any(t => t.Key != DigestKey.None))
        {
            Raise(EventKind.Compare, fact, index, false, ("left", left), ("right", right), ("leftName", leftName is null ? AbstractValue.Unknown : Named(leftName)), ("rightName", rightName is null ? AbstractValue.Unknown : Named(rightName)), ("sign", sign is null ? AbstractValue.Unknown : Named(sign)));
        }
    }

    /// <summary>The one was sent beside what the other is the digest of: the signature of a message.</summary>
    private bool IsDigestOfRequest(AbstractValue sent, AbstractValue digest) =>
        sent.Taints.Any(t => t.IsSent && _program.Vocabulary.NamesSignature(t.Origin.Name ?? "")) && digest is { Constant: null } && digest.Taints.Count > 0 && digest.Taints.All(t => t.Transform == PasswordTransform.FastHash);

    private bool MayBePassword(AbstractValue value) =>
        _program.Vocabulary.IsPasswordColumn(value.Name) || value.Taints.Any(t => _program.Vocabulary.IsPassword(t.Origin.Name));

    private void RaiseConnect(CallModel fact, ConnectModel connect, CallSite site)
    {
        var user = Given(connect.User, connect.UserFields, connect, site);
        var password = Given(connect.Password, connect.PasswordFields, connect, site);
        var host = connect.Host is { } at ? site.Argument(at) : connect.Options is { } options ? site.Argument(options).Field("host") ?? AbstractValue.Unknown : AbstractValue.Unknown;
        Raise(EventKind.Connect, fact, site, false, ("user", user), ("password", password), ("host", host));
    }

    private static AbstractValue Given(int? position, List<string> fields, ConnectModel connect, CallSite site)
    {
        if (position is { } at)
        {
            return site.Argument(at);
        }

        if (connect.Options is { } options)
        {
            foreach (var field in fields)
            {
                if (site.Argument(options).Field(field) is { } value)
                {
                    return value;
                }
            }
        }

        return AbstractValue.Unknown;
    }
}
