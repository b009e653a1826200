using System.Runtime.InteropServices;

namespace Bellator.Passwords;

/// <summary>The system's crypt(3), which knows all the forms that login files have had (libxcrypt, on every Debian system).</summary>
internal static partial class LibCrypt
{
    /// <summary>Hashes a password as a stored value says, or null if the system cannot.</summary>
    public static string? Hash(string password, string setting)
    {
        if (password.Contains('\0', StringComparison.Ordinal) || setting.Contains('\0', StringComparison.Ordinal))
        {
            return null;
        }

        var data = IntPtr.Zero;
        var size = 0;
        try
        {
            var made = Marshal.PtrToStringUTF8(Crypt(password, setting, ref data, ref size));
            return made is null || made.StartsWith('*') ? null : made;
        }
        catch (Exception e) when (e is DllNotFoundException or EntryPointNotFoundException)
        {
            return null;
        }
        finally
        {
            unsafe
            {
                NativeMemory.Free((void*)data);
            }
        }
    }

    [LibraryImport("libcrypt.so.1", EntryPoint = "crypt_ra", StringMarshalling = StringMarshalling.Utf8)]
    private static partial IntPtr Crypt(string password, string setting, ref IntPtr data, ref int size);
}
