using System.Text.RegularExpressions;
using Bradymotus.Core;

namespace Bradymotus.Server;

/// <summary>
/// Where everything is kept: the database and the rendered pictures. Nothing is written outside. One server holds it at a
/// time, by a lock of the operating system that ends with the process, however it ends.
/// </summary>
public sealed partial class DataFolder : IDisposable
{
    private readonly FileStream _lock;

    /// <exception cref="Refusal">The folder cannot be made or written, or another server holds it.</exception>
    public DataFolder(string root)
    {
        Root = Path.GetFullPath(root);
        try
        {
            Directory.CreateDirectory(Path.Combine(Root, "renders"));
            Directory.CreateDirectory(Path.Combine(Root, "assets"));
            Directory.CreateDirectory(Thumbnails);
            Directory.CreateDirectory(Uploads);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new Refusal($"The data folder {Root} cannot be made: {e.Message.TrimEnd('.')}. Choose another with --data.", e);
        }
        try
        {
            _lock = new FileStream(Path.Combine(Root, "lock"), FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None);
        }
        catch (UnauthorizedAccessException e)
        {
            throw new Refusal($"The data folder {Root} cannot be written: give this user the right to, or choose another with --data.", e);
        }
        catch (IOException e)
        {
            throw new Refusal($"The data folder {Root} is in use by another server: stop that one, or choose another folder with --data.", e);
        }
        Assets = new(Path.Combine(Root, "assets"));
        ClearAway();
    }

    public string Root { get; }

    /// <summary>The meshes that shots refer to.</summary>
    public Formats.AssetFolder Assets { get; }

    /// <summary>The small pictures of shots. All of them can be made again.</summary>
    public string Thumbnails => Path.Combine(Root, "thumbnails");

    /// <summary>What is being sent, each in a folder of its own, as long as it is read.</summary>
    public string Uploads => Path.Combine(Root, "uploads");

    public string Database => Path.Combine(Root, "bradymotus.db");

    /// <summary>Whether there is hardly room for anything more, less than a megabyte.</summary>
    internal bool IsFull
    {
        get
        {
            try
            {
                return new DriveInfo(Root).AvailableFreeSpace < 1 << 20;
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                return false;
            }
        }
    }

    /// <summary>The folder of one rendered sequence.</summary>
    /// <param name="id">Letters and digits only.</param>
    public string Render(string id) => id.All(char.IsAsciiLetterOrDigit) && id.Length is > 0 and <= 32
        ? Path.Combine(Root, "renders", id)
        : throw new Store.NotFoundException("render", id);

    public void Dispose() => _lock.Dispose();

    /// <summary>What a process that was ended in the middle has left half-written: only what bears a mark of ours, and nothing that a link leads to.</summary>
    private void ClearAway()
    {
        var within = new EnumerationOptions { RecurseSubdirectories = true, AttributesToSkip = FileAttributes.ReparsePoint };
        foreach (var file in new[] { "renders", "assets", "thumbnails" }.SelectMany(f => Directory.EnumerateFiles(Path.Combine(Root, f), "*.part*", within)))
        {
            if (HalfWritten().IsMatch(Path.GetFileName(file)))
            {
                File.Delete(file);
            }
        }
        foreach (var upload in new DirectoryInfo(Uploads).EnumerateDirectories().Where(d => Ours().IsMatch(d.Name) && d.LinkTarget is null))
        {
            upload.Delete(recursive: true);
        }
    }

    /// <summary>Folders of uploads are named by 32 hexadecimal digits.</summary>
    [GeneratedRegex("^[0-9a-f]{32}$")]
    private static partial Regex Ours();

    /// <summary>What is put behind the name of a file while it is written, as <see cref="Render.Pictures.Picture.WritePng"/>, films and assets do.</summary>
    [GeneratedRegex(@"\.[0-9a-f]{32}\.part(\.[a-z0-9]{1,5}){0,3}$")]
    private static partial Regex HalfWritten();
}
