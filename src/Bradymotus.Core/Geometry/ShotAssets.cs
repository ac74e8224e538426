using System.Collections.Concurrent;

namespace Bradymotus.Core.Geometry;

/// <summary>What shots refer to by name: meshes, each held once, whoever asks for it, and the bytes of pictures. Any thread may ask.</summary>
/// <param name="load">Reads a mesh that is not held yet, or gives null where there is none; a mesh that can be read again is kept only while it is in use.</param>
/// <param name="bytes">Reads the bytes of an asset, or gives null where there is none.</param>
public sealed class ShotAssets(Func<string, Mesh?>? load = null, Func<string, byte[]?>? bytes = null)
{
    private readonly ConcurrentDictionary<string, Mesh> _held = new();
    private readonly ConcurrentDictionary<string, byte[]> _heldBytes = new();
    private readonly ConcurrentDictionary<string, WeakReference<Mesh>> _read = new();
    private readonly Lock _reading = new();

    /// <summary>The mesh of this name, or null where there is none.</summary>
    public Mesh? Find(string asset)
    {
        if (_held.TryGetValue(asset, out var held))
        {
            return held;
        }
        if (load is null)
        {
            return null;
        }
        if (Known(asset) is { } known)
        {
            return known;
        }
        lock (_reading)
        {
            if (Known(asset) is { } meanwhile)
            {
                return meanwhile;
            }
            var mesh = load(asset);
            if (mesh is not null)
            {
                _read[asset] = new(mesh);
            }
            return mesh;
        }
    }

    /// <summary>The bytes of an asset that is no mesh, or null where there is none.</summary>
    public byte[]? Bytes(string asset) => _heldBytes.GetValueOrDefault(asset) ?? bytes?.Invoke(asset);

    /// <summary>Lets go of what is held and not among some; whoever needs it puts it in again.</summary>
    public void Retain(IReadOnlySet<string> assets)
    {
        foreach (var name in _held.Keys.Where(n => !assets.Contains(n)))
        {
            _held.TryRemove(name, out _);
        }
        foreach (var name in _heldBytes.Keys.Where(n => !assets.Contains(n)))
        {
            _heldBytes.TryRemove(name, out _);
        }
    }

    /// <summary>Holds a mesh until <see cref="Retain"/> lets go of it.</summary>
    public void Put(string asset, Mesh mesh) => _held[asset] = mesh;

    /// <summary>Holds the bytes of what is no mesh until <see cref="Retain"/> lets go of them.</summary>
    public void Put(string asset, byte[] its) => _heldBytes[asset] = its;

    private Mesh? Known(string asset) => _read.TryGetValue(asset, out var reference) && reference.TryGetTarget(out var mesh) ? mesh : null;
}
