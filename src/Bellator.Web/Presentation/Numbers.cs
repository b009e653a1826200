using System.Globalization;

namespace Bellator.Web.Presentation;

/// <summary>Numbers with what they count.</summary>
public static class Numbers
{
    /// <summary>“1 file”, “2 000 files”.</summary>
    public static string Say(long count, string one, string? many = null) => $"{count.ToString("N0", CultureInfo.InvariantCulture)} {(count == 1 ? one : many ?? one + "s")}";
}
