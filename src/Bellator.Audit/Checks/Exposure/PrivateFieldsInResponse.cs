using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Sql;
using Bellator.Audit.Tables;

namespace Bellator.Audit.Checks.Exposure;

/// <summary>An address that needs no sign-in answers with contact data of accounts.</summary>
public sealed class PrivateFieldsInResponse : Check
{
    public override string Id => "exposure/private-fields-in-response";

    public override string Title => "Private account fields in a response";

    public override IReadOnlyList<int> Cwes => [213, 201];

    public override IReadOnlyList<string> Asvs => ["V14.2.6"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:L/I:N/A:N";

    public override string Why => "Addresses, telephone numbers and the like of people can be collected by anybody who asks, page after page.";

    public override string FalsePositiveIf => "The people agreed that these are public, or the answer holds only what the visitor just sent.";

    public override string HowToFix(string language) => "Name the columns that may be public, and leave the others out of the query; ask for sign-in where more is needed.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var own = context.Journeys.SelectMany(j => j.Entries).Select(e => e.Handler).ToHashSet();
        foreach (var entry in context.Accounts.Surface.EntryPoints.Where(e => e is { SignIn: SignInNeed.NotNeeded, Handler: not null } && !own.Contains(e.Handler)))
        {
            foreach (var happening in context.Accounts.Surface.Reach.Events(entry.Handler!).Where(e => e is { Kind: EventKind.Sink, Sink.Kind: "response" }))
            {
                var told = Private(context, happening.Role("value")).Take(4).ToList();
                if (told.Count > 0)
                {
                    yield return new Finding
                    {
                        Check = this,
                        At = happening.At,
                        Certainty = Certainty.Matched,
                        Message = $"{entry.Method} {entry.Path} answers anybody with {string.Join(", ", told.Select(t => $"“{t.Column}”"))} of accounts.",
                        Steps = told[0].Taint is { } from ? CheckContext.Steps(from, happening, "answered") : [new FindingStep(StepKind.Sink, happening.At, "answered")],
                        Related = [entry.At],
                        Subject = told[0].Column,
                    };
                }
            }
        }
    }

    /// <summary>Parts of the answer that come from columns of the accounts table with contact or personal data.</summary>
    private static IEnumerable<(string Column, Taint? Taint)> Private(CheckContext context, AbstractValue value) =>
        FieldAccess.DeepTaints(value).Where(t => t is { Origin: { Kind: OriginKind.Stored, Name: not null }, Guessed: false }).Select(t => (PrivateColumn(context, t.Origin.Name!, null), (Taint?)t))
            .Concat(Selected(value, 0).SelectMany(c => c.Name == "*" ? WholeAccount(context, c.Table) : [PrivateColumn(context, c.Name, c.Table)]).Select(c => (c, (Taint?)null)))
            .Where(c => c.Item1 is not null).Select(c => (c.Item1!, c.Item2));

    /// <summary>The columns of rows that are answered as they were fetched.</summary>
    private static IEnumerable<SelectedColumn> Selected(AbstractValue value, int depth) =>
        value is { Payload: { } statement, Fields: null } && value.Types.Any(t => t is "row" or "rows" or "result") ? SelectedColumns.Of(statement)
        : depth < AbstractValue.MaxDepth && value.Fields is { } fields ? fields.Values.SelectMany(f => Selected(f, depth + 1)) : [];

    private static IEnumerable<string?> WholeAccount(CheckContext context, string? of) =>
        of is not null && context.Accounts.Accounts.Has(of) && context.Schema.Find(of) is { } table ? table.Columns.Select(c => PrivateColumn(context, c.Name, of)) : [];

    private static string? PrivateColumn(CheckContext context, string name, string? of) =>
        context.Accounts.Accounts.Tables.Where(t => of is null || t.Name.Equals(of, StringComparison.OrdinalIgnoreCase)).Select(t => t.Find(name) is { } column && ColumnMeanings.Of(column, t, context.Words).Meaning is ColumnMeanings.Contact or ColumnMeanings.Personal ? column.Name : null).FirstOrDefault(c => c is not null);
}
