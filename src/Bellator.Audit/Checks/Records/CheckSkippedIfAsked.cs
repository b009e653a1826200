using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Interpreter;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;
using Bellator.Text;

namespace Bellator.Audit.Checks.Records;

/// <summary>What the request says about itself lets it past the comparison with the person.</summary>
public sealed class CheckSkippedIfAsked : RecordCheck
{
    public override string Id => "records/check-skipped-if-asked";

    public override string Title => "Ownership check skipped if the request says so";

    public override IReadOnlyList<int> Cwes => [639, 807, 269, 862];

    public override IReadOnlyList<string> Asvs => ["V8.2.2", "V8.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "Everything in a request is chosen by whoever sends it, also what it says about rights: one parameter more, and nobody is refused.";

    public override string FalsePositiveIf => "What the request says is itself held against something the server knows, in code that was not understood.";

    public override string HowToFix(string language) => "Decide by what the server knows of the person: the role in the account, a membership; leave the request out of the condition.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var told = new HashSet<Location>();
        foreach (var entry in Entries(context).Where(e => e.Uses.Count > 0 && e.Entry.Guards.All(g => g.Asks != Requirement.Role)))
        {
            foreach (var decision in entry.Decisions.Where(d => d is { IsGuess: false } && d.Happening.Roles.ContainsKey(FunctionAnalyzer.UnlessAsked) && IsAboutWho(context, d.Happening)))
            {
                if (decision.Happening.Role(FunctionAnalyzer.UnlessAsked).Taints.FirstOrDefault(t => t.Origin is { Kind: OriginKind.Request, Name: { Length: > 0 } name } && !context.Words.IsSecretToken(name) && !context.Words.IsPassword(name)) is not { } taint || !told.Add(decision.Happening.At))
                {
                    continue;
                }

                yield return new Finding
                {
                    Check = this,
                    At = decision.Happening.At,
                    Certainty = CheckContext.CertaintyOf(taint, decision.Happening.Guessed),
                    Message = $"{Address(entry.Entry)}: with {CheckContext.Describe(taint.Origin)} set accordingly, the comparison with the signed-in user is skipped, so that {Who(entry)} gets past it.",
                    Steps = CheckContext.Steps(taint, decision.Happening, "lets the request past the check"),
                    Related = [entry.Entry.At],
                    Subject = taint.Origin.Name!,
                };
            }
        }
    }

    /// <summary>What is compared is who the person is, by a key; a name that is typed again to confirm is none.</summary>
    private static bool IsAboutWho(CheckContext context, AnalysisEvent decision) =>
        decision.Role("left").Taints.Concat(decision.Role("right").Taints).Any(t => t.Origin is { Kind: OriginKind.Subject } origin && (origin.Name is null or "" || context.Words.IsRecordKey(origin.Name) || context.Words.IsKeyName(origin.Name)));
}
