using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Audit.Endpoints;

namespace Bellator.Audit.Access;

/// <summary>One use of records on the way of an entry point.</summary>
/// <param name="In">The function in whose code the terms are known: the one that is called, or a caller that gave it its values.</param>
public sealed record RecordUse(EntryPoint Entry, TableAccess Access, RowTerms Terms, AnalysisEvent Happening, IrFunction In)
{
    /// <summary>The framework finds the row for the handler, before its code runs.</summary>
    public bool IsFetched { get; init; }

    /// <summary>What stands at the use itself, where the mapper adds conditions to every query of the table; null where it adds none.</summary>
    public RowTerms? Unscoped { get; init; }

    /// <summary>The use without the conditions that the mapper adds.</summary>
    public RecordUse AsWritten => Unscoped is { } own ? this with { Terms = own, Unscoped = null } : this;
}

/// <summary>A place on the way of an entry point where something is held against the person who is asking.</summary>
/// <param name="Column">The column whose value is held against the person; null where it is something else.</param>
/// <param name="IsGuess">Only the name of a call says so.</param>
/// <param name="IsRole">It is about what the person is, not about whose the record is.</param>
/// <param name="In">The function in whose code it is known what is held against what: a caller that gave the values, or the one that decides.</param>
public sealed record SubjectDecision(AnalysisEvent Happening, string? Column, bool IsGuess, bool IsRole, IrFunction In)
{
    /// <summary>It asks whether there is a row that ties the person to something: that row's own use says by which columns.</summary>
    public bool IsTied => Happening.Role("left").Taints is { Count: > 0 } taints && taints.All(t => t.Selects);
}

/// <summary>A test that finds out whether the person belongs to something that the request names: a row of the table ties the two together.</summary>
/// <param name="Column">The column that names it: <c>company_id</c>.</param>
public sealed record MembershipTest(RecordUse Use, string Column)
{
    /// <summary>The value is compared with what is known of the person; the use is one of those that it finds.</summary>
    public bool IsCompared { get; init; }

    /// <summary>The column of the record that was read before, whose value is looked up: a test of whether the person belongs to what that record is of.</summary>
    public string? Found { get; init; }
}

/// <summary>All that an entry point does with records, and what it holds against the person.</summary>
public sealed record EntryAccess(EntryPoint Entry, IReadOnlyList<RecordUse> Uses, IReadOnlyList<SubjectDecision> Decisions)
{
    public IReadOnlyList<MembershipTest> Memberships { get; init; } = [];

    /// <summary>The entry without the conditions that the mapper adds to every query of a table.</summary>
    public EntryAccess AsWritten => _asWritten ??= Uses.Concat(OnTheWay).All(u => u.Unscoped is null) ? this
        : new EntryAccess(Entry, [.. Uses.Select(u => u.AsWritten)], Decisions) { Memberships = Memberships, OnTheWay = [.. OnTheWay.Select(u => u.AsWritten)] };

    private EntryAccess? _asWritten;

    /// <summary>What steps on the way do with records before the handler runs.</summary>
    public IReadOnlyList<RecordUse> OnTheWay { get; init; } = [];

    /// <summary>Those of the uses, on the way or in the handler, that are limited to the person.</summary>
    public IReadOnlyList<RecordUse> OfSubject => field ??= [.. Uses.Concat(OnTheWay).Where(u => u.Terms.OfSubject)];
}

/// <summary>Whose rows are reached.</summary>
public enum RowReach
{
    /// <summary>Those that the code ties to the person who is asking.</summary>
    Own,

    /// <summary>All that there are, for people of a role.</summary>
    Role,

    /// <summary>Any one, and the request says which.</summary>
    Chosen,

    All,

    /// <summary>A row is made.</summary>
    New,

    /// <summary>Something on the way was not understood.</summary>
    Unclear,
}
