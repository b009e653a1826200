using System.Collections.Concurrent;
using System.Text;

namespace Bellator.Analysis.Libraries;

/// <summary>Recognises what a field, column or variable holds by its name, with the word lists of the facts.</summary>
public sealed partial class IdentifierClassifier(LibraryModels facts)
{
    private readonly ConcurrentDictionary<string, bool> _passwords = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, IReadOnlySet<string>> _meanings = new(StringComparer.Ordinal);
    private readonly IReadOnlySet<string> _protocolBeside = facts.Words("protocol-beside");
    private readonly IReadOnlySet<string> _challenge = facts.Words("challenge");
    private readonly IReadOnlySet<string> _errors = facts.Words("error");
    private readonly IReadOnlySet<string> _typedAgain = facts.Words("typed-again");
    private readonly IReadOnlySet<string> _unknown = facts.Words("unknown");
    private readonly IReadOnlySet<string> _anyHash = facts.Words("any-hash");
    private readonly IReadOnlySet<string> _accounts = facts.Words("accounts-table");
    private readonly IReadOnlySet<string> _hiding = facts.Words("hides-columns");
    private readonly IReadOnlySet<string> _addressType = facts.Words("address-type");
    private readonly IReadOnlySet<string> _undoing = facts.Words("undoing");
    private readonly IReadOnlySet<string> _done = facts.Words("done-at");
    private readonly IReadOnlySet<string> _filling = facts.Words("fills-record");
    private readonly IReadOnlySet<string> _askingOld = facts.Words("asks-old-password");
    private readonly IReadOnlySet<string> _fetching = facts.Words("fetches-records");
    private readonly IReadOnlySet<string> _password = facts.Words("password");
    private readonly IReadOnlySet<string> _notPassword = facts.Words("not-password");
    private readonly IReadOnlySet<string> _allowList = facts.Words("allow-list-field");
    private readonly IReadOnlySet<string> _openType = facts.Words("open-type");
    private readonly IReadOnlySet<string> _scalarType = facts.Words("scalar-type");
    private readonly IReadOnlySet<string> _number = facts.Words("number-column");
    private readonly IReadOnlySet<string> _sensitive = facts.Words("sensitive-column");
    private readonly IReadOnlySet<string> _protocol = facts.Words("protocol-function");
    private readonly IReadOnlySet<string> _passwordHash = facts.Words("password-hash");
    private readonly IReadOnlySet<string> _measure = facts.Words("measure");
    private readonly IReadOnlySet<string> _judges = facts.Words("judges");
    private readonly IReadOnlySet<string> _signIn = facts.Words("sign-in");
    private readonly IReadOnlySet<string> _accountName = facts.Words("account-name");
    private readonly IReadOnlySet<string> _accountNumber = facts.Words("account-number");
    private readonly IReadOnlySet<string> _since = facts.Words("since-column");
    private readonly IReadOnlySet<string> _person = facts.Words("person");
    private readonly IReadOnlySet<string> _askingSignIn = facts.Words("asks-sign-in");
    private readonly IReadOnlySet<string> _role = facts.Words("role-word");
    private readonly IReadOnlySet<string> _privileged = facts.Words("privileged-role");
    private readonly IReadOnlySet<string> _holdsValue = facts.Words("holds-value");
    private readonly IReadOnlySet<string> _programKey = facts.Words("program-key");
    private readonly IReadOnlySet<string> _sqlPerson = facts.Words("sql-person");
    private readonly IReadOnlySet<string> _sqlPeople = facts.Words("sql-people");
    private readonly IReadOnlySet<string> _halting = facts.Words("halting-call");
    private readonly IReadOnlySet<string> _demanding = facts.Words("demanding");
    private readonly IReadOnlySet<string> _notGuard = facts.Words("not-guard");
    private readonly IReadOnlySet<string> _recovery = facts.Words("recovery");
    private readonly IReadOnlySet<string> _notRecovery = facts.Words("not-recovery");
    private readonly IReadOnlySet<string> _joining = facts.Words("joining");
    private readonly IReadOnlySet<string> _signingOut = facts.Words("signing-out");
    private readonly IReadOnlySet<string> _oneself = facts.Words("oneself");
    private readonly IReadOnlySet<string> _renewing = facts.Words("renews-session");
    private readonly IReadOnlySet<string> _verifying = facts.Words("verifying");
    private readonly IReadOnlySet<string> _ending = facts.Words("ending");
    private readonly IReadOnlySet<string> _secretToken = facts.Words("secret-token");
    private readonly IReadOnlySet<string> _aboutToken = facts.Words("about-token");
    private readonly IReadOnlySet<string> _form = facts.Words("form-of-value");
    private readonly IReadOnlySet<string> _credential = facts.Words("credential");
    private readonly IReadOnlySet<string> _issuing = facts.Words("issues-token");
    private readonly IReadOnlySet<string> _confirming = facts.Words("confirming");
    private readonly IReadOnlySet<string> _mailing = facts.Words("mailing");
    private readonly IReadOnlySet<string> _limiting = facts.Words("limiting");
    private readonly IReadOnlySet<string> _status = facts.Words("status");
    private readonly IReadOnlySet<string> _expiring = facts.Words("expiring");
    private readonly IReadOnlySet<string> _formField = facts.Words("form-field");
    private readonly IReadOnlySet<string> _makesAccount = facts.Words("makes-account");
    private readonly IReadOnlySet<string> _requestPart = facts.Words("request-part");
    private readonly IReadOnlySet<string> _brings = facts.Words("brings-actions");
    private readonly IReadOnlySet<string> _throttle = facts.Words("throttle-word");
    private readonly IReadOnlySet<string> _forgery = facts.Words("forgery-word");
    private readonly IReadOnlySet<string> _keyName = facts.Words("key-name");
    private readonly IReadOnlySet<string> _recordKey = facts.Words("record-key");
    private readonly IReadOnlySet<string> _authorizing = facts.Words("authorizing");
    private readonly IReadOnlySet<string> _outcome = facts.Words("outcome");
    private readonly IReadOnlySet<string> _checking = facts.Words("checking");
    private readonly IReadOnlySet<string> _containing = facts.Words("containing");
    private readonly IReadOnlySet<string> _publicState = facts.Words("public-state");
    private readonly IReadOnlySet<string> _answersRights = facts.Words("answers-rights");
    private readonly IReadOnlySet<string> _refusal = facts.Words("refusal");
    private readonly IReadOnlySet<string> _refusingResponse = facts.Words("refusing-response");
    private readonly IReadOnlySet<string> _askingRights = facts.Words("asking-rights");
    private readonly IReadOnlySet<string> _redirecting = facts.Words("redirecting");
    private readonly IReadOnlySet<string> _sendingStatus = facts.Words("sending-status");
    private readonly IReadOnlySet<string> _howMany = facts.Words("how-many");
    private readonly IReadOnlySet<string> _onlyNoting = facts.Words("only-noting");
    private readonly IReadOnlySet<string> _refusing = facts.Words("refusing");
    private readonly IReadOnlySet<string> _personsAddress = facts.Words("persons-address");
    private readonly IReadOnlySet<string> _ownership = facts.Words("ownership");

    /// <summary>True for the name of a field or variable that holds a password as typed: not a reset link, a hash, a flag or a length.</summary>
    public bool IsPassword(string? name)
    {
        if (string.IsNullOrEmpty(name))
        {
            return false;
        }

        return _passwords.GetOrAdd(name, Judge);
    }

    /// <summary>True for a name that has a word for a password in it, whatever it says of it.</summary>
    public bool MentionsPassword(string name) => Parts(name).Exists(_password.Contains);

    /// <summary>True for the name of a column that keeps a password or its hash.</summary>
    public bool IsPasswordColumn(string? name) => IsPassword(name) || (name is not null && Parts(name) is var parts && _passwordHash.Contains(string.Concat(parts)));

    /// <summary>True for the name of a column that keeps the hash of a password.</summary>
    public bool IsHashColumn(string name) => _passwordHash.Contains(string.Concat(Parts(name)));

    /// <summary>True for a name that asks what the one who is there may do, whatever it is asked about: <c>current_user_can</c>.</summary>
    public bool TellsOfOwnRole(string name) => TellsOfRole(name) && Parts(name).Contains("current");

    /// <summary>True for the name of what stands for a failure, or asks whether something does.</summary>
    public bool NamesError(string name) => Parts(name) is [.., var last] && _errors.Contains(last);

    /// <summary>True for the name of a field in which a password is typed a second time.</summary>
    public bool TypedAgain(string name) => Parts(name) is var parts && parts.Exists(_typedAgain.Contains) && parts.Exists(p => _password.Contains(p));

    /// <summary>True for the name of a message that says that somebody or something is not known.</summary>
    public bool TellsUnknown(string name) => HasWords(name, _unknown);

    /// <summary>True for the name of something that looks at how long or how good a value is.</summary>
    public bool IsMeasure(string name) => _measure.Contains(name.Trim().ToLowerInvariant());

    /// <summary>True for a word of a rule text: a measure, or a kind of value.</summary>
    public bool IsMeasureOrKind(string rule) => rule.Split(':')[0] is var name && (IsMeasure(name) || name is "required" or "email" or "string" or "nullable" or "confirmed" or "unique");

    /// <summary>True for the name of a function, class or setting that judges passwords: it has a word for a password and one for judging.</summary>
    public bool ChecksPasswords(string name)
    {
        var parts = Parts(name).ToList();
        return parts.Any(p => _judges.Contains(p)) && parts.Any(p => IsPassword(p) || IsPassword(p.TrimEnd('s')));
    }

    /// <summary>True for the name of a column with what a person signs in by or is called.</summary>
    public bool IsAccountName(string name) => _accountName.Contains(string.Concat(Parts(name)));

    /// <summary>True for the name of a column with the number of an account.</summary>
    public bool IsAccountNumber(string name) => _accountNumber.Contains(string.Concat(Parts(name)));

    /// <summary>True for the name of a column that says since when there is an account or its password.</summary>
    public bool IsSince(string name) => _since.Contains(string.Concat(Parts(name)));

    /// <summary>True for the name of a function, file or address at which people sign in.</summary>
    public bool IsSignIn(string name)
    {
        var parts = Parts(name);
        return parts.Exists(_signIn.Contains) || parts.Zip(parts.Skip(1)).Any(p => _signIn.Contains(p.First + p.Second));
    }

    /// <summary>True for the name of something that tells who is asking: a session, a user, a token.</summary>
    public bool HoldsPerson(string name) => HasWord(name, _person);

    /// <summary>What a name speaks of that is there now, as a class would be called; null for other names.</summary>
    public string? OfCurrent(string name) => Parts(name) is ["current", .. { Count: > 0 } of] ? string.Concat(of.Select(p => char.ToUpperInvariant(p[0]) + p[1..])) : null;

    /// <summary>True for the name of what tells one record, or one person, from the others.</summary>
    public bool IsKeyName(string name) => Parts(name) is [.., var last] && (_keyName.Contains(last) || last.EndsWith("id", StringComparison.Ordinal));

    /// <summary>True for the name of a column that says whether a record is for everybody.</summary>
    public bool IsPublicState(string name) => _publicState.Contains(string.Concat(Parts(name)));

    /// <summary>True for the name of a library call that answers what somebody may do, and does nothing else.</summary>
    public bool AnswersRights(string name) => _answersRights.Contains(Written(name));

    /// <summary>True for the name of an exception that refuses.</summary>
    public bool NamesRefusal(string name) => _refusal.Contains(Written(name));

    /// <summary>True for the name of a call that makes a response which sends the visitor elsewhere or refuses.</summary>
    public bool MakesRefusingResponse(string name) => _refusingResponse.Contains(Written(name));

    /// <summary>True for the name of a value that is somebody's address or sign-in name.</summary>
    public bool NamesPersonsAddress(string name) => _personsAddress.Contains(Written(name));

    /// <summary>True for the name of a function that is there to refuse.</summary>
    public bool IsThereToRefuse(string name) => Parts(name) is [var first, ..] && _refusing.Contains(first);

    /// <summary>True for the name of a call that sends the visitor elsewhere.</summary>
    public bool Redirects(string name) => _redirecting.Contains(Written(name));

    /// <summary>True for the name of a call that sets a header or the answer's status.</summary>
    public bool SendsStatus(string name) => _sendingStatus.Contains(Written(name));

    /// <summary>True for the name of a member that says how many rows there are.</summary>
    public bool SaysHowMany(string name) => _howMany.Contains(Written(name));

    /// <summary>True for the name of a call that writes its text down or changes it, and does not do what it says.</summary>
    public bool OnlyNotes(string name) => Parts(name) is [var first, ..] parts && (_onlyNoting.Contains(first) || _onlyNoting.Contains(parts[^1]));

    /// <summary>The same name, perhaps in another way of writing: <c>disabledAt</c> and <c>disabled_at</c>.</summary>
    public static bool SameName(string one, string other) => Written(one).Equals(Written(other), StringComparison.OrdinalIgnoreCase);

    private static string Written(string name) => string.Concat(Parts(name));

    /// <summary>True for the name of a function that may be there to say whether somebody may do something.</summary>
    public bool AsksForRights(string name) => HasWord(name, _askingRights);

    /// <summary>True for the name of a call that asks whether something is among others.</summary>
    public bool AsksForElement(string name) => Parts(name) is [var first, ..] && _containing.Contains(first);

    /// <summary>True for the name of the column that tells one record of its table from the others.</summary>
    public bool IsRecordKey(string name) => _recordKey.Contains(Written(name));

    /// <summary>True for the name of a call that says whether, or sees to it that, the person may do something.</summary>
    public bool Authorizes(string name)
    {
        var parts = Parts(name);
        return parts.Count > 0 && (_authorizing.Contains(parts[0]) || (parts.Count > 1 && (_demanding.Contains(parts[0]) || _checking.Contains(parts[0])) && parts.Exists(_ownership.Contains)));
    }

    /// <summary>True for the name of a function, mark or step that asks whether somebody is signed in.</summary>
    public bool TellsOfSignIn(string name)
    {
        var parts = Parts(name);
        return !parts.Exists(_notGuard.Contains) && (parts.Exists(_askingSignIn.Contains) || parts.Zip(parts.Skip(1)).Any(p => _askingSignIn.Contains(p.First + p.Second)));
    }

    /// <summary>True for the name of a role, a right, or a function that asks for one.</summary>
    public bool TellsOfRole(string name) => HasWord(name, _role);

    /// <summary>True for the name of a role whose holders commonly act for others, or of what asks for it.</summary>
    public bool TellsOfPrivilegedRole(string name) => HasWord(name, _privileged);

    /// <summary>True for the name of a method that holds a mapper's column against a value: <c>in_</c>.</summary>
    public bool HoldsValue(string name) => _holdsValue.Contains(string.Concat(Parts(name)));

    /// <summary>True for the name of something that keeps keys which people make for programs.</summary>
    public bool TellsOfProgramKey(string name) => Parts(name).Exists(_programKey.Contains);

    /// <summary>True for what SQL calls the one who asks: <c>current_setting</c>, <c>auth.uid</c>.</summary>
    public bool IsSqlPerson(string name) => _sqlPerson.Contains(name.ToLowerInvariant());

    /// <summary>True for a database role that stands for people at large.</summary>
    public bool IsSqlPeople(string role) => _sqlPeople.Contains(role.ToLowerInvariant());

    /// <summary>True for the name of a call after which a framework runs nothing more on the way to the handler.</summary>
    public bool HaltsChain(string name) => _halting.Contains(name);

    /// <summary>True for the name of a function that gives the person who is signed in, or refuses: <c>requireUser</c>.</summary>
    public bool DemandsPerson(string name)
    {
        var parts = Parts(name);
        return TellsOfSignIn(name) || (parts.Exists(_demanding.Contains) && parts.Exists(p => _person.Contains(p) || _accounts.Contains(p)));
    }

    /// <summary>True for the name of a step that lets only those with a role go on: <c>requireAdmin</c>.</summary>
    public bool DemandsRole(string name) => Parts(name) is var parts && !parts.Exists(_notGuard.Contains) && TellsOfRole(name) && parts.Exists(p => _demanding.Contains(p) || p is "is" or "has" or "check" or "authorize" or "authorise" or "can");

    /// <summary>True for the name of something that lets people in who forgot their password.</summary>
    public bool TellsOfRecovery(string name) => Parts(name) is var parts && !parts.Exists(_notRecovery.Contains) && parts.Exists(p => _recovery.Contains(p) || _recovery.Contains(p.TrimEnd('s')));

    /// <summary>True for the name of something that makes new accounts.</summary>
    public bool TellsOfJoining(string name) => HasWords(name, _joining);

    /// <summary>True for the name of something by which people sign out.</summary>
    public bool TellsOfSigningOut(string name) => HasWords(name, _signingOut);

    /// <summary>True for the name of something that is about the person who asks.</summary>
    public bool TellsOfOneself(string name) => HasWords(name, _oneself);

    /// <summary>True for the name of a call that gives out a token.</summary>
    /// <summary>True for the name of something that opens an account for whoever has it.</summary>
    public bool IsSecretToken(string name) => name.Length > 0 && HasWord(name, _secretToken) && !TellsOfForgery(name) && !HasWord(name, _measure) && !HasWord(name, _aboutToken) && !TellsOfExpiry(name);

    /// <summary>True for the name of a call that writes what it is given in another way: joins, cuts, encodes, digests.</summary>
    public bool IsForm(string name) => HasWord(name, _form);

    /// <summary>True for the name of a call that gives the session a new id or empties it.</summary>
    public bool RenewsSession(string name) => _renewing.Contains(name);

    /// <summary>True for the name of a call that verifies something.</summary>
    public bool Verifies(string name) => HasWord(name, _verifying);

    /// <summary>True for the name of a call that may end what a session or token rests on.</summary>
    public bool Ends(string name) => HasWord(name, _ending);

    public bool IssuesToken(string name) => HasWords(name, _issuing);

    /// <summary>True for the name of a field or column with an e-mail address.</summary>
    public bool IsEmail(string name) => Parts(name) is var parts && !parts.Exists(p => p is "confirmed" or "verified" or "token" or "at") && parts.Exists(p => p is "email" or "mail" or "emailaddress");

    /// <summary>True for the name of a call that has an address confirmed.</summary>
    public bool TellsOfConfirming(string name) => HasWords(name, _confirming);

    /// <summary>True for a name that says of an address, or an account, that it was confirmed.</summary>
    public bool TellsOfConfirmed(string name) => Parts(name) is var parts && parts.Exists(p => p is "email" or "mail" or "address" or "account" or "is" or "user" or "member") && parts.Exists(p => p is "confirmed" or "verified" or "confirm" or "verify" or "activated");

    /// <summary>True for the name of a call that sends a message.</summary>
    public bool SendsMail(string name) => HasWords(name, _mailing);

    /// <summary>True for the name of a setting that lists the functions which hash passwords, the one for new ones first.</summary>
    public bool ListsHashers(string name) => facts.Words("hasher-list").Contains(name);

    /// <summary>True for the name of a hasher that is not fit for new passwords.</summary>
    public bool IsOldHasher(string name) => facts.Words("old-hasher").Contains(name[(name.LastIndexOf('.') + 1)..]);

    /// <summary>True for the name of a call that takes the beginning of a text.</summary>
    public bool TakesBeginning(string name) => facts.Words("takes-beginning").Contains(name);

    /// <summary>True for the field of a class that names the form or serialiser whose methods its framework calls.</summary>
    public bool NamesForm(string field) => _formField.Contains(field);

    /// <summary>True for the name of a method by which an account says whether a password is its own.</summary>
    public bool VerifiesPassword(string name) => facts.Words("verifies-password").Contains(name);

    /// <summary>The scheme that a mark on a class of accounts brings; null for none.</summary>
    public string? HashedBy(string mark) => facts.Words("hashed-by").FirstOrDefault(h => h.StartsWith(mark + ":", StringComparison.Ordinal))?[(mark.Length + 1)..];

    /// <summary>True for the name of something that counts or limits tries.</summary>
    public bool LimitsTries(string name) => (HasWords(name, _limiting) && !(Parts(name) is [var only] && _outcome.Contains(only))) || TellsOfThrottle(name);

    /// <summary>True for the name of a column or member that says whether an account may be used.</summary>
    public bool TellsOfStatus(string name) => _status.Contains(string.Concat(Parts(name)));

    /// <summary>True for the name of a time after which something is worth nothing.</summary>
    public bool TellsOfExpiry(string name) => HasWords(name, _expiring);

    private static readonly string[] Sibilants = ["ch", "sh", "x", "ss"];

    /// <summary>The English singular of a name for many; as it is where it is none.</summary>
    public static string Singular(string name) =>
        name.EndsWith("people", StringComparison.Ordinal) ? name[..^6] + "person"
        : name.EndsWith("ies", StringComparison.Ordinal) ? name[..^3] + "y"
        : Sibilants.Any(s => name.EndsWith(s + "es", StringComparison.Ordinal)) ? name[..^2]
        : name.EndsWith('s') && !name.EndsWith("ss", StringComparison.Ordinal) ? name[..^1] : name;

    /// <summary>The English plural of a name for one.</summary>
    public static string Plural(string name) =>
        name.EndsWith("person", StringComparison.Ordinal) ? name[..^6] + "people" : name.EndsWith('y') && name.Length > 1 && !"aeiou".Contains(name[^2], StringComparison.Ordinal) ? name[..^1] + "ies" : name.EndsWith('s') || name.EndsWith('x') || name.EndsWith("ch", StringComparison.Ordinal) ? name + "es" : name + "s";

    private static bool HasWords(string name, IReadOnlySet<string> words)
    {
        var parts = Parts(name);
        return parts.Exists(words.Contains) || parts.Zip(parts.Skip(1)).Any(p => words.Contains(p.First + p.Second));
    }

    /// <summary>True for the name of a part of the request that the visitor fills freely.</summary>
    public bool IsRequestPart(string name) => _requestPart.Contains(name.ToLowerInvariant());

    /// <summary>True for the name of something that limits how often one may try.</summary>
    public bool TellsOfThrottle(string name) => HasWord(name, _throttle);

    /// <summary>True for the name of a cookie, entry or column that holds what somebody is recognised by.</summary>
    public bool IsCredential(string name) => name.Length > 0 && HasWord(name, _credential) && !TellsOfForgery(name);

    /// <summary>True for the name of something that keeps forged requests out.</summary>
    public bool TellsOfForgery(string name) => HasWord(name, _forgery);

    /// <summary>True for a mark, base class or trait that makes a class one of accounts.</summary>
    public bool MakesAccount(string name) => _makesAccount.Contains(name);

    /// <summary>True for the name of a table with the people who sign in.</summary>
    public bool IsAccounts(string table) => Parts(table) is var parts && parts.Exists(p => _accounts.Contains(p) || _accounts.Contains(p.TrimEnd('s')));

    /// <summary>A name for hashes of anything: of passwords only where the other columns are about people.</summary>
    public bool IsAnyHash(string column) => Parts(column) is [var only] && _anyHash.Contains(only);

    /// <summary>The word in a column's name by which it has a meaning, as <c>words.yaml</c> lists them under <c>means-…</c>; null if it has not.</summary>
    public string? Means(string column, string meaning)
    {
        var words = _meanings.GetOrAdd(meaning, m => facts.Words("means-" + m.Replace(' ', '-')));
        var parts = Parts(column);
        var whole = string.Concat(parts);
        return words.Contains(whole) ? whole : parts.Zip(parts.Skip(1), (a, b) => a + b).FirstOrDefault(words.Contains) ?? parts.Find(p => words.Contains(p));
    }

    /// <summary>True for a base class whose objects set the columns of a record from the request, those that an inner class lists.</summary>
    public bool FillsRecord(string type) => _filling.Contains(type);

    /// <summary>True for a rule of a validation that verifies the password there is.</summary>
    public bool AsksOldPassword(string rule) => _askingOld.Contains(rule);

    /// <summary>True for the name of a type, or of a call that makes a field, which takes e-mail addresses only.</summary>
    public bool IsAddressType(string? name) => name is not null && _addressType.Contains(string.Concat(Parts(name[(name.LastIndexOf('.') + 1)..])));

    /// <summary>True for the name of a function or file that takes a change of the tables back.</summary>
    public bool Undoes(string name) => Parts(name).Exists(_undoing.Contains);

    /// <summary>True for the name of a column that tells when something was sent or made: <c>reset_sent_at</c>.</summary>
    public bool TellsWhen(string name) => Parts(name) is [.., var done, var at] && at is "at" or "on" or "time" or "date" && _done.Contains(done);

    /// <summary>True for the name of a method, option or mark by which a record leaves columns out of answers.</summary>
    public bool HidesColumns(string name) => _hiding.Contains(name);

    /// <summary>The record's name in that of a class which fetches its records: <c>HiveRepository</c> gives Hive; null if it is none.</summary>
    public string? RecordsOf(string type) => _fetching.FirstOrDefault(e => type.Length > e.Length && type.EndsWith(e, StringComparison.Ordinal)) is { } ending ? type[..^ending.Length] : null;

    /// <summary>True if a library's class brings the action, so that those derived from it need not write it.</summary>
    public bool BringsActions(string type, string action) => _brings.Contains(type + "." + action) || _brings.Contains(type + ".*");

    private bool HasWord(string name, IReadOnlySet<string> words) => _having.GetOrAdd((name, words), static asked =>
    {
        var parts = Parts(asked.Name);
        return parts.Exists(asked.Words.Contains) || asked.Words.Contains(string.Concat(parts));
    });

    /// <summary>The same names are asked for again and again.</summary>
    private readonly ConcurrentDictionary<(string Name, IReadOnlySet<string> Words), bool> _having = new();

    /// <summary>True for the name of a function that answers another server's challenge: the protocol settles how, and nothing is kept.</summary>
    public bool IsProtocol(string function) => Parts(function) is var parts && (parts.Exists(_protocol.Contains) || (parts.Exists(_protocolBeside.Contains) && parts.Exists(_challenge.Contains)));

    /// <summary>True for the field of a model that lists the columns which a request may set.</summary>
    public bool IsAllowListField(string name) => _allowList.Contains(name);

    /// <summary>True for a type whose values hold whatever the visitor sent.</summary>
    public bool IsOpenType(string name) => _openType.Contains(name);

    /// <summary>True for a type whose values are a number, a date or the like, whatever the visitor sends; with its namespace or without.</summary>
    public bool IsScalarType(string? name) => !string.IsNullOrEmpty(name) && _scalarType.Contains(name.Trim('?')[(name.Trim('?').LastIndexOfAny(['.', '\\']) + 1)..].ToLowerInvariant());

    /// <summary>True for the name of a column that holds a number or a date.</summary>
    public bool IsNumberColumn(string name) => Parts(name) is [.., var last] && (_number.Contains(last) || char.IsAsciiDigit(last[0]));

    /// <summary>True for the name of a column that a person must not set for themselves: a role, an owner, a flag of trust.</summary>
    public bool IsSensitiveColumn(string name) => _sensitive.Contains(string.Concat(Parts(name)));

    /// <summary>More names than that are not remembered; programs have a few thousand.</summary>
    private const int MostNames = 50_000;

    private const int LongestName = 64;
    private static readonly ConcurrentDictionary<string, List<string>> Split = new(StringComparer.Ordinal);
    private static int _split;

    /// <summary>
    /// The name's words in lower case: <c>newPassword</c>, <c>new_password</c> and <c>$new-password</c> give new and password. The list
    /// is shared, and not to be changed.
    /// </summary>
    public static List<string> Parts(string name)
    {
        if (name.Length > LongestName)
        {
            return SplitUp(name);
        }

        if (!Split.TryGetValue(name, out var known))
        {
            known = SplitUp(name);
            if (Interlocked.Increment(ref _split) > MostNames)
            {
                Split.Clear();
                _split = 0;
            }

            Split[name] = known;
        }

        return known;
    }

    private static List<string> SplitUp(string name)
    {
        var parts = new List<string>();
        var word = new StringBuilder();
        for (var i = 0; i < name.Length; i++)
        {
            var c = name[i];
            if (!char.IsLetterOrDigit(c))
            {
                Flush();
                continue;
            }

            if (char.IsUpper(c) && i > 0 && char.IsLower(name[i - 1]))
            {
                Flush();
            }

            word.Append(char.ToLowerInvariant(c));
        }

        Flush();
        return parts;

        void Flush()
        {
            if (word.Length > 0)
            {
                parts.Add(word.ToString());
                word.Clear();
            }
        }
    }

    private bool Judge(string name)
    {
        var parts = Parts(name);
        if (parts.Exists(_notPassword.Contains))
        {
            return false;
        }

        return parts.Exists(_password.Contains) || _password.Contains(string.Concat(parts));
    }
}
