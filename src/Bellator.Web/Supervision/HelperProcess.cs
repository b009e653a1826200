using System.Diagnostics;
using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Threading.Channels;

namespace Bellator.Web.Supervision;

/// <summary>How a helper process is started.</summary>
/// <param name="MemoryBytes">What it may have in memory; it is ended beyond that.</param>
/// <param name="IsBackground">It gives way to everything else on the machine.</param>
/// <param name="Faults">For tests: see <see cref="Supervision.Faults"/>.</param>
public sealed record HelperSettings(long MemoryBytes, bool IsBackground, bool Faults = false);

/// <summary>
/// A process of our own program that does work on material from strangers: audits, and the costly part of the bench. It is asked by lines
/// of JSON on its input and answers by lines on its output; it ends when its input does, so it never outlives whoever started it.
/// </summary>
public sealed class HelperProcess : IAsyncDisposable
{
    private const int KeptErrors = 4000;
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(2);
    private static readonly TimeSpan LongestStart = TimeSpan.FromSeconds(60);

    private readonly Process _process;
    private readonly Channel<JsonElement> _answers = Channel.CreateUnbounded<JsonElement>(new UnboundedChannelOptions { SingleReader = true });
    private readonly StringBuilder _errors = new();
    private readonly SemaphoreSlim _writing = new(1);

    private HelperProcess(Process process)
    {
        _process = process;
        _ = ReadAnswersAsync();
        _ = ReadErrorsAsync();
    }

    public ChannelReader<JsonElement> Answers => _answers.Reader;

    public int Id => _process.Id;

    public bool HasExited => _process.HasExited;

    /// <summary>The last it said on its error output, as a crashing runtime does.</summary>
    public string Errors
    {
        get
        {
            lock (_errors)
            {
                return _errors.ToString();
            }
        }
    }

    /// <summary>Bytes that it has in memory now; 0 if it is gone.</summary>
    public long ResidentBytes
    {
        get
        {
            try
            {
                var fields = File.ReadAllText($"/proc/{_process.Id}/statm").Split(' ');
                return long.Parse(fields[1], CultureInfo.InvariantCulture) * Environment.SystemPageSize;
            }
            catch (Exception e) when (e is IOException or InvalidOperationException)
            {
                return 0;
            }
        }
    }

    /// <param name="open">What it is told first; it says when it is ready.</param>
    public static async Task<HelperProcess> StartAsync(HelperSettings settings, HelperRequest? open = null)
    {
        var helper = Start(settings);
        using var limit = new CancellationTokenSource(LongestStart);
        await helper.AskAsync(open ?? new HelperRequest("open"));
        try
        {
            await helper.Answers.ReadAsync(limit.Token);
            return helper;
        }
        catch (Exception e) when (e is ChannelClosedException or OperationCanceledException)
        {
            helper.Kill();
            await helper.DisposeAsync();
            throw new InvalidOperationException("a helper process did not start: " + helper.Errors, e);
        }
    }

    private static HelperProcess Start(HelperSettings settings)
    {
        var host = Environment.ProcessPath is { } path && Path.GetFileNameWithoutExtension(path) == "dotnet" ? path : "dotnet";
        string[] command = [host, Path.Combine(AppContext.BaseDirectory, "bellator-web.dll"), HelperProgram.Mode];
        var start = settings.IsBackground ? new ProcessStartInfo("nice", ["-n", "19", .. command]) : new ProcessStartInfo(command[0], command[1..]);
        start.RedirectStandardInput = start.RedirectStandardOutput = start.RedirectStandardError = true;
        start.StandardInputEncoding = start.StandardOutputEncoding = new UTF8Encoding(false);
        start.WorkingDirectory = "/";

        // The runtime's own bound is a little below ours, so that most material that asks for too much ends in a plain error.
        start.Environment["DOTNET_GCHeapHardLimit"] = (settings.MemoryBytes / 10 * 9).ToString("x", CultureInfo.InvariantCulture);
        start.Environment["DOTNET_gcConcurrent"] = "0";
        start.Environment["DOTNET_GCConserveMemory"] = "5";
        start.Environment["MALLOC_ARENA_MAX"] = "2";
        start.Environment["DOTNET_DbgEnableMiniDump"] = "0";
        start.Environment[Faults.Variable] = settings.Faults ? "1" : "0";
        return new HelperProcess(Process.Start(start) ?? throw new InvalidOperationException("a helper process cannot be started"));
    }

    /// <returns>False if it is gone.</returns>
    public async Task<bool> AskAsync(object request)
    {
        await _writing.WaitAsync();
        try
        {
            await _process.StandardInput.WriteLineAsync(JsonSerializer.Serialize(request, HelperProgram.Json));
            await _process.StandardInput.FlushAsync();
            return true;
        }
        catch (Exception e) when (e is IOException or InvalidOperationException)
        {
            return false;
        }
        finally
        {
            _writing.Release();
        }
    }

    /// <summary>Ends it at once.</summary>
    public void Kill()
    {
        try
        {
            _process.Kill(entireProcessTree: true);
        }
        catch (Exception e) when (e is InvalidOperationException or System.ComponentModel.Win32Exception)
        {
            // It is gone already.
        }
    }

    public async ValueTask DisposeAsync()
    {
        try
        {
            _process.StandardInput.Close();
            using var limit = new CancellationTokenSource(Patience);
            await _process.WaitForExitAsync(limit.Token);
        }
        catch (Exception e) when (e is IOException or InvalidOperationException or OperationCanceledException)
        {
            Kill();
        }

        _process.Dispose();
        _writing.Dispose();
    }

    private async Task ReadAnswersAsync()
    {
        try
        {
            while (await _process.StandardOutput.ReadLineAsync() is { } line)
            {
                if (line.StartsWith('{'))
                {
                    _answers.Writer.TryWrite(JsonSerializer.Deserialize<JsonElement>(line));
                }
            }
        }
        catch (Exception e) when (e is IOException or InvalidOperationException or JsonException)
        {
            Trace.WriteLine(e.Message);
        }
        finally
        {
            _answers.Writer.TryComplete();
        }
    }

    private async Task ReadErrorsAsync()
    {
        try
        {
            while (await _process.StandardError.ReadLineAsync() is { } line)
            {
                lock (_errors)
                {
                    // The beginning tells what happened; a stack overflow repeats itself afterwards.
                    if (_errors.Length < KeptErrors)
                    {
                        _errors.AppendLine(line);
                    }
                }
            }
        }
        catch (Exception e) when (e is IOException or InvalidOperationException)
        {
            Trace.WriteLine(e.Message);
        }
    }
}
