using System.Numerics;
using Bradymotus.Render.Light;
using Bradymotus.Render.Rays;
using Bradymotus.Render.Sampling;

namespace Bradymotus.Render;

/// <summary>The light that comes along a ray.</summary>
/// <param name="scene">What is there.</param>
/// <param name="picks">So many lamps and glowing triangles are asked at most at a place.</param>
internal abstract class Integrator(RenderScene scene, int picks)
{
    protected RenderScene Scene { get; } = scene;

    /// <summary>The radiance that comes back along a ray from the camera.</summary>
    /// <param name="cover">How much of it comes of what is there, and not of the background: less than 1 only where the background is transparent.</param>
    internal abstract Vector3 Radiance(Ray ray, ref Sequence random, out float cover);

    /// <summary>What a ray from the camera sees where nothing is.</summary>
    /// <param name="passing">What is left of it there.</param>
    protected Vector3 Behind(Vector3 direction, Vector3 passing, out float cover)
    {
        cover = 1;
        switch (Scene.Background)
        {
            case Core.Scene.Background.Color:
                return passing * Scene.BackgroundColor;
            case Core.Scene.Background.Transparent:
                cover = 1 - Math.Clamp((passing.X + passing.Y + passing.Z) / 3, 0, 1);
                return Vector3.Zero;
            default:
                return passing * Scene.Sky.Radiance(direction);
        }
    }

    internal static Integrator For(Quality quality, RenderScene scene) => quality switch
    {
        Quality.Draft => new DraftIntegrator(scene),
        Quality.Preview => new PreviewIntegrator(scene),
        _ => new PathIntegrator(scene),
    };

    /// <summary>
    /// Light straight from what shines, reflected towards <paramref name="wo"/>, with shadows: of the sky, each sun and some of the lamps and glowing
    /// surfaces one sample each. What a ray that is reflected by chance may meet too is weighted against it (<see cref="Weight"/>).
    /// </summary>
    protected Vector3 Direct(in RenderScene.Point point, in Bsdf bsdf, Vector3 wo, ref Sequence random)
    {
        var sum = Vector3.Zero;
        foreach (var sun in Scene.Suns)
        {
            var direction = sun.Sample(random.Next2());
            sum += sun.IsPoint
                ? Reflected(point, bsdf, wo, direction, float.PositiveInfinity, sun.Irradiance, float.PositiveInfinity)
                : Reflected(point, bsdf, wo, direction, float.PositiveInfinity, sun.Radiance / sun.Density, sun.Density);
        }
        if (Scene.Sky.IsSampled)
        {
            var direction = Scene.Sky.Sample(random.Next2(), out var density);
            if (density > 0)
            {
                sum += Reflected(point, bsdf, wo, direction, float.PositiveInfinity, Scene.Sky.Radiance(direction) / density, density);
            }
        }
        var near = Scene.Near;
        var choice = near.Count > picks ? random.Next1() : 0;
        for (var i = 0; i < near.Picks(picks); i++)
        {
            var u = random.Next2();
            if (near.Pick(i, picks, choice, point.Position, point.Normal, out var share) is >= 0 and var light
                && near.Sample(light, point.Position, u, out var direction, out var distance, out var own) is var radiance
                && own * share is > 0 and var density)
            {
                sum += Reflected(point, bsdf, wo, direction, distance, radiance / density, density);
            }
        }
        return sum;
    }

    /// <param name="light">The radiance over the density of choosing its direction.</param>
    private Vector3 Reflected(in RenderScene.Point point, in Bsdf bsdf, Vector3 wo, Vector3 direction, float far, Vector3 light, float density)
    {
        if (Vector3.Dot(direction, point.Side) <= 0)
        {
            return Vector3.Zero;
        }
        var wi = ToLocal(direction, point.Normal);
        var part = bsdf.Evaluate(wo, wi);
        return part == Vector3.Zero ? part
            : part * light * (Weight(density, bsdf.Density(wo, wi)) * Scene.Transmittance(new(point.Position, direction, far * 0.9999f)));
    }

    /// <summary>
    /// The light that a ray, chosen by how a surface reflects, meets of what is sampled as a light too; what lies behind its end is not met.
    /// </summary>
    /// <param name="far">How far it goes to the next surface, infinite for the sky.</param>
    /// <param name="origin">Where it was reflected; it may have gone through something since.</param>
    protected Vector3 Met(in Ray ray, float far, in Origin origin)
    {
        var sum = Vector3.Zero;
        var near = Scene.Near;
        if (near.Lamps.Length > 0)
        {
            Span<int> rest = stackalloc int[LightTree.MostDepth];
            for (var lamps = near.Along(ray.Origin, ray.Direction, far, rest); lamps.Next(out var light);)
            {
                var lamp = near.Lamps[light];
                if (lamp.Distance(ray.Origin, ray.Direction) < far)
                {
                    sum += lamp.Radiance(origin.At)
                        * Weight(origin.Density, near.Share(light, picks, origin.At, origin.Normal) * lamp.Density(origin.At, ray.Direction));
                }
            }
        }
        if (float.IsPositiveInfinity(far))
        {
            foreach (var sun in Scene.Suns)
            {
                if (sun.IsMetBy(ray.Direction))
                {
                    sum += sun.Radiance * Weight(origin.Density, sun.Density);
                }
            }
        }
        return sum;
    }

    /// <summary>The sky in a direction that was chosen by how a surface reflects.</summary>
    protected Vector3 Sky(Vector3 direction, float density) =>
        Scene.Sky.Radiance(direction) * (Scene.Sky.IsSampled ? Weight(density, Scene.Sky.Density(direction)) : 1);

    /// <summary>What a surface sends out that a ray has met which was chosen by how another reflects.</summary>
    protected Vector3 Emitted(in RenderScene.Point point, in Origin origin)
    {
        var emission = point.Surface.Emission;
        return emission == Vector3.Zero || point.Emissive < 0 || float.IsPositiveInfinity(origin.Density) ? emission
            : emission * Weight(origin.Density, Scene.Near.DensityOfTriangle(point.Emissive, picks, origin.At, origin.Normal, point.Position));
    }

    /// <summary>
    /// How wide what a reflected ray looks at grows: a part of all that lies about as densely chosen, since others look there too. (T. Akenine-Möller et
    /// al., "Texture level of detail strategies for real-time ray tracing", Ray Tracing Gems, 2019, follows rays as cones.)
    /// </summary>
    protected static float SpreadOf(float density) => 0.25f / MathF.Sqrt(density);

    /// <summary>Where a ray was reflected last, and how densely its direction was chosen there.</summary>
    protected readonly record struct Origin(Vector3 At, Vector3 Normal, float Density);

    /// <summary>
    /// What a sample counts that another way might have found too: the power heuristic (E. Veach, "Robust Monte Carlo methods for light transport
    /// simulation", 1997, chapter 9).
    /// </summary>
    private static float Weight(float density, float other)
    {
        var ratio = other / density;
        return float.IsPositiveInfinity(density) ? 1 : 1 / (1 + ratio * ratio);
    }

    protected static Vector3 ToLocal(Vector3 world, Vector3 normal)
    {
        var (t, b) = Warp.Frame(normal);
        return new(Vector3.Dot(world, t), Vector3.Dot(world, b), Vector3.Dot(world, normal));
    }
}
