using YamlDotNet.Serialization;

namespace Bellator.Audit.Knowledge;

/// <summary>What a reviewer can say of a function after reading it.</summary>
public enum StatementKind
{
    /// <summary>Its result is harmless whatever goes in: digits, a date, one of a fixed list.</summary>
    ResultHarmless,

    /// <summary>Its result is its argument, made harmless.</summary>
    MakesHarmless,

    /// <summary>It answers true only for harmless arguments.</summary>
    TrueVouches,

    /// <summary>It answers false only for harmless arguments.</summary>
    FalseVouches,

    /// <summary>It comes back only if its argument is harmless, and otherwise throws or ends the program.</summary>
    ReturnVouches,
}

/// <summary>One thing that a reviewer states of a function of the audited program, as a sentence and as a facts file.</summary>
/// <param name="Language">As facts files name it.</param>
/// <param name="Function">As facts files name functions: <c>f</c>, <c>T#m</c>, <c>T::m</c>, <c>*#m</c>.</param>
/// <param name="Argument">The argument it is about, from 0; of no meaning for <see cref="StatementKind.ResultHarmless"/>.</param>
/// <param name="Positions">Where it is harmless, in the words of facts files; empty for everywhere.</param>
public sealed record Statement(string Language, string Function, StatementKind Kind, int Argument, IReadOnlyList<string> Positions)
{
    public const int LongestName = 160;

    public const int MostArguments = 12;

    /// <summary>What is stated, to be read.</summary>
    public string Sentence
    {
        get
        {
            var where = Positions.Count == 0 ? "harmless" : $"harmless as {string.Join(", ", Positions)}";
            return Kind switch
            {
                StatementKind.ResultHarmless => $"What {Function}() gives is {where}",
                StatementKind.MakesHarmless => $"{Function}() makes its {Ordinal(Argument)} argument {where}",
                StatementKind.TrueVouches => $"{Function}() is true only if its {Ordinal(Argument)} argument is {where}",
                StatementKind.FalseVouches => $"{Function}() is false only if its {Ordinal(Argument)} argument is {where}",
                _ => $"{Function}() comes back only if its {Ordinal(Argument)} argument is {where}",
            };
        }
    }

    /// <summary>The same as a facts file.</summary>
    public string Facts()
    {
        IReadOnlyList<string> positions = Positions.Count == 0 ? ["all"] : Positions;
        object fact = Kind switch
        {
            StatementKind.ResultHarmless when Positions.Count == 0 => new { sanitizes = "flag" },
            StatementKind.ResultHarmless or StatementKind.MakesHarmless => new { escape = new { value = Argument, @for = positions } },
            StatementKind.ReturnVouches => new { test = new { kind = "allow", value = Argument, throws = true, @for = positions } },
            _ => new { test = new { kind = "allow", value = Argument, answer = Kind == StatementKind.TrueVouches, @for = positions } },
        };
        return new SerializerBuilder().Build().Serialize(new Dictionary<string, object>
        {
            ["library"] = "this application",
            ["language"] = Language,
            ["functions"] = new Dictionary<string, object> { [Function] = fact },
        });
    }

    private static string Ordinal(int argument) => argument switch
    {
        0 => "first",
        1 => "second",
        2 => "third",
        _ => $"{argument + 1}th",
    };
}
