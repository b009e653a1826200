using Bellator.Audit.Auditing;

namespace Bellator.Web.Presentation;

/// <summary>Places in the code that show something, with the lines around each.</summary>
/// <param name="None">What is said where there is no code to show.</param>
public sealed record EvidencePlaces(Guid Review, IReadOnlyList<(ReportedEvidence Evidence, IReadOnlyList<CodeLine> Lines)> Places, string None)
{
    public string FileLink(ReportedPlace place) => $"/reviews/{Review}/file?path={Uri.EscapeDataString(place.Path)}#L{place.Region.StartLine}";
}
