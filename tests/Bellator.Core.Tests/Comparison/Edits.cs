using System.Text;
using System.Text.RegularExpressions;
using Bellator.Text;

namespace Bellator.Core.Tests.Comparison;

/// <summary>A file after an edit.</summary>
/// <param name="LineNow">For each line of before (the first is 1) the line that it has become.</param>
public sealed record EditedFile(string PathBefore, string Path, string Text, int[] LineNow);

/// <summary>Edits that change where code stands, how it looks and what things in it are called, and nothing of what it does.</summary>
public static partial class Edits
{
    public static readonly IReadOnlyDictionary<string, Func<IReadOnlyList<SourceFile>, IReadOnlyList<EditedFile>>> All = new Dictionary<string, Func<IReadOnlyList<SourceFile>, IReadOnlyList<EditedFile>>>(StringComparer.Ordinal)
    {
        ["another root folder"] = files => Same(files, f => "app-1.1/" + f.Path),
        ["moved files"] = files => Same(files, f => HalfOf(f.Path) ? "legacy/" + f.Path : f.Path),
        ["renamed files"] = files => Same(files, f => HalfOf(f.Path) && f.Path.LastIndexOf('.') is > 0 and var dot ? $"{f.Path[..dot]}_v2{f.Path[dot..]}" : f.Path),
        ["blank lines"] = files => Lines(files, (file, line, _) => IsStatement(file, line) ? [line, ""] : [line]),
        ["comments"] = files => Lines(files, (file, line, before) => IsStatement(file, before) && line.Trim().Length > 0 && IndentOf(line).Length >= IndentOf(before).Length ? [IndentOf(line) + CommentOf(file) + " looked at in spring", line] : [line]),
        ["indentation and line ends"] = files => Lines(files, (_, line, _) => [string.Concat(IndentOf(line), IndentOf(line), line.AsSpan(IndentOf(line).Length), line.Length > 0 ? "  " : "")]),
        ["renamed variables"] = files => Replaced(files, RenameVariables),
        ["renamed functions"] = RenameFunctions,
        ["statements added"] = files => Lines(files, (file, line, before) => IsStatement(file, before) && before.TrimEnd().EndsWith(';') && IsStatement(file, line) && line.TrimEnd().EndsWith(';') && IndentOf(line).Length >= 4 && IndentOf(line) == IndentOf(before) && !Declares().IsMatch(line) && StatementOf(file) is { } extra ? [IndentOf(line) + extra, line] : [line]),
        ["lines split"] = files => Lines(files, (file, line, _) => SplitOf(file, line)),
        ["moved functions"] = MovedFunctions,
        ["code before and after"] = files => [.. files.Select(f => Added(f))],
    };

    private static IReadOnlyList<EditedFile> Same(IReadOnlyList<SourceFile> files, Func<SourceFile, string> path) =>
        [.. files.Select(f => new EditedFile(f.Path, path(f), TextOf(f), [.. Enumerable.Range(0, f.LineCount + 1)]))];

    private static bool HalfOf(string path) => path.Sum(c => c) % 2 == 0;

    private static string TextOf(SourceFile file) => Encoding.UTF8.GetString(file.Content);

    private static bool HasSemicolons(SourceFile file) => file.Language is Language.Php or Language.JavaScript or Language.TypeScript or Language.Tsx or Language.CSharp;

    private static string IndentOf(string line) => line[..(line.Length - line.TrimStart().Length)];

    private static string CommentOf(SourceFile file) => HasSemicolons(file) ? "//" : "#";

    private static string? StatementOf(SourceFile file) => file.Language switch
    {
        Language.Php => "$unusedHere = 1;",
        Language.JavaScript or Language.TypeScript => "void 0;",
        Language.CSharp => "_ = 1;",
        _ => null,
    };

    /// <summary>A line after which another statement may stand.</summary>
    private static bool IsStatement(SourceFile file, string line)
    {
        var text = line.Trim();
        return text.Length > 0 && !text.StartsWith('*') && !text.StartsWith("//", StringComparison.Ordinal) && text.Count(c => c is '\'' or '"' or '`') % 2 == 0 && text.Count(c => c == '(') == text.Count(c => c == ')')
            && (HasSemicolons(file) ? text.EndsWith(';') : file.Language is Language.Python or Language.Ruby && StatementStart().IsMatch(text) && text.Count(c => c is '{' or '[') == text.Count(c => c is '}' or ']') && !text.EndsWith('\\') && !text.EndsWith(','));
    }

    private static IReadOnlyList<EditedFile> Lines(IReadOnlyList<SourceFile> files, Func<SourceFile, string, string, IReadOnlyList<string>> edit) => [.. files.Select(file =>
    {
        var (lines, now) = (new List<string>(), new int[file.LineCount + 1]);
        var (before, isText) = ("", false);
        for (var number = 1; number <= file.LineCount; number++)
        {
            var line = file.Line(number);

            // Inside of a text of several lines nothing is edited.
            var wasText = isText;
            isText ^= LongText().Count(line) % 2 == 1;
            var edited = wasText || isText || file.Language == Language.Unknown ? [line] : edit(file, line, before);
            now[number] = lines.Count + edited.ToList().IndexOf(edited.FirstOrDefault(l => l.Trim() == line.Trim()) ?? edited[0]) + 1;
            lines.AddRange(edited);
            before = wasText || isText ? "" : line;
        }

        return new EditedFile(file.Path, file.Path, string.Join('\n', lines), now);
    })];

    private static IReadOnlyList<string> SplitOf(SourceFile file, string line)
    {
        var at = line.LastIndexOf(", ", StringComparison.Ordinal);
        if (!HasSemicolons(file) || !IsStatement(file, line) || at < 0 || line[..at].Count(c => c is '\'' or '"' or '`') % 2 == 1 || line[..at].Count(c => c == '(') <= line[..at].Count(c => c == ')'))
        {
            return [line];
        }

        return [line[..(at + 1)], IndentOf(line) + "    " + line[(at + 2)..]];
    }

    private static IReadOnlyList<EditedFile> Replaced(IReadOnlyList<SourceFile> files, Func<SourceFile, string> edit) =>
        [.. files.Select(f => new EditedFile(f.Path, f.Path, edit(f), [.. Enumerable.Range(0, f.LineCount + 1)]))];

    private static string RenameVariables(SourceFile file)
    {
        var text = TextOf(file);
        if (file.Language == Language.Php)
        {
            return PhpVariable().Replace(text, m => m.Groups[1].Value is "this" || m.Groups[1].Value.StartsWith('_') || text.Contains("::$" + m.Groups[1].Value, StringComparison.Ordinal) || PropertyOf(m.Groups[1].Value).IsMatch(text) ? m.Value : m.Value + "Now");
        }

        if (!HasSemicolons(file))
        {
            return text;
        }

        foreach (var name in Local().Matches(text).Select(m => m.Groups[1].Value).Distinct())
        {
            // Where the name is also a key, an argument's name or a member, renaming it would mean something else.
            if (!Regex.IsMatch(text, $@"[{{,(]\s*{name}\s*[,}})]|\.{name}\b|\b{name}\s*:|['""`][^'""`\n]*\b{name}\b[^'""`\n]*['""`]|exports.*\b{name}\b"))
            {
                text = Regex.Replace(text, $@"(?<![\w.$]){name}(?![\w$])", name + "Now");
            }
        }

        return text;
    }

    private static Regex PropertyOf(string name) => new($@"(?:public|private|protected|readonly|static|var)\s+(?:\??\w+\s+)?\${name}\b|compact\([^)]*{name}");

    private static IReadOnlyList<EditedFile> RenameFunctions(IReadOnlyList<SourceFile> files)
    {
        var all = string.Join('\n', files.Select(TextOf));
        var names = files.Where(f => f.Language != Language.Unknown).SelectMany(f => Function().Matches(TextOf(f)).Select(m => m.Groups[1].Value)).Distinct()
            .Where(n => n.Length > 3 && !Regex.IsMatch(all, $@"['""`][^'""`\n]*\b{n}\b[^'""`\n]*['""`]|\.{n}\b|\b{n}\s*[:=]|[{{,]\s*{n}\s*[,}}]|import[^\n]*\b{n}\b")).ToList();
        return Replaced(files, f => names.Aggregate(TextOf(f), (text, name) => Regex.Replace(text, $@"(?<![\w.$>]){name}(?=\s*\()", name + "Now")));
    }

    /// <summary>Blocks that begin with a function at the left margin and end with a brace there trade places, two by two.</summary>
    private static IReadOnlyList<EditedFile> MovedFunctions(IReadOnlyList<SourceFile> files) => [.. files.Select(file =>
    {
        var lines = Enumerable.Range(1, file.LineCount).Select(file.Line).ToList();
        var order = Enumerable.Range(0, lines.Count).ToList();
        var blocks = new List<(int Start, int End)>();
        for (var i = 0; i < lines.Count && HasSemicolons(file); i++)
        {
            if (TopFunction().IsMatch(lines[i]) && lines.FindIndex(i, l => l.StartsWith('}')) is > 0 and var end && lines[end] == "}" && lines.Skip(i).Take(end - i).All(l => l.Length == 0 || l[0] is ' ' or '\t' || l == lines[i]))
            {
                blocks.Add((i, end + 1));
                i = end;
            }
        }

        for (var b = 0; b + 1 < blocks.Count; b += 2)
        {
            var (one, two) = (blocks[b], blocks[b + 1]);
            int[] swapped = [.. Enumerable.Range(two.Start, two.End - two.Start), .. Enumerable.Range(one.End, two.Start - one.End), .. Enumerable.Range(one.Start, one.End - one.Start)];
            swapped.CopyTo(0, order, one.Start);
        }

        var now = new int[lines.Count + 1];
        for (var i = 0; i < order.Count; i++)
        {
            now[order[i] + 1] = i + 1;
        }

        return new EditedFile(file.Path, file.Path, string.Join('\n', order.Select(i => lines[i])), now);
    })];

    private static void CopyTo(this int[] from, int at, List<int> to, int start)
    {
        for (var i = at; i < from.Length; i++)
        {
            to[start + i] = from[i];
        }
    }

    private static EditedFile Added(SourceFile file)
    {
        var head = file.Language switch
        {
            Language.Php when TextOf(file).StartsWith("<?php\n", StringComparison.Ordinal) && !TextOf(file).Contains("declare(", StringComparison.Ordinal) && !TextOf(file).Contains("namespace ", StringComparison.Ordinal) => "<?php\nfunction added_later($a) {\n    return $a + 1;\n}\n",
            Language.JavaScript => "function addedLater(a) {\n  return a + 1;\n}\n",
            Language.Python when !TextOf(file).Contains("__future__", StringComparison.Ordinal) => "def added_later(a):\n    return a + 1\n\n\n",
            Language.Ruby => "def added_later(a)\n  a + 1\nend\n\n",
            _ => "",
        };
        var text = TextOf(file);
        var cut = file.Language == Language.Php && head.Length > 0 ? "<?php\n".Length : 0;
        var shift = head.Count(c => c == '\n') - (cut > 0 ? 1 : 0);
        return new EditedFile(file.Path, file.Path, head + text[cut..], [.. Enumerable.Range(0, file.LineCount + 1).Select(l => l + shift)]);
    }

    [GeneratedRegex("\"\"\"|'''|<<<|<<~|`|^\\s*/\\*|\\*/")]
    private static partial Regex LongText();

    [GeneratedRegex(@"^(return|raise|[\w.@]+ = |[\w.]+\(.*\)$)")]
    private static partial Regex StatementStart();

    [GeneratedRegex(@"\b(const|let|var|private|public|protected|static|use|import|case|break|return|throw|continue|\w+ \w+ \{ get)\b")]
    private static partial Regex Declares();

    [GeneratedRegex(@"\$(\w+)")]
    private static partial Regex PhpVariable();

    [GeneratedRegex(@"\b(?:const|let|var)\s+([a-z]\w+)\s*=")]
    private static partial Regex Local();

    [GeneratedRegex(@"^(?:async )?(?:function|def)\s+(\w+)\s*\(", RegexOptions.Multiline)]
    private static partial Regex Function();

    [GeneratedRegex(@"^(export )?(async )?function \w+\(.*\{$")]
    private static partial Regex TopFunction();
}
