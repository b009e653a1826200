using System.Globalization;

namespace Bellator.Tokens.Cookies;

/// <summary>The date of a cookie, read as leniently as browsers do: RFC 6265, section 5.1.1.</summary>
internal static class CookieDate
{
    private const int FirstYear = 1601;
    private static readonly string[] Months = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];

    public static DateTimeOffset? Read(string text)
    {
        (int Hour, int Minute, int Second)? time = null;
        int? day = null, month = null, year = null;
        foreach (var token in Tokens(text))
        {
            if (time is null && Time(token) is { } read)
            {
                time = read;
            }
            else if (day is null && Leading(token, 1, 2) is { } number)
            {
                day = number;
            }
            else if (month is null && token.Length >= 3 && Array.IndexOf(Months, token[..3].ToLowerInvariant()) is >= 0 and var index)
            {
                month = index + 1;
            }
            else if (year is null && Leading(token, 2, 4) is { } years)
            {
                year = years is >= 70 and <= 99 ? years + 1900 : years is >= 0 and <= 69 ? years + 2000 : years;
            }
        }

        if (time is not var (hour, minute, second) || day is null || month is null || year is null || year < FirstYear || hour > 23 || minute > 59 || second > 59 || day < 1 || day > DateTime.DaysInMonth(year.Value, month.Value))
        {
            return null;
        }

        return new DateTimeOffset(year.Value, month.Value, day.Value, hour, minute, second, TimeSpan.Zero);
    }

    private static IEnumerable<string> Tokens(string text)
    {
        var start = -1;
        for (var i = 0; i <= text.Length; i++)
        {
            // Delimiters: all printable characters but letters, digits and the colon.
            var isToken = i < text.Length && (char.IsAsciiLetterOrDigit(text[i]) || text[i] == ':' || text[i] > '\x7e');
            if (isToken && start < 0)
            {
                start = i;
            }
            else if (!isToken && start >= 0)
            {
                yield return text[start..i];
                start = -1;
            }
        }
    }

    private static (int Hour, int Minute, int Second)? Time(string token)
    {
        var parts = token.Split(':');
        return parts.Length == 3 && Leading(parts[0], 1, 2) is { } hour && parts[0].Length <= 2 && Leading(parts[1], 1, 2) is { } minute && parts[1].Length <= 2 && Leading(parts[2], 1, 2) is { } second ? (hour, minute, second) : null;
    }

    /// <summary>The digits at the beginning, if there are as many as that and no further one.</summary>
    private static int? Leading(string token, int least, int most)
    {
        var count = token.TakeWhile(char.IsAsciiDigit).Count();
        return count >= least && count <= most ? int.Parse(token.AsSpan(0, count), NumberStyles.None, CultureInfo.InvariantCulture) : null;
    }
}
