using System.Security.Cryptography;
using System.Text;
using Bellator.Audit.Checks;
using Bellator.Audit.Tables;
using Bellator.Audit.Witnesses;
using Bellator.Text;

namespace Bellator.Audit.Auditing;

/// <summary>A finding with its places turned into lines and columns, independent of the audit that made it.</summary>
public sealed record ReportedFinding(
    string CheckId,
    string Area,
    Certainty Certainty,
    string Message,
    string Path,
    Region Region,
    string Language,
    IReadOnlyList<int> Cwes,
    double Score,
    IReadOnlyList<ReportedStep> Steps,
    IReadOnlyList<ReportedPlace> Related,
    string Fingerprint,
    Witness? Witness = null,
    FindingTraits? Traits = null)
{
    /// <summary>Endpoints from which it is reached, those that are open to anybody first; not all of them need be listed.</summary>
    public IReadOnlyList<ReportedWay> Ways { get; init; } = [];

    public int WayCount { get; init; }

    /// <summary>How many of them need no sign-in, as far as the code shows.</summary>
    public int OpenWayCount { get; init; }

    public Check Check => CheckList.Find(CheckId) ?? throw new InvalidOperationException("no such check: " + CheckId);
}

/// <param name="SignIn">needed, notNeeded or unclear, as for <see cref="ReportedEntry"/>.</param>
public sealed record ReportedWay(string Method, string Path, string SignIn)
{
    /// <summary>Who gets there, in words.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public string Who => SignIn == "needed" ? "signed in" : SignIn == "unclear" ? "unclear whether sign-in is needed" : "open to anybody";
}

public sealed record ReportedStep(string Kind, string Note, string Path, Region Region);

public sealed record ReportedPlace(string Path, Region Region);

/// <summary>Something that could not be audited as it should, for the reviewer to know.</summary>
public sealed record AuditNote(string Path, string Text);

public sealed record AuditFigures(int Files, long Lines, long Nodes, long OpaqueNodes, long ParseErrors, int Functions, int BoundedFunctions, TimeSpan ParseTime, TimeSpan TotalTime);

/// <summary>All that an audit found out.</summary>
public sealed record AuditResult(
    string Name,
    IReadOnlyList<ReportedFinding> Findings,
    IReadOnlyList<SkippedFile> Skipped,
    IReadOnlyList<AuditNote> Notes,
    AuditFigures Figures)
{
    /// <summary>The tables that the material declares.</summary>
    public DatabaseSchema Schema { get; init; } = DatabaseSchema.Empty;

    /// <summary>What the application is.</summary>
    public ReportedApplication About { get; init; } = new(ReportedSurface.Empty);

    public ReportedSurface Surface => About.Surface;

    public ReportedRecords Records => About.Records ?? ReportedRecords.Empty;

    public ReportedSessions Sessions => About.Sessions ?? ReportedSessions.Empty;

    public ReportedAccounts Accounts => About.Accounts ?? ReportedAccounts.Empty;
}

/// <summary>Makes fingerprints that stay the same while other parts of the file change.</summary>
internal sealed class Fingerprints(SourceTree tree)
{
    private readonly Dictionary<string, int> _seen = new(StringComparer.Ordinal);

    public string Of(Finding finding)
    {
        var file = tree.Files[finding.At.File];
        var line = string.Concat(file.Line(file.LineOf(finding.At.Start)).Where(c => !char.IsWhiteSpace(c)));
        var text = string.Join('\n', finding.Check.Id, file.Path, finding.Subject, line);

        // Equal lines in one file are told apart by their order.
        var count = _seen[text] = _seen.GetValueOrDefault(text) + 1;
        var hash = SHA256.HashData(Encoding.UTF8.GetBytes(text + "\n" + count));
        return Convert.ToHexStringLower(hash.AsSpan(0, 16));
    }
}
