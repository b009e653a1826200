using Bellator.Analysis.Domain;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>A password as typed reaches a place where it is written down or sent.</summary>
public abstract class PasswordLeak : Check
{
    /// <summary>The kind of place, as facts name it.</summary>
    protected abstract string Place { get; }

    /// <summary>What happens to it there, to end a sentence with.</summary>
    protected abstract string Happens { get; }

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var happening in context.EventsAt(Place))
        {
            if (context.Passwords(FieldAccess.DeepTaints(happening.Role("value"))).FirstOrDefault(t => t is { Transform: PasswordTransform.Plain or PasswordTransform.Encoded, Guessed: false, Origin.Kind: OriginKind.Request } && t.Safe != OutputContext.All) is { } password)
            {
                yield return new Finding
                {
                    Check = this,
                    At = happening.At,
                    Certainty = CheckContext.CertaintyOf(password, happening.Guessed),
                    Message = $"The password ({CheckContext.Describe(password.Origin)}) {Happens}.",
                    Steps = CheckContext.Steps(password, happening, Happens),
                    Subject = password.Origin.Name ?? "",
                };
            }
        }
    }
}
