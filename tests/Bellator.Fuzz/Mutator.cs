using System.Text;

namespace Bellator.Fuzz;

/// <summary>Makes inputs out of others, the same ones for the same seed: parts cut, doubled, moved, repeated, mixed with others, and signs that hurt.</summary>
public sealed class Mutator(int seed, IReadOnlyList<string> corpus)
{
    private const int LongestPart = 120;
    private const int MostSteps = 6;
    private const int LongestInput = 60_000;

    private static readonly string[] Signs =
    [
        "''", "['']", "{'': 1}", "(\"\")", "[0]", "null", "*", "\0", "\\u0000", "\\udc00", "\uD800", "\uFEFF", "\r", "\n", "\t", "'", "\"", "`", "(", ")", "[", "]", "{", "}", "<", ">", "<?php", "?>", "<%", "%>", "{{", "}}", "{%", "%}", "@", "@{", "#{", "${", "/*", "*/", "//", "--", "#",
        ";", ",", ".", "..", "...", "=>", "->", "::", "&&", "||", "??", "?.", "!", "~", "$", "\\", "%", "é", "𝄞", "‮", "=", "==", "+", "/", "0x", "1e999", "99999999999999999999", "-1", "function ", "class ", "if (", "else ", "for (", "while (", "return ", "try {", "catch ",
        "import ", "from ", "def ", "end\n", "do ", "async ", "await ", "yield ", "lambda ", "match ", "switch ", "case ", "default: ", "new ", "extends ", "implements ", "use ", "namespace ", "<<<E\n", "E;\n", "<<~T\n", "select ", "from t where ", "create table t (", "references u (", "primary key (", "key k (", "alter table t add ",
        "$2b$12$", "$argon2id$v=19$m=", "pbkdf2_sha256$", "{SSHA}",
    ];

    private readonly Random _random = new(seed);

    public int Next(int below) => _random.Next(below);

    /// <summary>The next input.</summary>
    public string Make()
    {
        var text = new StringBuilder(Pick());
        for (var steps = 1 + _random.Next(MostSteps); steps > 0; steps--)
        {
            Change(text);
            if (text.Length > LongestInput)
            {
                text.Length = LongestInput;
            }
        }

        return text.ToString();
    }

    /// <summary>The next input of bytes: of an archive, which is no text.</summary>
    public byte[] MakeBytes(byte[] source)
    {
        var bytes = new List<byte>(source);
        for (var steps = 1 + _random.Next(MostSteps); steps > 0 && bytes.Count > 0; steps--)
        {
            var at = _random.Next(bytes.Count);
            var length = Math.Min(_random.Next(64), bytes.Count - at);
            switch (_random.Next(6))
            {
                case 0:
                    bytes[at] = (byte)_random.Next(256);
                    break;
                case 1:
                    bytes.RemoveRange(at, length);
                    break;
                case 2:
                    bytes.InsertRange(at, bytes.GetRange(at, length));
                    break;
                case 3:
                    bytes.RemoveRange(at, bytes.Count - at);
                    break;
                case 4:
                    foreach (var i in Enumerable.Range(at, Math.Min(4, bytes.Count - at)))
                    {
                        bytes[i] = 0xff;
                    }

                    break;
                default:
                    bytes[at] ^= (byte)(1 << _random.Next(8));
                    break;
            }
        }

        return [.. bytes];
    }

    private string Pick() => corpus[_random.Next(corpus.Count)];

    private void Change(StringBuilder text)
    {
        var at = _random.Next(text.Length + 1);
        var length = Math.Min(_random.Next(LongestPart), text.Length - at);
        switch (_random.Next(9))
        {
            case 0:
                text.Remove(at, length);
                break;
            case 1:
                text.Insert(at, text.ToString(at, length));
                break;
            case 2:
                var part = text.ToString(at, length);
                text.Remove(at, length).Insert(_random.Next(text.Length + 1), part);
                break;
            case 3:
                var other = Pick();
                var from = _random.Next(other.Length + 1);
                text.Insert(at, other.AsSpan(from, Math.Min(_random.Next(LongestPart * 4), other.Length - from)));
                break;
            case 4:
                text.Insert(at, text.ToString(at, Math.Min(length, 20)), _random.Next(1, 400));
                break;
            case 5:
                text.Insert(at, Signs[_random.Next(Signs.Length)], _random.Next(4) == 0 ? _random.Next(1, 800) : 1);
                break;
            case 6:
                text.Length = at;
                break;
            case 7 when text.Length > 0:
                text[Math.Min(at, text.Length - 1)] = (char)_random.Next(1, 0x3000);
                break;
            default:
                text.Insert(at, Signs[_random.Next(Signs.Length)]);
                break;
        }
    }
}
