namespace Bradymotus.Tests;

/// <summary>Where the files of the project are, from wherever a test runs.</summary>
internal static class Repository
{
    internal static string Root { get; } = Find();

    internal static string Demo => Path.Combine(Root, "demo", "lantern-quay.shot.json");

    private static string Find()
    {
        var folder = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(folder, "bradymotus")) || !Directory.Exists(Path.Combine(folder, "demo")))
        {
            folder = Path.GetDirectoryName(folder)!;
        }
        return folder;
    }
}
