using Bellator.Audit.Access;
using Bellator.Audit.Endpoints;

namespace Bellator.Audit.Checks.Records;

/// <summary>Records that belong to people are reached without signing in, where other addresses ask for it.</summary>
public sealed class NoSignIn : RecordCheck
{
    public override string Id => "records/no-sign-in";

    public override string Title => "Personal records without sign-in";

    public override IReadOnlyList<int> Cwes => [306, 862];

    public override IReadOnlyList<string> Asvs => ["V8.3.1", "V8.2.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "Anyone who knows the URL reads or changes what other endpoints only show to its owner.";

    public override string FalsePositiveIf => "These rows or columns are public, or something in front of the application authenticates the request.";

    public override string HowToFix(string language) => "Require sign-in here too, best by a default that covers every endpoint and lists the exceptions.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var told = new HashSet<(object?, string)>();
        foreach (var entry in Entries(context).Where(e => e.Entry.SignIn == SignInNeed.NotNeeded && e.Decisions.Count == 0 && e.Memberships.Count == 0 && e.OnTheWay.All(u => context.Accounts.Accounts.Has(u.Access.Table))))
        {
            foreach (var use in entry.Uses.Where(u => !u.Access.IsGuess && u.Terms is { OfSubject: false, HasUnknown: false } && u.Access.Action != RecordAction.Create && !IsMadePublic(context, u) && !context.Accounts.Accounts.Has(u.Access.Table)))
            {
                var reads = use.Access.Action is RecordAction.View or RecordAction.List;
                if ((reads && use.Terms.Other.Any(context.Words.IsPublicState)) || use.Terms.Request.Any(t => context.Words.IsSecretToken(t.Column) || context.Words.IsSecretToken(t.Value)) || RowRules.Limit(context, use.Access.Table)
                    || context.Access.Owned(use.Access.Table) is not { Columns.Count: > 0 } owned)
                {
                    continue;
                }

                // Whoever may not even read a record has no business changing it; what may be read by all may still be somebody's to change.
                var limited = owned.Limited.Where(l => l.Entry.SignIn == SignInNeed.Needed && (l.Access.Action is RecordAction.View or RecordAction.List || !reads)).OrderByDescending(l => reads == (l.Access.Action is RecordAction.View or RecordAction.List)).ToList();
                var open = context.Access.Entries.Any(e => e != entry && e.Entry.SignIn == SignInNeed.NotNeeded && e.Entry.Handler != entry.Entry.Handler && e.Uses.Any(u => u.Access.Action == use.Access.Action && u.Access.Table.Equals(use.Access.Table, StringComparison.OrdinalIgnoreCase)));
                if (limited.Count > 0 && !open && told.Add((entry.Entry.Handler, use.Access.Table.ToLowerInvariant())))
                {
                    yield return new Finding
                    {
                        Check = this,
                        At = use.Access.At,
                        Certainty = Certainty.Traced,
                        Message = $"{Address(entry.Entry)} lets anyone {Does(use.Access.Action)} {use.Access.Table} records: no sign-in check was found, although {Address(limited[0].Entry)} requires sign-in and limits them to the user’s own.",
                        Related = [limited[0].Access.At, entry.Entry.At],
                        Subject = use.Access.Table,
                    };
                }
            }
        }
    }

    /// <summary>Somebody has taken the condition on the person off for this page, and shows what belongs to one other record.</summary>
    private static bool IsMadePublic(CheckContext context, RecordUse use) => use.Terms.IsRelated && context.Access.LiftsScope(use);
}
