using System.Numerics;
using Bradymotus.Render.Light;
using Bradymotus.Render.Rays;
using Bradymotus.Render.Sampling;

namespace Bradymotus.Render;

/// <summary>The light that comes along a ray.</summary>
internal abstract class Integrator(RenderScene scene)
{
    protected RenderScene Scene { get; } = scene;

    /// <summary>The radiance that comes back along a ray from the camera.</summary>
    internal abstract Vector3 Radiance(Ray ray, ref Sequence random);

    internal static Integrator For(Quality quality, RenderScene scene) => quality switch
    {
        Quality.Draft => new DraftIntegrator(scene),
        Quality.Preview => new PreviewIntegrator(scene),
        _ => new PathIntegrator(scene),
    };

    /// <summary>Light straight from suns and lamps, reflected towards <paramref name="wo"/>, with shadows.</summary>
    protected Vector3 Direct(in RenderScene.Point point, in Reflection reflection, Vector3 wo, ref Sequence random)
    {
        var sum = Vector3.Zero;
        foreach (var sun in Scene.Suns)
        {
            var direction = sun.Sample(random.Next2());
            sum += Reflected(point, reflection, wo, direction, float.PositiveInfinity, sun.Irradiance);
        }
        foreach (var lamp in Scene.Lamps)
        {
            var to = lamp.Sample(point.Position, random.Next2()) - point.Position;
            var squared = MathF.Max(to.LengthSquared(), lamp.Radius * lamp.Radius);
            var length = MathF.Sqrt(squared);
            sum += Reflected(point, reflection, wo, to / length, length, lamp.Intensity / squared);
        }
        return sum;
    }

    private Vector3 Reflected(in RenderScene.Point point, in Reflection reflection, Vector3 wo, Vector3 direction, float far, Vector3 irradiance)
    {
        if (Vector3.Dot(direction, point.Flat) <= 0)
        {
            return Vector3.Zero;
        }
        var part = reflection.Evaluate(wo, ToLocal(direction, point.Normal));
        return part == Vector3.Zero ? part : part * irradiance * Scene.Transmittance(new(point.Position, direction, far * 0.9999f));
    }

    protected static Vector3 ToLocal(Vector3 world, Vector3 normal)
    {
        var (t, b) = Warp.Frame(normal);
        return new(Vector3.Dot(world, t), Vector3.Dot(world, b), Vector3.Dot(world, normal));
    }

    protected static Ray Beyond(in Ray ray, in RenderScene.Point point)
    {
        // The point was lifted towards the eye; twice that on the other side.
        var lift = Vector3.Dot(point.Position - ray.Origin, ray.Direction);
        return new(ray.At(lift + 2e-4f + 2e-6f * lift), ray.Direction);
    }
}

/// <summary>One look: sun with hard shadows, lamps without, and an even sky. For seeing where things are.</summary>
internal sealed class DraftIntegrator(RenderScene scene) : Integrator(scene)
{
    internal override Vector3 Radiance(Ray ray, ref Sequence random)
    {
        var sum = Vector3.Zero;
        var passing = 1f;
        for (var layer = 0; layer < 8; layer++)
        {
            var hit = Scene.Trace(ray);
            if (!hit.IsHit)
            {
                return sum + passing * Scene.Sky.Radiance(ray.Direction);
            }
            var point = Scene.PointAt(ray, hit);
            sum += passing * point.Surface.Opacity * (Shade(Scene, point, shadows: true) + point.Surface.Emission);
            passing *= 1 - point.Surface.Opacity;
            if (passing < 0.01f)
            {
                break;
            }
            ray = Beyond(ray, point);
        }
        return sum;
    }

    /// <summary>Matt shading; also what a preview sees after a bounce.</summary>
    internal static Vector3 Shade(RenderScene scene, in RenderScene.Point point, bool shadows)
    {
        var light = scene.Sky.Ambient(point.Normal);
        foreach (var sun in scene.Suns)
        {
            var cos = Vector3.Dot(sun.Direction, point.Normal);
            if (cos > 0 && Vector3.Dot(sun.Direction, point.Flat) > 0)
            {
                var seen = shadows ? scene.Transmittance(new(point.Position, sun.Direction)) : 1;
                light += sun.Irradiance * (seen * cos / MathF.PI);
            }
        }
        foreach (var lamp in scene.Lamps)
        {
            var to = lamp.Position - point.Position;
            var squared = MathF.Max(to.LengthSquared(), lamp.Radius * lamp.Radius);
            var cos = Vector3.Dot(to, point.Normal) / MathF.Sqrt(squared);
            light += lamp.Intensity * (MathF.Max(0, cos) / (MathF.PI * squared));
        }
        return light * point.Surface.Color;
    }
}

/// <summary>Soft shadows from suns, lamps and sky; light that has bounced once is guessed.</summary>
internal sealed class PreviewIntegrator(RenderScene scene) : Integrator(scene)
{
    internal override Vector3 Radiance(Ray ray, ref Sequence random)
    {
        for (var layer = 0; layer < 16; layer++)
        {
            var hit = Scene.Trace(ray);
            if (!hit.IsHit)
            {
                break;
            }
            var point = Scene.PointAt(ray, hit);
            if (point.Surface.Opacity < 1 && random.Next1() >= point.Surface.Opacity)
            {
                ray = Beyond(ray, point);
                continue;
            }
            var wo = ToLocal(-ray.Direction, point.Normal);
            var reflection = new Reflection(point.Surface, wo.Z);
            var sum = point.Surface.Emission + Direct(point, reflection, wo, ref random);
            var weight = reflection.Sample(wo, random.Next2(), random.Next1(), out var wi);
            var bounce = Warp.ToWorld(wi, point.Normal);
            if (weight != Vector3.Zero && Vector3.Dot(bounce, point.Flat) > 0)
            {
                var onwards = new Ray(point.Position, bounce);
                var next = Scene.Trace(onwards);
                var light = next.IsHit ? Guess(onwards, next) : Scene.Sky.Radiance(bounce);
                // A few samples cannot average a small bright thing; its light is held back rather than left as a speck.
                sum += weight * Vector3.Min(light, Vector3.One);
            }
            return sum;
        }
        return Scene.Sky.Radiance(ray.Direction);
    }

    private Vector3 Guess(in Ray ray, in Hit hit)
    {
        var point = Scene.PointAt(ray, hit);
        // Where something stands close by, less of the sky is seen.
        return point.Surface.Emission + 0.6f * DraftIntegrator.Shade(Scene, point, shadows: false);
    }
}

/// <summary>Paths of light of any length (J. Kajiya, "The rendering equation", 1986), with suns and lamps sampled at every point.</summary>
internal sealed class PathIntegrator(RenderScene scene) : Integrator(scene)
{
    private const int MostBounces = 64;

    /// <summary>No single bounce adds more than this to a sample; all but the surroundings of a lamp stay far below it.</summary>
    private const float BrightestBounce = 3;

    internal override Vector3 Radiance(Ray ray, ref Sequence random)
    {
        var sum = Vector3.Zero;
        var throughput = Vector3.One;
        for (var bounce = 0; bounce < MostBounces; bounce++)
        {
            var hit = Scene.Trace(ray);
            if (!hit.IsHit)
            {
                return sum + throughput * Scene.Sky.Radiance(ray.Direction);
            }
            var point = Scene.PointAt(ray, hit);
            if (point.Surface.Opacity < 1 && random.Next1() >= point.Surface.Opacity)
            {
                ray = Beyond(ray, point);
                continue;
            }
            var wo = ToLocal(-ray.Direction, point.Normal);
            var reflection = new Reflection(point.Surface, wo.Z);
            var light = throughput * (point.Surface.Emission + Direct(point, reflection, wo, ref random));
            // A point close to a lamp is found so seldom, and is so bright, that it would be a speck and no light.
            sum += bounce == 0 ? light : Vector3.Min(light, new(BrightestBounce));
            throughput *= reflection.Sample(wo, random.Next2(), random.Next1(), out var wi);
            var direction = Warp.ToWorld(wi, point.Normal);
            if (throughput == Vector3.Zero || Vector3.Dot(direction, point.Flat) <= 0)
            {
                return sum;
            }
            ray = new(point.Position, direction);
            // Russian roulette: dim paths end early, those that go on count for them.
            if (bounce >= 3)
            {
                var survive = Math.Clamp(MathF.Max(throughput.X, MathF.Max(throughput.Y, throughput.Z)), 0.05f, 0.95f);
                if (random.Next1() >= survive)
                {
                    return sum;
                }
                throughput /= survive;
            }
        }
        return sum;
    }
}
