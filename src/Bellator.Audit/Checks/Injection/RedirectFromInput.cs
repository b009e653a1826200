using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Witnesses;

namespace Bellator.Audit.Checks.Injection;

/// <summary>A request value says where the browser goes next.</summary>
public sealed class RedirectFromInput : SinkCheck
{
    public override string Id => "injection/redirect";

    public override string Title => "Open redirect";

    public override IReadOnlyList<int> Cwes => [601];

    public override IReadOnlyList<string> Asvs => ["V3.7.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:R/S:C/C:L/I:L/A:N";

    public override string Why =>
        "A link to the trusted site that ends on another one is how people are led to a copy of the sign-in page; after a sign-in it can also carry tokens away.";

    public override string FalsePositiveIf => "The address is compared with a list, or made relative, in code that was not read.";

    protected override string Kind => "redirect";

    protected override string Happens => "decides where the browser is sent, and may lead to another site";

    protected override string LastStep => "sent as the next address";

    public override string HowToFix(string language) => language switch
    {
        "csharp" => "Use LocalRedirect(url), or ask Url.IsLocalUrl(url) first.",
        "python" => "Accept only what url_has_allowed_host_and_scheme() (Django) accepts, or paths that begin with one slash.",
        "ruby" => "Use redirect_to url_from(params[:back]) || root_path, or redirect_back_or_to.",
        "php" => "Accept only paths that begin with one slash and no second, or names from a fixed list of pages.",
        _ => "Accept only paths that begin with one slash and no second, or names from a fixed list of pages.",
    };

    protected override Witness? WitnessFor(AnalysisEvent happening, AbstractValue value, Taint taint) => ValueWitness.Redirect(value, taint);

    protected override bool IsOpen(AnalysisEvent happening, AbstractValue value, Taint taint) =>
        value.Text is null || value.Text.Alternatives.Any(a => !IsFixedStart(a) && a.Any(p => p.IsHole && p.Taints.Contains(taint)));

    /// <summary>The address begins with a path or a host that the program chose, so that the value cannot change the site.</summary>
    internal static bool IsFixedStart(IReadOnlyList<Piece> pieces)
    {
        // What the program itself puts before the value, whatever it is, counts as a name.
        var before = string.Concat(pieces.TakeWhile(p => !p.IsHole || p.Taints.Count == 0).Select(p => p.Literal ?? "x"));

        // PHP sends addresses as a header of their own.
        var start = before.TrimStart();
        start = start.StartsWith("location:", StringComparison.OrdinalIgnoreCase) ? start["location:".Length..].TrimStart() : start;
        if (start.Length == 0)
        {
            return false;
        }

        if (start[0] == 'x' && pieces.FirstOrDefault(p => p.IsHole || p.Literal!.Trim().Length > 0 && !p.Literal.TrimEnd().EndsWith(':'))?.IsHole == true)
        {
            // An address that is not known here: fixed once its host has ended, for certain where a query or fragment has begun.
            return start.AsSpan(1).ContainsAny('?', '#') || start.LastIndexOfAny(['/', '?', '#']) > start.IndexOf("://", StringComparison.Ordinal) + 2;
        }

        var host = start.IndexOf("://", StringComparison.Ordinal);
        return host >= 0 ? start.IndexOf('/', host + 3) > 0 || start.Contains('?', StringComparison.Ordinal) : start.Length > 1 || start is not "/";
    }
}
