using System.Collections.Concurrent;
using Bradymotus.Core.Geometry;

namespace Bradymotus.Core.Evaluation;

/// <summary>Meshes of basic shapes. Equal shapes share one mesh, which lasts for as long as somebody uses it.</summary>
public static class MeshCache
{
    private static readonly ConcurrentDictionary<EqualShape, WeakReference<Mesh>> Meshes = new();
    private static int _untilTidied = 256;

    /// <summary>The mesh of a shape with its own numbers, built where no equal shape is in use.</summary>
    /// <param name="assets">Where meshes come from that have been brought in; one that is not there is empty.</param>
    public static Mesh Of(Shape shape, ShotAssets? assets = null) => Of(shape, shape.Numbers.AsSpan(), assets);

    /// <summary>As <see cref="Of(Shape, ShotAssets?)"/>, with other numbers.</summary>
    internal static Mesh Of(Shape shape, ReadOnlySpan<double> values, ShotAssets? assets)
    {
        if (shape is AssetShape { Asset: var asset })
        {
            return assets?.Find(asset) ?? Mesh.Empty;
        }
        var held = new double[values.Length];
        shape.Hold(values, held);
        var key = new EqualShape(shape, held);
        if (Meshes.TryGetValue(key, out var known) && known.TryGetTarget(out var mesh))
        {
            return mesh;
        }
        mesh = shape.Build(held);
        Meshes[key] = new(mesh);
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

    /// <summary>Equal for shapes that are the same mesh.</summary>
    private sealed class EqualShape(Shape shape, double[] values) : IEquatable<EqualShape>
    {
        private readonly Shape _shape = shape;
        private readonly double[] _values = values;

        public bool Equals(EqualShape? other) => other is not null && _shape.IsLike(other._shape) && _values.AsSpan().SequenceEqual(other._values);

        public override bool Equals(object? obj) => Equals(obj as EqualShape);

        public override int GetHashCode()
        {
            var hash = new HashCode();
            hash.Add(_shape.GetType());
            foreach (var value in _values)
            {
                hash.Add(value);
            }
            return hash.ToHashCode();
        }
    }
}
