using System.Globalization;
using System.Reflection;
using Bellator.Audit.Reports;
using Bellator.Passwords;

namespace Bellator.Cli;

/// <summary><c>bellator hash</c>: what stored passwords are, whether a password belongs to one, and what a table of them holds.</summary>
internal static class HashCommand
{
    private const int MostNamed = 8;

    /// <param name="value">The stored value, or <c>-</c> for one a line from standard input.</param>
    public static int Identify(string value)
    {
        var first = true;
        foreach (var line in value == "-" ? Lines() : [value])
        {
            if (!first)
            {
                Console.WriteLine();
            }

            first = false;
            var readings = SchemeList.Identify(line.Trim());
            var best = readings[0];
            var rating = best.Scheme.Rate(best);
            Console.WriteLine($"{PasswordTable.TitleOf(best)}  ({PasswordText.Of(best.Sureness)})");
            Console.WriteLine($"  {PasswordText.Of(best.Kind)}, {PasswordText.Of(rating.Strength)}: {rating.Reason}  [{rating.Source}]");
            if (best.Note is { } note)
            {
                Console.WriteLine("  " + note);
            }

            if (best.Salt is { Length: > 0 } salt)
            {
                Console.WriteLine($"  salt of {salt.Length} bytes");
            }

            if (best.Scheme.InputLimit > 0)
            {
                Console.WriteLine($"  only the first {best.Scheme.InputLimit} bytes of a password count");
            }

            if (readings.Count > 1)
            {
                Console.WriteLine("  or " + string.Join(", ", readings.Skip(1).Select(r => $"{r.Scheme.Title} ({PasswordText.Of(r.Sureness)})")));
            }
        }

        return first ? throw new UsageException("there is nothing on standard input") : CommandLine.Done;
    }

    /// <summary>The password comes from standard input: on the command line others could see it.</summary>
    public static int Verify(string value)
    {
        if (!Console.IsInputRedirected)
        {
            Console.Error.Write("Password: ");
        }

        var password = Console.IsInputRedirected ? Console.In.ReadLine() : ReadHidden();
        if (password is null)
        {
            throw new UsageException("the password is read from standard input, and there is none");
        }

        var (reading, result) = SchemeList.Verify(value.Trim(), password);
        Console.WriteLine($"{PasswordTable.TitleOf(reading)}: {PasswordText.Of(result.Outcome)}{(result.How is { } how ? $" ({how})" : "")}");
        return result.Outcome switch { Verification.Yes => CommandLine.Done, Verification.No => CommandLine.ThresholdReached, _ => CommandLine.BadInput };
    }

    public static int Rate(RateRequest request, CancellationToken cancel)
    {
        var table = PasswordTable.Of(Read(request));
        if (table.Rows.Count == 0)
        {
            throw new UsageException($"{request.Path}: there are no values in it");
        }

        var search = request.Search <= 0 ? null : PasswordSearch.Run(
            [.. table.Readings.Select(r => r[0])], CommonPasswords.All, TimeSpan.FromSeconds(request.Search), Environment.ProcessorCount, null, cancel);
        var version = Assembly.GetExecutingAssembly().GetName().Version?.ToString(3) ?? "0.0.0";
        OutputFile.Write(request.Json, () => PasswordReport.Json(table, search, version, request.Show));
        OutputFile.Write(request.Csv, () => PasswordReport.Csv(table, search, request.Show));
        foreach (var group in table.Groups)
        {
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{group.Indices.Count,7}  {group.Title}: {PasswordText.Of(group.Rating.Strength)}"));
            Console.WriteLine($"         {group.Rating.Reason}  [{group.Rating.Source}]");
        }

        Say(table, table.Equal, "have the same stored value");
        Say(table, table.SameSalt, "share a salt");
        if (search is not null)
        {
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{search.Found.Count} found among the common passwords, with {search.Tried} guesses in {search.Time.TotalSeconds:0.0} s{(search.Ended is { } why ? $"; ended because {why}" : "")}"));
            foreach (var found in search.Found.Take(MostNamed))
            {
                Console.WriteLine($"         {Name(table, found.Index)}: {(request.Show ? found.Password : PasswordTable.Masked(found.Password))}");
            }
        }

        return CommandLine.Done;
    }

    private static IReadOnlyList<StoredPassword> Read(RateRequest request)
    {
        string text;
        try
        {
            text = request.Path == "-" ? Console.In.ReadToEnd() : File.ReadAllText(request.Path);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UsageException($"{request.Path}: cannot be read: {e.Message}");
        }

        try
        {
            var isTable = request.Column is not null || request.Path.EndsWith(".csv", StringComparison.OrdinalIgnoreCase);
            if (!isTable)
            {
                return PasswordCsv.Lines(text);
            }

            var columns = PasswordCsv.Columns(text);
            var column = request.Column ?? PasswordCsv.Guess(columns) ?? throw new UsageException($"name the column with --column; there are {string.Join(", ", columns)}");
            return PasswordCsv.Read(text, column, request.Owner ?? PasswordCsv.GuessOwner(columns));
        }
        catch (PasswordCsvException e)
        {
            throw new UsageException($"{request.Path}: {e.Message}");
        }
    }

    private static void Say(PasswordTable table, IReadOnlyList<SharedValue> shared, string what)
    {
        foreach (var group in shared.Take(MostNamed))
        {
            Console.WriteLine($"{group.Indices.Count,7}  {what}: {string.Join(", ", group.Indices.Take(MostNamed).Select(i => Name(table, i)))}{(group.Indices.Count > MostNamed ? ", …" : "")}");
        }

        if (shared.Count > MostNamed)
        {
            Console.WriteLine($"         and {shared.Count - MostNamed} more such groups");
        }
    }

    private static string Name(PasswordTable table, int index) =>
        table.Rows[index].Owner is { Length: > 0 } owner ? SummaryReport.Printable(owner) : "row " + (index + 1).ToString(CultureInfo.InvariantCulture);

    private static IEnumerable<string> Lines()
    {
        while (Console.In.ReadLine() is { } line)
        {
            if (line.Trim().Length > 0)
            {
                yield return line;
            }
        }
    }

    private static string ReadHidden()
    {
        var text = new System.Text.StringBuilder();
        while (Console.ReadKey(intercept: true) is { Key: not ConsoleKey.Enter } key)
        {
            if (key.Key == ConsoleKey.Backspace)
            {
                text.Length = Math.Max(0, text.Length - 1);
            }
            else
            {
                text.Append(key.KeyChar);
            }
        }

        Console.Error.WriteLine();
        return text.ToString();
    }
}

/// <param name="Path">A CSV file with a first line of names, or one value a line; <c>-</c> for standard input.</param>
/// <param name="Search">Seconds to try common passwords; 0 for not.</param>
/// <param name="Show">Values and found passwords unmasked in reports.</param>
internal sealed record RateRequest(string Path, string? Column, string? Owner, int Search, string? Json, string? Csv, bool Show);
