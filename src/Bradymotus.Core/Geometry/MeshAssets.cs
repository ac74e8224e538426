using System.Collections.Concurrent;

namespace Bradymotus.Core.Geometry;

/// <summary>The meshes that shots refer to by name. Each is held once, whoever asks for it; any thread may ask.</summary>
/// <param name="load">Reads one that is not held yet, or gives null where there is none; a mesh that can be read again is kept only while it is in use.</param>
public sealed class MeshAssets(Func<string, Mesh?>? load = null)
{
    private readonly ConcurrentDictionary<string, Mesh> _held = new();
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

    /// <summary>Holds a mesh for good.</summary>
    public void Put(string asset, Mesh mesh) => _held[asset] = mesh;

    private Mesh? Known(string asset) => _read.TryGetValue(asset, out var reference) && reference.TryGetTarget(out var mesh) ? mesh : null;
}
