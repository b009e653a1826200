using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Summaries;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>Who is asking: what the program knows of the person itself, which records it finds by that, and what it holds against it.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>The facts' name for what the program knows of whoever is asking: it is no part of the request.</summary>
    internal const string SubjectPart = "subject";

    /// <summary>Before the name of a member that the program puts on the request, or on what lives as long as it.</summary>
    private const string RequestMember = "<request>";

    /// <summary>A value from the part of the request, or of the person who is asking.</summary>
    private Taint SourceTaint(string part, string? name, IReadOnlyList<string> safeFor, int index, string note) => part == SubjectPart
        ? SubjectTaint(index, name ?? "")
        : new Taint(new Origin(OriginKind.Request, part, name, _file.Index, -1), safeFor.Aggregate(OutputContext.None, (p, n) => p | OutputContexts.Named(n)), PasswordTransform.Plain, false, false, new Trace(StepKind.Source, At(index), note, null));

    /// <summary>Nobody but the program decides on it, so that it does no harm anywhere; what counts is that it stands for the person.</summary>
    private Taint SubjectTaint(int index, string name) =>
        new(new Origin(OriginKind.Subject, "", name, _file.Index, -1), OutputContext.All, PasswordTransform.Plain, false, false, new Trace(StepKind.Source, At(index), name, null));

    /// <summary>A number does no harm anywhere, but still is the one that the request, the caller or the session names. What a password becomes is no matter of records.</summary>
    private AbstractValue AsNumber(IReadOnlyList<Taint> taints)
    {
        if (taints.Count == 0)
        {
            return AbstractValue.Unknown;
        }

        return AbstractValue.OfTaints([.. taints.Where(t => t.Origin.Kind is OriginKind.Subject or OriginKind.Parameter or OriginKind.Request && t.Transform == PasswordTransform.Plain && !_program.Vocabulary.MentionsPassword(t.Origin.Name ?? ""))
            .Select(t => t.Safe == OutputContext.All && t.Altered ? t : t with { Safe = OutputContext.All, Altered = true })]);
    }

    private AbstractValue SubjectValue(int index, string name) => new() { Taints = [SubjectTaint(index, name)], Name = name };

    /// <summary>A part of what is the person's by its type, whatever the program was seen to put there.</summary>
    private AbstractValue? OfSubject(int index, AbstractValue target, string name)
    {
        if (IsSubject(target.Library))
        {
            return SubjectValue(index, name);
        }

        foreach (var type in target.Library is { } library && _facts.Global(_facts.Canonical(library)) is { Type: { } kind } ? target.Types.Append(kind) : target.Types)
        {
            if (type[0] != '#' && _facts.Field(type, name) is { Source: SubjectPart } known)
            {
                return OfFact(known, index, name);
            }
        }

        return null;
    }

    /// <summary>What a library provides under the name is the person.</summary>
    private bool IsSubject(string? library) => library is not null && _facts.Global(_facts.Canonical(library)) is { Source: SubjectPart };

    private bool LivesWithRequest(AbstractValue target) => _facts.RequestState.Count > 0 && target.Types.Any(_facts.RequestState.Contains);

    private static StoreKey RequestMemberKey(string name) => new(StoreKind.Library, 0, RequestMember + name);

    /// <summary>What code on the way has put there for the handler. Nothing seen to put it there, its name tells.</summary>
    private AbstractValue? ReadRequestMember(int index, AbstractValue target, string name)
    {
        if (!LivesWithRequest(target))
        {
            return null;
        }

        var kept = _visit.Load(RequestMemberKey(name));
        return !_program.Vocabulary.HoldsPerson(name) ? kept : AbstractValue.Join(kept, SubjectValue(index, name));
    }

    private AbstractValue? StateOfRequest(int index, AbstractValue target, string name) =>
        _facts.RequestState.Count == 0 ? null
        : ReadRequestMember(index, target, name)
        ?? (target.Library is { } library && _facts.Global(_facts.Canonical(library)) is { Type: { } type } ? ReadRequestMember(index, AbstractValue.OfType(type), name) : null);

    /// <summary>What a class of the program keeps for the time of the request: <c>Current.user</c>. Its name tells where it is the person.</summary>
    private AbstractValue? StateOfClass(int index, AbstractValue target, string name)
    {
        if (_facts.RequestState.Count == 0 || target.Targets.OfType<IrClass>().FirstOrDefault() is not { } type || _program.Program.OutsideBase(type.Primary) is not { } outside || !_facts.RequestState.Contains(IrClass.ShortOf(outside)))
        {
            return null;
        }

        var kept = ReadClassField(type.Primary.Id, name);
        return _program.Vocabulary.HoldsPerson(name) ? AbstractValue.Join(kept, SubjectValue(index, name)) : kept;
    }

    private void KeepRequestMember(AbstractValue target, string name, AbstractValue value)
    {
        if (LivesWithRequest(target) || (target.Library is { } library && _facts.Global(_facts.Canonical(library)) is { Type: { } type } && _facts.RequestState.Contains(type)))
        {
            Keep(RequestMemberKey(name), value);
        }
    }

    /// <summary>
    /// Records that are found by what is known of the person are the person's: an account by the session's number, memberships by the
    /// account's, an account by the token that came with the request. Taken from a parameter, that is for the caller to say.
    /// </summary>
    /// <param name="bound">The values of a statement that an unknown object runs.</param>
    private AbstractValue ChosenBySubject(CallModel fact, CallSite site, AbstractValue result, AbstractValue? bound = null)
    {
        var runs = fact.Run is not null || fact.Bind is not null;
        if (fact.Access is null && fact.Query is null && !runs && !result.Types.Any(IsRecordType))
        {
            return result;
        }

        IReadOnlyList<AbstractValue> terms = fact.Access is { Action: "create" } ? []
            : fact.Access is { Where: { } where } ? TermsOf(site.Argument(where))
            : fact.Query is { } query ? [.. TermsOf(bound ?? QueryValues(query, site)), QueryText(query, site)]
            : [.. site.Arguments.SelectMany(TermsOf)];
        var marks = Marks(terms.SelectMany(GivenTaints).Concat(site.Receiver.Taints.Where(t => t.Selects)));
        if (marks.Count == 0)
        {
            return result;
        }

        var tied = site.Receiver.Types.Contains(TiedRecords) || IsTied(terms, site.Receiver);
        if (tied && Decides(site.Index) && !_answered.Contains(site.Index))
        {
            // Whether there is a row that ties the person to what was named.
            Raise(EventKind.Decision, null, site.Index, false, ("left", AbstractValue.OfTaints(marks)), ("right", AbstractValue.OfTaints([.. terms.Where(t => !NamesSubject(t)).SelectMany(t => t.Taints).Take(AbstractValue.MaxTaints)])));
        }

        if (runs || (fact.Query is not null && (site.Receiver.Payload ?? result.Payload) is not null))
        {
            // A prepared statement gives its rows later; what this call has bound to it stays.
            var now = _function.Instructions[site.Index] is { Op: Opcode.CallMethod, A: >= 0 and var held } ? Get(held) : site.Receiver;
            UpdateReceiver(site, now.With(taints: AbstractValue.Union(now.Taints, marks)));
        }

        return result.Constant is not null || result.Text is not null ? result
            : result.With(taints: AbstractValue.Union(result.Taints, marks), types: tied && result.Types.Count > 0 && !result.Types.Contains(TiedRecords) ? [.. result.Types, TiedRecords] : null);
    }

    /// <summary>Records over a relation of the person's are the person's: <c>$request->user()->hives()</c>.</summary>
    private AbstractValue OfSubjectsOwn(AbstractValue receiver, AbstractValue given) =>
        StandsForSubject(receiver) && given.Types.Any(t => t[0] == RecordsMark) && !StandsForSubject(given) ? given.With(taints: AbstractValue.Union(given.Taints, Marks(receiver.Taints))) : given;

    /// <summary>What a comparison with the person gives may be a condition that a mapper reads: <c>filter(Hive.keeper_id == g.user.id)</c>.</summary>
    private AbstractValue Condition(in Instruction instruction)
    {
        if (instruction.Text is not ("==" or "in"))
        {
            return AbstractValue.Unknown;
        }

        var (left, right) = (Get(instruction.A), Get(instruction.B));
        return left.Taints.Count + right.Taints.Count == 0 ? AbstractValue.Unknown
            : AbstractValue.OfTaints([.. left.Taints.Concat(right.Taints).Where(t => t.Origin.Kind == OriginKind.Subject).Take(AbstractValue.MaxTaints)]);
    }

    /// <summary>The type of records that are found by the person and by something else.</summary>
    private const string TiedRecords = "tied";

    /// <summary>One of the terms stands for the person, or may for all that is known here, and another for something else that is no constant.</summary>
    private static bool IsTied(IReadOnlyList<AbstractValue> terms, AbstractValue receiver)
    {
        var person = StandsForSubject(receiver) ? -1 : terms.ToList().FindIndex(NamesSubject);
        if (person < 0 && !StandsForSubject(receiver))
        {
            person = terms.ToList().FindIndex(t => t.HasParameters);
        }

        return (person >= 0 || StandsForSubject(receiver)) && terms.Where((t, i) => i != person && t.Constant is null && t.Text is null && !NamesSubject(t)).Any();
    }

    /// <summary>The values that a condition holds columns against.</summary>
    private static IReadOnlyList<AbstractValue> TermsOf(AbstractValue condition) => condition.Fields is { Count: > 0 } fields ? [.. fields.Values] : [condition];

    /// <summary>Records that are read out of an answer were found by what the answer was.</summary>
    private static AbstractValue FoundBy(AbstractValue answer, AbstractValue part) =>
        part.Types.Any(IsRecordType) && answer.Taints.Any(t => t.Selects) ? part.With(taints: AbstractValue.Union(part.Taints, [.. answer.Taints.Where(t => t.Selects)])) : part;

    private static bool IsRecordType(string type) => type is "row" or "rows" or "result";

    /// <summary>The taints of an argument, and those that a condition given as a function holds its records against.</summary>
    private IEnumerable<Taint> GivenTaints(AbstractValue argument)
    {
        foreach (var taint in FieldAccess.DeepTaints(argument))
        {
            yield return taint;
        }

        foreach (var function in argument.Targets.OfType<IrFunction>())
        {
            if (StatesCondition(function) && _visit.SummaryOf(function)?.Condition is { Fields: { } columns })
            {
                // What it says of the columns is known: an alternative to the person's own rows does not make them the person's.
                foreach (var taint in columns.ContainsKey(UnknownCondition) ? [] : columns.Values.SelectMany(FieldAccess.DeepTaints).Where(t => !t.IsParameter || t.Origin.Function != function.Id))
                {
                    yield return taint;
                }

                continue;
            }

            foreach (var decision in (_visit.SummaryOf(function)?.Events ?? []).Where(e => e.Kind == EventKind.Decision))
            {
                foreach (var taint in decision.Roles.Values.SelectMany(v => v.Taints).Where(t => !t.IsParameter || t.Origin.Function != function.Id))
                {
                    yield return taint;
                }
            }
        }
    }

    private List<Taint> Marks(IEnumerable<Taint> taints)
    {
        var marks = new List<Taint>();
        foreach (var taint in taints)
        {
            Taint? mark = taint.Origin switch
            {
                { Kind: OriginKind.Subject } => taint with { Selects = true },
                { Kind: OriginKind.Parameter } => taint with { Safe = OutputContext.All, Altered = true, Transform = PasswordTransform.Plain, Selects = true },
                { Kind: OriginKind.Request, Name: { } name } origin when IsCredential(origin.Part, name) =>
                    taint with { Origin = origin with { Kind = OriginKind.Subject, Part = "", Index = -1 }, Safe = OutputContext.All, Altered = true, Transform = PasswordTransform.Plain, Selects = true },
                _ => null,
            };
            if (mark is not null && !marks.Exists(m => m.SameAs(mark)))
            {
                marks.Add(mark);
            }
        }

        return marks;
    }

    /// <summary>What a function looked up by something that it was given is the person's where that is what one is recognised by.</summary>
    private AbstractValue Recognised(AbstractValue found) =>
        !found.Taints.Any(IsRecognition) ? found
        : found.With(taints: [.. found.Taints.Select(t => IsRecognition(t) ? t with { Origin = t.Origin with { Kind = OriginKind.Subject, Part = "", Index = -1 }, Safe = OutputContext.All, Altered = true, Transform = PasswordTransform.Plain } : t)]);

    private bool IsRecognition(Taint taint) => taint is { Selects: true, Origin: { Kind: OriginKind.Request, Name: { } name } } && IsCredential(taint.Origin.Part, name);

    /// <summary>Whoever has it is taken for the person: a cookie or header by which one is recognised, or a secret of one link.</summary>
    private bool IsCredential(string part, string name) =>
        part is "cookie" or "header" ? _program.Vocabulary.IsCredential(name) || _program.Vocabulary.IsSecretToken(name) : _program.Vocabulary.IsSecretToken(name);

    /// <summary>Notes that a comparison holds what is known of the person against something else.</summary>
    private void NoteDecision(int index, AbstractValue left, AbstractValue right, string? leftName, string? rightName)
    {
        NoteClaimedRole(index, left, right);
        if (left.Constant is not null || right.Constant is not null)
        {
            return;
        }

        if (!Decides(index) && _function.Instructions[index] is { Op: Opcode.Binary } comparison && (IsColumnOfClass(comparison.A) || IsColumnOfClass(comparison.B)))
        {
            // It states which records a query means, and decides nothing: filter(Keeper.name == name).
            return;
        }

        if (IsSecret(left) || IsSecret(right))
        {
            // A token against forged requests says who sent the form, not whose the records are.
            return;
        }

        if (StandsForSubject(left) && StandsForSubject(right) && _function.Instructions[index] is { Op: Opcode.Binary } both)
        {
            (left, right) = (AsOfRecord(both.A, left), AsOfRecord(both.B, right));
        }

        var (mine, theirs) = (StandsForSubject(left), StandsForSubject(right));
        (left, right) = mine && right is { Name: null, IsTainted: false } && rightName is not null ? (left, right.With(label: rightName))
            : theirs && left is { Name: null, IsTainted: false } && leftName is not null ? (left.With(label: leftName), right) : (left, right);
        if (mine || theirs || (MayBeDecided(left, leftName) && MayBeDecided(right, rightName) && (IsKey(leftName) || IsKey(rightName))))
        {
            Raise(EventKind.Decision, null, index, false, [("left", left), ("right", right), .. mine != theirs ? ExceptionsOf(index, mine ? right : left, mine ? _function.Instructions[index].B : _function.Instructions[index].A) : []]);
        }
    }

    /// <summary>A member of some object of the program's class is not the person because elsewhere the person was put into such an object: a record may be anybody's.</summary>
    private AbstractValue AsOfRecord(int operand, AbstractValue value) =>
        operand >= 0 && _function.Instructions[operand] is { Op: Opcode.GetField or Opcode.CallMethod, A: >= 0 and var of, Text: { } member } read && (read.Op == Opcode.GetField || read.C == 0)
            && _function.Instructions[of].Op != Opcode.This && Get(of) is var record && !StandsForSubject(record) && record.Types.Any(t => t[0] == '#')
            ? new AbstractValue { Name = _program.Vocabulary.MemberOfAccessor(member) } : value;

    /// <summary>A member of a class itself, and not of one of its objects: a mapper's column.</summary>
    private bool IsColumnOfClass(int operand) =>
        operand >= 0 && _function.Instructions[operand] is { Op: Opcode.GetField or Opcode.GetStatic } member && (Get(member.A).Targets.Any(t => t is IrClass) || (Get(member.A) is { Library: { } path, IsTainted: false } && path.AsSpan(path.LastIndexOf('.') + 1) is [var first, ..] && char.IsUpper(first)));

    private bool IsSecret(AbstractValue value) => value.Taints.Any(t => t.Origin.Name is { } name && (_program.Vocabulary.IsSecretToken(name) || _program.Vocabulary.TellsOfForgery(name) || _program.Vocabulary.MentionsPassword(name)));

    private static bool StandsForSubject(AbstractValue value) => value.Taints.Any(t => t.Origin.Kind == OriginKind.Subject);

    /// <summary>It is the person, or an object with something of the person in it.</summary>
    private static bool NamesSubject(AbstractValue value) => FieldAccess.DeepTaints(value).Any(t => t.Origin.Kind == OriginKind.Subject);

    /// <summary>The callers may know that it is the person, or what is held against that.</summary>
    private static bool MayBeDecided(AbstractValue value, string? name) => value.HasParameters || (name is not null && value.IsTainted);

    /// <summary>What nothing in the program gives, under the name of the person who is there now: <c>current_warden</c> where there is a class Warden. A current page or time is nobody.</summary>
    private bool NamesCurrentPerson(CallSite site) =>
        site.Arguments.Count == 0 && _function.Instructions[site.Index].Op is Opcode.Call or Opcode.CallMethod && CalledName(site.Index) is var name && _program.Vocabulary.OfCurrent(name) is { } who
        && (_program.Vocabulary.HoldsPerson(name) || _program.Program.FindClass(who, _file) is not null);

    private bool IsKey(string? name) => name is not null && _program.Vocabulary.IsKeyName(name);

    /// <summary>Notes that a call which is not the program's own is asked about the person, and that what it answers decides.</summary>
    private void NoteDecision(CallSite site, string name, bool isComparison = false)
    {
        if (isComparison)
        {
            if (Decides(site.Index) && !StandsForSubject(site.Receiver) && !site.Arguments.Any(a => StandsForSubject(a) || a.Taints.Any(t => _program.Vocabulary.MentionsPassword(t.Origin.Name ?? ""))))
            {
                // Whoever has a secret may do what it is for: whose the records are is another matter.
                Raise(EventKind.Decision, null, site.Index, true, ("asked", Named(name)));
            }

            if (IsSecret(site.Receiver) || site.Arguments.Any(IsSecret))
            {
                return;
            }
        }

        if (site.Arguments.Count > 0 && _program.Vocabulary.AsksForElement(name))
        {
            NoteClaimedRole(site.Index, site.Receiver is { Types.Count: 0, Fields: null, Library: null, IsTainted: false, Constant: null } && site.Arguments.Count > 1 ? site.Argument(1) : site.Receiver, site.Argument(0));
        }

        var authorizes = _program.Vocabulary.Authorizes(name);
        if (!authorizes && !Decides(site.Index))
        {
            return;
        }

        // Of records that are the person's, only some calls ask about one of them.
        var ofOwn = site.Receiver.Types.Any(IsRecordType) && StandsForSubject(site.Receiver) && !_program.Vocabulary.AsksForElement(name);
        IReadOnlyList<AbstractValue> given = ofOwn ? [] : [site.Receiver, .. site.Arguments];
        if (given.FirstOrDefault(NamesSubject) is { } person
            && (person.Fields is { Count: > 1 } ? person : given.FirstOrDefault(v => !ReferenceEquals(v, person) && v.Constant is null && (v.IsTainted || v.Fields is not null || v.Types.Count > 0))) is { } other)
        {
            var operand = ReferenceEquals(other, site.Receiver) ? _function.Instructions[site.Index].A : site.Operand(site.Arguments.ToList().IndexOf(other));
            Raise(EventKind.Decision, null, site.Index, false,
                [("left", person.Taints.Count > 0 ? person : AbstractValue.OfTaints([.. FieldAccess.DeepTaints(person).Where(t => t.Origin.Kind == OriginKind.Subject)])),
                ("right", ReferenceEquals(other, person) ? AbstractValue.Unknown : other), .. ExceptionsOf(site.Index, other, operand)]);
        }
        else if (authorizes && (site.Arguments.Count > 0 || StandsForSubject(site.Receiver)))
        {
            Raise(EventKind.Decision, null, site.Index, true, ("asked", Named(name)));
        }
    }

    /// <summary>What the instruction gives is tested, or is what the function answers.</summary>
    private bool Decides(int index) => (_deciding ??= FindDeciding()).Contains(index);

    private HashSet<int>? _deciding;

    /// <summary>What the function gives back as it is.</summary>
    private readonly HashSet<int> _answered = [];

    private HashSet<int> FindDeciding()
    {
        var found = new HashSet<int>();
        var open = new Stack<int>();
        foreach (var block in _function.Blocks)
        {
            if (block.Condition >= 0)
            {
                open.Push(block.Condition);
            }

            foreach (var i in block.Instructions)
            {
                if (_function.Instructions[i] is { Op: Opcode.Return, A: >= 0 and var answer })
                {
                    open.Push(answer);
                    for (; answer >= 0; answer = _function.Instructions[answer] is { Op: Opcode.Cast or Opcode.Unary, Text: not ("!" or "not") } form ? form.A : -1)
                    {
                        _answered.Add(answer);
                    }
                }
            }
        }

        while (open.TryPop(out var at))
        {
            if (!found.Add(at))
            {
                continue;
            }

            var instruction = _function.Instructions[at];
            switch (instruction.Op)
            {
                case Opcode.Unary or Opcode.Cast or Opcode.GetField or Opcode.GetItem:
                    Push(instruction.A);
                    break;
                case Opcode.Binary when instruction.Text is "&&" or "||" or "and" or "or" or "??":
                    Push(instruction.A);
                    Push(instruction.B);
                    break;
                case Opcode.Binary when IsLiteral(instruction.A) || IsLiteral(instruction.B):
                    // An answer held against the answers there are.
                    Push(instruction.A);
                    Push(instruction.B);
                    break;
                case Opcode.Phi:
                    foreach (var operand in _function.List(instruction))
                    {
                        Push(operand.Value);
                    }

                    break;
            }
        }

        return found;

        bool IsLiteral(int value) => value >= 0 && _function.Instructions[value].Op == Opcode.Constant;

        void Push(int value)
        {
            if (value >= 0)
            {
                open.Push(value);
            }
        }
    }
}
