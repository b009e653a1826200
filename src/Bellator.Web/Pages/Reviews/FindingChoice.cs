using System.Globalization;
using Bellator.Audit.Comparison;
using Bellator.Storage.Reviews;

namespace Bellator.Web.Pages.Reviews;

/// <summary>What a list of findings shows, as the address says it: it can be sent to a colleague, and saved by a name.</summary>
public sealed record FindingChoice
{
    public static readonly (string Value, string Name)[] Severities = [("4", "4.0 medium"), ("7", "7.0 high"), ("9", "9.0 critical")];

    public static readonly string[] States = ["new", "back", "changed", "moved", "still there"];

    private const int LongestText = 200;

    public string? Area { get; init; }

    public string? Score { get; init; }

    public string? Certainty { get; init; }

    public string? Verdict { get; init; }

    public string? Text { get; init; }

    public string? State { get; init; }

    /// <summary>mine, nobody, or the account of a member.</summary>
    public string? Who { get; init; }

    /// <summary>Only what is new or was judged since the person's last visit.</summary>
    public bool Since { get; init; }

    /// <summary>One row for each finding, not for each cause.</summary>
    public bool IsFlat { get; init; }

    public int? Cause { get; init; }

    /// <summary>The place after which this page of the list begins.</summary>
    public int? After { get; init; }

    /// <summary>The place before which it ends.</summary>
    public int? Before { get; init; }

    public bool IsFiltered => !string.IsNullOrEmpty(Area + Score + Certainty + Verdict + Text + State + Who) || Since || Cause is not null;

    public static FindingChoice Of(IQueryCollection query)
    {
        string? Text(string name) => query[name].ToString() is { Length: > 0 } text ? text.Length > LongestText ? text[..LongestText] : text : null;
        int? Number(string name) => int.TryParse(query[name], NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : null;
        return new FindingChoice
        {
            Area = Text("area"),
            Score = Text("score"),
            Certainty = Text("certainty"),
            Verdict = Text("verdict"),
            Text = Text("text"),
            State = Text("state"),
            Who = Text("who"),
            Since = query["since"] == "1",
            IsFlat = query["view"] == "list",
            Cause = Number("cause"),
            After = Number("after"),
            Before = Number("before"),
        };
    }

    public FindingFilter Filter(Guid account, DateTimeOffset? since) => new(
        Area,
        Certainty,
        Verdicts.Current(Verdict ?? ""),
        decimal.TryParse(Score, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var minimum) ? minimum : null,
        Text)
    {
        State = State,
        AssignedTo = Who == "mine" ? account : Guid.TryParse(Who, out var member) ? member : null,
        IsUnassigned = Who == "nobody",
        Since = since,
        Cause = Cause,
    };

    /// <summary>The choice as a query, for links that keep it.</summary>
    public string Query(params ReadOnlySpan<(string Name, string? Value)> further)
    {
        var parts = new List<KeyValuePair<string, string?>>();
        foreach (var (name, value) in ((string, string?)[])
        [
            ("area", Area), ("score", Score), ("certainty", Certainty), ("verdict", Verdict), ("text", Text), ("state", State), ("who", Who), ("since", Since ? "1" : null), ("view", IsFlat ? "list" : null),
            ("cause", Cause?.ToString(CultureInfo.InvariantCulture)), .. further,
        ])
        {
            if (!string.IsNullOrEmpty(value))
            {
                parts.Add(KeyValuePair.Create(name, (string?)value));
            }
        }

        return QueryString.Create(parts).Value ?? "";
    }

    public string Address(Guid review, params ReadOnlySpan<(string Name, string? Value)> further) => $"/reviews/{review}/findings{Query(further)}";
}
