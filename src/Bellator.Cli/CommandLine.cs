using System.CommandLine;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Checks;
using Bellator.Text;

namespace Bellator.Cli;

/// <summary>The commands that need no database.</summary>
internal static class CommandLine
{
    public const int Done = 0;
    public const int ThresholdReached = 1;
    public const int BadInput = 2;
    public const int InternalError = 3;

    public static int Run(string[] args)
    {
        Console.SetOut(TextWriter.Synchronized(new PatientWriter(Console.Out)));
        Console.SetError(TextWriter.Synchronized(new PatientWriter(Console.Error)));
        var root = new RootCommand("Bellator audits the login, registration and data-access code of web applications.") { AuditCommandLine(), ReportCommandLine(), SurfaceCommandLine(), AccessCommandLine(), HashCommandLine() };
        var parsed = root.Parse(args);
        if (parsed.Errors.Count > 0)
        {
            foreach (var error in parsed.Errors)
            {
                Console.Error.WriteLine("bellator: " + error.Message);
            }

            Console.Error.WriteLine($"Try: bellator {(args is ["hash" or "surface" or "access", ..] ? args[0] : "audit")} --help");
            return BadInput;
        }

        return parsed.Invoke(new InvocationConfiguration { EnableDefaultExceptionHandler = false, Output = Console.Out, Error = Console.Error });
    }

    private static Command AuditCommandLine()
    {
        var path = new Argument<string>("PATH") { Description = "A folder, a .zip, .tar or .tar.gz, or one file" };
        var sarif = new Option<string?>("--sarif") { Description = "Write SARIF 2.1.0 to this file", HelpName = "FILE" };
        var json = new Option<string?>("--json") { Description = "Write a JSON report to this file", HelpName = "FILE" };
        var area = new Option<string?>("--area") { Description = "Only these areas: " + string.Join(", ", CheckList.Areas), HelpName = "a,b" };
        var facts = new Option<string?>("--facts") { Description = "Folder with further facts files", HelpName = "DIR" };
        var threads = new Option<int>("--threads") { Description = "Threads for reading", HelpName = "N", DefaultValueFactory = _ => Environment.ProcessorCount };
        var failOn = new Option<string>("--fail-on") { Description = "Exit with 1 from this severity on: none, low, medium, high, critical", HelpName = "SEVERITY", DefaultValueFactory = _ => "none" };
        failOn.AcceptOnlyFromAmong("none", "low", "medium", "high", "critical");
        var tests = new Option<bool>("--tests") { Description = "Audit test code too" };
        var quiet = new Option<bool>("--quiet") { Description = "No summary and no progress" };
        var watch = new Option<bool>("--watch") { Description = "Go on auditing whenever a file in the folder changes, and say what is new and what is gone; Ctrl-C ends" };
        var baseline = new Option<string?>("--baseline") { Description = "Compare with an earlier version: a SARIF report, or a folder or archive with its code, which also tells why findings are gone", HelpName = "FILE" };
        var failOnNew = new Option<bool>("--fail-on-new") { Description = "Exit with 1 if there are findings that the baseline has not (of the severity that --fail-on says, or of any)" };
        var command = new Command("audit", "Audit a folder, archive or file") { path, sarif, json, area, facts, threads, failOn, baseline, failOnNew, tests, quiet, watch };
        command.SetAction((parsed, cancel) => Task.Run(() => Guarded(() => AuditCommand.Run(
            new AuditRequest(
                parsed.GetValue(path)!,
                parsed.GetValue(sarif),
                parsed.GetValue(json),
                parsed.GetValue(area),
                parsed.GetValue(facts),
                parsed.GetValue(threads),
                parsed.GetValue(failOn)!,
                parsed.GetValue(tests),
                parsed.GetValue(quiet),
                parsed.GetValue(watch))
            {
                Baseline = parsed.GetValue(baseline),
                FailOnNew = parsed.GetValue(failOnNew),
            },
            cancel))));
        return command;
    }

    private static Command ReportCommandLine()
    {
        var path = new Argument<string>("PATH") { Description = "A folder, a .zip, .tar or .tar.gz, or one file" };
        var verdicts = new Option<string?>("--verdicts") { Description = "What was judged, as the web application exports it", HelpName = "FILE" };
        var baseline = new Option<string?>("--baseline") { Description = "Say what changed since this SARIF report, folder or archive", HelpName = "FILE" };
        var title = new Option<string?>("--title") { Description = "The application's name", HelpName = "NAME" };
        var secrets = new Option<bool>("--show-secrets") { Description = "Show secrets and hashes; they are masked otherwise" };
        var quiet = new Option<bool>("--quiet") { Description = "No summary and no progress" };
        Option<string?> Output(string name, string what) => new(name) { Description = $"Write {what} to this file", HelpName = "FILE" };
        var (html, markdown, json) = (Output("--html", "the report as one HTML file that prints well"), Output("--markdown", "the report as Markdown"), Output("--json", "the report as JSON (docs/report.schema.json)"));
        var (csv, standards, sarif, openApi) = (Output("--csv", "the findings as CSV"), Output("--standards", "the standards as CSV"), Output("--sarif", "SARIF 2.1.0"), Output("--openapi", "an OpenAPI 3.1 document"));
        var command = new Command("report", "Write a report from code and a file of verdicts") { path, verdicts, baseline, title, html, markdown, json, csv, standards, sarif, openApi, secrets, quiet };
        command.SetAction((parsed, cancel) => Task.Run(() => Guarded(() => ReportCommand.Run(
            new ReportRequest(parsed.GetValue(path)!, parsed.GetValue(verdicts), parsed.GetValue(baseline), parsed.GetValue(title), parsed.GetValue(secrets), parsed.GetValue(quiet))
            {
                Html = parsed.GetValue(html),
                Markdown = parsed.GetValue(markdown),
                Json = parsed.GetValue(json),
                Csv = parsed.GetValue(csv),
                Standards = parsed.GetValue(standards),
                Sarif = parsed.GetValue(sarif),
                OpenApi = parsed.GetValue(openApi),
            },
            cancel))));
        return command;
    }

    private static Command SurfaceCommandLine()
    {
        var path = new Argument<string>("PATH") { Description = "A folder, a .zip, .tar or .tar.gz, or one file" };
        var openApi = new Option<string?>("--openapi") { Description = "Write an OpenAPI 3.1 document to this file", HelpName = "FILE" };
        var json = new Option<string?>("--json") { Description = "Write a JSON report to this file", HelpName = "FILE" };
        var csv = new Option<string?>("--csv") { Description = "Write a CSV list to this file", HelpName = "FILE" };
        var quiet = new Option<bool>("--quiet") { Description = "No list and no progress" };
        var command = new Command("surface", "List the addresses and tables of an application: what guards them, what they use") { path, openApi, json, csv, quiet };
        command.SetAction((parsed, cancel) => Task.Run(() => Guarded(() => SurfaceCommand.Run(
            new SurfaceRequest(parsed.GetValue(path)!, parsed.GetValue(openApi), parsed.GetValue(json), parsed.GetValue(csv), parsed.GetValue(quiet)), cancel))));
        return command;
    }

    private static Command AccessCommandLine()
    {
        var path = new Argument<string>("PATH") { Description = "A folder, a .zip, .tar or .tar.gz, or one file" };
        var json = new Option<string?>("--json") { Description = "Write the access map to this file as JSON", HelpName = "FILE" };
        var csv = new Option<string?>("--csv") { Description = "Write it to this file as CSV", HelpName = "FILE" };
        var quiet = new Option<bool>("--quiet") { Description = "No list and no progress" };
        var command = new Command("access", "Print the access map: who reaches whose records, and under which condition") { path, json, csv, quiet };
        command.SetAction((parsed, cancel) => Task.Run(() => Guarded(() => AccessCommand.Run(
            new AccessRequest(parsed.GetValue(path)!, parsed.GetValue(json), parsed.GetValue(csv), parsed.GetValue(quiet)), cancel))));
        return command;
    }

    private static Command HashCommandLine()
    {
        var value = new Argument<string>("VALUE") { Description = "A stored value; - reads one a line from standard input" };
        var identify = new Command("identify", "Say what a stored password is, how sure that is, and how it is rated") { value };
        identify.SetAction((parsed, _) => Task.Run(() => Guarded(() => HashCommand.Identify(parsed.GetValue(value)!))));

        var against = new Argument<string>("VALUE") { Description = "A stored value" };
        var verify = new Command("verify", "Say whether a password, read from standard input, belongs to a stored value (exit 0 yes, 1 no, 2 cannot tell)") { against };
        verify.SetAction((parsed, _) => Task.Run(() => Guarded(() => HashCommand.Verify(parsed.GetValue(against)!))));

        var path = new Argument<string>("FILE") { Description = "A CSV file of the user table, or one stored value a line; - for standard input" };
        var column = new Option<string?>("--column") { Description = "The column with the stored passwords; found by its name otherwise", HelpName = "NAME" };
        var owner = new Option<string?>("--owner") { Description = "The column that tells people apart", HelpName = "NAME" };
        var search = new Option<int>("--search") { Description = "Try common passwords for this many seconds", HelpName = "SECONDS" };
        var json = new Option<string?>("--json") { Description = "Write a JSON report to this file", HelpName = "FILE" };
        var csv = new Option<string?>("--csv") { Description = "Write a CSV report to this file", HelpName = "FILE" };
        var show = new Option<bool>("--show") { Description = "Show stored values and found passwords; they are masked otherwise" };
        var rate = new Command("rate", "Say what a table of stored passwords holds") { path, column, owner, search, json, csv, show };
        rate.SetAction((parsed, cancel) => Task.Run(() => Guarded(() => HashCommand.Rate(
            new RateRequest(
                parsed.GetValue(path)!,
                parsed.GetValue(column),
                parsed.GetValue(owner),
                parsed.GetValue(search),
                parsed.GetValue(json),
                parsed.GetValue(csv),
                parsed.GetValue(show)),
            cancel))));
        return new Command("hash", "Stored passwords: what they are and what they are worth") { identify, verify, rate };
    }

    private static int Guarded(Func<int> action)
    {
        try
        {
            return action();
        }
        catch (Exception e) when (e is SourceException or LibraryModelException or UsageException)
        {
            Console.Error.WriteLine("bellator: " + e.Message);
            return BadInput;
        }
        catch (OperationCanceledException)
        {
            Console.Error.WriteLine("bellator: cancelled");
            return BadInput;
        }
        catch (Exception e)
        {
            Console.Error.WriteLine("bellator: internal error, please report it: " + e);
            return InternalError;
        }
    }
}

/// <summary>The command was called with something it cannot use.</summary>
internal sealed class UsageException(string message) : Exception(message);
