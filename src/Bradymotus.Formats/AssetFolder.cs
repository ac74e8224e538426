using System.Collections.Concurrent;
using Bradymotus.Core.Geometry;
using Bradymotus.Formats.Gltf;

namespace Bradymotus.Formats;

/// <summary>Assets in a folder: a file each, named by its SHA-256. Any thread, and any process, may read and write it.</summary>
public sealed class AssetFolder
{
    private readonly string _folder;
    private readonly ConcurrentDictionary<string, byte> _known = new();

    /// <param name="folder">Where they lie; it need not be there.</param>
    public AssetFolder(string folder)
    {
        _folder = folder;
        ForShots = new(name => Read(name) is { } bytes ? MeshFile.Read(bytes) : null, Read);
    }

    /// <summary>The folder that belongs to a shot file: <c>NAME.assets</c> beside <c>NAME.shot.json</c>.</summary>
    public static string Beside(string shotFile)
    {
        var name = Path.GetFileName(shotFile);
        foreach (var ending in new[] { ".shot.json", ".json" })
        {
            if (name.EndsWith(ending, StringComparison.OrdinalIgnoreCase))
            {
                name = name[..^ending.Length];
                break;
            }
        }
        return Path.Combine(Path.GetDirectoryName(shotFile) ?? "", name + ".assets");
    }

    /// <summary>What shots ask for; meshes are read once as long as they are in use.</summary>
    public ShotAssets ForShots { get; }

    /// <summary>Whether an asset is there. What has been there once stays, but what <see cref="Remove"/> takes out.</summary>
    public bool Has(string name)
    {
        if (_known.ContainsKey(name))
        {
            return true;
        }
        var has = AssetShape.IsName(name) && Find(name) is not null;
        return has && _known.TryAdd(name, 0) || has;
    }

    /// <summary>The bytes of an asset, or null where there is none.</summary>
    public byte[]? Read(string name) => PathOf(name) is { } path ? File.ReadAllBytes(path) : null;

    /// <summary>The file of an asset, or null where there is none.</summary>
    public string? PathOf(string name) => Has(name) ? Find(name) : null;

    /// <summary>Puts an asset in, whole or not at all.</summary>
    public void Put(Asset asset)
    {
        if (IsThere(asset.Name))
        {
            return;
        }
        Directory.CreateDirectory(_folder);
        var part = Path.Combine(_folder, $".{Guid.NewGuid():N}.part");
        try
        {
            using (var file = new FileStream(part, FileMode.CreateNew, FileAccess.Write))
            {
                file.Write(asset.Bytes);
                file.Flush(flushToDisk: true);
            }
            File.Move(part, Path.Combine(_folder, asset.Name + Asset.EndingOf(asset.Bytes)), overwrite: true);
        }
        finally
        {
            File.Delete(part);
        }
    }

    /// <summary>Takes over files that are assets by their names, moving them in from the same disk. What is not what its name says is left where it is.</summary>
    public async Task TakeAsync(IEnumerable<string> files, CancellationToken cancel = default)
    {
        Directory.CreateDirectory(_folder);
        foreach (var file in files)
        {
            var name = Path.GetFileNameWithoutExtension(file);
            using (var bytes = new FileStream(file, FileMode.Open, FileAccess.ReadWrite))
            {
                if (!Asset.Endings.Contains(Path.GetExtension(file)) || await Asset.NameOfAsync(bytes, cancel) != name)
                {
                    continue;
                }
                bytes.Flush(flushToDisk: true);
            }
            if (!IsThere(name))
            {
                File.Move(file, Path.Combine(_folder, Path.GetFileName(file)), overwrite: true);
            }
        }
    }

    /// <summary>The assets that were put in, or put in again, before a time.</summary>
    public IEnumerable<string> OlderThan(DateTime utc) => !Directory.Exists(_folder) ? [] : new DirectoryInfo(_folder).EnumerateFiles()
        .Where(f => Asset.Endings.Contains(f.Extension) && AssetShape.IsName(Path.GetFileNameWithoutExtension(f.Name)) && f.LastWriteTimeUtc < utc && f.LinkTarget is null)
        .Select(f => Path.GetFileNameWithoutExtension(f.Name)).ToList();

    /// <summary>Removes an asset, unless it was put in again since a time.</summary>
    public void Remove(string name, DateTime utc)
    {
        if (Find(name) is { } path && File.GetLastWriteTimeUtc(path) < utc)
        {
            _known.TryRemove(name, out _);
            File.Delete(path);
        }
    }

    /// <summary>Whether it is there; if so it counts as put in now.</summary>
    private bool IsThere(string name)
    {
        if (!Has(name) || Find(name) is not { } path)
        {
            return false;
        }
        File.SetLastWriteTimeUtc(path, DateTime.UtcNow);
        return true;
    }

    private string? Find(string name) => Asset.Endings.Select(e => Path.Combine(_folder, name + e)).FirstOrDefault(File.Exists);
}
