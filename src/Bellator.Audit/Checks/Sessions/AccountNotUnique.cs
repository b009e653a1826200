using Bellator.Analysis.Ir;
using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Tables;
using Bellator.Syntax;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>People sign in by a name that two accounts may have.</summary>
public sealed class AccountNotUnique : Check
{
    public override string Id => "sessions/account-not-unique";

    public override string Title => "Sign-in name is not unique";

    public override IReadOnlyList<int> Cwes => [694, 289, 287];

    public override IReadOnlyList<string> Asvs => ["V2.2.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:R/S:U/C:L/I:L/A:L";

    public override string Why => "Whoever registers a name that is taken gets an account that the look-up may find in place of the first one: mails, resets and rights go to the wrong person, or somebody can no longer sign in.";

    public override string FalsePositiveIf => "A rule in the database that is not part of the material keeps the names apart.";

    public override string HowToFix(string language) => "Add a unique rule to the column, on its lower-case form where the look-up ignores case, and answer the conflict at registration.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var handlers = context.Journeys.Where(j => j.Kind == JourneyKind.SignIn).SelectMany(j => j.Entries).Select(e => e.Handler).ToHashSet();
        var joining = context.Journeys.Where(j => j.Kind == JourneyKind.Register).SelectMany(j => j.Entries).Select(e => e.Handler).ToHashSet();
        if (joining.Count == 0)
        {
            yield break;
        }

        var told = new HashSet<(string, string)>();
        foreach (var use in context.Access.Entries.Where(e => handlers.Contains(e.Entry.Handler)).SelectMany(e => e.Uses).Where(u => !u.Access.IsGuess && u.Access.Action is RecordAction.View or RecordAction.List))
        {
            if (context.Schema.Find(use.Access.Table) is not { Columns.Count: > 0 } table || !context.Accounts.Accounts.Tables.Contains(table) || use.Terms.Request.Count != 1)
            {
                continue;
            }

            var name = use.Terms.Request[0].Column;
            if (table.Find(name) is not { } column || column.Origin == ColumnOrigin.Class || IsUnique(table, name) || context.Words.IsRecordKey(name) || context.Words.IsPasswordColumn(name) || context.Words.IsSecretToken(name)
                || IsLookedUp(context, joining, table.Name, name) || IsValidated(context, name) || !told.Add((table.Name, name)))
            {
                continue;
            }

            yield return new Finding
            {
                Check = this,
                At = column.At,
                Certainty = Certainty.Matched,
                Message = $"Accounts are looked up by “{name}”, and two can have the same: {table.Name} has no unique rule on it, and registration does not look whether it is taken.",
                Related = [use.Access.At],
                Subject = name,
            };
        }
    }

    private static bool IsUnique(Table table, string column) => table.Unique.Exists(u => u.Columns.Count > 0 && u.Columns.All(c => c.Equals(column, StringComparison.OrdinalIgnoreCase)));

    /// <summary>Registration asks first whether there is an account of the name.</summary>
    private static bool IsLookedUp(CheckContext context, HashSet<IrFunction?> joining, string table, string column) =>
        context.Access.Entries.Where(e => joining.Contains(e.Entry.Handler)).SelectMany(e => e.Uses.Concat(e.OnTheWay))
            .Any(u => u.Access.Action is RecordAction.View or RecordAction.List && u.Access.Table.Equals(table, StringComparison.OrdinalIgnoreCase) && u.Terms.Request.Select(t => t.Column).Concat(u.Terms.Other).Contains(column, StringComparer.OrdinalIgnoreCase));

    /// <summary>A rule of the model or of a form says so: <c>validates :email, uniqueness: true</c>, <c>'unique:users'</c>, <c>array('email', 'unique')</c>.</summary>
    private static bool IsValidated(CheckContext context, string column) =>
        context.Program.Classes.Any(c => c.Annotations.Any(a => a.Arguments.Any(x => Speaks(x.Name)) && a.Arguments.Any(x => x.Value is Literal { Text: var text } && text == column)))
        || context.Functions.Any(f => f.Instructions.Any(i => i is { Op: Opcode.Constant, Text: { } text } && Speaks(text)) || f.Operands.Any(o => Speaks(o.Name)))
        || context.Program.Classes.Any(c => c.Fields.Any(m => Mentions(m.Value)));

    private static bool Mentions(Expression? value) => value switch
    {
        Literal { Text: var text } => Speaks(text),
        ObjectLiteral list => list.Entries.Any(e => Mentions(e.Value)),
        _ => false,
    };

    private static bool Speaks(string? text) => text is not null && (text.StartsWith("unique", StringComparison.OrdinalIgnoreCase) || text.Contains("|unique", StringComparison.OrdinalIgnoreCase));
}
