using System.IO.MemoryMappedFiles;
using System.Text;

namespace Bellator.Text;

/// <summary>
/// What an audit is busy with, thread by thread, in a file that is mapped into memory: whoever watches the process reads there whether
/// it makes headway, and, should it hang or die, over which file.
/// </summary>
public sealed class AuditActivity : IDisposable
{
    private const int MaxThreads = 64;
    private const int SlotBytes = 1024;
    private const int TextAt = 16;

    private readonly MemoryMappedFile _file;
    private readonly MemoryMappedViewAccessor _view;
    private readonly ThreadLocal<Slot> _slots;
    private int _used;

    /// <param name="path">A file for this audit alone; it is made.</param>
    public AuditActivity(string path)
    {
        _file = MemoryMappedFile.CreateFromFile(path, FileMode.Create, null, MaxThreads * SlotBytes);
        _view = _file.CreateViewAccessor();
        _slots = new(() => new Slot(this, Math.Min(Interlocked.Increment(ref _used), MaxThreads) - 1));
    }

    /// <summary>Called when something begins, on its thread; for tests of what happens when that goes wrong.</summary>
    public Action<string>? Begun { get; init; }

    /// <summary>This thread begins something with a file or, where there is none, something with a name.</summary>
    public void Begin(string what)
    {
        _slots.Value!.Begin(what);
        Begun?.Invoke(what);
    }

    public void End() => _slots.Value!.End();

    public void Dispose()
    {
        _slots.Dispose();
        _view.Dispose();
        _file.Dispose();
    }

    /// <summary>How much has been begun, and what was begun last and has not ended. Null if there is no such file yet.</summary>
    public static (long Steps, IReadOnlyList<string> Open)? Read(string path)
    {
        byte[] bytes;
        try
        {
            bytes = File.ReadAllBytes(path);
        }
        catch (IOException)
        {
            return null;
        }

        var steps = 0L;
        var open = new List<string>();
        for (var slot = 0; slot + SlotBytes <= bytes.Length; slot += SlotBytes)
        {
            steps += BitConverter.ToInt64(bytes, slot);
            var length = BitConverter.ToInt32(bytes, slot + sizeof(long));
            if (length is > 0 and <= SlotBytes - TextAt)
            {
                open.Add(Encoding.UTF8.GetString(bytes, slot + TextAt, length));
            }
        }

        return (steps, open);
    }

    private sealed class Slot(AuditActivity activity, int index)
    {
        private readonly byte[] _text = new byte[SlotBytes - TextAt];
        private readonly long _at = (long)index * SlotBytes;
        private string? _last;
        private int _length;
        private long _steps;

        public void Begin(string what)
        {
            if (!ReferenceEquals(_last, what))
            {
                _last = what;
                Encoding.UTF8.GetEncoder().Convert(what, _text, true, out _, out _length, out _);
                activity._view.WriteArray(_at + TextAt, _text, 0, _length);
            }

            activity._view.Write(_at + sizeof(long), _length);
            activity._view.Write(_at, ++_steps);
        }

        public void End() => activity._view.Write(_at + sizeof(long), 0);
    }
}
