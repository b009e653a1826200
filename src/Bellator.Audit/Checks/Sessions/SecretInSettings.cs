using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Endpoints;
using Bellator.Text;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>A key that signs sessions or tokens stands in a settings file beside the code.</summary>
public sealed class SecretInSettings : Check
{
    public override string Id => "sessions/secret-in-settings";

    public override string Title => "Signing key in a settings file";

    public override IReadOnlyList<int> Cwes => [798, 321, 540];

    public override IReadOnlyList<string> Asvs => ["V13.3.1", "V9.1.3"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "Whoever can read the repository, a backup or an image of it can make sessions and tokens for anybody.";

    public override string FalsePositiveIf => "The value is replaced when the application is deployed, and this one opens nothing.";

    public override string HowToFix(string language) => "Take the key out of the file, make a new one, and read it from the environment or a secret store; refuse to start without it.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        HashSet<string>? named = null;
        foreach (var (_, keys, value, at) in YamlSettings.Texts(context.Program.Tree))
        {
            if (keys is not [.., { Length: > 0 } key] || !IsWrittenOut(value) || !context.Words.NamesSigningKey(keys))
            {
                continue;
            }

            // A framework reads it under its own name; any other counts where code does.
            if (!context.Words.IsFrameworkSecret(key) && !(named ??= Named(context)).Contains(key))
            {
                continue;
            }

            yield return new Finding
            {
                Check = this,
                At = at,
                Certainty = Certainty.Matched,
                Message = $"“{string.Join(':', keys)}” holds a signing key that is written into this file.",
                Subject = key,
            };
        }
    }

    /// <summary>It is a value of its own, not a place for one or the name of where it comes from.</summary>
    private static bool IsWrittenOut(string value) =>
        value.Length >= ShortestKey && !value.Contains(' ', StringComparison.Ordinal) && value[0] is not ('$' or '%' or '<' or '{' or '!' or '/' or '#')
        && !value.Contains("://", StringComparison.Ordinal) && !value.Contains("env(", StringComparison.OrdinalIgnoreCase)
        && !Placeholders.Any(p => value.Contains(p, StringComparison.OrdinalIgnoreCase));

    /// <summary>Shorter texts are names and switches.</summary>
    private const int ShortestKey = 8;

    /// <summary>Common practice: what people write where somebody else is to put a value.</summary>
    private static readonly string[] Placeholders = ["change", "replace", "your", "example", "placeholder", "xxxx", "todo", "secret-here", "insert", "set-in", "set_in", "override"];

    /// <summary>The names of members and the parts of texts by which the code reads settings.</summary>
    private static HashSet<string> Named(CheckContext context)
    {
        var names = new HashSet<string>(StringComparer.Ordinal);
        foreach (var function in context.Functions)
        {
            foreach (ref readonly var instruction in function.Instructions.AsSpan())
            {
                if (instruction.Op is Opcode.GetField or Opcode.Constant or Opcode.Object && instruction.Text is { Length: > 0 and < 100 } text)
                {
                    foreach (var part in text.Split([':', '.'], StringSplitOptions.RemoveEmptyEntries))
                    {
                        names.Add(part);
                    }
                }
            }

            foreach (ref readonly var operand in function.Operands.AsSpan())
            {
                if (operand.Name is { } name)
                {
                    names.Add(name);
                }
            }
        }

        return names;
    }
}
