using Bellator.Analysis.Domain;

namespace Bellator.Analysis.Html;

/// <summary>
/// Where in a page the next piece of text stands: follows literal markup as a browser's tokenizer would, as far as it decides how a
/// value could break out (WHATWG HTML, section 13.2.5, in a simplified form). It does not change: what follows is a new one.
/// </summary>
internal sealed record PageState
{
    private State _state = State.Text;
    private string _tag = "";
    private string _element = "";
    private string _attribute = "";
    private bool _atStart;
    private char _quote;

    /// <summary>Attributes that hold an address to go to or to load (WHATWG HTML, "attributes", those of type URL).</summary>
    private static readonly HashSet<string> Addresses = new(StringComparer.Ordinal) { "href", "src", "action", "formaction", "data", "poster" };

    private enum State
    {
        Text,
        TagName,
        InTag,
        AttributeValue,
        DoubleQuoted,
        SingleQuoted,
        Bare,
        Script,
        Comment,
    }

    /// <summary>How a value that is put in here could break out.</summary>
    public OutputContext Position => _state switch
    {
        State.Text or State.Comment => OutputContext.Html,
        State.DoubleQuoted or State.SingleQuoted when Markup.Contains(_attribute) => OutputContext.Html,
        State.DoubleQuoted or State.SingleQuoted => OutputContext.Attribute,
        State.Script => OutputContext.Script,
        _ => OutputContext.Url,
    };

    /// <summary>Attributes whose value is markup itself.</summary>
    private static readonly HashSet<string> Markup = new(StringComparer.Ordinal) { "v-html", ":innerhtml", "v-bind:innerhtml", "srcdoc" };

    /// <summary>An address begins here: it may name a scheme that runs script.</summary>
    public bool StartsAddress => _atStart && _state is State.DoubleQuoted or State.SingleQuoted && Addresses.Contains(_attribute[(_attribute.LastIndexOf(':') + 1)..]);

    /// <summary>Inside a quoted text of a script, where a value that is escaped for pages cannot end the text.</summary>
    public bool IsInScriptText => _state == State.Script && _quote is '"' or '\'';

    /// <summary>What is sent is a page, as far as is known; not after another kind of content was announced.</summary>
    public bool IsPage { get; init; } = true;

    /// <summary>The program has said that what it sends is a page.</summary>
    public bool IsAnnouncedPage { get; init; }

    /// <summary>After a value: where an attribute's value begins, it is one without quotes.</summary>
    public PageState AfterValue()
    {
        if (_state != State.AttributeValue && !_atStart)
        {
            return this;
        }

        var next = this with { };
        next._state = _state == State.AttributeValue ? State.Bare : _state;
        next._atStart = false;
        return next;
    }

    /// <summary>After this text.</summary>
    public PageState After(string text)
    {
        if (text.Length == 0)
        {
            return this;
        }

        var next = this with { };
        for (var i = 0; i < text.Length; i++)
        {
            next.Feed(text, ref i);
        }

        return next;
    }

    private void Feed(string text, ref int i)
    {
        var c = text[i];
        var began = false;
        switch (_state)
        {
            case State.Text when c == '<':
                if (string.CompareOrdinal(text, i, "<!--", 0, 4) == 0)
                {
                    _state = State.Comment;
                }
                else if (i + 1 >= text.Length || char.IsAsciiLetter(text[i + 1]) || text[i + 1] is '/' or '!' or '?')
                {
                    _state = State.TagName;
                    _tag = "";
                }

                break;
            case State.Comment when c == '-' && string.CompareOrdinal(text, i, "-->", 0, 3) == 0:
                _state = State.Text;
                i += 2;
                break;
            case State.TagName when char.IsLetterOrDigit(c) || c is '/' or '!':
                _tag += char.ToLowerInvariant(c);
                break;
            case State.TagName or State.InTag or State.Bare when c == '>':
                _element = _tag;
                _state = _element is "script" or "style" ? State.Script : State.Text;
                break;
            case State.TagName:
                _state = State.InTag;
                _attribute = "";
                break;
            case State.InTag when c == '=':
                _state = State.AttributeValue;
                break;
            case State.InTag:
                _attribute = char.IsWhiteSpace(c) ? "" : _attribute.Length < 24 ? _attribute + char.ToLowerInvariant(c) : _attribute;
                break;
            case State.AttributeValue when c == '"':
                _state = State.DoubleQuoted;
                began = true;
                break;
            case State.AttributeValue when c == '\'':
                _state = State.SingleQuoted;
                began = true;
                break;
            case State.AttributeValue when !char.IsWhiteSpace(c):
                _state = State.Bare;
                break;
            case State.Bare when char.IsWhiteSpace(c):
                _state = State.InTag;
                _attribute = "";
                break;
            case State.DoubleQuoted when c == '"':
            case State.SingleQuoted when c == '\'':
                _state = State.InTag;
                _attribute = "";
                break;
            case State.Script when c == '<' && string.Compare(text, i, "</" + _element, 0, _element.Length + 2, StringComparison.OrdinalIgnoreCase) == 0:
                _state = State.TagName;
                _tag = "";
                _quote = '\0';
                break;
            case State.Script when _quote != '\0':
                if (c == '\\')
                {
                    i++;
                }
                else if (c == _quote || (c == '\n' && _quote != '`'))
                {
                    _quote = '\0';
                }

                break;
            case State.Script when c is '"' or '\'' or '`':
                _quote = c;
                break;
        }

        _atStart = began;
    }
}
