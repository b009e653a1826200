using Bellator.Analysis.Queries;

namespace Bellator.Audit.Checks.Injection;

/// <summary>Whether a path lies in a folder is told by its beginning, without the separator behind the folder's name.</summary>
public sealed class FolderPrefix : Check
{
    public override string Id => "injection/path-prefix-open";

    public override string Title => "Path prefix check without a separator";

    public override IReadOnlyList<int> Cwes => [22, 23];

    public override IReadOnlyList<string> Asvs => ["V5.3.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:L/I:L/A:N";

    public override string Why => "A resolved path has no trailing separator. Everything with the same prefix passes: for /srv/data, so do /srv/data-old and /srv/database.txt.";

    public override string FalsePositiveIf => "No sibling of the folder can begin with its name, or nobody outside can choose the path.";

    public override string HowToFix(string language) => language switch
    {
        "python" => "Compare os.path.commonpath([folder, path]) with the folder, or ask path.is_relative_to(folder).",
        "csharp" => "Add Path.DirectorySeparatorChar to the folder before the comparison.",
        _ => "Add a separator to the folder's name before the comparison.",
    };

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var place in context.Functions.SelectMany(f => FolderTests.WithoutSeparator(f, context.Words)))
        {
            yield return new Finding
            {
                Check = this,
                At = place,
                Certainty = Certainty.Matched,
                Message = "The check accepts any path that starts with the folder's name, so siblings whose names begin the same way pass too.",
            };
        }
    }
}
