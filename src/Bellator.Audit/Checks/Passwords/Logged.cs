using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Text;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>A password as typed goes into a log, by itself or with the form it came in.</summary>
public sealed class Logged : PasswordLeak
{
    public override string Id => "passwords/logged";

    public override string Title => "Password is logged";

    public override IReadOnlyList<int> Cwes => [532];

    public override IReadOnlyList<string> Asvs => ["V16.2.5"];

    public override string Vector => "CVSS:3.1/AV:L/AC:L/PR:L/UI:N/S:U/C:H/I:N/A:N";

    public override string Why => "Logs are read by many, copied, kept for long and sent elsewhere; none of that is made for secrets.";

    public override string FalsePositiveIf => "The log is one of the developer’s own machine and never switched on elsewhere.";

    public override string HowToFix(string language) => "Log who tried and how it went, never what was typed; take passwords out of whole requests before they are logged.";

    protected override string Place => "log";

    protected override string Happens => "is written to a log";

    public override IEnumerable<Finding> Run(CheckContext context) => base.Run(context).Concat(WholeForms(context));

    /// <summary>All that was sent is logged, where a password is sent.</summary>
    private IEnumerable<Finding> WholeForms(CheckContext context)
    {
        NamesRead? near = null;
        foreach (var happening in context.EventsAt(Place))
        {
            var value = happening.Role("value");
            if (WholeIn(value, 0).Any(w => context.Counts(w.Form)) && IsWritten(happening, value) && (near ??= new NamesRead(context)).Password(happening.Function, value) is var (name, isSame)
                && WholeIn(value, 0).FirstOrDefault(w => context.Counts(w.Form) && !IsSetApart(w.From, name)).Form is { } whole)
            {
                yield return new Finding
                {
                    Check = this,
                    At = happening.At,
                    Certainty = isSame ? CheckContext.CertaintyOf(whole, happening.Guessed) : Certainty.Matched,
                    Message = $"All of {CheckContext.Describe(whole.Origin)} {Happens}, “{name}” with it.",
                    Steps = CheckContext.Steps(whole, happening, Happens),
                    Subject = name,
                };
            }
        }
    }

    /// <summary>The parts of the request that go into the log as they came, with the value that brings each; of a list of its names nobody learns more.</summary>
    private static IEnumerable<(Taint Form, AbstractValue From)> WholeIn(AbstractValue value, int depth) =>
        value.Types.Contains("list") ? [] : value.Taints.Where(IsWholeForm).Select(t => (t, value)).Concat(depth >= AbstractValue.MaxDepth || value.Fields is null ? [] : value.Fields.Values.SelectMany(f => WholeIn(f, depth + 1)));

    /// <summary>In C# an object is written as the name of its class, unless the message takes it apart with an @ or it was made into text before.</summary>
    private static bool IsWritten(AnalysisEvent happening, AbstractValue value)
    {
        var function = happening.Function;
        if (function.File.Source.Language is not (Language.CSharp or Language.Razor) || !value.Types.Any(t => t[0] == '#'))
        {
            return true;
        }

        return function.OutgoingCalls.Where(c => function.LocationOf(c) == happening.At).SelectMany(c => function.List(function.Instructions[c]).ToArray())
            .Any(o => function.Instructions[o.Value] is { Op: Opcode.Constant, Text: { } text } ? text.Contains("{@", StringComparison.Ordinal) : function.Instructions[o.Value].Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic);
    }

    /// <summary>The password was taken out, or something else put in its place.</summary>
    private static bool IsSetApart(AbstractValue form, string name) => form.Fields?.FirstOrDefault(f => f.Key == name).Value is { IsTainted: false };

    private static bool IsWholeForm(Taint taint) =>
        taint is { Transform: PasswordTransform.Plain or PasswordTransform.Encoded, Guessed: false, Selects: false, Origin: { Kind: OriginKind.Request, Name: null, Part: "body" or "form" or "input" } } && taint.Safe != OutputContext.All;

    /// <summary>Which parts of the request are asked for by name where something is logged.</summary>
    private sealed class NamesRead(CheckContext context)
    {
        private readonly ILookup<IrFunction, IrFunction> _handlersOf = context.Accounts.Surface.EntryPoints.Select(e => e.Handler).OfType<IrFunction>().Distinct()
            .SelectMany(h => context.Accounts.Surface.OwnReach(h).Append(h).Distinct().Select(f => (Reached: f, Handler: h))).ToLookup(p => p.Reached, p => p.Handler);

        private readonly ILookup<IrFunction, IrFunction> _stepsOf = context.Accounts.Surface.EntryPoints.Where(e => e.Handler is not null)
            .SelectMany(e => e.Guards.Select(g => g.Function).OfType<IrFunction>().Select(g => (Step: g, Handler: e.Handler!))).Distinct().ToLookup(p => p.Step, p => p.Handler);

        /// <summary>The password that is sent, and whether the same address reads it and logs it.</summary>
        public (string Name, bool IsSame)? Password(IrFunction at, AbstractValue logged)
        {
            if (logged.Types.Where(t => t[0] == '#').Select(context.Program.ClassOfType).OfType<IrClass>().SelectMany(c => c.Fields).FirstOrDefault(f => context.Words.IsPassword(f.Name)) is { } member)
            {
                return (member.Name, true);
            }

            if (Find(_handlersOf[at].Append(at)) is { } here)
            {
                return (here, true);
            }

            if (_handlersOf.Contains(at))
            {
                return null;
            }

            // A step on the way of other addresses logs what all of them are sent.
            if (Find(_stepsOf[at]) is { } behind)
            {
                return (behind, true);
            }

            return IsLikeAStep(at) && Find(_handlersOf.SelectMany(h => h).Where(h => Languages.Family(h.File.Source.Language) == Languages.Family(at.File.Source.Language))) is { } any ? (any, false) : null;
        }

        /// <summary>Nothing is seen to call it: it is handed to somebody, or takes the next step as its third parameter.</summary>
        private static bool IsLikeAStep(IrFunction function) => function.Outer is not null || function.Parameters.Count >= 3;

        private string? Find(IEnumerable<IrFunction> handlers) =>
            handlers.Distinct().SelectMany(h => context.Accounts.Surface.OwnReach(h).Append(h)).Distinct().SelectMany(context.Flow.ReadsOf)
                .Where(r => r.Part is "body" or "form" or "input").Select(r => r.Name).FirstOrDefault(context.Words.IsPassword);
    }
}
