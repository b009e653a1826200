using Bellator.Audit.Auditing;
using Bellator.Text;

namespace Bellator.Audit.Reports;

/// <summary>Reasons for leaving a file out, in words.</summary>
public static class SkipText
{
    public static string Of(SkippedFile file) => Of(file.Reason) + (file.Detail.Length > 0 ? $" ({file.Detail})" : "");

    public static string Of(SkipReason reason) => reason switch
    {
        SkipReason.UnknownLanguage => "no reader for this kind of file",
        SkipReason.Vendored => "other people's code, brought along",
        SkipReason.Generated => "made by a program",
        SkipReason.Minified => "packed for delivery",
        SkipReason.Test => "a test",
        SkipReason.Binary => "not text",
        SkipReason.TooLarge => "too large",
        SkipReason.Unreadable => "cannot be read",
        SkipReason.SymbolicLink => "a link, which could lead out of the folder",
        SkipReason.UnsafePath => "a path that is not safe",
        SkipReason.SamePath => "another entry of the archive has the same path, and that one was taken",
        SkipReason.NoFile => "a pipe, socket or device and no file",
        SkipReason.Encrypted => "encrypted, so it could not be read",
        SkipReason.Damaged => "damaged",
        _ => "the limit on files or size was reached",
    };
}

/// <summary>What happens at a step of a trace, in words.</summary>
public static class StepText
{
    public static string Of(ReportedStep step) => Of(step.Kind, step.Note);

    public static string Of(string kind, string note) => kind switch
    {
        "source" => "comes in with the request",
        "parameter" => note.Length > 0 ? $"given as “{note}”" : "given to the function",
        "passed" => note.Length > 0 ? $"handed to {note}" : "handed on",
        "changed" => note.Length > 0 ? $"changed by {note}" : "changed",
        "escaped" => "escaped",
        "hashed" => note.Length > 0 ? $"turned into {note}" : "hashed",
        "checked" => "checked",
        "joined" => "put into the text",
        "kept" => "kept",
        "guessed" => note.Length > 0 ? $"goes into {note}, which was not found; that it comes out again is a guess" : "goes into something that was not found; that it comes out again is a guess",
        "sink" => note.Length > 0 ? note : "used",
        _ => note,
    };
}
