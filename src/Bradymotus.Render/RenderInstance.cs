using System.Numerics;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;
using Bradymotus.Render.Light;
using Bradymotus.Render.Rays;

namespace Bradymotus.Render;

/// <summary>What a part of a mesh is made of: one answer for all of it, or maps that say it place by place.</summary>
internal sealed record Shading(Surface Base, MapSet? Maps)
{
    internal static Shading Grey { get; } = new(Surface.Grey, null);

    internal bool IsSeen => Base.Opacity > 0;

    internal bool LetsThrough => Base.Opacity < 1 || Base.Layers?.Glass > 0 || Maps?.HasOpacity == true;
}

/// <summary>A mesh where it stands on a frame.</summary>
/// <param name="Shadings">One for all, or one for each part of the mesh.</param>
internal sealed record RenderInstance(MeshState Mesh, Matrix4x4 ToWorld, bool Mirrored, Shading[] Shadings)
{
    private readonly Matrix4x4 _cofactor = Cofactor(ToWorld);

    // The largest number in each axis of the map, and in its shift.
    private readonly Vector3 _reach = new(Most(new(ToWorld.M11, ToWorld.M12, ToWorld.M13)), Most(new(ToWorld.M21, ToWorld.M22, ToWorld.M23)), Most(new(ToWorld.M31, ToWorld.M32, ToWorld.M33)));
    private readonly float _shift = Most(ToWorld.Translation);

    /// <summary>For each triangle its number among those that glow, −1 for none; null where none does.</summary>
    internal int[]? Emissive { get; set; }

    /// <summary>Counts its triangles among those that shine, where it glows.</summary>
    internal void AddTo(EmissiveTriangles emissive)
    {
        if (Array.TrueForAll(Shadings, s => s.Base.Emission == Vector3.Zero))
        {
            return;
        }
        var (positions, indices) = (Mesh.Positions, Mesh.Indices);
        Vector3 Corner(int i) => Vector3.Transform(new Vector3(positions[3 * i], positions[3 * i + 1], positions[3 * i + 2]), ToWorld);
        Emissive = new int[indices.Length / 3];
        for (var t = 0; t < indices.Length; t += 3)
        {
            Emissive[t / 3] = emissive.Add(Corner(indices[t]), Corner(indices[t + 1]), Corner(indices[t + 2]), this, t / 3);
        }
    }

    internal Shading ShadingAt(int triangle) => Shadings[Shadings.Length == 1 ? 0 : Mesh.Rest.PartOf(triangle)];

    /// <summary>How far a point of it may be off in the world: some roundings of the largest numbers that its place is summed from.</summary>
    internal float Uncertainty(Vector3 local) => MathF.Max(1e-6f, 4e-6f * (Most(local * _reach) + _shift));

    /// <summary>Normals go with the inverse transpose.</summary>
    internal Vector3 Normal(Vector3 local) => Vector3.TransformNormal(local, _cofactor) * (Mirrored ? -1 : 1);

    /// <summary>What is held back, and what glows, at a point of a triangle.</summary>
    internal (float Opacity, Vector3 Emission) Lit(int triangle, float u, float v)
    {
        var shading = ShadingAt(triangle);
        var (opacity, emission) = (shading.Base.Opacity, shading.Base.Emission);
        if (shading.Maps is { } maps)
        {
            (opacity, emission) = maps.Lit(shading.Base, MapPointAt(triangle, u, v, default));
        }
        return (Mesh.Rest.Colors is null ? opacity : opacity * ColourAt(triangle, u, v).W, emission);
    }

    /// <summary>What the surface is at a point of a triangle.</summary>
    /// <param name="ray">The ray that has met it, after so long a way.</param>
    /// <param name="flat">How the triangle faces.</param>
    /// <param name="normal">In the world, of length 1, outwards; maps may turn it.</param>
    internal Surface SurfaceAt(int triangle, float u, float v, in Ray ray, float way, Vector3 flat, ref Vector3 normal)
    {
        var shading = ShadingAt(triangle);
        var surface = shading.Base;
        if (shading.Maps is { } maps)
        {
            surface = maps.Apply(surface, MapPointAt(triangle, u, v, Footprint.Of(ray.Width + ray.Spread * way, ray.Direction, flat)), ref normal);
        }
        if (Mesh.Rest.Colors is not null)
        {
            var c = ColourAt(triangle, u, v);
            surface = surface with { Color = surface.Color * new Vector3(c.X, c.Y, c.Z), Opacity = surface.Opacity * c.W };
        }
        return surface;
    }

    private Vector4 ColourAt(int triangle, float u, float v)
    {
        var (colors, indices) = (Mesh.Rest.Colors!, Mesh.Rest.Indices);
        Vector4 At(int corner) => new(colors.AsSpan(4 * indices[3 * triangle + corner], 4));
        return At(0) * (1 - u - v) + At(1) * u + At(2) * v;
    }

    private MapPoint MapPointAt(int triangle, float u, float v, in Footprint seen)
    {
        var indices = Mesh.Indices;
        var (a, b, c) = (indices[3 * triangle], indices[3 * triangle + 1], indices[3 * triangle + 2]);
        static Vector3 At(float[] from, int i) => new(from[3 * i], from[3 * i + 1], from[3 * i + 2]);
        var (rest, coordinates, bent) = (Mesh.Undeformed, Mesh.Coordinates, Mesh.Positions);
        var (pa, pb, pc) = (At(rest, a), At(rest, b), At(rest, c));
        Vector2 Uv(int i) => coordinates is null ? Vector2.Zero : new(coordinates[2 * i], coordinates[2 * i + 1]);
        var origin = At(bent, a);
        return new(pa, pb, pc, Uv(a), Uv(b), Uv(c), Projecting.SideOf(Vector3.Cross(pb - pa, pc - pa)),
            Vector3.TransformNormal(At(bent, b) - origin, ToWorld), Vector3.TransformNormal(At(bent, c) - origin, ToWorld), u, v, seen);
    }

    private static float Most(Vector3 v) => MathF.Max(MathF.Abs(v.X), MathF.Max(MathF.Abs(v.Y), MathF.Abs(v.Z)));

    private static Matrix4x4 Cofactor(Matrix4x4 m) =>
        Matrix4x4.Invert(m, out var inverse) ? Matrix4x4.Transpose(inverse) : m;
}
