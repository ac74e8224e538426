using System.Collections.Immutable;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Formats.Gltf;

namespace Bradymotus.Formats;

/// <summary>Bytes that a shot refers to by name, held once and never changed.</summary>
/// <param name="Name">Their SHA-256 in lower-case hexadecimal digits.</param>
public sealed record Asset(string Name, byte[] Bytes)
{
    /// <summary>The asset of some bytes.</summary>
    public static Asset Of(byte[] bytes) => new(Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(bytes)), bytes);

    /// <summary>The name that bytes have as an asset, as many as there are.</summary>
    public static async Task<string> NameOfAsync(Stream bytes, CancellationToken cancel = default) => Convert.ToHexStringLower(await System.Security.Cryptography.SHA256.HashDataAsync(bytes, cancel));

    /// <summary>What an asset can be: how the name of its file ends, its media type, and how its bytes begin.</summary>
    private static readonly (string Ending, string Type, byte[] Start, int At)[] Kinds =
    [
        (".png", "image/png", [0x89, 0x50, 0x4E, 0x47], 0), (".jpg", "image/jpeg", [0xFF, 0xD8, 0xFF], 0), (".webp", "image/webp", "WEBP"u8.ToArray(), 8),
            (".hdr", "image/vnd.radiance", "#?"u8.ToArray(), 0),
        (".mp4", "video/mp4", "ftyp"u8.ToArray(), 4), (".flac", "audio/flac", "fLaC"u8.ToArray(), 0), (".json", "application/json", "{"u8.ToArray(), 0), (".glb", "model/gltf-binary", [], 0),
    ];

    /// <summary>How the names of files of assets end.</summary>
    public static IEnumerable<string> Endings => Kinds.Select(k => k.Ending);

    /// <summary>How the name of a file of these bytes ends: <c>.glb</c> for a mesh.</summary>
    public static string EndingOf(ReadOnlySpan<byte> bytes) => KindOf(bytes).Ending;

    /// <summary>The media type of a file whose name ends so.</summary>
    public static string TypeOf(string ending) => Kinds.FirstOrDefault(k => k.Ending == ending) is { Type: { } type } ? type : "application/octet-stream";

    private static (string Ending, string Type) KindOf(ReadOnlySpan<byte> bytes)
    {
        foreach (var (ending, type, start, at) in Kinds)
        {
            if (bytes.Length >= at + start.Length && bytes.Slice(at, start.Length).SequenceEqual(start))
            {
                return (ending, type);
            }
        }
        return (".glb", "model/gltf-binary");
    }
}

/// <summary>What has been brought in from a file.</summary>
/// <param name="Report">What came and what could not, a sentence each.</param>
public sealed record Imported(Shot Shot, IReadOnlyList<Asset> Assets, ImportReport Report)
{
    /// <summary>Its assets, held in memory.</summary>
    public ShotAssets ToAssets()
    {
        var assets = new ShotAssets();
        foreach (var asset in Assets)
        {
            if (Asset.EndingOf(asset.Bytes) == ".glb")
            {
                assets.Put(asset.Name, MeshFile.Read(asset.Bytes));
            }
            else
            {
                assets.Put(asset.Name, asset.Bytes);
            }
        }
        return assets;
    }

    /// <summary>What adds its scene to another shot. Several objects without a parent come in a group of the shot's name.</summary>
    /// <param name="label">What the change is called.</param>
    /// <param name="prefix">The ids of what comes are this, a hyphen, and what they are now.</param>
    public Edit ToEdit(string label, string prefix)
    {
        string Id(string id) => $"{prefix}-{id}";
        var roots = Shot.Nodes.Where(n => n.Parent is null).ToList();
        var top = roots.Count > 1 ? new GroupNode { Id = prefix, Name = Shot.Name } : null;
        var ids = Shot.Nodes.ToDictionary(n => n.Id, n => Id(n.Id));
        Node Moved(Node node)
        {
            node = References.Mapped(node, ids);
            if (node is MeshNode mesh)
            {
                node = mesh with
                {
                    Material = mesh.Material is null ? null : Id(mesh.Material),
                    PartMaterials = [.. mesh.PartMaterials.Select(m => m.Length == 0 ? m : Id(m))],
                };
            }
            return node with { Id = Id(node.Id), Parent = node.Parent is null ? top?.Id : Id(node.Parent) };
        }
        ImmutableArray<Node> nodes = [.. top is null ? [] : new Node[] { top }, .. Shot.Nodes.Select(Moved)];
        return new Batch(label, [new AddNodes(nodes, [.. Shot.Materials.Select(m => m with { Id = Id(m.Id) })])]);
    }
}

/// <summary>What an import has to say for itself.</summary>
/// <param name="Imported">What is there now.</param>
/// <param name="Skipped">What was in the file and is not there, or is not as it was, and why.</param>
public sealed record ImportReport(IReadOnlyList<string> Imported, IReadOnlyList<string> Skipped);
