namespace Bellator.Core.Tests;

/// <summary>Where the project lies while its tests run.</summary>
internal static class Folders
{
    /// <summary>The folder with the launcher.</summary>
    public static string Home { get; } = Find();

    private static string Find()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "Bellator.slnx")))
        {
            folder = folder.Parent ?? throw new InvalidOperationException("the project's folder was not found");
        }

        return folder.FullName;
    }
}
