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
        var root = new RootCommand("Bellator audits the login, registration and data-access code of web applications.") { AuditCommandLine(), ReportCommandLine(), SurfaceCommandLine(), AccessCommandLine(), SessionsCommandLine(), HashCommandLine(), TokenCommandLine() };
        var parsed = root.Parse(args);
        if (parsed.Errors.Count > 0)
        {
            foreach (var error in parsed.Errors)
            {
                Console.Error.WriteLine("bellator: " + error.Message);
            }

            Console.Error.WriteLine($"Try: bellator {(args is ["hash" or "token" or "surface" or "access" or "sessions", ..] ? args[0] : "audit")} --help");
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

    private static Command SessionsCommandLine()
    {
        var path = new Argument<string>("PATH") { Description = "A folder, a .zip, .tar or .tar.gz, or one file" };
        var json = new Option<string?>("--json") { Description = "Write credentials and their life to this file as JSON", HelpName = "FILE" };
        var csv = new Option<string?>("--csv") { Description = "Write them to this file as CSV", HelpName = "FILE" };
        var quiet = new Option<bool>("--quiet") { Description = "No list and no progress" };
        var command = new Command("sessions", "Print what an application hands out at sign-in, what ends it, and what keeps forged requests out") { path, json, csv, quiet };
        command.SetAction((parsed, cancel) => Task.Run(() => Guarded(() => SessionsCommand.Run(
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

    private static Command TokenCommandLine()
    {
        Option<string?> Json() => new("--json") { Description = "Write a JSON report to this file", HelpName = "FILE" };
        var (jwtJson, cookieJson, sampleJson, captureJson) = (Json(), Json(), Json(), Json());
        var token = new Argument<string>("TOKEN") { Description = "A JSON Web Token; - reads one from standard input" };
        var key = new Option<string?>("--key") { Description = "Verify the signature with this file: a secret, a PEM, a JWK or a set of them", HelpName = "FILE" };
        var search = new Option<int>("--search") { Description = "Look for this many seconds whether it is signed with a secret that one would guess", HelpName = "SECONDS" };
        var jwt = new Command("jwt", "Take a token apart and judge it (exit 1 where the key does not fit, or the secret is guessed)") { token, key, search, jwtJson };
        jwt.SetAction((parsed, cancel) => Task.Run(() => Guarded(() => TokenCommand.Jwt(parsed.GetValue(token)!, parsed.GetValue(key), parsed.GetValue(search), parsed.GetValue(jwtJson), cancel))));

        var line = new Argument<string>("LINE") { Description = "A Set-Cookie line; - reads one from standard input" };
        var cookie = new Command("cookie", "Judge a Set-Cookie line attribute by attribute") { line, cookieJson };
        cookie.SetAction((parsed, _) => Task.Run(() => Guarded(() => TokenCommand.Cookie(parsed.GetValue(line)!, parsed.GetValue(cookieJson)))));

        var ids = new Argument<string>("FILE") { Description = "Session ids in the order in which they were issued, one a line; - for standard input" };
        var around = new Option<string?>("--around") { Description = "When they were issued, to look for digests of a time", HelpName = "TIME" };
        var sample = new Command("sample", "Say how ids are made and how many bits there are to guess (exit 1 where they can be guessed)") { ids, around, sampleJson };
        sample.SetAction((parsed, cancel) => Task.Run(() => Guarded(() => TokenCommand.Sample(parsed.GetValue(ids)!, parsed.GetValue(around), parsed.GetValue(sampleJson), cancel))));

        var har = new Argument<string>("FILE") { Description = "Captured traffic in the HTTP Archive format (HAR 1.2); - for standard input" };
        var capture = new Command("capture", "Follow each credential through captured traffic (exit 1 where one is broken)") { har, captureJson };
        capture.SetAction((parsed, cancel) => Task.Run(() => Guarded(() => TokenCommand.Capture(parsed.GetValue(har)!, parsed.GetValue(captureJson), cancel))));
        return new Command("token", "Tokens, cookies and session ids: what they are and what they are worth") { jwt, cookie, sample, capture };
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
