using System.Text;
using Bellator.Analysis.Domain;
using Bellator.Text;

namespace Bellator.Audit.Witnesses;

/// <summary>A text with a value in the place of one origin and something harmless in the others.</summary>
internal static class FilledText
{
    public static IReadOnlyList<IReadOnlyList<Piece>> Forms(AbstractValue value) => value.Text?.Alternatives ?? [[Piece.Hole(value.Taints, Location.None)]];

    public static string Of(IReadOnlyList<Piece> pieces, Taint taint, string value)
    {
        var text = new StringBuilder();
        foreach (var piece in pieces)
        {
            text.Append(!piece.IsHole ? piece.Literal : piece.Taints.Any(t => t.SameAs(taint)) ? value : "a");
        }

        return text.ToString();
    }
}
