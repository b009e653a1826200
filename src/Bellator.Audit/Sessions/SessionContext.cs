using Bellator.Analysis.Events;
using Bellator.Audit.Access;
using Bellator.Audit.Accounts;

namespace Bellator.Audit.Sessions;

/// <summary>What is known of the credentials of a program, for checks and for the stage of sessions; each part is made when it is first asked for.</summary>
public sealed class SessionContext(AccountContext accounts, AccessMap access)
{
    private readonly Lazy<KeptCredentials> _kept = new(() => new KeptCredentials(accounts, access, accounts.Flow.Events.Of(EventKind.Query, EventKind.Run, EventKind.Access)));
    private readonly Lazy<AccountRecognition> _recognition = new(() => new AccountRecognition(accounts, access));
    private Lazy<CredentialEnds>? _ends;

    /// <summary>Credentials of which the server keeps a row.</summary>
    public KeptCredentials Kept => _kept.Value;

    internal CredentialEnds Ends => (_ends ??= new(() => new CredentialEnds(accounts, access, Kept))).Value;

    internal AccountRecognition Recognition => _recognition.Value;
}
