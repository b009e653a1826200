using Bellator.Analysis.Ir;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>A list of hashers begins with one that is not fit any more: the first makes all new hashes.</summary>
public sealed class LegacyHasherFirst : Check
{
    public override string Id => "passwords/legacy-hasher-first";

    public override string Title => "New passwords get a legacy hash";

    public override IReadOnlyList<int> Cwes => [916];

    public override IReadOnlyList<string> Asvs => ["V11.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:H/UI:N/S:U/C:H/I:N/A:N";

    public override string Why => "The first of the list makes every new hash; the others only verify old ones. With a fast one in front, people who change their password today are no better off.";

    public override string FalsePositiveIf => "The list is for tests only.";

    public override string HowToFix(string language) => "Put the current hasher first and leave the old ones behind it, so that their values are verified and made anew at the next sign-in.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var function in context.Functions.Where(f => f.IsTopLevel))
        {
            for (var i = 0; i < function.Instructions.Length; i++)
            {
                var instruction = function.Instructions[i];
                var value = instruction.Op switch { Opcode.Export => instruction.A, Opcode.StoreShared => instruction.B, _ => -1 };
                if (value >= 0 && instruction.Text is { } name && context.Words.ListsHashers(name) && function.Instructions[value] is { Op: Opcode.List or Opcode.Object, C: > 0 } list
                    && function.Instructions[function.List(list)[0].Value] is { Op: Opcode.Constant, Text: { } first } && context.Words.IsOldHasher(first))
                {
                    yield return new Finding
                    {
                        Check = this,
                        At = function.LocationOf(function.List(list)[0].Value),
                        Certainty = Certainty.Matched,
                        Message = $"“{name}” begins with “{IrClass.ShortOf(first)}”: it makes every new hash.",
                        Subject = name,
                    };
                }
            }
        }
    }
}
