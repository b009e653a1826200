using Bellator.Analysis.Domain;

namespace Bellator.Audit.Checks.Exposure;

/// <summary>The answer to a request tells by which way an error came.</summary>
public sealed class ErrorDetails : Check
{
    public override string Id => "exposure/error-details";

    public override string Title => "Error details in a response";

    public override IReadOnlyList<int> Cwes => [209, 497];

    public override IReadOnlyList<string> Asvs => ["V16.5.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:L/I:N/A:N";

    public override string Why => "A stack trace names files, libraries and their versions, and sometimes values. It shows an attacker which weaknesses to try, and whether a try went wrong in an interesting place.";

    public override string FalsePositiveIf => "The answer is only given to people who may see the program's inside, in code that was not read.";

    public override string HowToFix(string language) => "Write the details to the log, and answer with a general text and a number under which the log entry is found.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var happening in context.EventsAt("response").Concat(context.EventsAt("page")))
        {
            var value = happening.Role("value");
            var detail = FieldAccess.DeepTaints(value).FirstOrDefault(t => t.Origin.Kind == OriginKind.Error && t.Safe != OutputContext.All);
            if (detail is not null)
            {
                yield return new Finding
                {
                    Check = this,
                    At = happening.At,
                    Certainty = detail.Guessed || happening.Guessed ? Certainty.Matched : Certainty.Traced,
                    Message = $"The way by which an error came (“{detail.Origin.Name}”) is part of the answer.",
                    Steps = CheckContext.Steps(detail, happening, "answered"),
                    Subject = detail.Origin.Name ?? "",
                };
            }
        }
    }
}
