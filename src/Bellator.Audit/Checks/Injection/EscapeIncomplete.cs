using Bellator.Analysis.Queries;

namespace Bellator.Audit.Checks.Injection;

/// <summary>A replacement that should make a sign harmless puts it back, or stops after the first.</summary>
public sealed class EscapeIncomplete : Check
{
    public override string Id => "injection/escape-incomplete";

    public override string Title => "Incomplete escaping";

    public override IReadOnlyList<int> Cwes => [116];

    public override IReadOnlyList<string> Asvs => ["V1.1.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:L/I:L/A:N";

    public override string Why => "The result looks escaped, but still contains the character that ends the string, identifier or tag.";

    public override string FalsePositiveIf => "The value can hold only one such character, or the result never stands where that character matters.";

    public override string HowToFix(string language) => language switch
    {
        "javascript" => "Replace every occurrence, with something else: value.replaceAll(']', ']]'). Better, bind values and use the driver's function for names.",
        _ => "Replace every occurrence, with something else. Better, bind values and use the driver's function for names.",
    };

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        // A chain of replacements is one thing to mend.
        foreach (var found in context.Functions.SelectMany(f => IncompleteEscapes.In(f, context.Words).GroupBy(e => e.ChangesNothing)))
        {
            var places = found.OrderBy(e => e.At.Start).ThenBy(e => e.At.End).ToList();
            var signs = string.Join(" and ", places.Select(e => $"“{e.Sign}”").Distinct().Take(3));
            yield return new Finding
            {
                Check = this,
                At = places[0].At,
                Certainty = Certainty.Matched,
                Message = found.Key ? $"{signs} is replaced by itself: the call changes nothing." : $"Only the first {signs} is replaced; those behind it stay as they are.",
                Related = [.. places.Skip(1).Select(e => e.At)],
                Subject = signs,
            };
        }
    }
}
