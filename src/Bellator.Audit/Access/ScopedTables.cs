using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Interpreter;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Queries;
using Bellator.Analysis.Scheduling;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Tables;
using Bellator.Text;

namespace Bellator.Audit.Access;

/// <summary>
/// Tables whose mapped classes, or whose mapper, put a condition of their own on every query. Where the condition was understood, it holds
/// for what a query does not say itself; where it was not, which rows a query finds is not known.
/// </summary>
internal sealed class ScopedTables
{
    private readonly ProgramAnalysis _flow;
    private readonly SurfaceModel _surface;
    private readonly Dictionary<string, TableScope> _tables = new(StringComparer.OrdinalIgnoreCase);
    private readonly HashSet<string> _stores = [];

    public ScopedTables(ProgramAnalysis flow, SurfaceModel surface)
    {
        (_flow, _surface) = (flow, surface);
        var bodies = ScopeBodies.Of(flow.Program, flow.Facts).ToLookup(b => b.In);
        foreach (var type in flow.Program.Classes)
        {
            var calls = flow.Facts.For(Languages.Family(type.File.Source.Language)).ScopeCalls;
            if (calls.Count == 0)
            {
                continue;
            }

            foreach (var function in PutOn(type).SelectMany(Of).Where(m => m.NamedCalls.Any(n => calls.Contains(n.Name))))
            {
                var scope = ScopeOf(surface.TableOf(type));
                scope.Add(bodies[function].Select(b => (b.Given, flow.SummaryOf(b.Given).AddedConditions)).ToList(), IsDecidedByPerson, IsTied);
            }
        }

        foreach (var function in flow.Program.Functions)
        {
            var family = Languages.Family(function.File.Source.Language);
            var facts = flow.Facts.For(family);
            foreach (var call in facts.StoreScopeCalls.Count == 0 ? [] : function.NamedCalls.Where(n => facts.StoreScopeCalls.Contains(n.Name)))
            {
                // It is said of one of the mapper's classes, or of all of them.
                if (FluentTables.ModelAt(function, call.Instruction, facts) is { } model && flow.Program.FindClass(model, function.File) is { } type)
                {
                    ScopeOf(surface.TableOf(type.Primary)).Add(ScopeBodies.GivenAt(flow.Program, facts, function, call.Instruction).Select(g => (g, flow.SummaryOf(g).Condition)).ToList(), _ => true, IsTied);
                }
                else
                {
                    _stores.Add(family);
                }
            }
        }
    }

    private TableScope ScopeOf(string table) => _tables.TryGetValue(table, out var known) ? known : _tables[table] = new TableScope();

    /// <summary>The class, what it is derived from, and what is mixed into these.</summary>
    private IEnumerable<IrClass> PutOn(IrClass type)
    {
        for (var at = type; at is not null; at = _flow.Program.BaseOf(at)?.Primary)
        {
            foreach (var trait in at.Traits.Select(t => _flow.Program.FindClass(t, at.File)).OfType<IrClass>())
            {
                yield return trait;
            }

            yield return at;
        }
    }

    /// <summary>All that decides which conditions are added is who is asking.</summary>
    private bool IsDecidedByPerson(IrFunction scope) =>
        scope.Blocks.Where(b => b is { IsReachable: true, Condition: >= 0, Successors.Count: > 1 }).All(b => _surface.AskedBy(scope, b.Condition) is Requirement.SignIn or Requirement.Role || ScopeBodies.IsUsed(_flow.Program, new OpenScope(scope, b.Condition, false)));

    /// <summary>
    /// The program asks whether the person belongs to what it keeps for the request under the name: <c>Current.user.memberships.find_by(bureau: Current.bureau)</c>.
    /// What is the person's own by its value needs no such question.
    /// </summary>
    private bool IsTied(string name) => _tied.TryGetValue(name, out var known) ? known : _tied[name] = _flow.Events.Of(EventKind.Access).Any(e =>
        e.Role("where").Fields is { } columns && columns.Keys.FirstOrDefault(c => c.Equals(name, StringComparison.OrdinalIgnoreCase) || OwnerColumns.IsKeyOf(c, name)) is { } column
        && (RowTerms.IsSubject(e.Role("model")) || columns.Any(c => c.Key != column && RowTerms.IsSubject(c.Value))));

    private readonly Dictionary<string, bool> _tied = new(StringComparer.Ordinal);

    public bool Has(string table) => _tables.TryGetValue(table, out var scope) && !scope.IsUnderstood;

    /// <summary>The use goes through a mapper that may add a condition which is not known, and nothing at the use takes it off.</summary>
    public bool MayLimit(RecordUse use)
    {
        var family = Languages.Family(use.In.File.Source.Language);
        return use.Happening.Kind == EventKind.Access && !IsLifted(use, null)
            && (_stores.Contains(family) || use.Happening.Role("model").Types.Contains(FunctionAnalyzer.LimitedRecords) || Has(use.Access.Table));
    }

    /// <summary>The columns by which every query of the table is held against the person; none where that was not understood.</summary>
    public IReadOnlyList<string> ColumnsOf(string table) => _tables.TryGetValue(table, out var scope) && scope.IsUnderstood ? [.. scope.Subject.Select(t => t.Column).Distinct()] : [];

    /// <summary>The use with the conditions that the mapper adds to it.</summary>
    /// <param name="others">What else is done in the same function: an object that is changed may have been found by one of them.</param>
    public RecordUse Limited(RecordUse use, IReadOnlyList<RecordUse> others)
    {
        if (!_tables.TryGetValue(use.Access.Table, out var scope) || !scope.IsUnderstood || scope.Subject.Count == 0 || use.Happening.Kind != EventKind.Access || use.Access.Action == RecordAction.Create
            || (scope.IsOpenForNobody && use.Entry.SignIn == SignInNeed.NotNeeded) || IsLifted(use, scope) || (use.Access.Action is RecordAction.Edit or RecordAction.Delete && others.Any(o => IsLifted(o, scope) && o.Access.Table.Equals(use.Access.Table, StringComparison.OrdinalIgnoreCase))))
        {
            return use;
        }

        return use with { Unscoped = use.Terms, Terms = use.Terms.After(new RowTerms(true, scope.Subject, [], [], [], false)) };
    }

    /// <summary>A call within the use takes the class's conditions off.</summary>
    public bool IsLifted(RecordUse use) => _tables.TryGetValue(use.Access.Table, out var scope) && scope is { IsUnderstood: true, Subject.Count: > 0 } && IsLifted(use, scope);

    private bool IsLifted(RecordUse use, TableScope? scope)
    {
        if (use.Happening.Function is not { } function || _flow.Facts.For(Languages.Family(function.File.Source.Language)).ScopeLifts is not { Count: > 0 } lifts)
        {
            return false;
        }

        return function.NamedCalls.Any(n => lifts.Contains(n.Name) && function.LocationOf(n.Instruction) is var at && at.Start >= use.Happening.At.Start && at.End <= use.Happening.At.End && (scope is null || Takes(function, n.Instruction, scope, use.Access.Table)));
    }

    /// <summary>A call that names what it takes off may mean another condition: <c>withoutGlobalScope(DraftScope::class)</c>, <c>unscope(:order)</c>.</summary>
    private bool Takes(IrFunction function, int call, TableScope scope, string table)
    {
        var instruction = function.Instructions[call];
        if (instruction.C == 0 || instruction.Op is not (Opcode.CallMethod or Opcode.CallStatic))
        {
            return true;
        }

        var named = string.Join(' ', function.List(instruction).ToArray().Select(o => TextOf(function, o.Value)));
        return scope.Names.Append(table).Any(n => named.Contains(n, StringComparison.OrdinalIgnoreCase)) || !named.Any(c => c is ':' or '\'' or '"');
    }

    private string TextOf(IrFunction function, int value) =>
        value < 0 ? "" : _flow.Program.Tree.TextOf(function.LocationOf(value), 200) is { Length: > 0 } written ? written : "'" + function.Instructions[value].Text + "'";

    /// <summary>The code of a class: its methods, its body, and blocks in these.</summary>
    private static IEnumerable<IrFunction> Of(IrClass type) => type.File.Functions.Where(f => f.Class == type || f.Outer?.Class == type || f.Outer?.Outer?.Class == type);

    /// <summary>The conditions that every query of a table gets.</summary>
    private sealed class TableScope
    {
        /// <summary>All of them were understood.</summary>
        public bool IsUnderstood { get; private set; } = true;

        /// <summary>The columns that are held against the person.</summary>
        public List<RowTerm> Subject { get; } = [];

        /// <summary>By what a call may name the conditions that hold rows against the person: the columns, the class that adds them.</summary>
        public HashSet<string> Names { get; } = new(StringComparer.OrdinalIgnoreCase);

        /// <summary>Nothing is added where nobody is signed in.</summary>
        public bool IsOpenForNobody { get; private set; }

        public void Add(List<(IrFunction Given, AbstractValue? Conditions)> bodies, Func<IrFunction, bool> isDecidedByPerson, Func<string, bool> isTied)
        {
            IsUnderstood &= bodies.Count > 0;
            foreach (var (given, conditions) in bodies)
            {
                var columns = RowTerms.OfConditions(conditions, isTied);
                if (columns is null || !isDecidedByPerson(given))
                {
                    IsUnderstood = false;
                }
                else if (columns.Count > 0)
                {
                    IsOpenForNobody |= ScopeBodies.OpenWays(given).Any(o => AuthorizationChecks.IsPresence(o.Function, o.Condition) != o.WhereTrue);
                    Subject.AddRange(columns.Where(c => !Subject.Contains(c)));
                    Names.UnionWith(columns.Select(c => c.Column));
                    Names.UnionWith(given.Class is { Name.Length: > 0 } type && given.Name.Length > 0 ? [type.ShortName] : []);
                }
            }
        }
    }
}
