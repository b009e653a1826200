using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>The key that signs sessions or tokens stands in the code.</summary>
public sealed class SecretInCode : Check
{
    public override string Id => "sessions/secret-in-code";

    public override string Title => "Signing key in the source code";

    public override IReadOnlyList<int> Cwes => [798, 321];

    public override IReadOnlyList<string> Asvs => ["V13.3.1", "V9.1.3"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "Whoever has read the code, its history or a backup signs sessions and tokens of any account.";

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
        var told = new HashSet<(Location, string)>();
        foreach (var happening in context.EventsAt("signing-key"))
        {
            var key = happening.Role("value");
            var literal = key is { Constant.Length: > 0, ConstantKind: LiteralKind.Text, Taints.Count: 0, IsConfiguration: false } ? key.Constant : null;
            if ((literal ?? key.Fallback) is { } text && PlaceOf(context, happening, text) is var place && told.Add((place, text)))
            {
                yield return new Finding
                {
                    Check = this,
                    At = place,
                    Certainty = Certainty.Matched,
                    Message = literal is not null ? "The key that signs sessions or tokens is a text in the source code." : "The key that signs sessions or tokens is a text in the source code wherever the setting is missing.",
                    Related = place == happening.At ? [] : [happening.At],
                };
            }
        }
    }

    /// <summary>Where the text stands: in the function that signs, its file, or the one file that has it; else where it is used.</summary>
    private static Location PlaceOf(CheckContext context, AnalysisEvent happening, string text)
    {
        var places = context.Program.Functions.SelectMany(f => Enumerable.Range(0, f.Instructions.Length).Where(i => f.Instructions[i] is { Op: Opcode.Constant, A: (int)LiteralKind.Text } c && c.Text == text).Select(i => (Function: f, At: f.LocationOf(i)))).ToList();
        return places.Where(p => p.Function == happening.Function).Concat(places.Where(p => p.Function.File == happening.Function.File)).Concat(places.Count == 1 ? places : []).Select(p => p.At).FirstOrDefault(happening.Place);
    }
}
