using Bellator.Audit.Access;
using Bellator.Audit.Endpoints;
using Bellator.Text;

namespace Bellator.Audit.Checks.Records;

/// <summary>
/// One action of a resource asks for no role, where all of its like do. What stands beside it is the evidence: that a resource is for one role
/// only in part is common, that a single action is left out of a list of guarded ones is a mistake more often than not.
/// </summary>
public sealed class RoleCheckMissing : RecordCheck
{
    public override string Id => "records/role-check-missing";

    public override string Title => "Role asked of the actions beside it, not of this one";

    public override IReadOnlyList<int> Cwes => [862, 285];

    public override IReadOnlyList<string> Asvs => ["V8.2.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:L/I:H/A:N";

    public override string Why => "Whoever is signed in does what was meant for one role; that the page shows no button for it keeps nobody from sending the request.";

    public override string FalsePositiveIf => "This action is meant for everybody who is signed in, or code that was not understood asks for the role.";

    public override string HowToFix(string language) => language switch
    {
        "ruby" => "Name the action in the filter too, or better name those that are exempted: before_action :require_office, except: %i[show].",
        "php" => "Put the role’s middleware on the whole group or controller, and exempt what is for everybody.",
        "csharp" => "Put [Authorize(Roles = …)] on the class, or RequireAuthorization on the group, and exempt what is for everybody.",
        "python" => "Put the role into the permissions of the whole view set or blueprint, and exempt what is for everybody.",
        _ => "Put the role’s guard on the whole router, and exempt what is for everybody.",
    };

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var entries = Entries(context).Where(e => e.Entry is { SignIn: SignInNeed.Needed, Handler: not null }).ToList();
        var told = new HashSet<object>();
        foreach (var group in entries.GroupBy(GroupOf))
        {
            foreach (var (entry, use, beside) in Missing(context, [.. group.DistinctBy(e => (e.Entry.Handler, e.Entry.Method))]))
            {
                // That anybody can name the row is told already.
                if (!NoOwnerCondition.Open(context, entry).Any(o => o.Worst.Access.Table.Equals(use.Access.Table, StringComparison.OrdinalIgnoreCase)) && told.Add(entry.Entry.Handler!))
                {
                    yield return new Finding
                    {
                        Check = this,
                        At = use.Access.At,
                        Certainty = Certainty.Traced,
                        Message = $"{Address(entry.Entry)} lets any signed-in user {Does(use.Access.Action)} {use.Access.Table} records, although {Address(beside.Entry)} asks for a role to {Does(Worst(beside, use.Access.Table)!.Access.Action)} them.",
                        Related = [beside.Entry.At, entry.Entry.At],
                        Subject = $"{use.Access.Table} {use.Access.Action}",
                    };
                }
            }
        }
    }

    /// <summary>Handlers that are written together: of one class, or of one file where they are functions.</summary>
    private static object GroupOf(EntryAccess entry) => (object?)entry.Entry.Handler!.Class?.Primary ?? entry.Entry.Handler.File;

    private static IEnumerable<(EntryAccess Entry, RecordUse Use, EntryAccess Beside)> Missing(CheckContext context, IReadOnlyList<EntryAccess> group)
    {
        foreach (var table in group.SelectMany(e => e.Uses).Where(u => !u.Access.IsGuess).Select(u => u.Access.Table).Distinct(StringComparer.OrdinalIgnoreCase))
        {
            var touching = group.Where(e => Worst(e, table) is not null).ToList();
            var asking = touching.Where(AsksRole).ToList();
            foreach (var entry in asking.Count == 0 ? [] : touching.Where(e => AsksNothing(context, e)))
            {
                var use = Worst(entry, table)!;
                var others = touching.Where(e => e != entry && e.Entry.Handler != entry.Entry.Handler).ToList();
                var like = others.Where(e => IsLike(use, Worst(e, table)!)).ToList();
                var isOnlyOne = others.Count > 1 && others.TrueForAll(AsksRole);

                // Reading may be for all where changing is not; what removes is held to be no less than what changes.
                if (use.Access.Action != RecordAction.Create && like.Exists(AsksRole) && like.TrueForAll(AsksRole) && (isOnlyOne || use.Access.Action == RecordAction.Delete)
                    && SameReach(context, entry, use, like.First(AsksRole), table))
                {
                    yield return (entry, use, like.First(AsksRole));
                }
            }
        }
    }

    /// <summary>What the entry does worst to the table's rows.</summary>
    private static RecordUse? Worst(EntryAccess entry, string table) => entry.Uses.Where(u => u.Access.Table.Equals(table, StringComparison.OrdinalIgnoreCase) && !u.Access.IsGuess).MaxBy(u => u.Access.Action);

    private static bool IsLike(RecordUse use, RecordUse other) => use.Access.Action switch
    {
        RecordAction.Delete => other.Access.Action is RecordAction.Edit or RecordAction.Delete,
        RecordAction.Edit => other.Access.Action is RecordAction.Edit or RecordAction.Delete or RecordAction.Create,
        RecordAction.List => other.Access.Action == RecordAction.List,
        _ => other.Access.Action == use.Access.Action,
    };

    private static bool AsksRole(EntryAccess entry) => entry.Entry.Guards.Any(g => g.Asks == Requirement.Role) || entry.Decisions.Any(d => d is { IsRole: true, IsGuess: false });

    /// <summary>Nothing on the way asks for more than that somebody is signed in, as far as everything was understood.</summary>
    private static bool AsksNothing(CheckContext context, EntryAccess entry) =>
        entry.Entry.Guards.All(g => g.Asks is Requirement.SignIn or Requirement.Throttle or Requirement.Forgery) && entry.Decisions.Count == 0 && entry.Memberships.Count == 0
        && entry.AsWritten.Uses.All(u => context.Access.ReachOf(entry.AsWritten, u) != RowReach.Unclear || u.Access.IsGuess);

    /// <summary>The one is limited as the other is: a limit to the person's own rows would make the role unneeded.</summary>
    private static bool SameReach(CheckContext context, EntryAccess entry, RecordUse use, EntryAccess beside, string table) =>
        context.Access.ReachOf(entry, use) is var reach && (reach is RowReach.All or RowReach.Chosen || (reach == RowReach.Own && Worst(beside, table) is { } other && context.Access.ReachOf(beside, other) == RowReach.Own && TermsOf(use).SetEquals(TermsOf(other))));

    private static HashSet<string> TermsOf(RecordUse use) => [.. use.Terms.Subject.Select(t => t.Column + t.Value)];
}
