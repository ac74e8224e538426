using System.Numerics;
using System.Runtime.CompilerServices;
using Bradymotus.Core;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Render.Light;
using Bradymotus.Render.Rays;
using Bradymotus.Render.Sampling;

namespace Bradymotus.Render;

/// <summary>One evaluated frame as the renderer needs it: triangles, surfaces, lights and the camera.</summary>
public sealed class RenderScene
{
    // A mesh's tree lives as long as its vertices: shapes that are not bent keep theirs from frame to frame.
    private static readonly ConditionalWeakTable<Mesh, TriangleMesh> Trees = [];

    // Bent shapes keep the tree of the shape at rest and lay its boxes anew when they change.
    private static readonly ConditionalWeakTable<MeshState, BentTree> BentTrees = [];

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
        var finishes = shot.Materials.ToDictionary(m => m.Id, m => new Finish(reader.Surface(m.Id), MapSet.Of(m, textures, path => reader[m.Id, path])));
        var suns = new List<Sun>();
        var lamps = new List<Lamp>();
        var emissive = new EmissiveTriangles();
        var meshes = new List<(TriangleMesh, Matrix4x4)>();
        void AddMesh(MeshNode mesh, MeshState bent, in Affine world)
        {
            var parts = new Finish[mesh.PartMaterials.IsEmpty ? 1 : bent.Rest.Parts.Length];
            for (var part = 0; part < parts.Length; part++)
            {
                parts[part] = mesh.MaterialOf(part) is { } material ? finishes[material] : Finish.Grey;
            }
            var matrix = ToMatrix(world);
            if (bent.Indices.Length > 0 && Array.Exists(parts, p => p.IsSeen) && HasWayBack(matrix))
            {
                meshes.Add((TreeOf(bent), matrix));
                _instances.Add(new RenderInstance(bent, matrix, world.Determinant < 0, parts));
                AddEmissive(emissive, _instances[^1]);
            }
        }
        void AddLamp(in ChannelReader its, LampNode lamp, in Affine world) => lamps.Add(LampOf(its, lamp, world));
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
                    AddLamp(reader, lamp, world);
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
                AddLamp(new(copy.State), (LampNode)compiled.NodeAt(copy.Source), copy.World);
            }
        }
        Suns = [.. suns.Where(s => s.Irradiance != Vector3.Zero)];
        Near = new(lamps.Where(l => !l.IsDark), emissive);
        var strength = (float)Math.Max(0, reader[Shot.WorldOwner, "sky.strength"]);
        Background = shot.Background;
        BackgroundColor = reader.Colour(Shot.WorldOwner, "background");
        Sky = shot.SkyPicture is { } around && (float)reader[Shot.WorldOwner, "sky.turn"] is var turn
            ? textures.Lit((around.ToSource().Asset, strength, turn), () => SkyOf(textures.Sky(around.ToSource()), strength, turn))
            : PhysicalSky.Of(state) is { } daylight
            ? textures.Lit((daylight.Sun, daylight.Turbidity, reader.Ground, strength), () => SkyOf((daylight.Picture(256, 128, reader.Ground), 256, 128), strength, -90))
            : new PaintedSky(reader.Colour(Shot.WorldOwner, "sky.top") * strength, reader.Colour(Shot.WorldOwner, "sky.horizon") * strength,
                reader.Colour(Shot.WorldOwner, "sky.ground") * strength);
        Exposure = (float)Real.Exp2(Math.Clamp(reader[Shot.WorldOwner, "exposure"], -10, 10));
        Seed = (uint)BitConverter.DoubleToInt64Bits(state.Frame).GetHashCode() * 0x9E3779B9u ^ 0x5EED;
        HasTransparency = _instances.Any(i => i.Mesh.Rest.Colors is not null || Array.Exists(i.Finishes, f => f.LetsThrough));
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
        var finish = instance.FinishAt(hit.Triangle);
        if (finish.Base.Layers is not { Glass: > 0 } layers)
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

    private static TriangleMesh TreeOf(MeshState mesh) =>
        mesh.IsBent ? BentTrees.GetValue(mesh, m => new BentTree(m)).Current() : RestTree(mesh.Rest);

    /// <param name="turn">How far the middle of the picture is turned from −Z to −X, seen from above against the clock.</param>
    private static PictureSky SkyOf((float[] Picture, int Width, int Height) around, float strength, float turn)
    {
        var scaled = new float[around.Picture.Length];
        for (var i = 0; i < scaled.Length; i++)
        {
            scaled[i] = around.Picture[i] * strength;
        }
        return new(scaled, around.Width, around.Height, (float)((0.75 + turn / 360.0) % 1 + 1) % 1);
    }

    private static Lamp LampOf(in ChannelReader its, LampNode lamp, in Affine world)
    {
        var reader = its;
        float Of(string name, double least) => (float)Math.Max(least, reader[lamp.Id, $"light.{name}"]);
        var (position, light, forward) = (ToVector(world.Origin), reader.Light(lamp.Id), ToVector((-world.Z).Normalized()));
        switch (lamp.Form)
        {
            case LampForm.Spot:
                var half = Math.Clamp(Of("cone", 1), 1, 180) / 2;
                var (outer, inner) = (Real.CosDegrees(half), Real.CosDegrees(half * (1 - Math.Clamp(Of("softness", 0), 0, 1))));
                return new BallLamp(position, Of("radius", 0.001), light / (4 * MathF.PI), forward, (float)outer, (float)inner);
            case LampForm.Rectangle or LampForm.Disc:
                var isRound = lamp.Form == LampForm.Disc;
                var (right, up) = (ToVector(world.X), ToVector(world.Y));
                return isRound
                    ? new PanelLamp(position, right * Of("radius", 0.001), up * Of("radius", 0.001), forward, true, light)
                    : new PanelLamp(position, right * (Of("width", 0.001) / 2), up * (Of("height", 0.001) / 2), forward, false, light);
            default:
                return new BallLamp(position, Of("radius", 0.001), light / (4 * MathF.PI));
        }
    }

    private static TriangleMesh RestTree(Mesh rest) => Trees.GetValue(rest, m => new TriangleMesh(m.Positions, m.Indices));

    private static Matrix4x4 ToMatrix(in Affine a) => new(
        (float)a.X.X, (float)a.X.Y, (float)a.X.Z, 0,
        (float)a.Y.X, (float)a.Y.Y, (float)a.Y.Z, 0,
        (float)a.Z.X, (float)a.Z.Y, (float)a.Z.Z, 0,
        (float)a.Origin.X, (float)a.Origin.Y, (float)a.Origin.Z, 1);

    private static void AddEmissive(EmissiveTriangles emissive, RenderInstance instance)
    {
        if (Array.TrueForAll(instance.Finishes, f => f.Base.Emission == Vector3.Zero))
        {
            return;
        }
        var (positions, indices) = (instance.Mesh.Positions, instance.Mesh.Indices);
        Vector3 Corner(int i) => Vector3.Transform(new Vector3(positions[3 * i], positions[3 * i + 1], positions[3 * i + 2]), instance.ToWorld);
        instance.Emissive = new int[indices.Length / 3];
        for (var t = 0; t < indices.Length; t += 3)
        {
            instance.Emissive[t / 3] = emissive.Add(Corner(indices[t]), Corner(indices[t + 1]), Corner(indices[t + 2]), instance, t / 3);
        }
    }

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

    private sealed class BentTree(MeshState mesh)
    {
        private TriangleMesh? _tree;
        private Mesh? _rest;
        private int _version;

        public TriangleMesh Current()
        {
            if (_version == mesh.Version)
            {
                return _tree!;
            }
            _version = mesh.Version;
            if (mesh.IsLive)
            {
                // Which frame its triangles were made on first must make no difference.
                _tree = new TriangleMesh(mesh.Positions, mesh.Indices);
            }
            else if (ReferenceEquals(_rest, mesh.Rest))
            {
                _tree!.Refit(mesh.Positions);
            }
            else
            {
                (_rest, _tree) = (mesh.Rest, new TriangleMesh(RestTree(mesh.Rest), mesh.Positions));
            }
            return _tree;
        }
    }

    private readonly struct ChannelReader(FrameState state)
    {
        public double this[string owner, string path] => state.Value(new(owner, path));

        public Vector3 Colour(string owner, string path) => Vector3.Max(Vector3.Zero,
            new((float)this[owner, path + ".r"], (float)this[owner, path + ".g"], (float)this[owner, path + ".b"]));

        public Double3 Ground => new(Math.Max(0, this[Shot.WorldOwner, "sky.ground.r"]), Math.Max(0, this[Shot.WorldOwner, "sky.ground.g"]), Math.Max(0, this[Shot.WorldOwner, "sky.ground.b"]));

        public Vector3 Light(string owner) =>
            Colour(owner, "light.color") * ToVector(BlackBody.Linear(this[owner, "light.kelvin"])) * (float)Math.Max(0, this[owner, "light.strength"]);

        public Surface Surface(string owner)
        {
            var color = Vector3.Min(Vector3.One, Colour(owner, "look.color"));
            return new(color, (float)this[owner, "look.roughness"], (float)Math.Clamp(this[owner, "look.metallic"], 0, 1),
                Colour(owner, "look.emissionColor") * (float)Math.Max(0, this[owner, "look.emission"]), (float)Math.Clamp(this[owner, "look.opacity"], 0, 1))
            { Layers = Layers(owner) };
        }

        private Layers? Layers(string owner)
        {
            var reader = this;
            float Of(string name, double most = 1) => (float)Math.Clamp(reader[owner, $"look.{name}"], 0, most);
            var layers = new Layers(Math.Max(1, Of("ior", 3)), Of("glass"), reader[owner, "look.thin"] >= 0.5, Of("coat"), Of("coatRoughness"),
                Colour(owner, "look.sheenColor") * Of("sheen"), Of("sheenRoughness"), Of("subsurface"), Math.Max(0.0001f, Of("subsurfaceRadius", 1e6)));
            return layers is { Ior: 1.5f, Glass: 0, Coat: 0, Subsurface: 0 } && layers.Sheen == Vector3.Zero ? null : layers;
        }
    }
}
