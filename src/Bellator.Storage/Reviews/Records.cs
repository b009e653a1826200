namespace Bellator.Storage.Reviews;

public sealed record ReviewRow(Guid Id, string Name, DateTimeOffset CreatedAt, int Snapshots, int ToJudge, int Findings);

public sealed record MemberRow(Guid Account, string Name, string Email, bool IsOwner);

public sealed record SnapshotRow(Guid Id, int Number, string Name, DateTimeOffset CreatedAt, int Files, long Lines, int LeftOut);

public sealed record SnapshotFileRow(string Path, int Lines);

/// <summary>Something that was handed in and not taken, and why.</summary>
public sealed record LeftOutRow(string Path, string Reason);

/// <param name="State">reading, done, refused, cancelled or interrupted.</param>
public sealed record IntakeRow(Guid Id, string Name, string State, int FilesDone, long BytesDone, string? Message, DateTimeOffset CreatedAt)
{
    public bool IsOver => State != "reading";
}

/// <param name="LeftOut">Files that an audit hung or died over, and that were left out of the next try.</param>
public sealed record RunRow(
    Guid Id,
    Guid Snapshot,
    string State,
    string Stage,
    float Share,
    int FilesDone,
    int FilesTotal,
    int Findings,
    string? Error,
    DateTimeOffset CreatedAt,
    DateTimeOffset? FinishedAt,
    IReadOnlyList<string> LeftOut)
{
    public bool IsOver => State is not ("queued" or "running");
}

/// <summary>A finding as lists show it.</summary>
/// <param name="Position">Its place in the run, most serious first.</param>
public sealed record FindingRow(long Id, string CheckId, string Area, string Certainty, decimal Score, string Path, int Line, string Message, string Fingerprint, string Verdict, int Position);

/// <summary>A finding as one flow of a cause.</summary>
public sealed record FlowRow(FindingRow Finding, string SourcePath, int SourceLine);

/// <param name="CutCount">How many of the flows one change at the cut mends.</param>
/// <param name="Flows">The first of them.</param>
public sealed record CauseRow(int Number, string CheckId, string SinkPath, int SinkLine, string CutPath, int CutLine, int CutCount, int FlowCount, IReadOnlyList<FlowRow> Flows);

public sealed record VerdictRow(string Verdict, string Reason, string By, DateTimeOffset At);

/// <summary>What a list of findings is limited to; null or empty for no limit.</summary>
public sealed record FindingFilter(string? Area = null, string? Certainty = null, string? Verdict = null, decimal? MinimumScore = null, string? Text = null)
{
    /// <summary>Only the area, if anything, is chosen: its counts are kept.</summary>
    public bool IsArea => string.IsNullOrEmpty(Certainty) && string.IsNullOrEmpty(Verdict) && MinimumScore is null && string.IsNullOrWhiteSpace(Text);
}
