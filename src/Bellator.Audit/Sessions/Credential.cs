using Bellator.Audit.Accounts;

namespace Bellator.Audit.Sessions;

public enum CredentialKind
{
    /// <summary>An id, or a sealed cookie, by which a library keeps a session.</summary>
    Session,

    /// <summary>A token with its own content and signature.</summary>
    Token,

    /// <summary>A token of which the server keeps a row: a remembered browser, a device, a session of the application's own.</summary>
    KeptToken,

    /// <summary>A key that people make for programs.</summary>
    ProgramKey,

    /// <summary>A link that is mailed and used once.</summary>
    OneTimeLink,
}

public enum OperationKind
{
    Issued,
    Carried,
    Kept,
    Checked,
    Renewed,
    Ended,
}

/// <param name="Text">A few words.</param>
public sealed record CredentialOperation(OperationKind Kind, string Text, IReadOnlyList<StepEvidence> Evidence);

/// <summary>What may happen to an account, or with time, after which a credential should be worth nothing.</summary>
public enum LifeEvent
{
    SignIn,
    Register,
    RoleChange,
    PasswordChange,
    PasswordReset,
    SignOut,
    AccountDisabled,
    Idle,
    Absolute,
}

/// <summary>Whether a check accepts, after an event, a credential that was issued before.</summary>
public enum LifeState
{
    /// <summary>It does not: the code that ends it was found.</summary>
    Ends,

    /// <summary>It does.</summary>
    Stays,

    Unclear,

    /// <summary>The application has no such event, or it does not concern the credential.</summary>
    NotNeeded,
}

/// <param name="Text">Why, in a few words.</param>
public sealed record LifeCell(LifeEvent Event, LifeState State, string Text, IReadOnlyList<StepEvidence> Evidence)
{
    public static LifeCell Of(LifeEvent what, LifeState state, string text, params IEnumerable<StepEvidence> evidence) => new(what, state, text, [.. evidence.Where(e => e.At.IsKnown).DistinctBy(e => e.At).Take(MostEvidence)]);

    private const int MostEvidence = 6;
}

/// <summary>What an application hands out to be recognised by.</summary>
/// <param name="Name">As the documentation of its library, or the table that keeps it, calls it.</param>
/// <param name="Family">The languages whose code issues it.</param>
public sealed record Credential(string Name, CredentialKind Kind, string Family, IReadOnlyList<CredentialOperation> Operations, IReadOnlyList<LifeCell> Life);
