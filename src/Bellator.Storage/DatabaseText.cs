using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace Bellator.Storage;

/// <summary>
/// Text as the database takes it. Audited material names things with signs that PostgreSQL stores in no text: U+0000, and halves of
/// surrogate pairs. They become U+FFFD, so that what holds one is kept like all else.
/// </summary>
public static class DatabaseText
{
    private const char Replacement = '\uFFFD';

    /// <summary>How objects are written as JSON for the database.</summary>
    public static readonly JsonSerializerOptions Json = new() { Converters = { new CleanText() } };

    public static string Clean(string text)
    {
        var at = FirstFault(text, 0);
        if (at < 0)
        {
            return text;
        }

        var clean = new StringBuilder(text);
        for (; at >= 0; at = FirstFault(text, at + 1))
        {
            clean[at] = Replacement;
        }

        return clean.ToString();
    }

    private static int FirstFault(string text, int from)
    {
        for (var i = from; i < text.Length; i++)
        {
            if (char.IsHighSurrogate(text[i]) && i + 1 < text.Length && char.IsLowSurrogate(text[i + 1]))
            {
                i++;
            }
            else if (text[i] == '\0' || char.IsSurrogate(text[i]))
            {
                return i;
            }
        }

        return -1;
    }

    private sealed class CleanText : JsonConverter<string>
    {
        public override string? Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) => reader.GetString();

        public override void Write(Utf8JsonWriter writer, string value, JsonSerializerOptions options) => writer.WriteStringValue(Clean(value));

        public override void WriteAsPropertyName(Utf8JsonWriter writer, string value, JsonSerializerOptions options) => writer.WritePropertyName(Clean(value));

        public override string ReadAsPropertyName(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) => reader.GetString() ?? "";
    }
}
