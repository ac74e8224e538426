using Bradymotus.Core;

namespace Bradymotus.Formats;

/// <summary>A file that is brought in, and those beside it that it refers to.</summary>
/// <param name="name">The file's name, for messages and for what it is.</param>
public abstract class SourceFiles(string name)
{
    /// <summary>No larger file is read.</summary>
    public const long MostBytes = 512L << 20;

    /// <summary>The file's name, without a folder where it lies on the disk.</summary>
    public string Name { get; } = name;

    /// <summary>The bytes of the file itself.</summary>
    /// <exception cref="Refusal">It cannot be read, or is too large.</exception>
    public abstract byte[] Read();

    /// <summary>The bytes of a file beside it, or null where there is none of this name.</summary>
    /// <param name="path">As the file says it, with forward slashes.</param>
    /// <exception cref="Refusal">The path leads out of the folder of the file, or the file is too large.</exception>
    public abstract byte[]? ReadBeside(string path);

    /// <summary>Refuses paths that lead out of the folder.</summary>
    private protected string Inside(string path)
    {
        var parts = path.Replace('\\', '/').Split('/');
        return path.Length == 0 || Path.IsPathRooted(path) || path.Contains(':', StringComparison.Ordinal) || path.Contains('\0', StringComparison.Ordinal) || parts.Any(p => p == "..")
            ? throw new Refusal($"{Name} refers to “{path}”, which lies outside its own folder: put the file beside it.")
            : string.Join('/', parts.Where(p => p.Length > 0 && p != "."));
    }

    private protected static Refusal TooLarge(string file) => new($"{file} is larger than {MostBytes >> 20} MB, more than is taken: make it smaller.");
}

/// <summary>A file on disk.</summary>
public sealed class FileOnDisk(string file) : SourceFiles(Path.GetFileName(file))
{
    /// <inheritdoc/>
    public override byte[] Read() => Bytes(file) ?? throw new Refusal($"The file {file} cannot be read: there is none of this name. Check the path.");

    /// <inheritdoc/>
    public override byte[]? ReadBeside(string path)
    {
        var folder = Path.GetDirectoryName(Path.GetFullPath(file))!;
        var full = Path.GetFullPath(Path.Combine(folder, Inside(path)));
        // A link inside the folder, to a file or to another folder, may lead anywhere.
        return RealPath(full)?.StartsWith(RealPath(folder) + Path.DirectorySeparatorChar, StringComparison.Ordinal) == true
            ? Bytes(full)
            : throw new Refusal($"{Name} refers to “{path}”, which lies outside its own folder: put the file beside it.");
    }

    /// <summary>A full path with no link left in it, or null where links lead round in a circle. What is not there is taken as it is written.</summary>
    private static string? RealPath(string path, int depth = 0)
    {
        const int MostLinks = 40;
        var real = Path.GetPathRoot(path)!;
        foreach (var part in path[real.Length..].Split(Path.DirectorySeparatorChar, StringSplitOptions.RemoveEmptyEntries))
        {
            var next = Path.Combine(real, part);
            if (new FileInfo(next).LinkTarget is not { } target)
            {
                real = next;
            }
            else if (depth < MostLinks && RealPath(Path.GetFullPath(target, real), depth + 1) is { } beyond)
            {
                real = beyond;
            }
            else
            {
                return null;
            }
        }
        return real;
    }

    private static byte[]? Bytes(string path)
    {
        try
        {
            var info = new FileInfo(path);
            return !info.Exists ? null : info.Length > MostBytes ? throw TooLarge(path) : File.ReadAllBytes(path);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new Refusal($"The file {path} cannot be read: {e.Message.TrimEnd('.')}.", e);
        }
    }
}

/// <summary>Files that have been sent together, by their names.</summary>
/// <param name="name">Which of them is brought in.</param>
public sealed class FilesInMemory(string name, IReadOnlyDictionary<string, byte[]> files) : FilesTogether<byte[]>(name, files)
{
    private protected override byte[] Bytes(byte[] file) => file;
}

/// <summary>Files that have been sent together, by their names, and where each of them lies.</summary>
/// <param name="name">Which of them is brought in.</param>
public sealed class SentFiles(string name, IReadOnlyDictionary<string, string> files) : FilesTogether<string>(name, files)
{
    private protected override byte[] Bytes(string file) => File.ReadAllBytes(file);
}

/// <summary>Files that came together, without the folders that they were in.</summary>
public abstract class FilesTogether<T>(string name, IReadOnlyDictionary<string, T> files) : SourceFiles(name)
    where T : class
{
    /// <inheritdoc/>
    public override byte[] Read() => Bytes(files[Name]);

    /// <inheritdoc/>
    public override byte[]? ReadBeside(string path)
    {
        var inside = Inside(path);
        // What was chosen from different folders comes by its name alone.
        return (files.GetValueOrDefault(inside) ?? files.GetValueOrDefault(inside[(inside.LastIndexOf('/') + 1)..])) is { } file ? Bytes(file) : null;
    }

    private protected abstract byte[] Bytes(T file);
}
