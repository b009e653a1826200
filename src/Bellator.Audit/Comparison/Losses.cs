using Bellator.Audit.Auditing;
using Bellator.Text;
using DiffPlex;

namespace Bellator.Audit.Comparison;

/// <summary>Why a finding is not found any more.</summary>
public enum LossKind
{
    /// <summary>The code is there, and safe.</summary>
    Fixed,

    /// <summary>The code is not there any more.</summary>
    CodeGone,

    /// <summary>The dangerous place is there, but no longer what led to it.</summary>
    NotReached,

    /// <summary>Nothing on its way was changed, or the file could not be audited.</summary>
    CannotTell,

    /// <summary>A reviewer stated something of the code that answers it.</summary>
    Stated,
}

/// <param name="At">The line that does it, in the new version; null where there is none.</param>
public sealed record Lost(LossKind Kind, string Text, ReportedPlace? At);

/// <summary>Explains why findings are gone, from the code before and after. Without the code it is said that this cannot be told.</summary>
internal sealed class Losses(CodeVersion before, CodeVersion after, PathRoots root)
{
    private const int LongestLine = 100;

    /// <summary>A changed line so near to the way of the value is taken for what ended it.</summary>
    private const int Nearby = 6;

    /// <summary>A line beside the way is on it if it speaks of so many things that the way speaks of: one name in common says little.</summary>
    private const int Shared = 2;

    private const int MostLines = 40;

    /// <summary>Where an application was replaced by another, nobody reads so many reasons; the rest is said to be gone.</summary>
    private const int MostExplained = 3000;

    /// <summary>Words of several languages that say nothing of what a line is about.</summary>
    private static readonly HashSet<string> Common = new(["const", "let", "var", "return", "function", "async", "await", "new", "this", "self", "echo", "public", "private", "static", "def", "end", "else", "elif", "elsif", "then", "not", "and", "null", "nil", "None", "true", "false", "req", "res", "request", "response", "params"], StringComparer.Ordinal);

    private readonly HashSet<string> _paths = new(after.Paths, StringComparer.Ordinal);
    private readonly HashSet<string> _pathsBefore = new(before.Paths, StringComparer.Ordinal);
    private readonly Dictionary<string, (IReadOnlyList<CodeWord> Words, ILookup<string, int> Places)> _words = new(StringComparer.Ordinal);
    private int _explained;
    private readonly Dictionary<string, string?> _found = new(StringComparer.Ordinal);
    private readonly Dictionary<string, (SourceFile Before, SourceFile After, IReadOnlyList<Change> Changes)?> _changes = new(StringComparer.Ordinal);

    /// <param name="Line">Of the new file, 1-based: the first line of the change, or where lines were taken out.</param>
    /// <param name="Added">Lines put in there.</param>
    /// <param name="BeforeLine">Of the old file, 1-based.</param>
    private readonly record struct Change(int Line, int Added, int BeforeLine, int Removed);

    public Lost Explain(ReportedFinding finding)
    {
        if (++_explained > MostExplained)
        {
            return new Lost(LossKind.CannotTell, $"more than {MostExplained} findings are gone; why this one is was not looked into", null);
        }

        if (before.Read(finding.Path) is null)
        {
            return new Lost(LossKind.CannotTell, "the code of before is not at hand, so it cannot be told why", null);
        }

        var end = finding.Steps.Count > 0 ? new ReportedPlace(finding.Steps[^1].Path, finding.Steps[^1].Region) : new ReportedPlace(finding.Path, finding.Region);
        foreach (var path in (string[])[finding.Path, end.Path])
        {
            if (PathNow(path) is not { } now)
            {
                return new Lost(LossKind.CodeGone, $"the file {path} is not there any more", null);
            }

            if (after.Unread.Contains(now))
            {
                return new Lost(LossKind.CannotTell, $"{now} could not be audited as it should; see the notes on it", null);
            }
        }

        var places = finding.Steps.Select(s => new ReportedPlace(s.Path, s.Region)).Append(new ReportedPlace(finding.Path, finding.Region)).Append(end).Distinct().ToList();
        var isThere = LineNow(end) is not null || Occurs(end);
        if (finding.Steps.Count > 1 && isThere && PathNow(finding.Steps[0].Path) is null)
        {
            return new Lost(LossKind.NotReached, $"what led to it is gone: the file {finding.Steps[0].Path} is not there any more", null);
        }

        if (places.Select(p => NearestChange(p, isThere)).Where(c => c is not null).OrderByDescending(c => c!.Value.IsOnWay).ThenBy(c => c!.Value.Distance).FirstOrDefault() is { } change)
        {
            var place = change.Place;
            return !isThere && change.Text.Length == 0 ? new Lost(LossKind.CodeGone, $"the code was taken out at {place.Path}:{place.Region.StartLine}", place)
                : finding.Steps.Count > 1 && change.Text.Length == 0 ? new Lost(LossKind.NotReached, $"what led to it was taken out at {place.Path}:{place.Region.StartLine}", place)
                : change.IsOnWay ? new Lost(LossKind.Fixed, $"{place.Path}:{place.Region.StartLine} does it: “{change.Text}”", place)
                : new Lost(LossKind.CannotTell, $"code near its way was changed at {place.Path}:{place.Region.StartLine} (“{change.Text}”); whether that makes it safe cannot be told", place);
        }

        return isThere ? new Lost(LossKind.CannotTell, "the code is there, and nothing on its way was changed; what it depends on elsewhere may have been", null) : new Lost(LossKind.CodeGone, "the code is not there any more", null);
    }

    /// <summary>Every line on the way of a finding is in the other version too, untouched.</summary>
    public bool HasAllOf(ReportedFinding finding) =>
        finding.Steps.Select(s => new ReportedPlace(s.Path, s.Region)).Append(new ReportedPlace(finding.Path, finding.Region)).All(p => LineNow(p) is not null);

    /// <summary>The file of the new version that a path has become.</summary>
    private string? PathNow(string path)
    {
        if (!_found.TryGetValue(path, out var now))
        {
            var rooted = root.Rooted(path);
            now = _paths.Contains(rooted) ? rooted : Renamed(path);
            _found[path] = now;
        }

        return now;
    }

    /// <summary>One of the same name, or of the same content, elsewhere.</summary>
    private string? Renamed(string path)
    {
        var name = System.IO.Path.GetFileName(path);
        var same = after.Paths.Where(p => System.IO.Path.GetFileName(p) == name && !_pathsBefore.Contains(p)).Take(2).ToList();
        if (same.Count == 1)
        {
            return same[0];
        }

        var content = before.Read(path)?.Content;
        return content is null ? null : after.Paths.FirstOrDefault(p => System.IO.Path.GetExtension(p) == System.IO.Path.GetExtension(path) && after.Read(p) is { } file && file.Content.AsSpan().SequenceEqual(content));
    }

    /// <summary>Where a line of before is now, if it was not touched.</summary>
    private int? LineNow(ReportedPlace place)
    {
        if (ChangesOf(place.Path) is not { } file)
        {
            return null;
        }

        var shift = 0;
        foreach (var change in file.Changes)
        {
            if (place.Region.StartLine >= change.BeforeLine && place.Region.StartLine < change.BeforeLine + change.Removed)
            {
                return null;
            }

            shift += change.BeforeLine <= place.Region.StartLine ? change.Added - change.Removed : 0;
        }

        return place.Region.StartLine + shift;
    }

    /// <summary>Whether the words at a place of before occur in its file still, wherever that may be.</summary>
    private bool Occurs(ReportedPlace place)
    {
        if (ChangesOf(place.Path) is not { } file)
        {
            return false;
        }

        var wanted = CodeWords.Of(file.Before, file.Before.SpanOf(place.Region), 60);
        if (!_words.TryGetValue(place.Path, out var known))
        {
            var words = CodeWords.Of(file.After, new Span(0, file.After.Content.Length));
            _words[place.Path] = known = (words, Enumerable.Range(0, words.Count).ToLookup(i => words[i].Text, StringComparer.Ordinal));
        }

        return wanted.Count > 0 && known.Places[wanted[0].Text].Any(at => at + wanted.Count <= known.Words.Count && Enumerable.Range(0, wanted.Count).All(i => known.Words[at + i].Text == wanted[i].Text));
    }

    /// <summary>The change next to a place. It is on the way of the value if it replaces the place's own line, or speaks of what that line speaks of.</summary>
    private (ReportedPlace Place, string Text, int Distance, bool IsOnWay)? NearestChange(ReportedPlace place, bool isThere)
    {
        if (ChangesOf(place.Path) is not { } file || PathNow(place.Path) is not { } path)
        {
            return null;
        }

        (ReportedPlace Place, string Text, int Distance, bool IsOnWay)? nearest = null;
        var spoken = NamesOf(file.Before, place.Region.StartLine, place.Region.EndLine);
        foreach (var change in file.Changes)
        {
            var distance = place.Region.StartLine < change.BeforeLine ? change.BeforeLine - place.Region.StartLine : Math.Max(0, place.Region.StartLine - (change.BeforeLine + Math.Max(0, change.Removed - 1)));
            if (distance <= Nearby && (nearest is null || distance < nearest.Value.Distance))
            {
                // Of the lines that were put in, the first one that says something.
                var line = Enumerable.Range(change.Line, change.Added).FirstOrDefault(l => CodeWords.Of(file.After, file.After.SpanOf(l)).Count > 1);
                var text = line == 0 ? "" : file.After.Line(line).Trim();
                nearest = (new ReportedPlace(path, new Region(Math.Max(1, line == 0 ? change.Line : line), 1, Math.Max(1, line == 0 ? change.Line : line), 1)), text.Length > LongestLine ? text[..LongestLine] + "…" : text, distance, distance == 0 || NamesOf(file.After, change.Line, change.Line + change.Added - 1).Count(spoken.Contains) >= Shared);
            }
        }

        return nearest;
    }

    private static HashSet<string> NamesOf(SourceFile file, int first, int last) =>
        Enumerable.Range(first, Math.Max(0, Math.Min(last, first + MostLines) - first + 1)).SelectMany(l => CodeWords.Of(file, file.SpanOf(l))).Where(w => w.Kind == CodeWordKind.Name && w.Text.Length > 2 && !Common.Contains(w.Text)).Select(w => w.Text).ToHashSet(StringComparer.Ordinal);

    private (SourceFile Before, SourceFile After, IReadOnlyList<Change> Changes)? ChangesOf(string path)
    {
        if (!_changes.TryGetValue(path, out var known))
        {
            known = before.Read(path) is { } old && PathNow(path) is { } now && after.Read(now) is { } file ? (old, file, Compare(old, file)) : null;
            _changes[path] = known;
        }

        return known;
    }

    private static List<Change> Compare(SourceFile before, SourceFile after)
    {
        // Lines are compared by their words: a new indentation is no change.
        var blocks = new Differ().CreateLineDiffs(Normal(before), Normal(after), ignoreWhitespace: false).DiffBlocks;
        return [.. blocks.Select(b => new Change(b.InsertStartB + 1, b.InsertCountB, b.DeleteStartA + 1, b.DeleteCountA))];

        static string Normal(SourceFile file) => string.Join('\n', Enumerable.Range(1, file.LineCount).Select(l => string.Join(' ', CodeWords.Of(file, file.SpanOf(l)).Select(w => w.Text.ReplaceLineEndings(" ")))));
    }
}
