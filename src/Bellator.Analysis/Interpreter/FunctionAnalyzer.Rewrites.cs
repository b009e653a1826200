using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Summaries;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>
/// Parts of the request that a program overwrites with what its own checks made of them, and functions of its own that give the part of a name:
/// what is read under the name afterwards is what was put there, whoever wrote it.
/// </summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>Parts that are overwritten in a loop over their own names: where the loop does not run there is nothing of them.</summary>
    private readonly HashSet<RequestPart> _overwrittenInLoop = [];

    /// <summary>Of what may be put in the place of a part so many alternatives are looked at.</summary>
    private const int MaxAlternatives = 12;

    /// <summary>The function's own parameter, unchanged; null for anything else.</summary>
    private int? OwnParameter(AbstractValue value) =>
        value.WholeParameter is { Origin: { Part.Length: 0, Index: >= 0 } origin } && origin.Function == _function.Id ? origin.Index : null;

    /// <summary>A value was put into an item of a container; where that is a part of the request, what is read there from now on is this.</summary>
    private void NoteRewritten(AbstractValue container, int key, int value)
    {
        if (key < 0 || WholePart(container) is not { } part)
        {
            return;
        }

        foreach (var name in NamesOfParts(part, key))
        {
            Rewrite(name, name.Parameter is null ? Get(value) : MadeOf(value));
        }
    }

    /// <summary>A member was set; where a library says that it is a part of the request, all of that part is this now.</summary>
    private void NoteRewrittenMember(AbstractValue target, string member, int value)
    {
        if (WholePart(target) is { } part)
        {
            Rewrite(new RequestPart(part, member), Get(value));
            return;
        }

        foreach (var type in target.Types)
        {
            if (type[0] != '#' && _facts.Field(type, member) is { Source: { } source } && source != SubjectPart)
            {
                Rewrite(new RequestPart(source, Origin.AnyName), Get(value));
            }
        }
    }

    private void Rewrite(RequestPart part, AbstractValue value)
    {
        // A whole part that comes out of something unknown is commonly the same, read from the connection and taken apart.
        if (part.IsWhole && value is { Constant: null, Fields: null or { Count: 0 } } && !value.IsTainted)
        {
            return;
        }

        // Put back as it is, nothing has changed.
        if (value is not { Text: null, Taints: [{ IsRaw: true, Altered: false } only] } || !IsPart(only.Origin, part))
        {
            _state = _state.WithRewritten(part, value.WidenedForStore());
        }
    }

    /// <summary>The part of the request that a value is as a whole, names and all.</summary>
    private static string? WholePart(AbstractValue container) =>
        container.Taints is [{ Origin: { Kind: OriginKind.Request, Name: null } origin, Selects: false }] ? origin.Part : null;

    /// <summary>The parts that a key names: one, one of several in a list that a loop goes through, or all of them.</summary>
    private IReadOnlyList<RequestPart> NamesOfParts(string part, int key)
    {
        var by = Get(key);
        if (by.Constant is { } name)
        {
            return [new RequestPart(part, name)];
        }

        if (OwnParameter(by) is { } parameter)
        {
            var named = RequestPart.NamedBy(part, parameter);
            if (_function.Instructions[key].Op is Opcode.ElementKey or Opcode.Element)
            {
                _overwrittenInLoop.Add(named);
            }

            return [named];
        }

        IReadOnlyList<RequestPart> all = by.Text is { } text && text.Alternatives.All(a => a is [{ IsHole: false }]) ? [.. text.Alternatives.Select(a => new RequestPart(part, a[0].Literal!))]
            : _function.Instructions[key].Op == Opcode.ElementKey && by.Taints.Any(t => t.Origin is { Kind: OriginKind.Request, Name: null } origin && origin.Part == part) ? [new RequestPart(part, Origin.AnyName)]
            : [];
        _overwrittenInLoop.UnionWith(all);
        return all;
    }

    /// <summary>
    /// What a function that takes the name of a part puts back in its place. What it made of the part counts, where it also puts it back as it
    /// was: for one that was empty, or that a test has accepted which is not understood.
    /// </summary>
    private AbstractValue MadeOf(int value)
    {
        var open = new Stack<int>([value]);
        var seen = new HashSet<int>();
        AbstractValue? made = null;
        AbstractValue? constant = null;
        while (open.TryPop(out var at) && seen.Count < MaxAlternatives)
        {
            if (at < 0 || !seen.Add(at))
            {
                continue;
            }

            ref readonly var instruction = ref _function.Instructions[at];
            if (instruction.Op == Opcode.Phi)
            {
                foreach (var operand in _function.List(instruction))
                {
                    open.Push(operand.Value);
                }

                continue;
            }

            var one = Get(at);
            if (one.Constant is not null)
            {
                constant = AbstractValue.Join(constant, one);
            }
            else if (!one.Taints.Any(t => t is { IsRaw: true, Altered: false }) || one.Taints.Any(t => t.IsParameter))
            {
                made = AbstractValue.Join(made, one);
            }
        }

        return made is null ? Get(value) : AbstractValue.Join(made, constant);
    }

    /// <summary>What a read gives by now: in the place of a part that was overwritten, what was put there.</summary>
    /// <param name="container">What it is read from; null for a call of a library that reads the request itself.</param>
    private AbstractValue AsRewritten(AbstractValue read, AbstractValue? container)
    {
        if (_state.Rewritten is not { } rewritten || read.Taints.Count == 0 || (container is { IsTainted: true } && WholePart(container) is null))
        {
            // A part of a part is not what was overwritten.
            return read;
        }

        AbstractValue? now = null;
        List<Taint>? left = null;
        foreach (var taint in read.Taints)
        {
            if (taint.Origin.Kind == OriginKind.Request && InPlaceOf(taint.Origin, rewritten) is { } put)
            {
                left ??= [.. read.Taints];
                left.Remove(taint);
                now = AbstractValue.Join(now, Continued(taint, put));
            }
        }

        return left is null ? read : left.Count == 0 ? now! : AbstractValue.Join(read.With(taints: left), now);
    }

    /// <summary>What was put there, and what was done on the way with what is read there.</summary>
    private static AbstractValue Continued(Taint read, AbstractValue put) => read is { IsRaw: true, Altered: false, Transform: PasswordTransform.Plain } ? put
        : AbstractValue.OfTaints([.. FieldAccess.DeepTaints(put).Select(t => t with
        {
            Safe = t.Safe | read.Safe,
            Altered = true,
            Transform = (PasswordTransform)Math.Max((int)t.Transform, (int)read.Transform),
            Guessed = t.Guessed || read.Guessed,
            Doubted = t.Doubted || read.Doubted,
        })]);

    private static AbstractValue? InPlaceOf(Origin origin, IReadOnlyDictionary<RequestPart, AbstractValue> rewritten)
    {
        if (origin is { Name: Origin.AnyName, Index: >= 0 })
        {
            return rewritten.GetValueOrDefault(RequestPart.NamedBy(origin.Part, origin.Index));
        }

        return origin.Name is { } name and not Origin.AnyName && rewritten.TryGetValue(new RequestPart(origin.Part, name), out var one) ? one
            : rewritten.TryGetValue(new RequestPart(origin.Part, Origin.AnyName), out var all) ? origin.Name is null ? all : FieldAccess.Read(all, origin.Name)
            : null;
    }

    /// <summary>What a function gives back, asked for the part of a name: that part, and not the others that it would give under other names; by now.</summary>
    private AbstractValue Asked(AbstractValue given, IReadOnlyList<AbstractValue> arguments)
    {
        var parts = given.Taints.Where(IsNamedByParameter).Select(t => t.Origin.Part).ToHashSet(StringComparer.Ordinal);
        if (parts.Count == 0)
        {
            return _state.Rewritten is null ? given : AsRewritten(given, null);
        }

        // Under the name that is asked for there is nothing that stands under another one.
        IReadOnlyList<Taint> Own(IReadOnlyList<Taint> taints) => [.. taints.Where(t => IsNamedByParameter(t) || t.Origin.Kind != OriginKind.Request || !parts.Contains(t.Origin.Part))];
        var own = given.Text is null ? given.With(taints: Own(given.Taints)) : AbstractValue.OfText(given.Text.Map(p => p.IsHole ? [[Piece.Hole(Own(p.Taints), p.At)]] : null));
        return AsRewritten(Named(own, o => AskedFor(o, arguments)), null);
    }

    /// <summary>Parts of the request that the value speaks of by the parameter that names them, as they are to be called.</summary>
    private static AbstractValue Named(AbstractValue value, Func<Origin, Origin> called)
    {
        IReadOnlyList<Taint> Call(IReadOnlyList<Taint> taints) => AbstractValue.Union(taints.Select(t => IsNamedByParameter(t) ? t with { Origin = called(t.Origin) } : t));
        return !value.Taints.Any(IsNamedByParameter) ? value
            : value.Text is null ? value.With(taints: Call(value.Taints))
            : AbstractValue.OfText(value.Text.Map(p => p.IsHole ? [[Piece.Hole(Call(p.Taints), p.At)]] : null));
    }

    private static bool IsNamedByParameter(Taint taint) => taint.Origin is { Kind: OriginKind.Request, Index: >= 0 };

    private bool _filters;

    /// <summary>A part of the request whose name a parameter brings goes through a filter.</summary>
    private void NoteFiltered(AbstractValue value) => _filters |= value.Taints.Any(IsNamedByParameter);

    /// <summary>
    /// A function that takes the name of a part and lets it through a filter gives what the filter has let through; what it gives as it came was
    /// empty, or has passed tests of its own that are not understood.
    /// </summary>
    private AbstractValue AsFiltered(AbstractValue value) => _filters && value.Text is null && value.Taints.Any(IsNamedByParameter) ? value.With(taints: [.. value.Taints.Where(t => !IsNamedByParameter(t))]) : value;

    /// <summary>Outside of the function its parameters name nothing: it is some part of the request, and which function read it is no matter.</summary>
    private static AbstractValue WithoutOwnNames(AbstractValue value, int depth = 0)
    {
        if (value.Fields is { } fields && depth < AbstractValue.MaxDepth && fields.Values.Any(f => FieldAccess.DeepTaints(f).Any(IsNamedByParameter)))
        {
            value = value.With(fields: fields.ToDictionary(f => f.Key, f => WithoutOwnNames(f.Value, depth + 1), StringComparer.Ordinal));
        }

        return Named(value, o => o with { Index = -1, Function = -1 });
    }

    private Origin AskedFor(Origin origin, IReadOnlyList<AbstractValue> arguments)
    {
        var by = origin.Index < arguments.Count ? arguments[origin.Index] : AbstractValue.Unknown;
        return by is { Constant: { Length: > 0 } name, Taints.Count: 0 } ? origin with { Name = name, Index = -1 } : origin with { Index = OwnParameter(by) ?? -1 };
    }

    /// <summary>What the function overwrites of the request is overwritten for its caller too.</summary>
    private void RepeatRewrites(FunctionSummary summary, Substitution substitution, CallSite site, IReadOnlyList<AbstractValue> arguments)
    {
        foreach (var (part, value) in summary.Rewrites ?? None)
        {
            if (part.Parameter is not { } parameter)
            {
                Rewrite(part, substitution.Apply(value));
                continue;
            }

            var named = site.Operand(parameter) is >= 0 and var key ? NamesOfParts(part.Part, key) : [];
            foreach (var name in named.Count > 0 ? named : NamesIn(part.Part, parameter < arguments.Count ? arguments[parameter] : AbstractValue.Unknown))
            {
                var operand = value.WholeParameter is { Origin: { Part.Length: 0 } whole } ? site.Operand(whole.Index) : -1;
                Rewrite(name, name.Parameter is not null && operand >= 0 ? MadeOf(operand) : substitution.Apply(Named(value, o => o with { Name = name.Parameter is null ? name.Name : Origin.AnyName, Index = name.Parameter ?? -1 })));
            }
        }
    }

    /// <summary>A file that is included runs here: <c>require 'clean_input.php'</c>.</summary>
    private void RepeatRewritesOfIncluded(int index, in Instruction include)
    {
        if (_program.Program.Modules.IncludeTarget(_file, _function, include.A) is >= 0 and var target && target != _file.Index
            && _program.Program.Files[target].Functions.FirstOrDefault(f => f.IsTopLevel) is { } body && _visit.SummaryOf(body) is { Rewrites: not null } summary)
        {
            RepeatRewrites(summary, new Substitution(body, [], At(index)), new CallSite(index, AbstractValue.Unknown, [], []), []);
        }
    }

    private static readonly Dictionary<RequestPart, AbstractValue> None = [];

    /// <summary>The parts that are the keys of an object or the elements of a list.</summary>
    private static IEnumerable<RequestPart> NamesIn(string part, AbstractValue argument) =>
        argument.Fields is not { } fields ? []
        : argument.Types.Contains("list") || fields.Keys.All(k => k.All(char.IsAsciiDigit)) ? fields.Values.Where(f => f is { Constant: not null, Taints.Count: 0 }).Select(f => new RequestPart(part, f.Constant!))
        : fields.Keys.Where(k => k != "*").Select(k => new RequestPart(part, k));

    /// <summary>
    /// What is overwritten where the function comes back. If it puts a part back as it was on one way, or leaves it alone, and makes something of
    /// it on another, the latter counts; a value that takes the place of what is missing does not.
    /// </summary>
    private Dictionary<RequestPart, AbstractValue>? RewritesAtEnd()
    {
        Dictionary<RequestPart, AbstractValue>? all = null;
        List<IReadOnlyDictionary<RequestPart, AbstractValue>> ends = [.. _function.Order.Where(ComesBackFrom).Select(b => _states[b]?.Rewritten ?? None)];
        foreach (var rewritten in ends)
        {
            foreach (var (part, value) in rewritten)
            {
                if (IsPutBack(part, value) && (all?.ContainsKey(part) ?? false))
                {
                    continue;
                }

                all ??= [];
                var put = part.Parameter is null ? value : AsFiltered(value);
                all[part] = all.TryGetValue(part, out var known) && !IsPutBack(part, known) ? AbstractValue.Join(known, put) : put;
            }
        }

        foreach (var part in all?.Keys.Where(p => IsPutBack(p, all[p]) && ends.Exists(e => !e.ContainsKey(p))).ToList() ?? [])
        {
            all!.Remove(part);
        }

        return all is { Count: > 0 } ? all : null;
    }

    /// <summary>The part stands where it stood, as it came.</summary>
    private static bool IsPutBack(RequestPart part, AbstractValue value) =>
        value.Constant is not null || value.Taints.Any(t => t is { IsRaw: true, Altered: false, Origin.Kind: OriginKind.Request } && t.Origin.Part == part.Part);

    private static bool IsPart(AbstractValue value, RequestPart part) => value.Taints.Any(t => IsPart(t.Origin, part));

    private static bool IsPart(Origin origin, RequestPart part) =>
        origin.Kind == OriginKind.Request && origin.Part == part.Part && (origin.Index >= 0 ? origin.Index == part.Parameter : origin.Name == part.Name && !part.IsWhole);

    private bool IsName(AbstractValue value, RequestPart part) => part.Parameter is { } parameter ? OwnParameter(value) == parameter : value.Constant == part.Name;
}
