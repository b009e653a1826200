using System.Collections.Concurrent;
using System.Text;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Syntax.Templates;
using Bellator.Text;

namespace Bellator.Analysis.Html;

/// <summary>Where in its page a value of a template stands, by the markup before it.</summary>
internal sealed class TemplatePages
{
    /// <summary>Bytes of the name and bracket that a template puts before code in an attribute.</summary>
    private const int CallLength = 3;

    private readonly ConcurrentDictionary<int, List<Place>> _byFile = [];

    /// <summary>One stretch of code in a template: where it begins, and what the page is there.</summary>
    /// <param name="Start">Offset in the file.</param>
    /// <param name="Position">How a value could break out.</param>
    /// <param name="StartsAddress">An address begins here.</param>
    /// <param name="IsInScriptText">It stands between quotes of a script.</param>
    internal readonly record struct Place(int Start, OutputContext Position, bool StartsAddress, bool IsInScriptText);

    /// <summary>The place of what stands at the offset.</summary>
    public Place At(IrFile file, int offset)
    {
        var places = _byFile.GetOrAdd(file.Index, static (_, source) => Find(source), file.Source);
        var index = places.BinarySearch(new Place(offset, default, false, false), Comparer<Place>.Create((a, b) => a.Start.CompareTo(b.Start)));
        index = index >= 0 ? index : ~index - 1;
        return index < 0 ? new Place(0, OutputContext.Html, false, false) : places[index];
    }

    private static List<Place> Find(SourceFile file)
    {
        var places = new List<Place>();
        var page = file.Content;
        var code = TemplateCode.Hosted(file).Content;
        var state = new PageState();
        var inAttributes = file.Language is Language.Vue or Language.Angular;
        var text = 0;
        for (var i = 0; i < page.Length; i++)
        {
            var end = EndOfCode(page, code, i);
            if (end > i)
            {
                // Where code stands in attributes, the page's own signs go on below the call that it became.
                var seen = inAttributes ? Math.Min(end, i + CallLength) : i;
                state = state.After(Encoding.Latin1.GetString(page, text, Math.Max(0, seen - text)));
                Note(i);
                text = inAttributes ? seen : end;
                i = end - 1;
            }
        }

        return places;

        void Note(int start)
        {
            places.Add(new Place(start, state.Position, state.StartsAddress, state.IsInScriptText));
            if (inAttributes)
            {
                return;
            }

            if (page[start] != '{' || start + 1 >= page.Length || page[start + 1] == '{')
            {
                state = state.AfterValue();
            }
        }
    }

    /// <summary>The end of the code that begins here, with the signs around it; the same place where text begins.</summary>
    private static int EndOfCode(byte[] page, byte[] code, int start)
    {
        if (page[start] == '<' && start + 1 < page.Length && page[start + 1] == '%')
        {
            return After("%>"u8);
        }

        if (page[start] == '{' && start + 1 < page.Length && page[start + 1] is (byte)'{' or (byte)'%' or (byte)'#' or (byte)'!')
        {
            return After(page[start + 1] switch { (byte)'%' => "%}"u8, (byte)'#' => "#}"u8, (byte)'!' => "!!}"u8, _ => "}}"u8 });
        }

        var end = start;
        while (end < page.Length && (!IsBlank(code[end]) || (end > start && IsBlank(page[end]))))
        {
            end++;
        }

        return end;

        int After(ReadOnlySpan<byte> close)
        {
            var found = page.AsSpan(start).IndexOf(close);
            return found < 0 ? page.Length : start + found + close.Length;
        }

        static bool IsBlank(byte c) => c is (byte)' ' or (byte)'\n' or (byte)'\r' or (byte)'\t';
    }
}
