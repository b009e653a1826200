using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Tables;
using Bellator.Audit.Witnesses;
using Bellator.Syntax;

namespace Bellator.Audit.Checks.Injection;

/// <summary>The request decides which columns of a record are set.</summary>
public sealed class MassAssignment : Check
{
    public override string Id => "injection/mass-assignment";

    public override string Title => "Mass assignment";

    public override IReadOnlyList<int> Cwes => [915];

    public override IReadOnlyList<string> Asvs => ["V15.3.3"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why =>
        "A request can carry more fields than the form shows. Whatever the record has that the form does not, such as a role, an owner or a flag, can be set by adding it.";

    public override string FalsePositiveIf => "The model itself accepts only harmless columns, or a schema removes unknown fields, in code that was not read.";

    public override string HowToFix(string language) => language switch
    {
        "php" => "Name the fields: $user->fill($request->only(['name', 'phone'])), and list only harmless ones in $fillable.",
        "ruby" => "Permit named fields only: params.require(:member).permit(:name, :phone), without roles or owners.",
        "csharp" => "Bind to a class that has only the fields of the form, and copy them one by one.",
        "python" => "Copy named fields from a form or schema; in Django list fields in ModelForm, never '__all__'.",
        _ => "Take named fields out of the body: const { name, phone } = req.body, and save only those.",
    };

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var filled in new FilledRecords(context.Program, context.Words, (model, column) => context.Schema.OfModel(model) is { } table && (context.Owners.SaysWhose(table.Name, column) || context.Owners.SaysWhose(table.Name, column + "_id"))).All())
        {
            yield return new Finding
            {
                Check = this,
                At = filled.At,
                Certainty = Certainty.Matched,
                Message = $"Every column of {filled.Record} can be set, “{filled.Column}” among them.",
                Witness = ValueWitness.Assignment(filled.Column),
                Subject = filled.Column,
            };
        }

        foreach (var happening in context.EventsAt("assign"))
        {
            var value = happening.Role("value");
            var (isListed, settable) = ListedByModel(context, happening.Role("model"));
            if (isListed && settable is null)
            {
                continue;
            }

            var declared = Members(context, value);
            var whole = value.Taints.FirstOrDefault(t => t.Origin.Kind == OriginKind.Request && (declared is not null || (t.Safe & OutputContext.Object) == 0) && value.Text is null);
            if (whole is not null && declared is { } members)
            {
                // A declared type: what it has can be set, and nothing else.
                if ((members.Find(context.Words.IsSensitiveColumn) ?? members.Find(m => IsOwner(context, value, m))) is { } sensitive && !MeantFor(context, happening))
                {
                    yield return Found(happening, whole, $"The request fills the record itself, and so can set its “{sensitive}”.", "");
                }

                continue;
            }

            if (whole is not null && settable is not null)
            {
                if (context.Owners.IsTenant(TableOf(context, happening.Role("model")) ?? "", settable) || !MeantFor(context, happening))
                {
                    yield return Found(happening, whole, $"The request fills the record itself, and so can set its “{settable}”, which the model lists as settable.", "");
                }

                continue;
            }

            if (whole is not null)
            {
                yield return Found(happening, whole, "The fields of the record are whatever the request brings" + Named(context, happening.Role("model")) + ".", "");
                continue;
            }

            foreach (var (name, field) in value.Fields ?? new Dictionary<string, AbstractValue>())
            {
                if (DecidesOnRights(context, happening, name) && field.Taints.FirstOrDefault(t => t.Origin.Kind == OriginKind.Request && (t.Safe & OutputContext.SqlString) == 0) is { } taint)
                {
                    yield return Found(happening, taint, $"The request can set “{name}” of the record.", name);
                }
            }
        }
    }

    /// <summary>The members of the program's class that a value is declared to be; null if it is of none.</summary>
    private static List<string>? Members(CheckContext context, AbstractValue value)
    {
        if (value.Types.FirstOrDefault(t => t[0] == '#') is not { } type)
        {
            return value.Types.FirstOrDefault(t => t[0] == '&') is { } record && context.Schema.OfModel(record[1..]) is { Columns.Count: > 0 } table ? table.Columns.ConvertAll(c => c.Name) : null;
        }

        var members = new List<string>();
        for (var at = context.Program.ClassOfType(type)!.Primary; at is not null; at = context.Program.BaseOf(at)?.Primary)
        {
            members.AddRange(at.Fields.Select(f => f.Name));
        }

        return members;
    }

    /// <summary>The name of the record's class, as far as the type of a value tells it.</summary>
    private static string? RecordName(CheckContext context, string type) => type[0] == '&' ? type[1..] : context.Program.ClassOfType(type)?.ShortName;

    /// <summary>The column says whose the record is: elsewhere rows of the kind are limited by it.</summary>
    private static bool IsOwner(CheckContext context, AbstractValue value, string column) =>
        value.Types.Select(t => RecordName(context, t)).OfType<string>()
            .Any(n => !context.Words.IsRecordKey(column) && (context.Access.Owned(context.Schema.OfModel(n)?.Name ?? n)?.Columns.Contains(column) ?? false));

    /// <summary>Only people with a role come there: a column that is named for them is theirs to set.</summary>
    private static bool MeantFor(CheckContext context, AnalysisEvent happening)
    {
        var entries = context.Accounts.Surface.HandledBy(happening.Function).ToList();
        return entries.Count > 0 && entries.TrueForAll(e => e.Guards.Any(g => g.Asks == Requirement.Role));
    }

    /// <summary>The columns of the record's table that decide about rights, the sensitive ones first.</summary>
    private static string Named(CheckContext context, AbstractValue model)
    {
        var name = model.Types.Select(t => RecordName(context, t)).FirstOrDefault(t => t is not null)
            ?? model.Targets.OfType<IrClass>().FirstOrDefault()?.ShortName;
        var columns = name is null ? [] : context.Schema.OfModel(name)?.Columns.Select(c => c.Name).Where(context.Words.IsSensitiveColumn).Take(4).ToList() ?? [];
        return columns.Count == 0 ? "" : $", {string.Join(", ", columns.Select(c => $"“{c}”"))} among them";
    }

    /// <summary>The column says what somebody may do, or elsewhere in the code whose a record is.</summary>
    private static bool DecidesOnRights(CheckContext context, AnalysisEvent happening, string column)
    {
        if (TableOf(context, happening.Role("model")) is { } table && context.Owners.IsTenant(table, column))
        {
            return true;
        }

        return !MeantFor(context, happening)
            && (context.Words.IsSensitiveColumn(column) || (TableOf(context, happening.Role("model")) is { } owned && context.Owners.IsHeld(owned, column)));
    }

    private static string? TableOf(CheckContext context, AbstractValue model) =>
        (model.Types.Select(t => RecordName(context, t)).FirstOrDefault(t => t is not null) ?? model.Targets.OfType<IrClass>().FirstOrDefault()?.ShortName) is { } name ? context.Schema.OfModel(name)?.Name ?? name : null;

    /// <summary>Whether the model itself lists the columns that may be set this way, and the one of them that decides about rights or says whose it is.</summary>
    private static (bool IsListed, string? Settable) ListedByModel(CheckContext context, AbstractValue model)
    {
        foreach (var type in model.Types.Where(t => t[0] == '#'))
        {
            var fields = context.Program.ClassOfType(type)!.Fields;
            if (fields.FirstOrDefault(f => context.Words.IsAllowListField(f.Name))?.Value is ObjectLiteral listed)
            {
                var table = TableOf(context, model) ?? "";
                return (true, listed.Entries.Select(e => (e.Value as Literal)?.Text).OfType<string>().FirstOrDefault(c => context.Words.IsSensitiveColumn(c) || context.Owners.SaysWhose(table, c)));
            }
        }

        return (false, null);
    }

    private Finding Found(AnalysisEvent happening, Taint taint, string message, string subject) => new()
    {
        Check = this,
        // Where the fields were chosen, if they were.
        At = subject.Length > 0 && taint.Trace.Steps().LastOrDefault(s => s.Kind == StepKind.Checked) is { } chosen ? chosen.At : happening.Place,
        Certainty = CheckContext.CertaintyOf(taint, happening.Guessed),
        Witness = ValueWitness.Assignment(subject.Length > 0 ? subject : null),
        Message = message,
        Steps = CheckContext.Steps(taint, happening, "saved as a record"),
        Related = [happening.At],
        Subject = subject,
    };
}
