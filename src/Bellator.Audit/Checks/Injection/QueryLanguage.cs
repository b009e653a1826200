using Bellator.Analysis.Events;

namespace Bellator.Audit.Checks.Injection;

/// <summary>A request value stands in a query over objects, which a mapper turns into SQL.</summary>
public sealed class QueryLanguage : StatementCheck
{
    public override string Id => "injection/query-language";

    public override string Title => "Query-language injection";

    public override IReadOnlyList<int> Cwes => [564, 89];

    public override IReadOnlyList<string> Asvs => ["V1.2.4"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:L/A:L";

    public override string Why =>
        "A mapper's query language is no protection by itself: the text is parsed like a statement, and a visitor who ends the value early adds conditions of their own, reads other people's records or sorts by columns that are kept from them.";

    public override string FalsePositiveIf =>
        "The value can only be one of a few the program chose, or is a number, and the test for that lies outside of the code that was read.";

    public override string HowToFix(string language) => language switch
    {
        "csharp" => "Bind the value: query.SetParameter(\"name\", name). A property name or sort direction cannot be bound: choose it with a switch.",
        _ => "Bind the value: ->where('h.name = :name')->setParameter('name', $name). A property name or sort direction cannot be bound: choose it from a fixed list, such as $columns[$sort] ?? 'h.name'.",
    };

    protected override string What => "a mapper's query";

    protected override bool Covers(AnalysisEvent happening) => happening.Fact?.Query?.Objects == true;
}
