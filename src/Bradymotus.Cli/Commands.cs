using System.CommandLine;
using Bradymotus.Core;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Core.Time;
using Bradymotus.Formats;

namespace Bradymotus.Cli;

/// <summary>The commands that work on files. Those that serve are in <see cref="ServeCommands"/>.</summary>
internal static partial class Commands
{
    internal static IEnumerable<Command> All() => [CurveCommand(), SampleCommand(), RenderCommand(), ImportCommand(), ExportCommand(), CheckCommand(),
        EditCommand(), KeepCommand(), PutCommand(), SchemaCommand(), .. ServeCommands.All()];

    /// <summary>A shot, or what can be imported, with its meshes and pictures.</summary>
    /// <param name="fps">For what is imported: its frame rate.</param>
    internal static (Shot Shot, ShotAssets Assets) Open(string path, double? fps = null)
    {
        if (path.EndsWith(".json", StringComparison.OrdinalIgnoreCase))
        {
            return (ShotJson.ReadShot(ReadText(path)), new AssetFolder(AssetFolder.Beside(path)).ForShots);
        }
        var imported = Importer.Read(new FileOnDisk(path), new(RateOf(fps)));
        // Beside the answer, which may be for a program.
        foreach (var skipped in imported.Report.Skipped)
        {
            Console.Error.WriteLine($"- {skipped}");
        }
        return (imported.Shot, imported.ToAssets());
    }

    private static FrameRate? RateOf(double? fps) => fps is { } given ? FrameRate.Nearest(given) : null;
    private static Option<string[]> NodesOption(string description) => new("--node") { Description = description };
    private static Option<string?> OutOption(string description, bool required = true) => new("--out") { Required = required, Description = description };
    private static Option<double?> FpsOption() => new("--fps") { Description = "For files of other programs: the frame rate to read them at; without it the one that the file says, else 24." };

    internal static string ReadText(string path)
    {
        try
        {
            return File.ReadAllText(path);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new Refusal($"The file {path} cannot be read: {(e is FileNotFoundException or DirectoryNotFoundException ? "there is none of this name. Check the path" : e.Message.TrimEnd('.'))}.", e);
        }
    }

    private static void WriteText(string path, string text) => Write(path, System.Text.Encoding.UTF8.GetBytes(text));

    /// <summary>Writes a file whole, or not at all.</summary>
    private static void Write(string path, byte[] bytes)
    {
        var part = $"{path}.{Guid.NewGuid():N}.part";
        try
        {
            MakeFolder(Path.GetDirectoryName(Path.GetFullPath(path))!);
            File.WriteAllBytes(part, bytes);
            File.Move(part, path, overwrite: true);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new Refusal($"The file {path} cannot be written: {e.Message.TrimEnd('.')}.", e);
        }
        finally
        {
            File.Delete(part);
        }
    }

    private static Argument<string> ShotArgument() => new("FILE") { Description = $"A shot, *.shot.json, or a file ending in {string.Join(", ", Importer.Endings)}." };

    private static void MakeFolder(string folder)
    {
        try
        {
            Directory.CreateDirectory(folder);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new Refusal($"The folder {folder} cannot be made: {e.Message.TrimEnd('.')}. Choose another with --out.", e);
        }
    }
}
