namespace Bellator.Analysis.Libraries;

/// <summary>A call, or a member that is set, by which a program says what kind of content its answer is.</summary>
public sealed class AnnouncedModel
{
    /// <summary>The argument with the kind: a media type, or a file's ending.</summary>
    public int? Kind { get; set; }

    /// <summary>The argument with the name of a header; only Content-Type says the kind.</summary>
    public int? Header { get; set; }

    /// <summary>The argument with headers by their names.</summary>
    public int? Headers { get; set; }
}
