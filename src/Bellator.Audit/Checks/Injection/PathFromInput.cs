using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Witnesses;

namespace Bellator.Audit.Checks.Injection;

/// <summary>A request value becomes part of a file name.</summary>
public sealed class PathFromInput : SinkCheck
{
    public override string Id => "injection/path";

    public override string Title => "Path traversal";

    public override IReadOnlyList<int> Cwes => [22, 73];

    public override IReadOnlyList<string> Asvs => ["V5.3.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:L/A:N";

    public override string Why =>
        "Two dots and a slash lead out of the folder that was meant, to the program itself, its settings and secrets; where files are written, to new code.";

    public override string FalsePositiveIf => "The name is looked up in a list of known files, or the resolved path is compared with the folder in code that was not read.";

    protected override string Kind => "path";

    protected override string Happens => "becomes part of a file name without being kept inside its folder";

    protected override string LastStep => "used as a file name";

    public override string HowToFix(string language) => language switch
    {
        "php" => "Take basename($name), or resolve with realpath() and compare the start with the folder and a slash.",
        "python" => "Use werkzeug.utils.safe_join or secure_filename, or resolve the path and ask is_relative_to(folder).",
        "ruby" => "Take File.basename(name), or expand the path and ask whether it starts with the folder and a slash.",
        "csharp" => "Take Path.GetFileName(name), or compare Path.GetFullPath(path) with the folder and a separator.",
        _ => "Take path.basename(name), or resolve the path and compare its start with the folder and a separator.",
    };

    /// <summary>Behind a scheme it is part of an address, and no file's name.</summary>
    protected override bool IsOpen(AnalysisEvent happening, AbstractValue value, Taint taint) =>
        value.Text is not { } text || text.Alternatives.Any(a => a.Any(p => p.IsHole && p.Taints.Any(taint.SameAs)) && !a.TakeWhile(p => !p.IsHole || !p.Taints.Any(taint.SameAs)).Any(p => p.Literal?.Contains("://", StringComparison.Ordinal) ?? false));

    protected override Witness? WitnessFor(AnalysisEvent happening, AbstractValue value, Taint taint) => ValueWitness.File(value, taint);
}
