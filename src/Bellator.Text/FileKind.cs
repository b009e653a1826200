using System.Buffers.Binary;
using System.Runtime.InteropServices;

namespace Bellator.Text;

/// <summary>
/// Tells files from what only looks like one. Opening a named pipe waits for somebody at its other end, so it must be known before; the
/// platform's library does not say, the system does (statx(2), Linux 4.11).
/// </summary>
public static partial class FileKind
{
    private const int CurrentFolder = -100;
    private const int DoNotFollow = 0x100;
    private const uint BasicStats = 0x7ff;
    private const int BufferBytes = 256;
    private const int ModeAt = 28;
    private const int InodeAt = 32;
    private const int KindMask = 0xf000;
    private const int RegularFile = 0x8000;

    [LibraryImport("libc", StringMarshalling = StringMarshalling.Utf8, SetLastError = true)]
    private static unsafe partial int statx(int folder, string path, int flags, uint mask, byte* buffer);

    /// <summary>True for a file that can be read like one; false for pipes, sockets and devices, and for what is not there.</summary>
    /// <param name="follow">A link is what it points to.</param>
    public static bool IsRegular(string path, bool follow = false) => Look(path, follow) is { } found && (found.Mode & KindMask) == RegularFile;

    /// <summary>What tells this file or folder from every other one while it is there; null if it is not.</summary>
    public static ulong? Identity(string path) => Look(path, true)?.Inode;

    private static unsafe (int Mode, ulong Inode)? Look(string path, bool follow)
    {
        System.Span<byte> buffer = stackalloc byte[BufferBytes];
        fixed (byte* at = buffer)
        {
            return statx(CurrentFolder, path, follow ? 0 : DoNotFollow, BasicStats, at) == 0
                ? (BinaryPrimitives.ReadUInt16LittleEndian(buffer[ModeAt..]), BinaryPrimitives.ReadUInt64LittleEndian(buffer[InodeAt..]))
                : null;
        }
    }
}
