using System.Collections.Concurrent;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Interpreter;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Queries;
using Bellator.Analysis.Scheduling;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Tables;
using Bellator.Text;

namespace Bellator.Audit.Access;

/// <summary>Who can do what to which records, as the code does it: for every entry point each use of records with the terms on its rows.</summary>
public sealed class AccessMap
{
    private readonly SurfaceModel _surface;
    private readonly ProgramAnalysis _flow;
    private readonly DatabaseSchema _schema;
    private readonly ScopedTables _scoped;
    private readonly CheckOrder _order;
    private readonly Dictionary<string, OwnedTable> _owned = new(StringComparer.OrdinalIgnoreCase);

    internal AccessMap(SurfaceModel surface, ProgramAnalysis flow, DatabaseSchema schema, WorkerPool crew)
    {
        _surface = surface;
        _flow = flow;
        _schema = schema;
        _scoped = new ScopedTables(flow, surface);
        _order = new CheckOrder(surface, flow);
        EntryPoint[] handled = [.. surface.EntryPoints.Where(e => e.Handler is not null)];
        var entries = new EntryAccess[handled.Length];
        crew.ForEach(entries.Length, i => entries[i] = Read(handled[i]));
        Entries = entries;
        foreach (var entry in Entries)
        {
            Learn(entry);
        }
    }

    public IReadOnlyList<EntryAccess> Entries { get; }

    /// <summary>What shows that a table's records belong to people; null where nothing does.</summary>
    public OwnedTable? Owned(string table) => _owned.GetValueOrDefault(table);

    public IEnumerable<OwnedTable> OwnedTables => _owned.Values.OrderBy(o => o.Table, StringComparer.Ordinal);

    /// <summary>Whose rows a use reaches, as far as the code on the way shows. What is held against the person, but not shown to be about these rows, leaves it unclear.</summary>
    public RowReach ReachOf(EntryAccess entry, RecordUse use) => _reach.GetOrAdd(use, _ => FindReach(entry, use));

    private readonly ConcurrentDictionary<RecordUse, RowReach> _reach = new(ReferenceEqualityComparer.Instance);

    private RowReach FindReach(EntryAccess entry, RecordUse use)
    {
        var decisions = entry.Decisions.Where(d => _order.Holds(entry, d, use)).ToList();
        var memberships = entry.Memberships.Where(m => _order.Holds(entry, m.Use, use)).ToList();
        return use.Access.Action == RecordAction.Create ? RowReach.New
            : use.Terms.OfSubject || IsHeldElsewhere(entry, use) || IsOfHeldParent(entry, use) || IsFoundOfHeldParent(entry, use) || decisions.Exists(d => IsAbout(d, use)) || memberships.Exists(m => IsOfMember(m, use)) ? RowReach.Own
            : decisions.Exists(d => !d.IsRole) || memberships.Exists(m => !IsSame(m.Use, use)) ? RowReach.Unclear
            : IsRefusedUnclearly(use) ? RowReach.Unclear
            : entry.Entry.Guards.Any(g => g.Asks == Requirement.Role) || decisions.Count > 0 ? RowReach.Role
            : use.Terms.HasUnknown || (use.IsFetched && _scoped.Has(use.Access.Table)) || _scoped.MayLimit(use) || IsFoundUnclearly(entry, use) || entry.Entry.Guards.Any(g => g.Asks == Requirement.Perhaps || (g.Asks == Requirement.Other && g.Function is null)) ? RowReach.Unclear
            : use.Terms.ChoosesOne ? RowReach.Chosen : RowReach.All;
    }

    /// <summary>The record is handed to code that refuses by a test which was not understood.</summary>
    private bool IsRefusedUnclearly(RecordUse use) =>
        UnclearRefusals.Judge(use.In, _flow.SummaryOf(use.In), RefusesUnclearly, at => IsFoundAt(use, at));

    /// <summary>The row that an object stands for was found there: by another use of its table in the same function.</summary>
    private bool IsFoundAt(RecordUse use, Location at) => DoneIn(use.In).Uses.Exists(u => u.Happening.At == at && u.Access.Table.Equals(use.Access.Table, StringComparison.OrdinalIgnoreCase));

    private bool RefusesUnclearly(IrFunction function) =>
        _refuses.GetOrAdd(function, f => UnclearRefusals.In(f, _flow.SummaryOf(f), name => _flow.Facts.For(Languages.Family(f.File.Source.Language)) is var facts && (facts.Call(name) ?? facts.Method("*", name)) is { Sinks.Count: 0 }));

    private readonly ConcurrentDictionary<IrFunction, bool> _refuses = new();

    /// <summary>The rows are found by what the person was shown to belong to, or were read first and have a column that says so.</summary>
    private bool IsOfMember(MembershipTest test, RecordUse use) => test.Found is { } column
        ? !IsSame(test.Use, use) && _schema.Find(use.Access.Table)?.Find(column) is not null
        : use.Terms.Request.Any(t => t.Column.Equals(test.Column, StringComparison.OrdinalIgnoreCase));

    /// <summary>The columns by which the mapper limits every query of a table to what the person belongs to.</summary>
    public IReadOnlyList<string> ScopeOf(string table) => _scoped.ColumnsOf(table);

    /// <summary>The code takes the condition off that the mapper puts on every query of the table.</summary>
    public bool LiftsScope(RecordUse use) => _scoped.IsLifted(use);

    /// <summary>The mapper may put a condition on these rows that does not stand at the use.</summary>
    public bool MayBeLimited(RecordUse use) => _scoped.MayLimit(use);

    /// <summary>A column of these rows is held against the person.</summary>
    private bool IsAbout(SubjectDecision decision, RecordUse use) =>
        decision is { IsGuess: false, IsRole: false, Column: not null } && (_schema.Find(use.Access.Table) is not { Columns.Count: > 0 } || ColumnOf(decision, use) is not null);

    /// <summary>The table's column that is held against the person: named as it is, or as the relation over which the person is reached.</summary>
    private string? ColumnOf(SubjectDecision decision, RecordUse use) =>
        decision.Column is { } column && _schema.Find(use.Access.Table) is { } table ? (table.Find(column) ?? table.Find(column + "_id"))?.Name : null;

    /// <summary>The condition on the rows in the access language; what was not understood is a named unknown in it.</summary>
    public string ConditionOf(EntryAccess entry, RecordUse use, Func<Location, string> textOf)
    {
        var terms = use.Terms.Subject.Concat(use.Terms.Request).Select(t => t.ToString()).ToList();
        if (use.Terms.OfSubject && use.Terms.Subject.Count == 0)
        {
            terms.Insert(0, "record belongs to subject");
        }

        foreach (var decision in entry.Decisions.Where(d => d.Column is not null || !d.IsTied))
        {
            terms.Add(IsAbout(decision, use) ? $"record.{decision.Column} = subject" : decision.IsRole ? $"role tested by \"{textOf(decision.Happening.At)}\"" : $"unknown \"{textOf(decision.Happening.At)}\"");
        }

        if (use.Terms is { HasUnknown: true, OfSubject: false })
        {
            terms.Add($"unknown \"{textOf(use.Happening.At)}\"");
        }

        return string.Join(" AND ", terms.Distinct());
    }

    private EntryAccess Read(EntryPoint entry)
    {
        var uses = new List<RecordUse>();
        var decisions = new List<SubjectDecision>();
        var seen = new HashSet<(string, RecordAction, Location)>();
        var guards = entry.Guards.Select(g => g.Function).OfType<IrFunction>().Where(f => f != entry.Handler);
        foreach (var function in _surface.OwnReach(entry.Handler!))
        {
            // Callers know better with what a function was called than the function itself.
            var here = DoneIn(function);
            var added = here.Uses.Where(u => !seen.Contains(u.Key)).ToList();
            uses.AddRange(added.Select(u => new RecordUse(entry, u.Access, u.Terms, u.Happening, function)));
            seen.UnionWith(added.Select(u => u.Key));
            decisions.AddRange(here.Decisions);
        }

        var onTheWay = new List<RecordUse>();
        foreach (var (function, byMarks) in guards.SelectMany(g => WithInner(g).SelectMany(_surface.OwnReach).Select(f => (Function: f, ByMarks: _surface.AsksByMarks(g)))).Concat(_surface.OnTheWay(entry.Handler!).Select(f => (Function: f, ByMarks: false))).DistinctBy(g => g.Function))
        {
            var here = DoneIn(function);
            decisions.AddRange(here.Decisions.Where(d => !d.IsRole || !byMarks));
            onTheWay.AddRange(here.Uses.Select(u => new RecordUse(entry, u.Access, u.Terms, u.Happening, function)));
        }

        uses.AddRange(_surface.FetchedFor(entry).Select((a, i) => Fetched(entry, a, i > 0 && _surface.FetchesWithin(entry))));
        decisions.AddRange(ParameterGuards.Of(entry.Handler!, _flow).Select(e => new SubjectDecision(e, null, true, false, entry.Handler!)));

        // What a condition that is given as a function holds against the person is in the terms of the use. A row that is found by the
        // person alone may still decide: whether there is one among the approvers.
        var stated = uses.Concat(onTheWay).Where(u => u.Access.Action != RecordAction.View || u.Terms.Request.Count > 0 || _surface.Accounts.Has(u.Access.Table)).SelectMany(u => u.Happening.Role("where").Targets).ToHashSet();
        decisions.RemoveAll(d => stated.Contains(d.Happening.Function));
        decisions.RemoveAll(d => IsOfOwnAccount(d, uses.Concat(onTheWay)) || IsOfNoRecord(d, uses.Concat(onTheWay)));
        var byStart = uses.ToLookup(StartOf);
        for (var i = 0; i < uses.Count; i++)
        {
            // What a chain has found so far holds for what its last call does.
            if (uses[i].Happening.Fact is not { Alternative: true } && byStart[StartOf(uses[i])].Where(o => IsStepOf(o, uses[i])).ToList() is { Count: > 0 } steps)
            {
                uses[i] = uses[i] with { Terms = steps.Aggregate(uses[i].Terms, (terms, step) => terms.After(step.Terms)) };
            }
        }

        var run = uses.FindAll(u => u.Happening.Kind == EventKind.Run);

        // What is bound one by one is known as a whole where the statement is run.
        uses.RemoveAll(u => u.Happening.Fact?.Bind is not null && run.Exists(o => o.Happening.Fact?.Run is not null && o.Terms.KnownColumns.IsSupersetOf(u.Terms.KnownColumns) && o.Access.Action == u.Access.Action && IsSame(o, u) && o.In == u.In));
        uses.RemoveAll(u => byStart[StartOf(u)].Any(o => IsStepOf(u, o)) || run.Exists(o => IsRunOf(u, o)));

        // A query that a function hands on is run by those who get it, with its conditions.
        var handedOn = uses.Where(u => u.Access.Action == RecordAction.List && u.Happening.Function != entry.Handler && IsHandedOn(u)).ToList();
        uses.RemoveAll(u => handedOn.Count > 0 && handedOn.Contains(u) && uses.Exists(o => !handedOn.Contains(o) && IsSame(o, u) && o.Happening.Function != u.Happening.Function));

        // One statement may be prepared, given its values and run at three calls: the one that knows most tells.
        var byPlace = uses.ToLookup(u => u.Access.At);
        uses.RemoveAll(u => u.Terms.TellsNothing && byPlace[u.Access.At].Any(o => !o.Terms.TellsNothing && o.Access.At == u.Access.At && o.Access.Action == u.Access.Action && IsSame(o, u)));
        MembershipTest[] memberships = [.. uses.Concat(onTheWay).SelectMany(MembershipsOf), .. decisions.SelectMany(d => ComparedIn(d, uses))];
        return new EntryAccess(entry, uses.ConvertAll(u => _scoped.Limited(u, uses)), decisions) { Memberships = memberships, OnTheWay = onTheWay.ConvertAll(u => _scoped.Limited(u, onTheWay)) };
    }

    /// <summary>It asks whether there is the account of the person who is asking, a row that has the person's own number: that signs in, and says nothing of any other record.</summary>
    private bool IsOfOwnAccount(SubjectDecision decision, IEnumerable<RecordUse> uses) =>
        decision.IsTied && uses.Where(u => u.In == decision.In && u.Terms.OfSubject).ToList() is { Count: > 0 } found
        && found.TrueForAll(u => u.Terms.Request.Count == 0 && (_surface.Accounts.Has(u.Access.Table) || (u.Terms.Subject.Count > 0 && u.Terms.Subject.All(t => _flow.Vocabulary.IsRecordKey(t.Column)))));

    /// <summary>The person is held against something that the request sends and by which no record is found: the token of a form, a code.</summary>
    private static bool IsOfNoRecord(SubjectDecision decision, IEnumerable<RecordUse> uses)
    {
        if (decision is { IsGuess: true } or { IsRole: true } || decision.IsTied || decision.Happening.Roles.Values.Where(v => !RowTerms.IsSubject(v)).SelectMany(v => v.Taints).ToList() is not { Count: > 0 } held || !held.TrueForAll(t => t.IsSent && t.Origin.Name is { Length: > 0 } and not Origin.AnyName))
        {
            return false;
        }

        var named = held.Select(RowTerms.Named).ToHashSet(StringComparer.Ordinal);
        return !uses.SelectMany(u => u.Terms.Request.Concat(u.Terms.FromRequest)).SelectMany(t => t.Taints.Append(t.Taint).OfType<Taint>()).Any(t => named.Contains(RowTerms.Named(t)));
    }

    /// <summary>What a function does with records, and what it holds against the person: read once, however many entries come to it.</summary>
    private sealed record FunctionRecords(List<(AnalysisEvent Happening, TableAccess Access, RowTerms Terms, (string, RecordAction, Location) Key)> Uses, List<SubjectDecision> Decisions);

    private readonly ConcurrentDictionary<IrFunction, FunctionRecords> _doneIn = new();

    private FunctionRecords DoneIn(IrFunction function) => _doneIn.GetOrAdd(function, ReadFunction);

    private FunctionRecords ReadFunction(IrFunction function)
    {
        var done = new FunctionRecords([], []);
        foreach (var happening in _flow.SummaryOf(function).Events.Where(e => !OnlyDescribes(e, function)))
        {
            done.Uses.AddRange(RowsOf(happening).Select(r => (happening, r.Access, r.Terms, (r.Access.Table.ToLowerInvariant(), r.Access.Action, happening.At))));
            AddDecision(happening, function, done.Decisions);
        }

        return done;
    }

    /// <summary>The query is only asked of which class it is: nothing is fetched.</summary>
    private bool OnlyDescribes(AnalysisEvent happening, IrFunction function) =>
        happening.Kind == EventKind.Access && _flow.Facts.For(Languages.Family(function.File.Source.Language)).Describes is { Count: > 0 } describing
        && (_flow.Program.FunctionAt(happening.At) ?? function) is var written
        && written.OutgoingCalls.Any(i => written.Instructions[i] is { Op: Opcode.CallMethod, A: >= 0 and var of, Text: { } name } && describing.Contains(name) && written.LocationOf(of) == happening.At);

    /// <summary>What one happening does to records, with the terms on the rows.</summary>
    public IReadOnlyList<(TableAccess Access, RowTerms Terms)> RowsOf(AnalysisEvent happening) =>
        _rowsOf.GetOrAdd(happening, e => [.. _surface.AccessesOf(e).Select(a => (Access: a, Terms: RowTerms.Of(e, a, _flow.Vocabulary))).Select(r => (AsOne(e, r.Access, r.Terms), e.Depth == 0 && _flow.IsCalledOnSelection(e.Function) ? r.Terms with { HasUnknown = true } : r.Terms))]);

    /// <summary>A list of the rows that have one number, which the request names, is that row.</summary>
    private TableAccess AsOne(AnalysisEvent happening, TableAccess access, RowTerms terms) =>
        access.Action == RecordAction.List && happening.Kind == EventKind.Access && !terms.HasUnknown && terms.Request.Any(t => _flow.Vocabulary.IsRecordKey(t.Column) && !t.Value.EndsWith('s')) ? access with { Action = RecordAction.View } : access;

    private readonly ConcurrentDictionary<AnalysisEvent, (TableAccess Access, RowTerms Terms)[]> _rowsOf = new(ReferenceEqualityComparer.Instance);

    private static (int File, int Start) StartOf(RecordUse use) => (use.Happening.At.File, use.Happening.At.Start);

    private bool IsHandedOn(RecordUse use) =>
        use.Happening is { Kind: EventKind.Access, Function: { } function } && _flow.SummaryOf(function).Returns is { } returned && returned.Types.Contains("rows") && returned.Types.Any(t => t[0] == FunctionAnalyzer.RecordsMark);

    /// <summary>A row that the framework finds by the part of the path that is named like the parameter; where the route says so, among the records of the part before.</summary>
    private static RecordUse Fetched(EntryPoint entry, TableAccess access, bool isNested) => new(
        entry, access, new RowTerms(false, [], [new RowTerm(RowTerms.Key, "request." + access.How[(access.How.LastIndexOf(' ') + 1)..].TrimStart('$'))], [], [], true) { HasUnknown = isNested }, new AnalysisEvent { Kind = EventKind.Access, Fact = null, Function = access.Function, At = access.At, Roles = [] }, access.Function)
    { IsFetched = true };

    /// <summary>The entry finds the row by the same value, and by the person too.</summary>
    private bool IsHeldElsewhere(EntryAccess entry, RecordUse use) =>
        entry.OfSubject.Any(o => IsSame(o, use) && _order.Holds(entry, o, use) && o.Terms.Request.Any(t => use.Terms.Request.Count == 0 || use.Terms.Request.Any(m => m.Value == t.Value)));

    /// <summary>What is done with an object is done with the row that the function has found among those of such a record.</summary>
    private bool IsFoundOfHeldParent(EntryAccess entry, RecordUse use) =>
        use.Terms is { IsBare: true, ChoosesOne: true } && entry.Uses.Where(o => o != use && o.In == use.In && IsSame(o, use) && o.Access.Action == RecordAction.View).ToList() is { Count: > 0 } found && found.TrueForAll(o => o.Terms.OfSubject || IsOfHeldParent(entry, o));

    /// <summary>The rows belong to a record of another table, by the value by which the entry has found that one for the person: the photos of an own wall.</summary>
    public bool IsOfHeldParent(EntryAccess entry, RecordUse use) =>
        (use.Terms.IsRelated && HeldIn(entry).Any(o => !IsSame(o, use) && !_surface.Accounts.Has(o.Access.Table) && o.Access.Action is RecordAction.View or RecordAction.List && _schema.Find(use.Access.Table) is { } child && OwnerColumns.ReferenceTo(child, o.Access.Table) is not null
            && entry.Uses.Concat(entry.OnTheWay).Where(u => IsSame(u, o) && u.Access.Action is RecordAction.View or RecordAction.List).All(u => u.Terms.OfSubject || IsDecided(entry, u))))
        || use.Terms.Request.Where(t => !_flow.Vocabulary.IsRecordKey(t.Column)).ToList() is { Count: > 0 } foreign
        && HeldIn(entry).Any(o => !IsSame(o, use) && _order.Holds(entry, o, use) && o.Access.Action is RecordAction.View or RecordAction.List && o.Terms.Request.Any(t => _flow.Vocabulary.IsRecordKey(t.Column) && foreign.Exists(f => f.Value == t.Value)));

    /// <summary>The uses that are limited to the person, by a condition or by a test of the row that was found.</summary>
    private IEnumerable<RecordUse> HeldIn(EntryAccess entry) => entry.OfSubject.Concat(entry.Uses.Where(u => !u.Terms.OfSubject && IsDecided(entry, u)));

    private bool IsDecided(EntryAccess entry, RecordUse use) => entry.Decisions.Any(d => IsAbout(d, use) && _order.Holds(entry, d, use));

    /// <summary>What is done with an object is done with the row that a look-up of the entry found, by conditions that were not understood.</summary>
    private static bool IsFoundUnclearly(EntryAccess entry, RecordUse use) =>
        use.Terms.IsBare && use.Terms.ChoosesOne && entry.Uses.Any(o => o != use && o.Terms.HasUnknown && IsSame(o, use));

    private static bool IsSame(RecordUse one, RecordUse other) => one.Access.Table.Equals(other.Access.Table, StringComparison.OrdinalIgnoreCase);

    /// <summary>Rows that are looked up by the person and by something of the request tie the two together, or are not there.</summary>
    private IEnumerable<MembershipTest> MembershipsOf(RecordUse use) =>
        use.Terms.OfSubject && use.Access.Action is RecordAction.View or RecordAction.List
            ? use.Terms.Request.Where(t => !_flow.Vocabulary.IsRecordKey(t.Column) && _flow.Vocabulary.IsKeyName(t.Column)).Select(t => new MembershipTest(use, t.Column))
                .Concat(_surface.Accounts.Has(use.Access.Table) ? [] : use.Terms.Found.Where(t => _flow.Vocabulary.IsKeyName(t.Value) && !_flow.Vocabulary.IsRecordKey(t.Value)).Select(t => new MembershipTest(use, t.Column) { Found = t.Value })) : [];

    /// <summary>What the request names is held against what is known of the person, and the rows are found by it: <c>if (user.TenantId() != tenantId)</c>.</summary>
    private IEnumerable<MembershipTest> ComparedIn(SubjectDecision decision, List<RecordUse> uses)
    {
        if (decision is { IsGuess: true } or { IsRole: true } || decision.IsTied)
        {
            return [];
        }

        var named = decision.Happening.Roles.Values.Where(v => !RowTerms.IsSubject(v)).SelectMany(v => v.Taints).Where(t => t.IsSent && t.Origin.Name is { Length: > 0 } and not Origin.AnyName).Select(RowTerms.Named).ToHashSet(StringComparer.Ordinal);
        return named.Count == 0 ? [] : uses.SelectMany(u => u.Terms.Request.Where(t => named.Contains(t.Value) && !_flow.Vocabulary.IsRecordKey(t.Column) && _flow.Vocabulary.IsKeyName(t.Column)).Select(t => new MembershipTest(u, t.Column) { IsCompared = true }));
    }

    /// <summary>A test somewhere in the application of whether the person belongs to what a column names.</summary>
    public MembershipTest? MembershipBy(string column) => _memberships.GetValueOrDefault(column);

    private readonly Dictionary<string, MembershipTest> _memberships = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>A decorator's work is done by the function that it makes.</summary>
    private static IEnumerable<IrFunction> WithInner(IrFunction step) => step.File.Functions.Where(f => f == step || f.Outer == step || f.Outer?.Outer == step);

    /// <summary>The one is a call in the chain of the other, which says more of the same rows.</summary>
    private static bool IsStepOf(RecordUse step, RecordUse whole) =>
        AccessReader.IsInChainOf(step.Happening.At, whole.Happening.At) && step.Access.Table.Equals(whole.Access.Table, StringComparison.OrdinalIgnoreCase);

    /// <summary>The statement that the one prepares is run by the other, with its values.</summary>
    private static bool IsRunOf(RecordUse prepared, RecordUse run) =>
        prepared.Happening.Fact?.Query is { Prepare: true } && run.Happening.Kind == EventKind.Run && run.Access.Action == prepared.Access.Action && IsSame(run, prepared);

    private void AddDecision(AnalysisEvent happening, IrFunction function, List<SubjectDecision> decisions)
    {
        if (happening.Kind != EventKind.Decision)
        {
            return;
        }

        if (happening.Guessed)
        {
            decisions.Add(new SubjectDecision(happening, null, true, false, function));
            return;
        }

        var (left, right) = (RowTerms.IsSubject(happening.Role("left")), RowTerms.IsSubject(happening.Role("right")));
        if (left && happening.Role("left").Taints.All(t => t.Selects))
        {
            decisions.Add(new SubjectDecision(happening, null, false, happening.Role("left").Taints.All(TellsOfRole), function));
        }
        else if (left != right)
        {
            // Both of the person say nothing of anybody else's records.
            var (person, other) = (happening.Role(left ? "left" : "right"), happening.Role(left ? "right" : "left"));
            var isRole = person.Taints.Any(TellsOfRole);
            decisions.Add(new SubjectDecision(happening, other.Taints.FirstOrDefault(t => t.Origin.Kind == OriginKind.Stored)?.Origin.Name ?? (other is { IsTainted: false, Constant: null } ? other.Name : null), false, isRole, function));
        }
    }

    private bool TellsOfRole(Taint taint) => RowTerms.IsSubject(taint) && taint.Origin.Name is { } name && _flow.Vocabulary.TellsOfRole(name);

    private void Learn(EntryAccess entry)
    {
        foreach (var membership in entry.Memberships)
        {
            _memberships.TryAdd(membership.Column, membership);
        }

        foreach (var use in entry.Uses)
        {
            if (use.Terms.OfSubject)
            {
                Of(use.Access.Table).Limited.Add(use);
                if (use.Unscoped is null or { OfSubject: true })
                {
                    Of(use.Access.Table).Personal.Add(use);
                }

                // Records that are reached from the person have their key, whatever the mapper calls that.
                if (use.Terms is { IsRelated: true, Subject.Count: 0, Request: var chosen } && chosen.All(t => _flow.Vocabulary.IsRecordKey(t.Column)) && _schema.Find(use.Access.Table) is { } related
                    && _surface.Accounts.Tables.Select(a => OwnerColumns.ReferenceTo(related, a.Name)).FirstOrDefault(c => c is not null) is { } key)
                {
                    Of(use.Access.Table).Columns.Add(key);
                }
            }
            else if (use.Terms.Widened.Any(_flow.Vocabulary.IsPublicState) && use.Access.Action is RecordAction.View or RecordAction.List)
            {
                Of(use.Access.Table).Shared.Add(use);
            }

            foreach (var column in use.Terms.Subject.Concat(use.Terms.FromSubject).Select(t => t.Column).Where(c => c is not ("?" or "*") && !c.Contains('.')))
            {
                Of(use.Access.Table).Columns.Add(column);
            }

            if (use.Access.Action == RecordAction.Create && use.Terms.FromSubject.Count > 0)
            {
                Of(use.Access.Table).Created.Add(use);
            }

            foreach (var column in entry.Decisions.Where(d => d is { IsGuess: false, IsRole: false }).Select(d => ColumnOf(d, use)).OfType<string>())
            {
                Of(use.Access.Table).Columns.Add(column);
                Of(use.Access.Table).Limited.Add(use);
                if (!ScopeOf(use.Access.Table).Contains(column, StringComparer.OrdinalIgnoreCase))
                {
                    Of(use.Access.Table).Personal.Add(use);
                }
            }
        }
    }

    private OwnedTable Of(string table) => _owned.TryGetValue(table, out var known) ? known : _owned[table] = new OwnedTable(table);
}

/// <summary>A table whose records belong to people, and what shows it.</summary>
public sealed class OwnedTable(string table)
{
    public string Table { get; } = table;

    /// <summary>Columns that say whose a record is.</summary>
    public SortedSet<string> Columns { get; } = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>Uses that are limited to the person's own.</summary>
    public List<RecordUse> Limited { get; } = [];

    /// <summary>Those of them that something else limits than the condition which every query of the table gets.</summary>
    public List<RecordUse> Personal { get; } = [];

    /// <summary>Uses that give the person's own, and those of others that a state of the record makes public.</summary>
    public List<RecordUse> Shared { get; } = [];

    /// <summary>Where a new record becomes the person's.</summary>
    public List<RecordUse> Created { get; } = [];
}
