namespace Bellator.Tokens.Traffic;

/// <summary>One value of a credential, from its first appearance to its last.</summary>
/// <param name="Label">A letter that stands for it: the value itself is not shown.</param>
public sealed class CapturedValue(string label, string value, int firstSeen, bool wasIssued)
{
    public string Label { get; } = label;

    internal string Value { get; } = value;

    public int Length => Value.Length;

    /// <summary>The exchange in which it appears first.</summary>
    public int FirstSeen { get; } = firstSeen;

    /// <summary>An answer issued it; otherwise it was sent from the beginning.</summary>
    public bool WasIssued { get; } = wasIssued;

    /// <summary>Exchanges whose request carried it.</summary>
    public List<int> Sent { get; } = [];

    /// <summary>The exchange that put another in its place.</summary>
    public int? Replaced { get; internal set; }

    /// <summary>The exchange that told the browser to forget it.</summary>
    public int? Cleared { get; internal set; }

    /// <summary>The sign-out after which it should be worth nothing.</summary>
    public int? SignedOut { get; internal set; }

    /// <summary>Requests with it, after its end, that were answered as before.</summary>
    public List<int> AcceptedAfter { get; } = [];

    public int LastSeen => Math.Max(FirstSeen, Sent.Count == 0 ? 0 : Sent[^1]);

    public int? Ended => new[] { Replaced, Cleared, SignedOut }.Min();
}

/// <summary>What the application hands out to be recognised by, as the traffic shows it.</summary>
/// <param name="Carrier">cookie, header or body.</param>
public sealed class CapturedCredential(string name, string carrier, string host)
{
    public string Name { get; } = name;

    public string Carrier { get; } = carrier;

    public string Host { get; } = host;

    public List<CapturedValue> Values { get; } = [];

    /// <summary>The lines that set it.</summary>
    public List<(int Exchange, Cookies.SetCookie Cookie)> SetBy { get; } = [];

    internal CapturedValue? Find(string value) => Values.Find(v => v.Value == value);
}
