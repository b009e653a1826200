using System.Diagnostics;
using System.Globalization;
using Bellator.Audit.Auditing;
using Bellator.Audit.Reports;
using Bellator.Text;

namespace Bellator.Cli;

/// <summary>Audits a folder again whenever something in it changes, and says what that changed in the findings.</summary>
internal sealed class AuditWatch(string folder, TextWriter output)
{
    /// <summary>Editors write a file in several steps: the audit waits until it is quiet.</summary>
    private static readonly TimeSpan Quiet = TimeSpan.FromMilliseconds(200);

    /// <summary>How often it is looked whether the folder is still the one that is watched: the system tells nothing of one that was put in its place.</summary>
    private static readonly TimeSpan Look = TimeSpan.FromSeconds(1);

    /// <param name="audit">Makes a new audit and its reports.</param>
    /// <param name="cancel">Ends it.</param>
    public void Run(AuditResult first, Func<AuditResult> audit, CancellationToken cancel)
    {
        SummaryReport.Write(first, output);
        using var changed = new SemaphoreSlim(0);
        var last = first;
        FileSystemWatcher? watcher = null;
        try
        {
            var watched = FileKind.Identity(folder);
            watcher = Watch(changed);
            output.WriteLine($"Watching {folder}; Ctrl-C ends.");
            output.Flush();
            while (true)
            {
                if (FileKind.Identity(folder) is var now && now != watched)
                {
                    watcher?.Dispose();
                    watcher = now is null ? null : Watch(changed);
                    watched = watcher is null ? null : now;
                    if (now is null)
                    {
                        output.WriteLine($"bellator: {folder} is gone; waiting for it");
                        output.Flush();
                    }
                    else
                    {
                        changed.Release();
                    }
                }

                if (!changed.Wait(Look, cancel))
                {
                    continue;
                }

                while (changed.Wait(Quiet, cancel))
                {
                }

                last = Again(last, audit);
            }
        }
        catch (OperationCanceledException) when (cancel.IsCancellationRequested)
        {
            // Being told to stop is the way it ends.
        }
        finally
        {
            watcher?.Dispose();
        }
    }

    /// <returns>Null if the folder went away meanwhile; it is looked for again soon.</returns>
    private FileSystemWatcher? Watch(SemaphoreSlim changed)
    {
        FileSystemWatcher watcher;
        try
        {
            watcher = new FileSystemWatcher(folder) { IncludeSubdirectories = true, NotifyFilter = NotifyFilters.FileName | NotifyFilters.DirectoryName | NotifyFilters.LastWrite | NotifyFilters.Size };
        }
        catch (ArgumentException)
        {
            return null;
        }

        void Note() => changed.Release();
        watcher.Changed += (_, _) => Note();
        watcher.Created += (_, _) => Note();
        watcher.Deleted += (_, _) => Note();
        watcher.Renamed += (_, _) => Note();

        // More changes than the system keeps count of are changes too.
        watcher.Error += (_, _) => Note();
        watcher.EnableRaisingEvents = true;
        return watcher;
    }

    private AuditResult Again(AuditResult last, Func<AuditResult> audit)
    {
        var watch = Stopwatch.StartNew();
        AuditResult result;
        try
        {
            result = audit();
        }
        catch (SourceException e)
        {
            output.WriteLine("bellator: " + e.Message);
            output.Flush();
            return last;
        }

        var before = last.Findings.Select(f => f.Fingerprint).ToHashSet(StringComparer.Ordinal);
        var now = result.Findings.Select(f => f.Fingerprint).ToHashSet(StringComparer.Ordinal);
        var gone = last.Findings.Where(f => !now.Contains(f.Fingerprint)).ToList();
        var fresh = result.Findings.Where(f => !before.Contains(f.Fingerprint)).ToList();
        gone.ForEach(f => SummaryReport.Write(f, output, '-'));
        fresh.ForEach(f => SummaryReport.Write(f, output, '+'));
        output.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{DateTime.Now:HH:mm:ss}  {fresh.Count} new, {gone.Count} gone, {result.Findings.Count} in all; {watch.Elapsed.TotalSeconds:0.0} s."));
        output.Flush();
        return result;
    }
}
