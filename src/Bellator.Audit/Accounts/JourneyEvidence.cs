using System.Collections.Concurrent;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Scheduling;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Sql;
using Bellator.Audit.Tables;
using Bellator.Text;

namespace Bellator.Audit.Accounts;

/// <summary>What is known of the whole program, for all journeys.</summary>
public sealed record AccountContext(ProgramModel Program, ProgramAnalysis Flow, DatabaseSchema Schema, SurfaceModel Surface)
{
    public IdentifierClassifier Words => Flow.Vocabulary;

    public AccountTables Accounts => Surface.Accounts;

    public string TextOf(Location at) => Program.Tree.TextOf(at);

    private readonly ConcurrentDictionary<Func<string, bool>, ConcurrentDictionary<IrFunction, (int Call, string Name)[]>> _named = [];

    private readonly ConcurrentDictionary<IrFunction, IReadOnlyList<(Location At, string Key)>> _keptInSession = [];

    /// <summary>The calls of a function by their names: many addresses come to the same functions, and each asks for few names.</summary>
    internal Func<IrFunction, (int Call, string Name)[]> Named(Func<string, bool> says)
    {
        var known = _named.GetOrAdd(says, _ => []);
        return function => known.GetOrAdd(function, f => [.. f.NamedCalls.Where(c => says(c.Name))]);
    }

    /// <summary>Where a function keeps something in the session, by how that is written.</summary>
    internal IReadOnlyList<(Location At, string Key)> KeptInSession(IrFunction function) => _keptInSession.GetOrAdd(function, f => [.. SessionCode.Kept(f, Words)]);
}

/// <summary>All that one entry point does that matters to journeys.</summary>
public sealed class JourneyEvidence
{
    private readonly AccountContext _context;

    public JourneyEvidence(AccountContext context, EntryPoint entry)
    {
        _context = context;
        Entry = entry;
        Details = context.Surface.Of(entry);
        Functions = entry.Handler is { } handler ? [.. OwnSteps(entry, handler).Prepend(handler).SelectMany(context.Surface.OwnReach).Distinct()] : [];
        Events = [.. Functions.SelectMany(f => context.Flow.SummaryOf(f).Events).Distinct()];
        Acts = Events.Where(e => e.Kind == EventKind.Act && !IsOfNamesake(e)).ToLookup(e => e.Role("act").Constant ?? "", StringComparer.Ordinal);
        Hashes = [.. Events.Where(e => e.Kind == EventKind.Hash).Select(HashUse.Of)];
        PasswordHashes = [.. Hashes.Where(h => IsOfPassword(h.Event.Role("input")))];
        Verifications = [.. Events.Where(e => e.Kind == EventKind.Verify).Concat(Acts["password-verified"])];
        Comparisons = [.. Events.Where(e => e.Kind == EventKind.Compare)];
        Uses = [.. Events.SelectMany(ColumnUses.Of)];
    }

    /// <summary>The facts speak of a library's function, and what is called is one of the program's with the same name.</summary>
    private bool IsOfNamesake(AnalysisEvent act) =>
        act.Fact?.JourneySteps.FirstOrDefault(s => s.Step == act.Role("act").Constant) is { OfLibrary: true }
        && _context.Flow.SummaryOf(act.Function).Calls.Any(c => act.Function.LocationOf(c.Instruction) == act.At);

    /// <summary>Steps on the way that stand beside the handler: they do a part of its work.</summary>
    private static IEnumerable<IrFunction> OwnSteps(EntryPoint entry, IrFunction handler) =>
        handler.Class is null ? [] : entry.Guards.Select(g => g.Function).OfType<IrFunction>().Where(f => f != handler && f.Class == handler.Class && f.File == handler.File);

    public EntryPoint Entry { get; }

    /// <summary>Further addresses at which the same function answers.</summary>
    public IReadOnlyList<EntryPoint> Others { get; init; } = [];

    public EntryDetails Details { get; }

    public IReadOnlyList<IrFunction> Functions { get; }

    public IReadOnlyList<AnalysisEvent> Events { get; }

    public ILookup<string, AnalysisEvent> Acts { get; }

    public IReadOnlyList<HashUse> Hashes { get; }

    /// <summary>Those that get a password as typed.</summary>
    public IReadOnlyList<HashUse> PasswordHashes { get; }

    public IReadOnlyList<AnalysisEvent> Verifications { get; }

    public IReadOnlyList<AnalysisEvent> Comparisons { get; }

    /// <summary>Comparisons of a password that was typed, or its hash, with what is kept.</summary>
    public IEnumerable<AnalysisEvent> OldPasswordCompared => Comparisons.Where(c => IsKept(c, "left", "right") || IsKept(c, "right", "left"));

    private bool IsKept(AnalysisEvent comparison, string typed, string kept) =>
        IsOfPassword(comparison.Role(typed), sent: true) && (Words.IsPasswordColumn(comparison.Role(kept).Name) || Words.IsPasswordColumn(comparison.Role(kept + "Name").Constant) || comparison.Role(kept).Taints.Any(t => t.Origin.Kind == OriginKind.Stored && Words.IsPasswordColumn(t.Origin.Name)))
        && !comparison.Role(kept).Taints.Any(t => t is { IsSent: true, Transform: PasswordTransform.Plain });

    public IReadOnlyList<ColumnUse> Uses { get; }

    private IdentifierClassifier Words => _context.Words;

    /// <summary>Names of what is read from form, body or address, but for passwords typed twice.</summary>
    public IReadOnlyList<string> Fields => _fields ??= [.. Details.Inputs.Where(i => i.Name.Length > 0 && i.Part is "form" or "body" or "input" or "query" or "path" && !IdentifierClassifier.Parts(i.Name).Exists(p => p is "token" or "csrf" or "nonce") && !Words.TypedAgain(i.Name)).Select(i => i.Name).Distinct(StringComparer.OrdinalIgnoreCase)];

    private IReadOnlyList<string>? _fields;

    /// <summary>A password is typed twice, as new ones are.</summary>
    public bool TypesPasswordAgain => Details.Inputs.Any(i => Words.TypedAgain(i.Name));

    public bool TakesWholeBody => Details.Inputs.Any(i => i.Name.Length == 0 && i.Part is "form" or "body" or "input");

    public bool TakesPassword => Fields.Any(Words.IsPassword) || PasswordHashes.Any(h => IsOfPassword(h.Event.Role("input"), sent: true)) || Acts["password-hashed"].Any() || Acts["password-verified"].Any();

    /// <summary>Something is mailed, or a token is made for a new password.</summary>
    public bool SendsToken => Acts["mail"].Any() || Acts["reset-token-made"].Any() || CallsNamed(Words.SendsMail).Any();

    public bool NeedsSignIn => Entry.SignIn == SignInNeed.Needed;

    /// <summary>Only those who are signed in come to the handler at all; what it asks itself may be the signing in.</summary>
    public bool ComesSignedIn => NeedsSignIn && Entry.Guards.Any(g => g.Asks is Requirement.SignIn or Requirement.Role && g.Function != Entry.Handler);

    public IEnumerable<TableAccess> OnAccounts(params RecordAction[] actions) =>
        Details.Accesses.Where(a => actions.Contains(a.Action) && (_context.Accounts.Has(a.Table) || ((_context.Accounts.Tables.Count == 0 || _context.Schema.Find(a.Table) is null) && Words.IsAccounts(a.Table))));

    /// <summary>The tables of accounts that this part of the program uses; all of them where it does not say which.</summary>
    public IReadOnlyList<Table> AccountTables
    {
        get
        {
            var used = _context.Accounts.Tables.Where(t => Details.Accesses.Any(a => a.Table.Equals(t.Name, StringComparison.OrdinalIgnoreCase))).ToList();
            return used.Count > 0 ? used : _context.Accounts.Tables;
        }
    }

    /// <summary>Uses of columns that keep a password, in statements that write.</summary>
    public IEnumerable<ColumnUse> PasswordWrites => Uses.Where(u => u.Statement.Writes && Words.IsPasswordColumn(u.Slot.Column));

    /// <summary>Something is kept in the session, or a token is given out.</summary>
    public IEnumerable<AnalysisEvent> SessionWrites => Events.Where(e => e is { Kind: EventKind.Sink, Sink.Kind: "session" } && !Words.TellsOfForgery(e.Function.Name) && !IdentifierClassifier.Parts(_context.TextOf(e.At)).Contains("token"));

    /// <summary>Places where something is kept in the session, by what is followed and by how it is written.</summary>
    public IReadOnlyList<StepEvidence> KeptInSession => _kept ??= [.. SessionWrites.Select(Evidence).Concat(Functions.SelectMany(_context.KeptInSession).Select(k => Evidence(k.At))).DistinctBy(e => e.At)];

    private IReadOnlyList<StepEvidence>? _kept;

    /// <summary>Places where the session is told who is signed in, under a key that names one of these people: not one that waits for a further step.</summary>
    public IReadOnlyList<StepEvidence> SignedInAs => _signedInAs ??= [.. Functions.SelectMany(_context.KeptInSession).Concat(SessionWrites.Select(w => (w.At, Key: w.Role("name").Constant ?? ""))).Where(k => NamesPerson(k.Key)).Select(k => Evidence(k.At)).DistinctBy(e => e.At)];

    private IReadOnlyList<StepEvidence>? _signedInAs;

    private bool NamesPerson(string key) =>
        !Words.IsProvisional(key) && IdentifierClassifier.Parts(key) is { Count: > 0 } parts && (parts is [.., "id"] ? parts[..^1] : parts) is { Count: > 0 } named && (_context.Accounts.IsPerson(named[^1]) || named[^1] is "user" or "account" or "uid");

    public IEnumerable<AnalysisEvent> Responses => Events.Where(e => e is { Kind: EventKind.Sink, Sink.Kind: "response" or "redirect" or "page" });

    /// <summary>The entry's path, its handler's or its file's name speaks of something.</summary>
    public bool IsNamed(Func<string, bool> speaks) =>
        speaks(Entry.Path) || (Entry.Handler is { Name.Length: > 0, IsTopLevel: false } handler && (speaks(handler.Name) || (handler.Class is { } type && speaks(type.ShortName)))) || (Entry.Handler is { IsTopLevel: true } top && speaks(System.IO.Path.GetFileNameWithoutExtension(top.File.Source.Path)));

    /// <summary>The value is a password that was typed.</summary>
    /// <param name="sent">It must be one that this entry point reads, not what a function gets that may be called with one.</param>
    public bool IsOfPassword(AbstractValue input, bool sent = false) => FieldAccess.DeepTaints(input).Any(t => (t.Origin.Kind == OriginKind.Request || (t.Origin.Kind == OriginKind.Parameter && !sent)) && Words.IsPassword(t.Origin.Name) && (t.IsParameter || Details.Covered.Has(t) || Fields.Contains(t.Origin.Name!, StringComparer.OrdinalIgnoreCase)));

    /// <summary>Calls in the reach whose name says something, and where they stand.</summary>
    public IEnumerable<StepEvidence> CallsNamed(Func<string, bool> says)
    {
        var named = _context.Named(says);
        foreach (var function in Functions)
        {
            foreach (var (call, name) in named(function))
            {
                yield return Evidence(function.LocationOf(call), name);
            }
        }
    }

    /// <summary>True for the name of one of the people who have accounts.</summary>
    public bool IsPerson(string name) => _context.Accounts.IsPerson(name);

    /// <summary>Texts in the code, such as the rules of a validation, that a name is among.</summary>
    public IEnumerable<StepEvidence> Texts(Func<string, bool> says)
    {
        foreach (var function in Functions)
        {
            for (var i = 0; i < function.Instructions.Length; i++)
            {
                if (function.Instructions[i] is { Op: Opcode.Constant, Text: { Length: > 0 } text } && text.Split('|', ':').Any(says))
                {
                    yield return Evidence(function.LocationOf(i));
                }
            }
        }
    }

    /// <summary>Names that code reads or writes on objects and keys.</summary>
    public IEnumerable<(string Name, Location At)> Members()
    {
        foreach (var function in Functions)
        {
            for (var i = 0; i < function.Instructions.Length; i++)
            {
                var instruction = function.Instructions[i];
                if (instruction.Op is Opcode.GetField or Opcode.SetField or Opcode.WithField && instruction.Text is { } field)
                {
                    yield return (field, function.LocationOf(i));
                }
                else if (instruction is { Op: Opcode.CallMethod, C: 0, Text: { } read } && LanguageSemantics.For(function.File.Source.Language).MembersAreCalls)
                {
                    yield return (read.TrimEnd('?'), function.LocationOf(i));
                }
                else if (instruction.Op == Opcode.GetItem && instruction.B >= 0 && function.Instructions[instruction.B] is { Op: Opcode.Constant, Text: { Length: > 0 } key })
                {
                    yield return (key, function.LocationOf(i));
                }
            }
        }
    }

    /// <summary>Comparisons by size with what tells when something was sent or made: whether it is too old is asked there.</summary>
    public IEnumerable<StepEvidence> AgesAsked()
    {
        foreach (var function in Functions)
        {
            for (var i = 0; i < function.Instructions.Length; i++)
            {
                if (function.Instructions[i] is { Op: Opcode.Binary, Text: "<" or ">" or "<=" or ">=" } compared && (TellsWhen(function, compared.A, 0) || TellsWhen(function, compared.B, 0)))
                {
                    yield return Evidence(function.LocationOf(i));
                }
            }
        }
    }

    private bool TellsWhen(IrFunction function, int value, int depth) => value >= 0 && depth < 4 && function.Instructions[value] is var read && read.Op switch
    {
        Opcode.GetField or Opcode.CallMethod => Words.TellsWhen(read.Text!) || TellsWhen(function, read.A, depth + 1),
        Opcode.GetItem => (read.B >= 0 && function.Instructions[read.B] is { Op: Opcode.Constant, Text: { } key } && Words.TellsWhen(key)) || TellsWhen(function, read.A, depth + 1),
        Opcode.Binary => TellsWhen(function, read.A, depth + 1) || TellsWhen(function, read.B, depth + 1),
        Opcode.Call => function.List(read).ToArray().Any(o => TellsWhen(function, o.Value, depth + 1)),
        _ => false,
    };

    public StepEvidence Evidence(Location at, string? note = null) => new(at, note ?? _context.TextOf(at));

    public StepEvidence Evidence(AnalysisEvent happening) => Evidence(happening.Place, happening.Role("note").Constant is { Length: > 0 } note ? note : null);

    /// <summary>Where the entry's own code begins.</summary>
    /// <summary>The handler, shown by the line that it begins with.</summary>
    public StepEvidence Here => Entry.Handler is { } handler
        ? Evidence(new Location(handler.File.Index, handler.Span.Start, Math.Min(handler.Span.End, handler.File.Source.SpanOf(handler.File.Source.LineOf(handler.Span.Start)).End)))
        : Evidence(Entry.At);
}
