using Bellator.Audit.Auditing;
using Bellator.Text;

namespace Bellator.Core.Tests;

/// <summary>Bellator's own source, and code that others keep well, under its own audit.</summary>
public sealed class OwnSourceTests
{
    [Fact]
    public void Our_own_source_is_clean()
    {
        var tree = SourceLoader.Load(Path.Combine(Folders.Home, "src"), SourceLimits.Default);
        var result = AuditPipeline.Run(tree, new AuditOptions());
        Assert.True(result.Figures.Lines > 10_000);
        Assert.Empty(result.Findings.Select(f => $"{f.CheckId} {f.Path}:{f.Region.StartLine} {f.Message}"));
        Assert.DoesNotContain(result.Notes, n => n.Text.StartsWith(AuditPipeline.UnreadNote, StringComparison.Ordinal));
    }
}
