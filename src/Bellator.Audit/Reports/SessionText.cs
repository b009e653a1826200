namespace Bellator.Audit.Reports;

/// <summary>The words of the stage of sessions, in one place.</summary>
public static class SessionText
{
    /// <summary>In the order of an account’s life.</summary>
    public static readonly IReadOnlyList<string> Events = ["signIn", "register", "roleChange", "passwordChange", "passwordReset", "signOut", "accountDisabled", "idle", "absolute"];

    public static string Event(string name) => name switch
    {
        "signIn" => "sign-in",
        "register" => "registration",
        "roleChange" => "role taken away",
        "passwordChange" => "password change",
        "passwordReset" => "password reset",
        "signOut" => "sign-out",
        "accountDisabled" => "account disabled",
        "idle" => "idle timeout",
        "absolute" => "absolute timeout",
        _ => name,
    };

    /// <summary>What became of a credential from before the event.</summary>
    public static string State(string state) => state switch
    {
        "ends" => "ends",
        "stays" => "still good",
        "unclear" => "unclear",
        _ => "does not apply",
    };

    public static string Kind(string kind) => kind switch
    {
        "session" => "session",
        "token" => "signed token",
        "keptToken" => "stored token",
        "programKey" => "key for programs",
        "oneTimeLink" => "one-time link",
        _ => kind,
    };

    public static string Forgery(string state) => state switch
    {
        "protected" => "protected",
        "open" => "not protected",
        "exempt" => "protection taken off",
        "notNeeded" => "not needed",
        _ => "unclear",
    };

    /// <summary>What outlives what, in a sentence; the first thing that a reviewer wants to know.</summary>
    public static string Summary(Auditing.ReportedCredential credential)
    {
        var outlived = credential.Life.Where(l => l.State == "stays").Select(l => Event(l.Event)).ToList();
        var unclear = credential.Life.Count(l => l.State == "unclear");
        var first = outlived.Count == 0 ? "Nothing was found that it outlives" : "It outlives " + (outlived.Count == 1 ? outlived[0] : string.Join(", ", outlived[..^1]) + " and " + outlived[^1]);
        return first + (unclear == 0 ? "." : unclear == 1 ? "; one event is unclear." : $"; {unclear} events are unclear.");
    }
}
