using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>A slow hash of a password with the salt that it is given.</summary>
internal sealed record Salted(AnalysisEvent Hash, AbstractValue Salt, Taint Password)
{
    public Finding Found(Check check, string message) => new()
    {
        Check = check,
        At = Hash.At,
        Certainty = CheckContext.CertaintyOf(Password, Hash.Guessed),
        Message = message,
        Steps = CheckContext.Steps(Password, Hash, "hashed"),
        Subject = Hash.Role("scheme").Constant ?? "",
    };
}

internal static class Salts
{
    public static IEnumerable<Salted> Of(CheckContext context)
    {
        foreach (var hash in context.EventsOf(EventKind.Hash))
        {
            if (hash.Roles.TryGetValue("salt", out var salt) && !HashSchemeNames.IsFast(hash.Role("scheme").Constant ?? "")
                && context.Passwords(FieldAccess.DeepTaints(hash.Role("input"))).FirstOrDefault() is { } password)
            {
                yield return new Salted(hash, salt, password);
            }
        }
    }
}
