namespace Bellator.Analysis.Libraries;

/// <summary>Names that say something of requests, of what guards them, and of what is sent along.</summary>
public sealed partial class IdentifierClassifier
{
    private readonly IReadOnlySet<string> _exempting = facts.Words("exempting");
    private readonly IReadOnlySet<string> _bearer = facts.Words("bearer");
    private readonly IReadOnlySet<string> _signature = facts.Words("signature-word");
    private readonly IReadOnlySet<string> _keyWord = facts.Words("key-word");
    private readonly IReadOnlySet<string> _barring = facts.Words("barring");
    private readonly IReadOnlySet<string> _methodTest = facts.Words("method-test");
    private readonly IReadOnlySet<string> _callbackName = facts.Words("callback-name");
    private readonly IReadOnlySet<string> _makesText = facts.Words("makes-text");
    private readonly IReadOnlySet<string> _provisional = facts.Words("provisional");
    private readonly IReadOnlySet<string> _hostHeader = facts.Words("host-header");
    private readonly IReadOnlySet<string> _addressHost = facts.Words("address-host");
    private readonly IReadOnlySet<string> _looking = facts.Words("looking");
    private readonly IReadOnlySet<string> _sessionCookie = facts.Words("session-cookie");

    private readonly IReadOnlySet<string> _freeText = facts.Words("free-text");

    private readonly IReadOnlySet<string> _requestState = facts.Words("request-state");

    /// <summary>True for the name of what lives as long as a request, on which steps leave something for those after them.</summary>
    public bool KeepsForRequest(string name) => _requestState.Contains(name);

    /// <summary>True for the name of a column that holds what people typed, in as many words as they liked.</summary>
    public bool HoldsFreeText(string name) => Parts(name) is [.., var last] && _freeText.Contains(last);

    /// <summary>True for the name that a framework gives the cookie by which it knows a session.</summary>
    public bool NamesSessionCookie(string name) => HasWord(name, _sessionCookie);

    /// <summary>True for a name of somebody who is not signed in yet: a further step is to come.</summary>
    public bool IsProvisional(string name) => HasWord(name, _provisional);

    /// <summary>True for the name of a parameter that is called with the answer: common practice in JavaScript before promises.</summary>
    public bool IsCallbackName(string name) => _callbackName.Contains(name);

    /// <summary>True for the name of a function that makes a text of whatever it is given.</summary>
    public bool MakesText(string? name) => name is not null && _makesText.Contains(name);

    /// <summary>True for a name by which code asks by which method a request came.</summary>
    public bool AsksForMethod(string name) => _methodTest.Contains(name.ToLowerInvariant());

    /// <summary>True for the name of a state in which the owner of an account may not go on: <c>suspended_at</c>, <c>active</c>.</summary>
    public bool TellsOfBarring(string name) => HasWord(name, _barring);

    /// <summary>True for the name of what is sent to show that a message is genuine.</summary>
    public bool NamesSignature(string name) => HasWord(name, _signature);

    /// <summary>True for the name of a setting that only its owner may know.</summary>
    public bool NamesKey(string name) => Parts(name) is [.., var last] && _keyWord.Contains(last);

    /// <summary>True for the name of a step that asks for a token or key in a header.</summary>
    public bool TellsOfBearer(string name) => HasWord(name, _bearer);

    /// <summary>True for the name of a header that says for which host a request is meant, or from which it comes.</summary>
    public bool NamesHost(string header) => _hostHeader.Contains(Written(header));

    /// <summary>True for the name of the part of an address that says whose machine it is.</summary>
    public bool NamesAddressHost(string name) => _addressHost.Contains(Written(name));

    /// <summary>True for the name of something that leaves a check out: <c>csrf_exempt</c>.</summary>
    public bool TellsOfExemption(string name) => HasWord(name, _exempting);

    /// <summary>True for the name of a mark on a row that somebody looked at it: no wish of the person, and no harm where another site causes it.</summary>
    public bool TellsOfLooking(string name) => HasWord(name, _looking);

    private readonly IReadOnlySet<string> _servesTemplates = facts.Words("serves-templates");

    /// <summary>A mark by which a function may be used by templates: <c>@register.filter</c>.</summary>
    public bool ServesTemplates(string mark) => _servesTemplates.Contains(mark);
}
