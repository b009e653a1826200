namespace Bellator.Tokens.Traffic;

/// <summary>What is shown and kept of a capture: no value of a credential, no header and no body.</summary>
public sealed record CaptureReport(IReadOnlyList<ListedExchange> Exchanges, IReadOnlyList<ReportedCapture> Credentials, IReadOnlyList<TrafficEvent> Events, IReadOnlyList<TrafficRemark> Remarks)
{
    public static CaptureReport Of(TrafficReview review) => new(
        review.Exchanges,
        [.. review.Credentials.Select(c => new ReportedCapture(c.Name, c.Carrier, c.Host, [.. c.Values.Select(v => new ReportedValue(v.Label, v.Length, v.FirstSeen, v.LastSeen, v.WasIssued, v.Sent.Count, v.Replaced, v.Cleared, v.SignedOut, v.AcceptedAfter))]))],
        review.Events,
        review.Remarks);
}

/// <param name="Carrier">cookie, header or body: where it was first seen.</param>
public sealed record ReportedCapture(string Name, string Carrier, string Host, IReadOnlyList<ReportedValue> Values);

/// <param name="Label">A letter in the value’s place.</param>
/// <param name="Sent">How many requests carried it.</param>
public sealed record ReportedValue(string Label, int Length, int FirstSeen, int LastSeen, bool WasIssued, int Sent, int? Replaced, int? Cleared, int? SignedOut, IReadOnlyList<int> AcceptedAfter)
{
    /// <summary>The exchange after which it should be worth nothing.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public int? Ended => new[] { Replaced, Cleared, SignedOut }.Min();
}
