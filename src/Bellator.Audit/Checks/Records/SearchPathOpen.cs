using Bellator.Audit.RowSecurity;

namespace Bellator.Audit.Checks.Records;

/// <summary>A function with its owner's rights looks names up where its caller says.</summary>
public sealed class SearchPathOpen : PolicyCheck
{
    public override string Id => "records/search-path-open";

    public override string Title => "SECURITY DEFINER function without a fixed search_path";

    public override IReadOnlyList<int> Cwes => [426, 269];

    public override IReadOnlyList<string> Asvs => ["V8.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "The function runs with its owner’s rights, but the caller’s search_path decides which tables and functions its names mean: a temporary table of the right name takes the place of the real one.";

    public override string FalsePositiveIf => "No role that can call it may create objects, temporary ones included, or every name in the body has its schema.";

    public override string HowToFix(string language) => "Add SET search_path = the schemas it needs, pg_temp last, to the function.";

    protected override IEnumerable<Finding> Run(CheckContext context, RowSecurityModel model, PolicyTerms terms) =>
        model.Functions.Values.Where(f => f is { IsDefiner: true, HasSearchPath: false })
            .Select(f => Found(f.At, $"{f.Name}() runs with its owner’s rights, but looks its names up in the search_path of whoever calls it.", f.Name, Certainty.Matched));
}
