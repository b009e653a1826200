namespace Bellator.Storage.Reviews;

public sealed record ReviewRow(Guid Id, string Name, DateTimeOffset CreatedAt, int Snapshots, int ToJudge, int Findings);

public sealed record MemberRow(Guid Account, string Name, string Email, bool IsOwner);

public sealed record SnapshotRow(Guid Id, int Number, string Name, DateTimeOffset CreatedAt, int Files, long Lines);

public sealed record SnapshotFileRow(string Path, int Lines, string? SkipReason);

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
    DateTimeOffset? FinishedAt)
{
    public bool IsOver => State is not ("queued" or "running");
}

/// <summary>A finding as lists show it.</summary>
public sealed record FindingRow(long Id, string CheckId, string Area, string Certainty, decimal Score, string Path, int Line, string Message, string Fingerprint, string Verdict);

public sealed record VerdictRow(string Verdict, string Reason, string By, DateTimeOffset At);

/// <summary>What a list of findings is limited to; null or empty for no limit.</summary>
public sealed record FindingFilter(string? Area = null, string? Certainty = null, string? Verdict = null, decimal? MinimumScore = null, string? Text = null);
