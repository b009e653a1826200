using Bellator.Audit.Auditing;
using Bellator.Text;

namespace Bellator.Audit.Comparison;

/// <summary>The code of one version, as far as a comparison asks for it.</summary>
/// <param name="Paths">All files of it.</param>
/// <param name="Read">The file with a path; null if there is none, or its content was not kept.</param>
/// <param name="Unread">Files that were left out or could not be audited as they should.</param>
public sealed record CodeVersion(IReadOnlyList<string> Paths, Func<string, SourceFile?> Read, IReadOnlySet<string> Unread)
{
    public static readonly CodeVersion Unknown = new([], _ => null, new HashSet<string>());

    public static CodeVersion Of(SourceTree tree, IReadOnlyList<AuditNote> notes)
    {
        var files = tree.Files.ToDictionary(f => f.Path, StringComparer.Ordinal);
        return new CodeVersion([.. files.Keys], p => files.GetValueOrDefault(p), notes.Select(n => n.Path).Concat(tree.Skipped.Select(s => s.Path)).Where(p => p.Length > 0).ToHashSet(StringComparer.Ordinal));
    }
}
