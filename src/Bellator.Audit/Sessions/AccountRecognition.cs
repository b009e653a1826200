using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Queries;
using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Tables;

namespace Bellator.Audit.Sessions;

/// <summary>How the account of whoever asks is found again with each request, and what of it is looked at there.</summary>
internal sealed class AccountRecognition(AccountContext context, AccessMap access)
{
    /// <summary>Uses on the way of many entry points that find the account of whoever asks.</summary>
    public IEnumerable<RecordUse> Of(Table table) =>
        access.Entries.SelectMany(e => e.Uses.Concat(e.OnTheWay))
            .Where(u => u.Access.Action is RecordAction.View or RecordAction.List && u.Access.Table.Equals(table.Name, StringComparison.OrdinalIgnoreCase) && u.Terms.OfSubject && u.Terms.Request.Count == 0)
            .GroupBy(u => u.Access.At).Where(g => g.Select(u => u.Entry.Handler).Distinct().Count() > 1).Select(g => g.First());

    /// <summary>The column stands in the condition, or code near it reads it.</summary>
    public bool Asks(RecordUse use, string column)
    {
        var near = new[] { use.In, use.Access.Function }.Concat(Callers(use.Access.Function)).Distinct();
        return use.Terms.Other.Contains(column, StringComparer.OrdinalIgnoreCase) || use.Happening.Roles.Values.Any(v => v.Text?.Alternatives.Any(a => a.Any(p => p.Literal?.Contains(column, StringComparison.OrdinalIgnoreCase) == true)) == true)
            || near.SelectMany(FieldNames.ReadIn).Any(n => IdentifierClassifier.SameName(n, column));
    }

    /// <summary>What is recognised depends on the column: it stands in the condition of the look-up, or code near it decides by it.</summary>
    public bool Depends(RecordUse use, string column) =>
        use.Terms.Other.Contains(column, StringComparer.OrdinalIgnoreCase)
        || new[] { use.In, use.Access.Function }.Concat(Callers(use.Access.Function)).Distinct().SelectMany(TestedNames.In).Any(n => IdentifierClassifier.SameName(n, column));

    /// <summary>Some code of the program looks at the column.</summary>
    public bool IsAskedSomewhere(Table table, string column) =>
        Own.Any(f => FieldNames.ReadIn(f).Any(n => IdentifierClassifier.SameName(n, column)))
        || access.Entries.SelectMany(e => e.Uses.Concat(e.OnTheWay)).Any(u => u.Access.Table.Equals(table.Name, StringComparison.OrdinalIgnoreCase) && u.Terms.Other.Contains(column, StringComparer.OrdinalIgnoreCase));

    private IEnumerable<IrFunction> Own => context.Program.Functions.Where(f => !f.IsBrought);

    private IEnumerable<IrFunction> Callers(IrFunction function)
    {
        var first = Own.Where(f => context.Flow.SummaryOf(f).Calls.Any(c => c.Target == function)).ToList();
        return first.Concat(Own.Where(f => context.Flow.SummaryOf(f).Calls.Any(c => first.Contains(c.Target))));
    }
}
