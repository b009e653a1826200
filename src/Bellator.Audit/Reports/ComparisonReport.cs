using System.Globalization;
using Bellator.Audit.Comparison;

namespace Bellator.Audit.Reports;

/// <summary>What became of findings since another version, as lines to read.</summary>
public static class ComparisonReport
{
    /// <param name="parts">What else is otherwise; null where the application of before is not known.</param>
    public static void Write(IReadOnlyList<ComparedFinding> compared, IReadOnlyList<PartChange>? parts, TextWriter output)
    {
        foreach (var state in (FindingState[])[FindingState.New, FindingState.Changed, FindingState.Moved, FindingState.Gone])
        {
            var those = compared.Where(c => c.State == state).ToList();
            if (those.Count == 0)
            {
                continue;
            }

            output.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{Title(state)} ({those.Count})"));
            foreach (var finding in those)
            {
                SummaryReport.Write((finding.After ?? finding.Before)!, output, Sign(state));
                if (state != FindingState.New || finding.Reason != FindingComparison.NothingAlike)
                {
                    output.WriteLine("        " + SummaryReport.Printable(finding.Reason) + (finding.Perhaps.Count > 0 ? ": " + SummaryReport.Printable(string.Join(", ", finding.Perhaps.Select(p => $"{p.Path}:{p.Region.StartLine}"))) : ""));
                }
            }

            output.WriteLine();
        }

        foreach (var part in (parts ?? []).GroupBy(p => p.Part))
        {
            output.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{char.ToUpperInvariant(part.Key[0])}{part.Key[1..]} ({part.Count()})"));
            foreach (var change in part)
            {
                output.WriteLine($"{(change.Kind == "added" ? '+' : change.Kind == "removed" ? '-' : '~')} {(change.IsWorse ? "!" : " ")} {SummaryReport.Printable(change.Subject)}{(change.Text.Length > 0 ? ": " + SummaryReport.Printable(change.Text) : "")}");
            }

            output.WriteLine();
        }

        output.WriteLine(Headline(compared));
    }

    /// <summary>How many there are of each, in a sentence.</summary>
    public static string Headline(IReadOnlyList<ComparedFinding> compared)
    {
        int Of(FindingState state) => compared.Count(c => c.State == state);
        return string.Create(CultureInfo.InvariantCulture, $"Since the baseline: {Of(FindingState.New)} new, {Of(FindingState.StillThere)} still there, {Of(FindingState.Moved)} moved, {Of(FindingState.Changed)} changed, {Of(FindingState.Gone)} gone.");
    }

    public static string Title(FindingState state) => state switch
    {
        FindingState.New => "New",
        FindingState.StillThere => "Still there",
        FindingState.Moved => "Moved",
        FindingState.Changed => "Changed",
        _ => "Gone",
    };

    public static string Of(LossKind kind) => kind switch
    {
        LossKind.Fixed => "fixed",
        LossKind.CodeGone => "the code went",
        LossKind.NotReached => "not reached any more",
        LossKind.Stated => "answered by a reviewer",
        _ => "can no longer be told",
    };

    private static char Sign(FindingState state) => state switch
    {
        FindingState.New => '+',
        FindingState.Gone => '-',
        FindingState.Moved => '>',
        _ => '~',
    };
}
