using Bellator.Audit.Auditing;
using Bellator.Audit.Reports;
using Bellator.Text;

namespace Bellator.Core.Tests;

/// <summary>Functions are followed and addresses read on several threads; what comes out does not depend on them.</summary>
public sealed class ThreadTests
{
    /// <summary>A loop that looks at nothing would keep a program alive that was told to end: SIGTERM did nothing then.</summary>
    [Fact]
    public void No_thread_of_an_audit_keeps_the_program_alive()
    {
        var isBackground = false;
        WorkerPool.OnLargeStack(() => isBackground = Thread.CurrentThread.IsBackground);
        Assert.True(isBackground);
    }

    [Theory]
    [InlineData("samples/fernhollow", 2, 3, 7)]
    [InlineData("src/Bellator.Web", 2, 3, 7)]
    [InlineData("src/Bellator.Analysis", 5)]
    public void Any_number_of_threads_finds_the_same(string folder, params int[] numbers)
    {
        var tree = SourceLoader.Load(Path.Combine(Folders.Home, folder), SourceLimits.Default);
        var alone = Written(AuditPipeline.Run(tree, new AuditOptions { Threads = 1 }));
        foreach (var threads in numbers)
        {
            Assert.Equal(alone, Written(AuditPipeline.Run(tree, new AuditOptions { Threads = threads })));
        }
    }

    [Fact]
    public void A_crew_does_each_piece_once_and_stops_at_an_error()
    {
        using var crew = new WorkerPool(4);
        var done = new int[1000];
        for (var round = 0; round < 50; round++)
        {
            crew.ForEach(done.Length, i => Interlocked.Increment(ref done[i]));
        }

        Assert.All(done, d => Assert.Equal(50, d));
        var error = Assert.Throws<InvalidOperationException>(() => crew.ForEach(100, i => throw new InvalidOperationException("a swarm")));
        Assert.Equal("a swarm", error.Message);
        crew.ForEach(3, i => done[i] = -1);
        Assert.Equal(-3, done.Take(3).Sum());
    }

    [Fact]
    public void A_crew_of_one_works_too()
    {
        using var crew = new WorkerPool(1);
        var sum = 0;
        crew.ForEach(10, i => sum += i);
        crew.ForEach(0, _ => sum = -1);
        Assert.Equal(45, sum);
    }

    [Fact]
    public void What_is_cancelled_ends_as_cancelled()
    {
        using var cancel = new CancellationTokenSource();
        cancel.Cancel();
        Assert.ThrowsAny<OperationCanceledException>(() => AuditPipeline.Run(Auditor.Tree(("a.php", "<?php echo 1;\n")), new AuditOptions { Threads = 2 }, null, cancel.Token));
    }

    private static string Written(AuditResult result) =>
        JsonReport.Write(result with { Figures = result.Figures with { ParseTime = default, TotalTime = default } }, "") + result.About!.Write();
}
