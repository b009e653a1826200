using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>What opens accounts stands in a log: the Authorization header, cookies, a session id.</summary>
public sealed class TokenLogged : Check
{
    public override string Id => "sessions/token-logged";

    public override string Title => "Token is logged";

    public override IReadOnlyList<int> Cwes => [532];

    public override IReadOnlyList<string> Asvs => ["V16.2.5"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:L/UI:N/S:U/C:H/I:L/A:N";

    public override string Why => "Logs are read by many, copied and kept for long. Whoever reads a token there that is still good is signed in as its owner.";

    public override string FalsePositiveIf => "The log takes the header out by a rule of its own that was not read.";

    public override string HowToFix(string language) => language switch
    {
        "javascript" => "Name the headers that are worth logging; have the logger redact authorization and cookie (pino: redact: ['req.headers.authorization', 'req.headers.cookie']).",
        _ => "Name the headers that are worth logging, and leave Authorization and Cookie out; log a digest where entries have to be tied together.",
    };

    /// <summary>What a request logger is told to write of each request (“:req[authorization]”).</summary>
    private const string FormatPlace = "log-format";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var happening in context.EventsAt("log"))
        {
            if (Sent(context, happening.Role("value"), 0) is { } sent)
            {
                yield return new Finding
                {
                    Check = this,
                    At = happening.At,
                    Certainty = CheckContext.CertaintyOf(sent, happening.Guessed),
                    Message = sent.Origin.Name is null
                        ? $"All of {CheckContext.Describe(sent.Origin)} are written to a log, tokens included."
                        : $"{Capital(CheckContext.Describe(sent.Origin))} is written to a log.",
                    Steps = CheckContext.Steps(sent, happening, "is written to a log"),
                    Subject = sent.Origin.Name ?? "",
                };
            }
        }

        foreach (var happening in context.EventsAt(FormatPlace))
        {
            if (Written(context, happening.Role("value")) is { } header)
            {
                yield return new Finding
                {
                    Check = this,
                    At = happening.At,
                    Certainty = happening.Guessed ? Certainty.Matched : Certainty.Traced,
                    Message = $"The request log contains the header “{header}” of every request.",
                    Subject = header,
                };
            }
        }
    }

    private static string Capital(string text) => char.ToUpperInvariant(text[0]) + text[1..];

    /// <summary>The token as it came, in the value or in a part of it.</summary>
    private static Taint? Sent(CheckContext context, AbstractValue value, int depth) => value.Types.Contains("list") ? null
        : value.Taints.FirstOrDefault(t => IsToken(context, t, value) && context.Counts(t))
        ?? (depth >= AbstractValue.MaxDepth ? null : value.Fields?.Values.Select(f => Sent(context, f, depth + 1)).FirstOrDefault(t => t is not null));

    private static bool IsToken(CheckContext context, Taint taint, AbstractValue value) =>
        taint is { Transform: PasswordTransform.Plain or PasswordTransform.Encoded, Guessed: false, Selects: false, Origin: { Kind: OriginKind.Request, Part: "header" or "cookie" } origin } && taint.Safe != OutputContext.All
        && (origin.Name is null ? !IsRedacted(context, value) : origin.Name != Origin.AnyName && (IsTokenHeader(context, origin.Name) || (origin.Part == "cookie" && (context.Words.IsSecretToken(origin.Name) || context.Words.IsCredential(origin.Name)))));

    /// <summary>Something else was put where the token stood, or it was taken out.</summary>
    private static bool IsRedacted(CheckContext context, AbstractValue value) => value.Fields?.Any(f => IsTokenHeader(context, f.Key) && !f.Value.IsTainted) == true;

    private static bool IsTokenHeader(CheckContext context, string name) => context.Words.CarriesToken(name);

    /// <summary>The header that a format names.</summary>
    private static string? Written(CheckContext context, AbstractValue format)
    {
        if (format.Constant is not { } text)
        {
            return null;
        }

        for (var at = text.IndexOf('[', StringComparison.Ordinal); at >= 0; at = text.IndexOf('[', at + 1))
        {
            if (text.IndexOf(']', at) is > 0 and var end && context.Words.NamesLoggedHeader(text[..at]) && IsTokenHeader(context, text[(at + 1)..end]))
            {
                return text[(at + 1)..end];
            }
        }

        return null;
    }
}
