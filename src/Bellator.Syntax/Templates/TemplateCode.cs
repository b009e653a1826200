using System.Text;
using Bellator.Text;

namespace Bellator.Syntax.Templates;

/// <summary>
/// A page template as code of its host language, byte for byte at the same place, so that what is found in it is found in the
/// template. The page's own text becomes blanks; an output that does not escape becomes a call that the reader knows.
/// </summary>
internal abstract class TemplateCode
{
    /// <summary>The call that an unescaped output becomes, as facts and readers name it.</summary>
    public const string Raw = "<raw>";

    /// <summary>The call that a template becomes which is put in, and sees what this one sees.</summary>
    public const string Included = "<included>";

    /// <summary>The call that an output becomes which escapes for the text of a page.</summary>
    public const string Escaped = "<escaped>";

    protected TemplateCode(byte[] source)
    {
        Source = source;
        Code = new byte[source.Length];
        for (var i = 0; i < source.Length; i++)
        {
            Code[i] = source[i] is (byte)'\n' or (byte)'\r' ? source[i] : (byte)' ';
        }
    }

    protected byte[] Source { get; }

    protected byte[] Code { get; }

    /// <summary>The file as its host language's parser is to see it; the file itself where it is no template.</summary>
    public static SourceFile Hosted(SourceFile file)
    {
        TemplateCode? template = file.Language switch
        {
            Language.Erb => new TaggedTemplate(file.Content, ruby: true),
            Language.Ejs => new TaggedTemplate(file.Content, ruby: false),
            Language.Handlebars => new MustacheTemplate(file.Content),
            Language.Jinja => new BracedTemplate(file.Content),
            Language.Blade => new BladeTemplate(file.Content),
            Language.Razor => new RazorTemplate(file.Content),
            Language.Vue => new VueTemplate(file.Content),
            Language.Angular => new AngularTemplate(file.Content),
            _ => null,
        };
        if (template is null)
        {
            return file;
        }

        template.Convert();
        return new SourceFile(file.Path, template.Code, file.Language);
    }

    protected abstract void Convert();

    protected bool At(int position, string text)
    {
        if (position < 0 || position + text.Length > Source.Length)
        {
            return false;
        }

        for (var i = 0; i < text.Length; i++)
        {
            if (Source[position + i] != text[i])
            {
                return false;
            }
        }

        return true;
    }

    protected int Find(string text, int from)
    {
        var found = from >= Source.Length ? -1 : Source.AsSpan(from).IndexOf(Encoding.ASCII.GetBytes(text));
        return found < 0 ? Source.Length : from + found;
    }

    /// <summary>Code that stays as it is.</summary>
    protected void Keep(int start, int end)
    {
        // Signs that overlap (an end within the beginning) leave nothing between them.
        if (Math.Min(end, Source.Length) is var stop && stop > start)
        {
            Source.AsSpan(start, stop - start).CopyTo(Code.AsSpan(start));
        }
    }

    /// <summary>Code in the place of a template's sign.</summary>
    protected void Put(int position, string text)
    {
        for (var i = 0; i < text.Length && position + i < Code.Length; i++)
        {
            Code[position + i] = (byte)text[i];
        }
    }

    /// <summary>The end of a balanced stretch that begins at an opening bracket; quoted text is passed over.</summary>
    protected int Balanced(int open)
    {
        var depth = 0;
        for (var i = open; i < Source.Length; i++)
        {
            switch (Source[i])
            {
                case (byte)'(' or (byte)'[' or (byte)'{':
                    depth++;
                    break;
                case (byte)')' or (byte)']' or (byte)'}':
                    if (--depth == 0)
                    {
                        return i + 1;
                    }

                    break;
                case (byte)'"' or (byte)'\'':
                    i = EndOfQuote(i);
                    break;
            }
        }

        return Source.Length;
    }

    private int EndOfQuote(int start)
    {
        for (var i = start + 1; i < Source.Length && Source[i] != '\n'; i++)
        {
            if (Source[i] == '\\')
            {
                i++;
            }
            else if (Source[i] == Source[start])
            {
                return i;
            }
        }

        return start;
    }
}
