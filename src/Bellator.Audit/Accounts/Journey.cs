using Bellator.Audit.Endpoints;
using Bellator.Text;

namespace Bellator.Audit.Accounts;

public enum JourneyKind
{
    Register,
    SignIn,
    SignOut,
    Recover,
    ChangePassword,
    ChangeEmail,
    Profile,
}

/// <summary>Whether code was found that does what a step should.</summary>
public enum StepState
{
    Shown,
    Absent,
    Unclear,
    NotNeeded,
}

/// <summary>A place in the code that shows, or would have to show, a step.</summary>
public sealed record StepEvidence(Location At, string Note);

/// <summary>One thing that a journey should do.</summary>
/// <param name="Name">As the line of stations shows it.</param>
/// <param name="Text">What was found, in a few words.</param>
/// <param name="Reason">Why the state is what it is, in a sentence.</param>
public sealed record JourneyStep(string Name, StepState State, string Text, string Reason, IReadOnlyList<StepEvidence> Evidence)
{
    public static JourneyStep Of(string name, StepState state, string text, string reason, params IEnumerable<StepEvidence> evidence) => new(name, state, text, reason, [.. evidence.Where(e => e.At.IsKnown).DistinctBy(e => e.At).Take(6)]);
}

/// <summary>A way that people go through an application, as one part of its code does it.</summary>
/// <param name="Entries">The addresses it passes; none for one that a library brings.</param>
/// <param name="By">The language, or the library.</param>
/// <param name="At">Where the code of it begins.</param>
public sealed record Journey(JourneyKind Kind, IReadOnlyList<EntryPoint> Entries, string By, Location At, IReadOnlyList<JourneyStep> Steps)
{
    /// <summary>Method and path of the address that does the work.</summary>
    public string Address { get; init; } = "";

    /// <summary>A library brings it, but settings of the application say how it is.</summary>
    public bool IsSetUp { get; init; }

    public JourneyStep? Step(string name) => Steps.FirstOrDefault(s => s.Name == name);
}
