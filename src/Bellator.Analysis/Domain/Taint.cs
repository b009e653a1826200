using Bellator.Text;

namespace Bellator.Analysis.Domain;

/// <summary>One origin of a value with what happened to it on the way.</summary>
/// <param name="Safe">Positions where it can do no harm any more.</param>
/// <param name="Altered">It is a changed or partial form of what came in.</param>
/// <param name="Guessed">The way leads through something that could not be resolved.</param>
public sealed record Taint(Origin Origin, OutputContext Safe, PasswordTransform Transform, bool Altered, bool Guessed, Trace Trace)
{
    /// <summary>A test on some way, though not on every one, looks at the value: whether a harmful one gets here depends on how the ways go together.</summary>
    public bool Doubted { get; init; }

    /// <summary>It is no part of the value: the record that the value is, or is of, was found by it.</summary>
    public bool Selects { get; init; }

    /// <summary>It takes the place of what the program knows of the person, if the client chooses to send it: <c>req.get('x-keeper') ?? req.session.keeper</c>.</summary>
    public bool ReplacesSubject { get; init; }

    /// <summary>What of the program's own went into its digest.</summary>
    public DigestKey Key { get; init; }

    /// <summary>The request brings it: it is part of the value, and not only that by which a record was found.</summary>
    public bool IsSent => Origin.Kind == OriginKind.Request && !Selects;

    /// <summary>Nothing was done to it but for making sure that it is text.</summary>
    public bool IsRaw => (Safe & ~OutputContext.Object) == OutputContext.None;

    public bool IsParameter => Origin.Kind == OriginKind.Parameter;

    /// <summary>Equal but for the way it came.</summary>
    public bool SameAs(Taint other) =>
        Safe == other.Safe && Transform == other.Transform && Altered == other.Altered && Guessed == other.Guessed && Doubted == other.Doubted && Selects == other.Selects && ReplacesSubject == other.ReplacesSubject && Key == other.Key && Origin == other.Origin;

    /// <summary>The same as another taint would be that continues what an argument brings, without making it.</summary>
    public bool IsComposition(Taint continued, Taint argument) =>
        Origin == argument.Origin && Safe == (argument.Safe | continued.Safe) && Transform == (PasswordTransform)Math.Max((int)argument.Transform, (int)continued.Transform)
        && Altered == (argument.Altered || continued.Altered) && Guessed == (argument.Guessed || continued.Guessed) && Doubted == (argument.Doubted || continued.Doubted) && Selects == (argument.Selects || continued.Selects)
        && ReplacesSubject == (argument.ReplacesSubject || continued.ReplacesSubject) && Key == (DigestKey)Math.Max((byte)argument.Key, (byte)continued.Key);

    /// <summary>This, as it continues what another taint describes: used where a parameter meets its argument.</summary>
    public Taint ComposedWith(Taint argument, Location call, string note)
    {
        return new Taint(
            argument.Origin,
            argument.Safe | Safe,
            (PasswordTransform)Math.Max((int)argument.Transform, (int)Transform),
            argument.Altered || Altered,
            argument.Guessed || Guessed,
            Trace.Through(argument.Trace, call, note, Trace))
        { Doubted = argument.Doubted || Doubted, Selects = argument.Selects || Selects, ReplacesSubject = argument.ReplacesSubject || ReplacesSubject, Key = (DigestKey)Math.Max((byte)argument.Key, (byte)Key) };
    }
}
