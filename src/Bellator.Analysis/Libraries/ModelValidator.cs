namespace Bellator.Analysis.Libraries;

/// <summary>Finds what a facts file says that its form allows but nothing knows: languages, positions, kinds of places and tests.</summary>
internal static class ModelValidator
{
    private static readonly string[] Languages = ["", "php", "javascript", "python", "ruby", "csharp"];
    internal static readonly string[] Positions =
        ["sql-text", "sql-identifier", "sql-bare", "html", "attribute", "script", "url", "address", "shell", "path", "folder", "file-name", "code", "header", "ldap", "xpath", "pattern", "object", "template", "redirect", "serialised", "server-address", "all"];
    private static readonly string[] Accepting = [.. Positions, "parts", "open", "elements", "pattern", "anchored"];
    /// <summary>What an application switches off, or leaves off, of what protects it; or on, of what helps developers. No value does the harm.</summary>
    internal static readonly string[] Switches =
        ["cookie-not-secure", "cookie-readable", "cookie-cross-site", "token-not-verified", "token-algorithm-open", "token-checks-disabled", "token-no-expiry", "token-in-web-storage", "forgery-off", "debug"];

    internal static readonly string[] Sinks =
        ["sql", "command", "code", "page", "template", "path", "redirect", "server-request", "header", "deserialise", "ldap", "xpath", "filter", "pattern", "assign", "response", "session", "log", "mail", "link-host", "throttle-key", "signing-key", "token", "token-algorithm", "log-format", .. Switches];
    internal static readonly string[] Acts =
        ["account-found", "account-made", "password-set", "password-hashed", "password-verified", "password-rules", "code-verified", "sign-in", "sign-out", "session-new", "lockout", "throttle", "status-checked", "same-answer", "reset-token-made", "reset-token-used", "address-confirmed", "sessions-ended", "mail", "unique"];
    private static readonly string[] CredentialKinds = ["session", "token"];
    private static readonly string[] Guarding = ["sign-in", "role", "open", "open-always", "throttle", "forgery", "forgery-off", "named", "only", "except"];
    internal static readonly string[] Journeys = ["register", "sign-in", "sign-out", "recover", "change-password", "change-email", "profile"];
    private static readonly string[] Actions = ["list", "view", "create", "edit", "delete"];
    private static readonly string[] SentAs = ["page", "announced"];
    private static readonly string[] Tests = ["allow", "number", "text", "pattern", "fullmatch", "prefix"];
    private static readonly string[] Parts = ["query", "form", "body", "cookie", "header", "path", "upload", "input", "subject"];

    /// <exception cref="LibraryModelException">Something in it is not known; the message says the line and what there is.</exception>
    public static void Check(LibraryModelFile file, string name, string text)
    {
        Among(file.Language, Languages, "language", "language");
        foreach (var (call, fact) in file.Calls.Concat(file.Sets).Concat(file.SettingVariables).Concat(file.Functions))
        {
            Among(fact.Source, Parts, "part of a request", call);
            Among(fact.Chain is "*" ? null : fact.Chain, Parts, "part of a request", call);
            foreach (var part in fact.Chains?.Parts.Values.ToList() ?? [])
            {
                Among(part, Parts, "part of a request", call);
            }

            Among(fact.Test?.Kind, Tests, "kind of test", call);
            foreach (var position in (fact.Escape?.For ?? []).Concat(fact.Test?.For ?? []).Concat(fact.SafeFor).Concat(fact.UnsafeAgain))
            {
                Among(position, Positions, "position", call);
            }

            foreach (var sink in fact.Sinks)
            {
                Among(sink.Kind, Sinks, "kind of place", call);
                Among(sink.Context, Positions, "position", call);
                Among(sink.SentAs, SentAs, "way of sending", call);
            }
        }

        foreach (var setting in file.UnsetSettings)
        {
            Among(setting.Kind, Switches, "kind of switch", setting.Of);
        }

        foreach (var credential in file.Credentials)
        {
            Among(credential.Kind, CredentialKinds, "kind of credential", credential.Name);
        }

        foreach (var (call, guard) in file.Middleware)
        {
            Among(guard.Asks, Guarding, "kind of guard", call);
        }

        foreach (var (call, access) in file.Records)
        {
            Among(access.Action, Actions, "action on records", call);
        }

        foreach (var (call, acts) in file.JourneySteps)
        {
            acts.ForEach(a => Among(a.Step, Acts, "step of a journey", call));
        }

        foreach (var (call, journeys) in file.Provides)
        {
            journeys.ForEach(j => Among(j.Journey, Journeys, "journey", call));
        }

        foreach (var (mark, asks) in file.Guards)
        {
            Among(asks, Guarding, "kind of guard", mark);
        }

        foreach (var (accepting, positions) in file.Accepts.Concat(file.Rules))
        {
            foreach (var position in positions)
            {
                Among(position, Accepting, "position", accepting);
            }
        }

        foreach (var (field, fact) in file.Fields.Concat(file.Globals))
        {
            Among(fact.Source, Parts, "part of a request", field);
            foreach (var position in fact.SafeFor.Concat(fact.Absent))
            {
                Among(position, Positions, "position", field);
            }
        }

        void Among(string? value, string[] known, string what, string near)
        {
            if (value is not null && !known.Contains(value))
            {
                throw new LibraryModelException($"{name}, line {LineOf(near)}: there is no {what} “{value}”; there are {string.Join(", ", known.Where(k => k.Length > 0))}");
            }
        }

        int LineOf(string near)
        {
            // In double quotes YAML writes a backslash twice.
            var lines = text.Split('\n');
            var at = Array.FindIndex(lines, l => l.Trim().Trim('"').Replace("\\\\", "\\", StringComparison.Ordinal) is var line
                && (line.StartsWith(near + ":", StringComparison.Ordinal) || line.StartsWith(near + "\":", StringComparison.Ordinal)));
            return at + 1;
        }
    }
}
