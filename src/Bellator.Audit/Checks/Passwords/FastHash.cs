using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Accounts;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>A password is hashed with a function made to be fast.</summary>
public sealed class FastHash : Check
{
    public override string Id => "passwords/fast-hash";

    public override string Title => "Password hashed with a fast digest";

    public override IReadOnlyList<int> Cwes => [916, 328];

    public override IReadOnlyList<string> Asvs => ["V11.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:H/UI:N/S:C/C:H/I:L/A:N";

    public override string Why =>
        "MD5, SHA-1 and SHA-2 are made to be fast: ordinary graphics cards try thousands of millions of guesses a second against them. Nesting them or adding a salt does not change that.";

    public override string FalsePositiveIf => "The digest is not what is stored or compared: it is a key for a look-up in a list of leaked passwords, or a protocol prescribes it.";

    public override string HowToFix(string language) => PasswordAdvice.Hash(language);

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        // A hash may go into the same function again, with a salt.
        var again = context.EventsOf(EventKind.Hash).Where(h => HashUse.Of(h).IsSalted && context.Passwords(FieldAccess.DeepTaints(h.Role("input"))).Any(t => t.Transform == PasswordTransform.FastHash)).Select(h => h.At).ToHashSet();
        // Long passwords are made short for a slow hash that would cut them off: what is kept is that one's.
        var made = context.EventsOf(EventKind.Hash).Where(h => h.Role("scheme").Constant is { } slow && !HashSchemeNames.IsFast(slow)).SelectMany(h => FieldAccess.DeepTaints(h.Role("input")).Where(t => t.Transform == PasswordTransform.FastHash).SelectMany(t => t.Trace.Steps()).Where(s => s.Kind == StepKind.Hashed).Select(s => s.At)).ToHashSet();
        foreach (var hash in context.EventsOf(EventKind.Hash).Where(h => !made.Contains(h.At)))
        {
            var scheme = hash.Role("scheme").Constant ?? "";
            var input = hash.Role("input");
            if (!HashSchemeNames.IsFast(scheme) || context.Words.IsProtocol(hash.Function.Name) || Statements.IsStatement(input) || context.Passwords(FieldAccess.DeepTaints(input)).FirstOrDefault(t => t.Transform is PasswordTransform.Plain or PasswordTransform.Encoded) is not { } password)
            {
                continue;
            }

            var salted = HashUse.Of(hash).IsSalted;
            var nested = !salted && again.Contains(hash.At);
            yield return new Finding
            {
                Check = this,
                At = hash.At,
                Certainty = CheckContext.CertaintyOf(password, hash.Guessed),
                Message = salted
                    ? $"The password ({CheckContext.Describe(password.Origin)}) is hashed with {scheme}, which is fast to guess against even with a salt."
                    : nested ? $"The password ({CheckContext.Describe(password.Origin)}) is hashed with {scheme}, and the result again with a salt: both are fast to guess against."
                    : $"The password ({CheckContext.Describe(password.Origin)}) is hashed with {scheme}, which is fast to guess against, and without a salt.",
                Steps = CheckContext.Steps(password, hash, "hashed with " + scheme),
                MoreCwes = salted || nested ? [] : [759],
                Subject = scheme,
            };
        }
    }
}
