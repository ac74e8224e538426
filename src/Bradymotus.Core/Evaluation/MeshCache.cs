using System.Collections.Concurrent;
using Bradymotus.Core.Geometry;

namespace Bradymotus.Core.Evaluation;

/// <summary>Meshes of basic shapes. Equal shapes share one mesh, which lasts for as long as somebody uses it.</summary>
public static class MeshCache
{
    private static readonly ConcurrentDictionary<Shape, WeakReference<Mesh>> Meshes = new();
    private static int _untilTidied = 256;

    /// <summary>The mesh of a shape, built where no equal shape is in use.</summary>
    /// <param name="assets">Where meshes come from that have been brought in; one that is not there is empty.</param>
    public static Mesh Of(Shape shape, MeshAssets? assets = null)
    {
        if (shape is AssetShape { Asset: var asset })
        {
            return assets?.Find(asset) ?? Mesh.Empty;
        }
        if (Meshes.TryGetValue(shape, out var known) && known.TryGetTarget(out var mesh))
        {
            return mesh;
        }
        mesh = shape.Build();
        Meshes[shape] = new(mesh);
        if (Interlocked.Decrement(ref _untilTidied) <= 0)
        {
            foreach (var (old, reference) in Meshes)
            {
                if (!reference.TryGetTarget(out _))
                {
                    Meshes.TryRemove(KeyValuePair.Create(old, reference));
                }
            }
            Interlocked.Exchange(ref _untilTidied, Math.Max(256, Meshes.Count));
        }
        return mesh;
    }
}
