using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Interpreter;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Sql;
using Bellator.Syntax;

namespace Bellator.Audit.Access;

/// <summary>A column, and what it is held against or filled with: <c>subject.id</c>, <c>request.title</c>.</summary>
public sealed record RowTerm(string Column, string Value)
{
    /// <summary>How it came there.</summary>
    public Taint? Taint { get; init; }

    /// <summary>All of the kind that may be there: a token from the header, or else from the address.</summary>
    public IReadOnlyList<Taint> Taints { get; init; } = [];

    /// <summary>Equality in the access language; which column is held against the request may not be known.</summary>
    public override string ToString() => Column != "?" ? $"record.{Column} = {Value}" : Value.StartsWith("subject", StringComparison.Ordinal) ? $"record belongs to {Value}" : $"unknown \"some column = {Value}\"";
}

/// <summary>What one use of records holds them against, and what it writes into them.</summary>
/// <param name="OfSubject">Only rows are meant that belong to what the program knows of the person who is asking.</param>
/// <param name="Subject">Columns that are held against the person, where the condition names them.</param>
/// <param name="Request">Columns that are held against something from the request.</param>
/// <param name="FromSubject">Columns that get something of the person.</param>
/// <param name="FromRequest">Columns that get something from the request.</param>
/// <param name="ChoosesOne">A condition chooses one row, or an object stands for one.</param>
public sealed record RowTerms(
    bool OfSubject,
    IReadOnlyList<RowTerm> Subject,
    IReadOnlyList<RowTerm> Request,
    IReadOnlyList<RowTerm> FromSubject,
    IReadOnlyList<RowTerm> FromRequest,
    bool ChoosesOne)
{
    /// <summary>Nothing is known of what the rows are held against.</summary>
    public bool IsBare => !OfSubject && Subject.Count + Request.Count == 0;

    /// <summary>Nor of what they are filled with.</summary>
    public bool TellsNothing => IsBare && FromSubject.Count + FromRequest.Count == 0;

    /// <summary>The rows are those that belong to another record, from which they are reached.</summary>
    public bool IsRelated { get; init; }

    /// <summary>Something in the condition was not understood: it may be the person.</summary>
    public bool HasUnknown { get; init; }

    /// <summary>All columns that are held against the person or the request, or filled with something of them.</summary>
    internal HashSet<string> KnownColumns => [.. Subject.Concat(Request).Concat(FromSubject).Concat(FromRequest).Select(t => t.Column)];

    /// <summary>Columns that are held against something else: a constant, or what was not understood.</summary>
    public IReadOnlyList<string> Other { get; init; } = [];

    /// <summary>Columns that are held against a column of another record that was read before.</summary>
    public IReadOnlyList<RowTerm> Found { get; init; } = [];

    /// <summary>Columns of alternatives that let rows through which are not the person's, beside one that holds rows against the person.</summary>
    public IReadOnlyList<string> Widened { get; init; } = [];

    /// <summary>Columns that hold rows against the person only where the request asks for that.</summary>
    public IReadOnlyList<string> OnlyIfAsked { get; init; } = [];

    /// <summary>The column that a mapper means where it is given no more than a value.</summary>
    public const string Key = "id";

    /// <summary>These terms, on rows that others have found.</summary>
    internal RowTerms After(RowTerms earlier) => this with
    {
        OfSubject = OfSubject || earlier.OfSubject,
        Subject = [.. earlier.Subject, .. Subject],
        Request = [.. earlier.Request, .. Request],
        Found = [.. earlier.Found, .. Found],
        ChoosesOne = ChoosesOne || earlier.ChoosesOne,
        HasUnknown = HasUnknown || earlier.HasUnknown,
        IsRelated = IsRelated || earlier.IsRelated,
        OnlyIfAsked = [.. earlier.OnlyIfAsked, .. OnlyIfAsked],
        Widened = [.. earlier.Widened, .. Widened],
        Other = [.. earlier.Other, .. Other],
    };

    public static RowTerms Of(AnalysisEvent happening, TableAccess access, IdentifierClassifier words) =>
        happening.Kind == EventKind.Access ? OfMapper(happening, access, words) : OfStatement(happening, access);

    internal static bool IsSubject(Taint taint) => taint.Origin.Kind == OriginKind.Subject;

    internal static bool IsSubject(AbstractValue value) => FieldAccess.DeepTaints(value).Any(IsSubject);

    private static bool IsRequest(Taint taint) => taint.IsSent;

    private static bool IsFound(Taint taint) => taint.Origin is { Kind: OriginKind.Stored, Name: { Length: > 0 } and not Origin.AnyName };

    private static RowTerm FoundIn(string column, Taint taint) => new(column, taint.Origin.Name!.Trim(':')) { Taint = taint };

    private static RowTerms OfMapper(AnalysisEvent happening, TableAccess access, IdentifierClassifier words)
    {
        var where = happening.Role("where");
        var creates = access.Action == RecordAction.Create;
        var model = happening.Role("model");
        var condition = ConditionObject.Of(where, words);
        var widened = condition.Columns.Select(c => c.Column[(c.Column.LastIndexOf('.') + 1)..]).Where(c => c.StartsWith(FunctionAnalyzer.WidenedBy, StringComparison.Ordinal)).ToList();
        var asked = condition.Columns.Select(c => c.Column).Where(c => c.StartsWith(FunctionAnalyzer.OnlyIfAsked, StringComparison.Ordinal)).ToList();
        var tested = widened.Count + asked.Count == 0 ? condition.Columns : [.. condition.Columns.Where(c => !c.Column.Contains(FunctionAnalyzer.WidenedBy, StringComparison.Ordinal) && !asked.Contains(c.Column))];
        var filled = Columns(happening.Role("fields"));
        return new RowTerms(
            !creates && widened.Count == 0 && (model.Taints.Any(IsSubject) || tested.Any(c => IsSubject(c.Value))),
            Terms(tested, IsSubject),
            Terms(tested, IsRequest),
            [.. Terms(filled, IsSubject), .. creates ? Terms([("*", model)], IsSubject) : []],
            Terms(filled, IsRequest),
            model.Types.Contains("row") || access.Action == RecordAction.View || (access.Action is RecordAction.Edit or RecordAction.Delete && IsObject(model)) || (happening.Roles.ContainsKey("where") && (tested.Count == 0 || tested.Any(c => c.Value.Constant is null))))
        {
            Found = [.. tested.SelectMany(c => FieldAccess.DeepTaints(c.Value).Where(IsFound).Take(1).Select(t => FoundIn(c.Column, t)))],
            OnlyIfAsked = [.. asked.SelectMany(a => a[FunctionAnalyzer.OnlyIfAsked.Length..].Split(", "))],
            IsRelated = model.Types.Contains(FunctionAnalyzer.RelatedRecords) || model.Fields is not null,
            Widened = [.. widened.SelectMany(w => w[FunctionAnalyzer.WidenedBy.Length..].Split(", "))],
            HasUnknown = happening.Fact?.Access is { DecidedElsewhere: true } || condition.HasUnknown || widened.Count > 0 || tested.Any(c => IsUnknown(c.Value)) || (tested.Count == 0 && happening.Roles.ContainsKey("where") && where is { Constant: null, Text: null, Fields: null }),
            Other = [.. tested.Where(c => !FieldAccess.DeepTaints(c.Value).Any(t => IsSubject(t) || IsRequest(t))).Select(c => c.Column)],
        };
    }

    /// <summary>
    /// What conditions that a mapper adds to every query of a class hold against the person; null where one of them was not understood, or lets
    /// rows through that are not the person's.
    /// </summary>
    /// <param name="isTied">The part of the request's state is held against the person somewhere: whether the person belongs to it.</param>
    internal static List<RowTerm>? OfConditions(AbstractValue? conditions, Func<string, bool> isTied)
    {
        if (conditions is { Fields: null })
        {
            return [];
        }

        if (conditions?.Fields is not { Count: > 0 } columns || columns.Values.SelectMany(v => v.Types).Any(t => t.StartsWith(FunctionAnalyzer.StateMark, StringComparison.Ordinal) && !isTied(t[FunctionAnalyzer.StateMark.Length..]))
            || columns.Any(c => c.Value is { Constant: null, Text: null } && !IsSubject(c.Value) && !IsEmpty(c.Value)))
        {
            return null;
        }

        return columns.Keys.Any(k => k.StartsWith(FunctionAnalyzer.WidenedBy, StringComparison.Ordinal) || k.StartsWith(FunctionAnalyzer.OnlyIfAsked, StringComparison.Ordinal))
            ? null : Terms(columns.Select(c => (c.Key, c.Value)), IsSubject);
    }

    private static bool IsEmpty(AbstractValue value) => value.ConstantKind == LiteralKind.Null;

    /// <summary>It is an object of a class of the program's, not the class or its records.</summary>
    private static bool IsObject(AbstractValue model) => model.Targets.Count == 0 && model.Types.Any(t => t[0] == '#') && !model.Types.Any(t => t[0] == FunctionAnalyzer.RecordsMark || t == "rows");

    /// <summary>It is no constant, and neither the person nor the request says what it is: it may come from another record, or from code that was not understood.</summary>
    private static bool IsUnknown(AbstractValue value) => value is { Constant: null, Text: null, Fields: null } && !value.Taints.Any(t => IsSubject(t) || IsRequest(t));

    private static List<RowTerm> Terms(IEnumerable<(string Column, AbstractValue Value)> columns, Func<Taint, bool> counts) =>
        [.. columns.Select(c => (c.Column, Taints: FieldAccess.DeepTaints(c.Value).Where(counts).ToList())).Where(c => c.Taints.Count > 0).Select(c => Of(c.Column, c.Taints))];

    private static RowTerm Of(string column, IReadOnlyList<Taint> taints) => new(column, Named(taints[0])) { Taint = taints[0], Taints = taints };

    internal static string Named(Taint taint) => (IsSubject(taint) ? "subject" : "request") + (taint.Origin.Name is { Length: > 0 } and not Origin.AnyName ? "." + taint.Origin.Name.Trim(':') : "");

    private static List<(string Column, AbstractValue Value)> Columns(AbstractValue given)
    {
        var found = new List<(string, AbstractValue)>();
        Collect(given, 0);
        return found;

        void Collect(AbstractValue value, int depth)
        {
            foreach (var (name, part) in value.Fields ?? [])
            {
                if (name.Length > 0 && (char.IsLetter(name[0]) || name[0] == '_'))
                {
                    found.Add((name, part));
                }

                if (depth < AbstractValue.MaxDepth && part.Fields is not null)
                {
                    Collect(part, depth + 1);
                }
            }

            if (depth == 0 && value is { Fields: null, Taints.Count: > 0 })
            {
                found.Add((Key, value));
            }
        }
    }

    private static RowTerms OfStatement(AnalysisEvent happening, TableAccess access)
    {
        var writes = access.Action is RecordAction.Create or RecordAction.Edit;
        List<RowTerm> subject = [];
        List<RowTerm> request = [];
        List<RowTerm> filled = [];
        List<RowTerm> sent = [];
        List<RowTerm> found = [];
        foreach (var use in ColumnUses.WithText(happening))
        {
            var isCondition = use.Slot.Clause == SqlClause.Where || (use.Slot.Clause == SqlClause.Other && !writes);
            var column = use.Slot.Column ?? "?";
            if (use.Taints.Where(IsSubject).ToList() is { Count: > 0 } mine)
            {
                (isCondition ? subject : filled).Add(Of(column, mine));
            }

            if (use.Taints.Where(IsRequest).ToList() is { Count: > 0 } theirs)
            {
                (isCondition ? request : sent).Add(Of(column, theirs));
            }

            if (isCondition && use.Taints.FirstOrDefault(IsFound) is { Origin: not null } read)
            {
                found.Add(FoundIn(column, read));
            }
        }

        if (!writes && SqlTexts.Of(happening.Role("text")).SelectMany(s => s.Slots).Where(o => o is { Clause: SqlClause.Where, Placeholder: not null })
            .Select(o => ColumnUses.ValueOf(happening.Role("values"), o.Placeholder!)).FirstOrDefault(v => v is { Fields: not null, Taints.Count: 0 } && IsSubject(v)) is { } handed)
        {
            // A list that was handed on: the person is in it, though not known at which place.
            subject.Add(new RowTerm("?", Named(FieldAccess.DeepTaints(handed).First(IsSubject))));
        }

        var widened = subject.Count == 0 ? [] : SqlTexts.Of(happening.Role("text")).SelectMany(s => SqlCondition.Widening(string.Concat(s.Pieces.Select(p => p.Literal ?? " ? ")), [.. subject.Select(t => t.Column)])).Distinct().ToList();
        var text = string.Join('\n', SqlTexts.Of(happening.Role("text")).SelectMany(s => s.Pieces).Where(p => !p.IsHole).Select(p => p.Literal));
        return new RowTerms(subject.Count > 0 && widened.Count == 0, subject, request, filled, sent, SqlTexts.Of(happening.Role("text")).Any(s => s.Slots.Any(o => o.Clause == SqlClause.Where)))
        {
            Found = found,
            Widened = widened,
            HasUnknown = widened.Count > 0 || SqlTexts.Of(happening.Role("text")).Any(s => s.Slots.Any(o => o.Clause == SqlClause.Where && (o.Placeholder is { } bound ? ColumnUses.ValueOf(happening.Role("values"), bound) is not { } value || IsUnknown(value) : !o.Hole!.Taints.Any(t => IsSubject(t) || IsRequest(t))))),
            Other = [.. WordsAfterWhere(text)],
        };
    }

    /// <summary>Words with which the condition of a statement ends.</summary>
    private static readonly string[] AfterCondition = ["returning", "group", "order", "limit", "for"];

    /// <summary>The names in the condition of a statement, whatever they are held against.</summary>
    private static IEnumerable<string> WordsAfterWhere(string text) =>
        text.IndexOf("where", StringComparison.OrdinalIgnoreCase) is >= 0 and var at
            ? text[at..].Split([' ', '\n', '\t', '(', ')', '=', ',', '.', '<', '>', '!'], StringSplitOptions.RemoveEmptyEntries).TakeWhile(w => !AfterCondition.Contains(w, StringComparer.OrdinalIgnoreCase)).Distinct(StringComparer.OrdinalIgnoreCase) : [];
}
