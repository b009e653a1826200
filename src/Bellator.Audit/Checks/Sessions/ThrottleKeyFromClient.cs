using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;
using Bellator.Text;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>Tries are counted by something that whoever tries can change or leave out.</summary>
public sealed class ThrottleKeyFromClient : Check
{
    public override string Id => "sessions/throttle-key-from-client";

    public override string Title => "Rate limit keyed by what the client sends";

    public override IReadOnlyList<int> Cwes => [307, 348];

    public override IReadOnlyList<string> Asvs => ["V6.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:L/I:N/A:N";

    public override string Why => "Each try comes with a header of its own, or without the cookie, and starts a new count: the limit limits nobody who means harm.";

    public override string FalsePositiveIf => "A proxy that cannot be passed by sets the header itself and drops what the client sent.";

    public override string HowToFix(string language) => "Count by the account that is tried and by the peer’s address as the server or a trusted proxy reports it, on the server.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var told = new HashSet<Location>();
        foreach (var (at, taint, how) in ByLimiter(context).Concat(ByTable(context)))
        {
            if (told.Add(at))
            {
                yield return new Finding
                {
                    Check = this,
                    At = at,
                    Certainty = CheckContext.CertaintyOf(taint, false),
                    Message = $"{how} counts attempts by {CheckContext.Describe(taint.Origin)}, which the client can change with each request.",
                    Steps = CheckContext.Steps(taint, at, "counted by"),
                    Subject = taint.Origin.Name ?? "",
                };
            }
        }
    }

    /// <summary>A library's limiter is told by what to count.</summary>
    private static IEnumerable<(Location At, Taint Taint, string How)> ByLimiter(CheckContext context)
    {
        foreach (var happening in context.EventsAt("throttle-key").Where(e => e.Depth == 0))
        {
            var value = happening.Role("value");
            var given = value.Targets.OfType<IrFunction>().Select(f => context.Flow.SummaryOf(f).Returns).OfType<AbstractValue>().Append(value);
            if (given.SelectMany(FieldAccess.DeepTaints).FirstOrDefault(t => IsChosen(context, t)) is { } taint)
            {
                yield return (taint.Trace.Steps().Select(s => s.At).FirstOrDefault(happening.At), taint, "The rate limit");
            }
        }
    }

    /// <summary>Code of the application's own keeps tries in a table.</summary>
    private static IEnumerable<(Location At, Taint Taint, string How)> ByTable(CheckContext context)
    {
        foreach (var entry in context.Access.Entries)
        {
            foreach (var use in entry.Uses.Concat(entry.OnTheWay).Where(u => context.Words.LimitsTries(u.Access.Table)))
            {
                var terms = use.Terms.Request.Concat(use.Terms.FromRequest).SelectMany(t => t.Taints).ToList();
                if (terms.Find(t => IsChosen(context, t)) is { } taint && terms.TrueForAll(t => t.Origin.Part is "header" or "cookie"))
                {
                    var entering = taint.Trace.Steps().Select(s => s.At).Where(a => entry.Entry.Handler is { } h && a.File == h.File.Index && a.Start >= h.Span.Start && a.End <= h.Span.End).ToList();
                    yield return (entering.Count > 0 ? entering[0] : use.Access.At, taint, entry.Entry.Address);
                }
            }
        }
    }

    /// <summary>A header or cookie, but not one by which somebody is recognised.</summary>
    private static bool IsChosen(CheckContext context, Taint taint) =>
        taint.Origin is { Kind: OriginKind.Request, Part: "header" or "cookie" } && !context.Words.IsCredential(taint.Origin.Name ?? "") && !context.Words.IsSecretToken(taint.Origin.Name ?? "");
}
