using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>The key that signs sessions or tokens stands in the code.</summary>
public sealed class SecretInCode : Check
{
    public override string Id => "sessions/secret-in-code";

    public override string Title => "Hard-coded signing key";

    public override IReadOnlyList<int> Cwes => [798, 321];

    public override IReadOnlyList<string> Asvs => ["V13.3.1", "V9.1.3"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "Whoever has read the code, its history or a backup can sign sessions and tokens for any account.";

    public override string FalsePositiveIf => "The text is a placeholder that is replaced at installation, or the program refuses to start with it.";

    public override string HowToFix(string language) => language switch
    {
        "javascript" => "Read the key from the environment and refuse to start without one: if (!process.env.SESSION_SECRET) throw new Error(…).",
        "php" => "Read the key from the environment and refuse to start without one.",
        "python" => "os.environ['SECRET_KEY'], which fails where there is none.",
        "ruby" => "ENV.fetch('SECRET_KEY_BASE') or the credentials file, whose key is not in the repository.",
        "csharp" => "Read the key from configuration that is not in the repository, and throw where there is none.",
        _ => "Read the key from the environment.",
    };

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var keys = context.EventsAt("signing-key").SelectMany(e => KeysOf(e.Role("value")).Select(k => (Event: e, Literal: LiteralOf(k), k.Fallback))).Where(k => (k.Literal ?? k.Fallback) is not null).ToList();
        var places = PlacesOf(context, [.. keys.Select(k => k.Literal ?? k.Fallback!)]);
        var told = new HashSet<(Location, string)>();
        foreach (var (happening, literal, fallback) in keys)
        {
            var text = literal ?? fallback!;
            var place = PlaceOf(places[text], happening);
            if (told.Add((place, text)))
            {
                yield return new Finding
                {
                    Check = this,
                    At = place,
                    Certainty = Certainty.Matched,
                    Message = literal is not null ? "The signing key for sessions or tokens is hard-coded." : "The signing key for sessions or tokens falls back to a hard-coded value where the setting is missing.",
                    Related = place == happening.At ? [] : [happening.At],
                };
            }
        }
    }

    /// <summary>Several keys may be given in a list: the first signs, any verifies.</summary>
    private static IEnumerable<AbstractValue> KeysOf(AbstractValue given) => given is { Constant: null, Fallback: null, Fields.Count: > 0 } ? given.Parts : [given];

    private static string? LiteralOf(AbstractValue key) =>
        key is { Constant.Length: > 0, ConstantKind: LiteralKind.Text, Taints.Count: 0, IsConfiguration: false } ? key.Constant : null;

    /// <summary>Where each of the texts stands in the program.</summary>
    private static ILookup<string, (IrFunction Function, Location At)> PlacesOf(CheckContext context, HashSet<string> texts)
    {
        var found = new List<(string Text, IrFunction Function, Location At)>();
        foreach (var function in texts.Count == 0 ? [] : context.Functions)
        {
            for (var i = 0; i < function.Instructions.Length; i++)
            {
                if (function.Instructions[i] is { Op: Opcode.Constant, A: (int)LiteralKind.Text, Text: { } text } && texts.Contains(text))
                {
                    found.Add((text, function, function.LocationOf(i)));
                }
            }
        }

        return found.ToLookup(f => f.Text, f => (f.Function, f.At), StringComparer.Ordinal);
    }

    /// <summary>Where the text stands: in the function that signs, its file, or the one place that has it; else where it is used.</summary>
    private static Location PlaceOf(IEnumerable<(IrFunction Function, Location At)> places, AnalysisEvent happening)
    {
        var known = places.ToList();
        return known.Where(p => p.Function == happening.Function).Concat(known.Where(p => p.Function.File == happening.Function.File)).Concat(known.Count == 1 ? known : []).Select(p => p.At).FirstOrDefault(happening.Place);
    }
}
