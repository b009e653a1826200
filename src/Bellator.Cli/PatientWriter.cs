using System.Text;

namespace Bellator.Cli;

/// <summary>Output that somebody may stop reading, as <c>| head</c> does: from then on nothing is written, and the command ends as it would have.</summary>
internal sealed class PatientWriter(TextWriter inner) : TextWriter
{
    private bool _isClosed;

    public override Encoding Encoding => inner.Encoding;

    public override void Write(char value) => Try(() => inner.Write(value));

    public override void Write(string? value) => Try(() => inner.Write(value));

    public override void Write(char[] buffer, int index, int count) => Try(() => inner.Write(buffer, index, count));

    public override void WriteLine(string? value) => Try(() => inner.WriteLine(value));

    public override void Flush() => Try(inner.Flush);

    private void Try(Action write)
    {
        if (_isClosed)
        {
            return;
        }

        try
        {
            write();
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            _isClosed = true;
        }
    }
}
