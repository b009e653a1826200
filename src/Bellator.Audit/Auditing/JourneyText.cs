namespace Bellator.Audit.Auditing;

/// <summary>Journeys and their steps in words.</summary>
public static class JourneyText
{
    /// <summary>A kind of journey as people say it.</summary>
    public static string Title(string journey) => journey switch
    {
        "register" => "Register",
        "signIn" => "Sign in",
        "signOut" => "Sign out",
        "recover" => "Recover",
        "changePassword" => "Change password",
        "changeEmail" => "Change e-mail",
        _ => "Own profile",
    };

    /// <summary>The state of a step in words.</summary>
    public static string State(string state) => state == "notNeeded" ? "not needed" : state;
}
