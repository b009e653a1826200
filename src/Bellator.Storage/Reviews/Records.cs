namespace Bellator.Storage.Reviews;

/// <param name="WorstOpen">The weakness of the first cause, by rank, whose kind has findings that nobody judged.</param>
public sealed record ReviewRow(Guid Id, string Name, DateTimeOffset CreatedAt, int Snapshots, int ToJudge, int Findings, string? WorstOpen);

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
public sealed record FindingRow(long Id, string CheckId, string Area, string Certainty, decimal Score, string Path, int Line, string Message, string Fingerprint, string Verdict, int Position)
{
    /// <summary>What became of it since the run before: new, still there, moved, changed or back; null for the first run of a review.</summary>
    public string? State { get; init; }

    /// <summary>Endpoints that reach it without sign-in.</summary>
    public int OpenWays { get; init; }

    /// <summary>All endpoints that reach it, as far as they are known.</summary>
    public int Ways { get; init; }

    /// <summary>Where its value comes in.</summary>
    public string SourcePath { get; init; } = "";

    public int SourceLine { get; init; }

    public int? Cause { get; init; }
}

/// <param name="CutCount">How many of the flows one change at the cut mends.</param>
/// <param name="Kind">place, helper, missing, column or template.</param>
/// <param name="Judged">How many of the flows have a verdict.</param>
/// <param name="Entries">Endpoints that it is reached from, each with its method, path and need of sign-in, open ones first; not all of them.</param>
/// <param name="Flows">The first of them.</param>
public sealed record CauseRow(int Number, string CheckId, string SinkPath, int SinkLine, string CutPath, int CutLine, int CutCount, int FlowCount, string Kind, decimal Score, string Certainty, int OpenWays, IReadOnlyList<string> Entries, string RankReason, int Judged, IReadOnlyList<FindingRow> Flows);

/// <param name="By">Null for what Bellator itself opened again.</param>
/// <param name="Batch">The judgement of several at once that it was part of.</param>
/// <param name="Until">The last day of an accepted risk.</param>
public sealed record VerdictRow(long Id, string Verdict, string Reason, string? By, DateTimeOffset At, Guid? Batch, DateOnly? Until, bool IsUndone);

public sealed record NoteRow(long Id, string Text, string By, DateTimeOffset At);

public sealed record SavedFilterRow(string Name, string Query, string By);

/// <param name="Kind">fixed, codeGone, notReached, cannotTell or stated.</param>
/// <param name="BeforeId">The finding in the run before.</param>
public sealed record GoneRow(string Fingerprint, string Kind, string Reason, string? AtPath, int? AtLine, string CheckId, decimal Score, string Path, int Line, string Message, long? BeforeId, string Verdict);

/// <summary>Something that a reviewer states of the code.</summary>
/// <param name="Facts">As a facts file.</param>
/// <param name="Fingerprint">The finding over which it came up.</param>
/// <param name="State">proposed, kept or off.</param>
/// <param name="Answers">How many findings it answered when it was tried.</param>
/// <param name="Trial">The run that tries it, or tried it last.</param>
public sealed record FactRow(long Id, string Title, string Facts, string Reason, string? Fingerprint, string State, string By, DateTimeOffset At, string? DecidedBy, DateTimeOffset? DecidedAt, int Answers, Guid? Trial);

public sealed record QuestionRow(string Fingerprint, long FindingId, string CheckId, string Place, IReadOnlyList<(string Fingerprint, string Place)> Candidates);

/// <summary>What a list of findings is limited to; null or empty for no limit.</summary>
public sealed record FindingFilter(string? Area = null, string? Certainty = null, string? Verdict = null, decimal? MinimumScore = null, string? Text = null)
{
    /// <summary>new, still there, moved, changed or back.</summary>
    public string? State { get; init; }

    public Guid? AssignedTo { get; init; }

    public bool IsUnassigned { get; init; }

    /// <summary>What is new, or was judged, since then.</summary>
    public DateTimeOffset? Since { get; init; }

    public int? Cause { get; init; }

    /// <summary>Only the area, if anything, is chosen: its counts are kept.</summary>
    public bool IsArea => string.IsNullOrEmpty(Certainty) && string.IsNullOrEmpty(Verdict) && MinimumScore is null && string.IsNullOrWhiteSpace(Text) && string.IsNullOrEmpty(State) && AssignedTo is null && !IsUnassigned && Since is null && Cause is null;
}
