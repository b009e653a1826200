using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Queries;
using Bellator.Audit.Witnesses;

namespace Bellator.Audit.Checks.Injection;

/// <summary>Where a text was meant, the request can put an object whose keys are operators of the query.</summary>
public sealed class FilterOperator : SinkCheck
{
    public override string Id => "injection/nosql-operator";

    public override string Title => "NoSQL operator injection";

    public override IReadOnlyList<int> Cwes => [943];

    public override IReadOnlyList<string> Asvs => ["V1.2.4"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:H/A:N";

    public override string Why =>
        "A JSON body or a bracketed form field can be an object such as {\"$ne\": null}. The database takes its keys for operators: the condition then holds for records that were not meant, a password or token check for every record.";

    public override string FalsePositiveIf => "The shape of the request is checked by a schema, or operators are removed by a middleware, in code that was not read.";

    protected override string Kind => "filter";

    protected override string Happens => "is part of a query's filter and may be an object with operators";

    protected override string LastStep => "used as a filter";

    public override string HowToFix(string language) => language switch
    {
        "python" => "Make it text, str(value), or check the type before the query.",
        "php" => "Make it text, (string) $value, before the query.",
        _ => "Make it text, String(value), refuse anything but a string, or check the body with a schema before the query. With Mongoose also set sanitizeFilter.",
    };

    protected override Witness? WitnessFor(AnalysisEvent happening, AbstractValue value, Taint taint) => happening.Sink!.Presumed ? null : ValueWitness.Operator(taint);

    /// <summary>Where the program works on tables and on no document store, what only looks like a filter is a mapper's.</summary>
    protected override IEnumerable<AnalysisEvent> Places(CheckContext context)
    {
        var places = base.Places(context).ToList();
        var modules = places.Exists(e => e.Sink!.Presumed) ? ImportedModules.Of(context.Program) : [];
        return modules.Any(context.Words.IsTableModule) && !modules.Any(context.Words.IsDocumentModule) ? places.Where(e => !e.Sink!.Presumed) : places;
    }

    /// <summary>Path parts, headers and texts put together are never objects.</summary>
    protected override bool IsOpen(AnalysisEvent happening, AbstractValue value, Taint taint) =>
        taint.Origin.Part is "body" or "query" or "form" or "input" && value.Text is null && (taint.Safe & OutputContext.Object) == 0;

    protected override IReadOnlyList<Taint> TaintsOf(AnalysisEvent happening, AbstractValue value)
    {
        var taints = value.Taints;
        foreach (var (name, field) in value.Fields ?? new Dictionary<string, AbstractValue>())
        {
            // Text that was put together is text; objects inside (operators the program chose) are looked into once.
            // With "$eq" the program says that a value is meant, whatever it is.
            taints = field.Text is not null || name == "$eq" || (field.Fields?.ContainsKey("$eq") ?? false) ? taints : AbstractValue.Union(taints, field.Fields is null ? field.Taints : FieldAccess.DeepTaints(field));
        }

        return taints;
    }
}
