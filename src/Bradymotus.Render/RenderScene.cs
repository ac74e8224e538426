using System.Numerics;
using Bradymotus.Core;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Render.Light;
using Bradymotus.Render.Rays;

namespace Bradymotus.Render;

/// <summary>One evaluated frame as the renderer needs it: triangles, surfaces, lights and the camera.</summary>
public sealed class RenderScene
{
    /// <summary>Light goes through so many surfaces, and no more.</summary>
    internal const int MostLayers = 512;

    private readonly InstanceTree _tree;
    private readonly List<RenderInstance> _instances = [];
    private Surroundings? _surroundings;

    /// <param name="state">An evaluated frame. The scene lasts until it is evaluated again.</param>
    /// <param name="camera">The camera to look through.</param>
    /// <param name="textures">The pictures of its materials.</param>
    /// <exception cref="Refusal">The camera stands nowhere (it is scaled to nothing), or a picture is not there.</exception>
    public RenderScene(FrameState state, CameraNode camera, Textures? textures = null)
    {
        var compiled = state.Compiled;
        var shot = compiled.Shot;
        var reader = new ChannelReader(state);
        textures ??= new(null);
        var shadings = shot.Materials.ToDictionary(m => m.Id, m => new Shading(reader.Surface(m.Id), MapSet.Of(m, textures, path => reader[m.Id, path])));
        var suns = new List<Sun>();
        var lamps = new List<Lamp>();
        var emissive = new EmissiveTriangles();
        var meshes = new List<(TriangleMesh, Matrix4x4)>();
        void AddMesh(MeshNode mesh, MeshState bent, in Affine world)
        {
            var parts = new Shading[mesh.PartMaterials.IsEmpty ? 1 : bent.Rest.Parts.Length];
            for (var part = 0; part < parts.Length; part++)
            {
                parts[part] = mesh.MaterialOf(part) is { } material ? shadings[material] : Shading.Grey;
            }
            var matrix = ToMatrix(world);
            if (bent.Indices.Length > 0 && Array.Exists(parts, p => p.IsSeen) && HasWayBack(matrix))
            {
                meshes.Add((MeshTrees.Of(bent), matrix));
                _instances.Add(new RenderInstance(bent, matrix, world.Determinant < 0, parts));
                _instances[^1].AddTo(emissive);
            }
        }
        for (var i = 0; i < compiled.NodeCount; i++)
        {
            if (!state.Rendered[i])
            {
                continue;
            }
            var world = state.World[i];
            switch (compiled.NodeAt(i))
            {
                case MeshNode mesh:
                    AddMesh(mesh, state.Mesh(i)!, world);
                    break;
                case SunNode sun:
                    suns.Add(new(ToVector(world.Z.Normalized()), reader.Light(sun.Id),
                        MathF.Cos((float)(Math.Clamp(reader[sun.Id, "light.angle"], 0, 60) * Math.PI / 360))));
                    break;
                case LampNode lamp:
                    lamps.Add(reader.Lamp(lamp, world));
                    break;
            }
        }
        foreach (var copy in state.Copies)
        {
            if (copy.Rendered && copy.State.Compiled.NodeAt(copy.Node) is MeshNode mesh)
            {
                AddMesh(mesh, copy.State.Mesh(copy.Node)!, copy.World);
            }
            else if (copy.Rendered)
            {
                lamps.Add(new ChannelReader(copy.State).Lamp((LampNode)compiled.NodeAt(copy.Source), copy.World));
            }
        }
        Suns = [.. suns.Where(s => s.Irradiance != Vector3.Zero)];
        Near = new(lamps.Where(l => !l.IsDark), emissive);
        var strength = (float)Math.Max(0, reader[Shot.WorldOwner, "sky.strength"]);
        Background = shot.Background;
        BackgroundColor = reader.Colour(Shot.WorldOwner, "background");
        Sky = shot.SkyPicture is { } around && (float)reader[Shot.WorldOwner, "sky.turn"] is var turn
            ? textures.Lit((around.ToSource().Asset, strength, turn), () => PictureSky.Of(textures.Sky(around.ToSource()), strength, turn))
            : PhysicalSky.Of(state) is { } daylight
            ? textures.Lit((daylight.Sun, daylight.Turbidity, reader.Ground, strength), () => PictureSky.Of((daylight.Picture(256, 128, reader.Ground), 256, 128), strength, -90))
            : new PaintedSky(reader.Colour(Shot.WorldOwner, "sky.top") * strength, reader.Colour(Shot.WorldOwner, "sky.horizon") * strength,
                reader.Colour(Shot.WorldOwner, "sky.ground") * strength);
        Exposure = (float)Real.Exp2(Math.Clamp(reader[Shot.WorldOwner, "exposure"], -10, 10));
        Seed = (uint)BitConverter.DoubleToInt64Bits(state.Frame).GetHashCode() * 0x9E3779B9u ^ 0x5EED;
        HasTransparency = _instances.Any(i => i.Mesh.Rest.Colors is not null || Array.Exists(i.Shadings, f => f.LetsThrough));
        _tree = new InstanceTree(meshes);
        Camera = new View(state.World[compiled.IndexOfNode(camera.Id)], camera, Lens.Of(camera, path => reader[camera.Id, path]));
    }

    internal Sun[] Suns { get; }

    internal NearLights Near { get; }

    /// <summary>Where something stands close to a lamp.</summary>
    internal Surroundings Surroundings => _surroundings ??= new(Near.Lamps, DistanceToBody);

    internal Sky Sky { get; }

    internal Background Background { get; }

    internal Vector3 BackgroundColor { get; }

    /// <summary>A factor on all light before it is shown.</summary>
    internal float Exposure { get; }

    /// <summary>Another for every frame, so that the noise of a film does not stand still.</summary>
    internal uint Seed { get; }

    internal bool HasTransparency { get; }

    internal View Camera { get; }

    /// <summary>The number of triangles that rays can hit.</summary>
    public int TriangleCount => _instances.Sum(i => i.Mesh.Indices.Length / 3);

    internal Hit Trace(in Ray ray) => _tree.Trace(ray);

    /// <summary>How much light passes along a ray, 0…1. Glass tints it, and does not bend it.</summary>
    internal Vector3 Transmittance(in Ray ray)
    {
        if (!HasTransparency)
        {
            return _tree.IsHit(ray) ? Vector3.Zero : Vector3.One;
        }
        var passing = Vector3.One;
        var rest = ray;
        for (var layer = 0; layer < MostLayers && passing.LengthSquared() > 1e-8f; layer++)
        {
            var hit = _tree.Trace(rest);
            if (!hit.IsHit)
            {
                return passing;
            }
            passing *= PassingAt(rest, hit);
            var far = rest.Far - hit.T;
            rest = new(PointAt(rest, hit).Beyond, rest.Direction, far);
            if (far <= 0)
            {
                return passing;
            }
        }
        return Vector3.Zero;
    }

    /// <summary>How far a ray goes until it meets something that lets less than half of it through.</summary>
    private float DistanceToBody(Vector3 from, Vector3 direction)
    {
        var (ray, gone) = (new Ray(from, direction), 0f);
        for (var layer = 0; layer < 8; layer++)
        {
            var hit = _tree.Trace(ray);
            if (!hit.IsHit)
            {
                return float.PositiveInfinity;
            }
            gone += hit.T;
            if (PassingAt(ray, hit) is var passing && passing.X + passing.Y + passing.Z < 1.5f)
            {
                return gone;
            }
            ray = new(PointAt(ray, hit).Beyond, direction);
        }
        return gone;
    }

    /// <summary>How much light goes straight on through a surface.</summary>
    private Vector3 PassingAt(in Ray ray, in Hit hit)
    {
        var instance = _instances[hit.Instance];
        var shading = instance.ShadingAt(hit.Triangle);
        if (shading.Base.Layers is not { Glass: > 0 } layers)
        {
            return new(1 - Math.Clamp(instance.Lit(hit.Triangle, hit.U, hit.V).Opacity, 0, 1));
        }
        var point = PointAt(ray, hit);
        var surface = point.Surface;
        var opacity = Math.Clamp(surface.Opacity, 0, 1);
        var through = layers.Glass * (1 - surface.Metallic) * (1 - Dielectric.Reflected(MathF.Abs(Vector3.Dot(ray.Direction, point.Normal)), 1 / layers.Ior));
        return Vector3.Lerp(Vector3.One, (point.IsFront || layers.Thin ? surface.Color : Vector3.One) * through, opacity);
    }

    /// <summary>What a ray has met.</summary>
    internal Point PointAt(in Ray ray, in Hit hit)
    {
        var instance = _instances[hit.Instance];
        var (positions, normals, indices) = (instance.Mesh.Positions, instance.Mesh.Normals, instance.Mesh.Indices);
        var (a, b, c) = (3 * indices[3 * hit.Triangle], 3 * indices[3 * hit.Triangle + 1], 3 * indices[3 * hit.Triangle + 2]);
        var w = 1 - hit.U - hit.V;
        static Vector3 At(float[] from, int i) => new(from[i], from[i + 1], from[i + 2]);
        var (pa, pb, pc) = (At(positions, a), At(positions, b), At(positions, c));
        // From the corners, not along the ray: far from the camera this is many digits better.
        var local = pa * w + pb * hit.U + pc * hit.V;
        var position = Vector3.Transform(local, instance.ToWorld);
        var flat = Vector3.Normalize(instance.Normal(Vector3.Cross(pb - pa, pc - pa)));
        var normal = Vector3.Normalize(instance.Normal(At(normals, a) * w + At(normals, b) * hit.U + At(normals, c) * hit.V));
        var isFront = Vector3.Dot(flat, ray.Direction) <= 0;
        if (!isFront)
        {
            flat = -flat;
        }
        var (side, rise) = Smooth(instance, isFront ? 1 : -1, local, flat, normal, (pa, pb, pc), (At(normals, a), At(normals, b), At(normals, c)), new(w, hit.U, hit.V));
        var surface = instance.SurfaceAt(hit.Triangle, hit.U, hit.V, ray, hit.T, flat, ref normal);
        if (Vector3.Dot(normal, flat) < 0)
        {
            normal = -normal;
        }
        // A smooth normal that turns away from the eye is bent back to graze it.
        var facing = Vector3.Dot(normal, ray.Direction);
        if (facing > -1e-3f)
        {
            normal = Vector3.Normalize(normal - ray.Direction * (facing + 2e-3f));
        }
        var lift = flat * instance.Uncertainty(local);
        return new(position + lift + rise, position - lift, flat, side, normal, surface, isFront, instance.Emissive?[hit.Triangle] ?? -1, hit.Instance);
    }

    /// <summary>
    /// Where the smooth surface is that a coarse mesh stands for. Where it bulges out, light is taken up there and down to its own horizon: else each
    /// triangle would show its own shadow (J. Hanika, "Hacking the shadow terminator", Ray Tracing Gems II, 2021).
    /// </summary>
    /// <param name="sign">−1 where it is met from within.</param>
    /// <returns>The way that the surface counts as facing, and how far it rises over the triangle, both in the world.</returns>
    private static (Vector3 Side, Vector3 Rise) Smooth(
        RenderInstance instance, float sign, Vector3 local, Vector3 flat, Vector3 normal,
        (Vector3 A, Vector3 B, Vector3 C) corners, (Vector3 A, Vector3 B, Vector3 C) normals, Vector3 weights)
    {
        if (normals.A == normals.B && normals.A == normals.C)
        {
            return (flat, Vector3.Zero);
        }
        var (rise, bulges) = (Vector3.Zero, true);
        void Add(Vector3 corner, Vector3 own, float weight)
        {
            // Planes stay planes in the world: how far it is off is found there.
            var up = Vector3.Normalize(instance.Normal(own)) * sign;
            var off = Vector3.Dot(Vector3.TransformNormal(local - corner, instance.ToWorld), up);
            rise -= MathF.Min(0, off) * weight * up;
            bulges &= off <= 1e-6f * (off + 1);
        }
        Add(corners.A, normals.A, weights.X);
        Add(corners.B, normals.B, weights.Y);
        Add(corners.C, normals.C, weights.Z);
        return (bulges ? normal * sign : flat, rise);
    }

    internal static Vector3 ToVector(Double3 v) => new((float)v.X, (float)v.Y, (float)v.Z);

    /// <summary>Whether rays can be brought into the space of a node and back: it is not flat, and neither so small nor so large that numbers fail.</summary>
    private static bool HasWayBack(in Matrix4x4 toWorld)
    {
        static bool IsFinite(in Matrix4x4 m) => float.IsFinite(
            Math.Abs(m.M11) + Math.Abs(m.M12) + Math.Abs(m.M13) + Math.Abs(m.M21) + Math.Abs(m.M22) + Math.Abs(m.M23)
            + Math.Abs(m.M31) + Math.Abs(m.M32) + Math.Abs(m.M33) + Math.Abs(m.M41) + Math.Abs(m.M42) + Math.Abs(m.M43));
        return IsFinite(toWorld) && Matrix4x4.Invert(toWorld, out var inverse) && IsFinite(inverse);
    }

    private static Matrix4x4 ToMatrix(in Affine a) => new(
        (float)a.X.X, (float)a.X.Y, (float)a.X.Z, 0,
        (float)a.Y.X, (float)a.Y.Y, (float)a.Y.Z, 0,
        (float)a.Z.X, (float)a.Z.Y, (float)a.Z.Z, 0,
        (float)a.Origin.X, (float)a.Origin.Y, (float)a.Origin.Z, 1);

    /// <summary>
    /// A point of a surface. <c>Position</c> is lifted off it a little, towards where the ray came from, and <c>Beyond</c> lies as much on its
    /// other side: as far as the place of the surface is uncertain, so that it is neither met again nor is what stands on it passed by.
    /// </summary>
    /// <param name="Flat">The way its triangle faces, towards where the ray came from.</param>
    /// <param name="Side">The way it counts as facing: light from behind it is not reflected. That of the triangle, or of the smooth surface where that bulges out.</param>
    /// <param name="Normal">For its shading: smooth, and turned by maps.</param>
    /// <param name="IsFront">It is met from outside.</param>
    /// <param name="Emissive">Its number among the triangles that glow; −1 for none.</param>
    internal readonly record struct Point(
        Vector3 Position, Vector3 Beyond, Vector3 Flat, Vector3 Side, Vector3 Normal, Surface Surface, bool IsFront, int Emissive, int Instance);
}
