using System.IO.Compression;
using System.Text;
using System.Text.RegularExpressions;
using Bradymotus.Core;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;

namespace Bradymotus.Formats;

/// <summary>A shot with its assets as one file: <c>NAME.shot.json</c> and a folder <c>NAME.assets</c>, as they lie beside each other on disk.</summary>
public static partial class ShotZip
{
    private const long MostText = 64L << 20;
    private const long MostUnpacked = 2L << 30;

    /// <exception cref="Refusal">An asset of the shot is not there.</exception>
    public static void Write(Stream to, Shot shot, string name, AssetFolder assets)
    {
        using var zip = new ZipArchive(to, ZipArchiveMode.Create, leaveOpen: true);
        void Add(string entry, byte[] bytes)
        {
            // The same shot gives the same bytes.
            var added = zip.CreateEntry(entry);
            added.LastWriteTime = new DateTimeOffset(1980, 1, 1, 0, 0, 0, TimeSpan.Zero);
            using var stream = added.Open();
            stream.Write(bytes);
        }
        Add($"{name}.shot.json", ShotJson.WriteBytes(shot, indented: true));
        foreach (var asset in AssetsOf(shot))
        {
            var bytes = assets.Read(asset) ?? throw new Refusal($"The mesh, picture or sound {asset} of the shot “{shot.Name}” is not there: import it again.");
            Add($"{name}.assets/{asset}{Asset.EndingOf(bytes)}", bytes);
        }
    }

    /// <summary>The names of the assets that a shot refers to, each once.</summary>
    public static IEnumerable<string> AssetsOf(Shot shot) =>
        shot.Nodes.OfType<MeshNode>().Select(m => m.Shape).OfType<AssetShape>().Select(s => s.Asset).Concat(PicturesOf(shot).Select(p => p.Asset)).Concat(shot.Sounds.Select(s => s.Asset)).Distinct();

    /// <summary>The pictures of the materials and of the sky of a shot, and its films.</summary>
    public static IEnumerable<PictureSource> PicturesOf(Shot shot) =>
        shot.Materials.SelectMany(m => m.Maps).Select(m =>
        m.Source as PictureSource ?? (m.Source is ClipSource f ? new(f.Asset, f.Name, f.Width, f.Height) : null)).OfType<PictureSource>().Concat(shot.SkyPicture is { } sky ? [sky.ToSource()] : []);

    /// <exception cref="Refusal">It is damaged, holds no shot or more than one, or unpacks to more than is taken.</exception>
    internal static Imported Read(SourceFiles files)
    {
        try
        {
            using var zip = new ZipArchive(new MemoryStream(files.Read()), ZipArchiveMode.Read);
            var shots = zip.Entries.Where(e => e.FullName.EndsWith(".shot.json", StringComparison.OrdinalIgnoreCase) && !e.FullName.Contains('/', StringComparison.Ordinal)
                && !e.FullName.Contains('\\', StringComparison.Ordinal)).ToList();
            if (shots.Count != 1)
            {
                throw new Refusal($"{files.Name} holds {shots.Count} files ending in .shot.json: it needs one, with its assets in a folder beside it.");
            }
            var shot = ShotJson.ReadShot(Encoding.UTF8.GetString(Bytes(shots[0], MostText, files.Name)).TrimStart('\uFEFF'));
            var wanted = AssetsOf(shot).ToHashSet();
            var assets = new List<Asset>();
            var left = MostUnpacked;
            foreach (var entry in zip.Entries)
            {
                // Only what the shot asks for is unpacked, under its own name, whatever the file calls its folders.
                if (AssetName().Match(entry.FullName) is { Success: true } match && wanted.Remove(match.Groups[1].Value))
                {
                    var asset = Asset.Of(Bytes(entry, left, files.Name));
                    left -= asset.Bytes.Length;
                    if (asset.Name != match.Groups[1].Value)
                    {
                        throw new Refusal($"{files.Name} is damaged: what it holds as {entry.Name} is something else. Export the shot again.");
                    }
                    assets.Add(asset);
                }
            }
            if (wanted.Count > 0)
            {
                throw new Refusal($"{files.Name} lacks {wanted.Count} of the meshes, pictures and sounds of the shot: export the shot again.");
            }
            return new(shot, assets, new([$"{shot.Nodes.Length} nodes", $"{assets.Count} meshes, pictures and sounds beside them"], []));
        }
        catch (InvalidDataException e)
        {
            throw new Refusal($"{files.Name} cannot be read as a zip: it seems to be damaged or cut off. Get the whole file.", e);
        }
    }

    /// <summary>Unpacks no more than is allowed, whatever the file says of itself.</summary>
    private static byte[] Bytes(ZipArchiveEntry entry, long most, string file)
    {
        using var stream = entry.Open();
        using var buffer = new MemoryStream();
        var chunk = new byte[81920];
        for (int read; (read = stream.Read(chunk)) > 0;)
        {
            if (buffer.Length + read > Math.Min(most, SourceFiles.MostBytes))
            {
                throw new Refusal($"{file} unpacks to more than {Math.Min(most, SourceFiles.MostBytes) >> 20} MB at {entry.Name}, more than is taken.");
            }
            buffer.Write(chunk, 0, read);
        }
        return buffer.ToArray();
    }

    [GeneratedRegex("(?:^|/)([0-9a-f]{64})\\.[a-z0-9]{1,4}$")]
    private static partial Regex AssetName();
}
