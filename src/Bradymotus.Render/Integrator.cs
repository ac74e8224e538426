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
    protected Vector3 Direct(in RenderScene.Point point, in Reflection reflection, Vector3 wo, ref Sequence random)
    {
        var sum = Vector3.Zero;
        foreach (var sun in Scene.Suns)
        {
            var direction = sun.Sample(random.Next2());
            sum += sun.IsPoint
                ? Reflected(point, reflection, wo, direction, float.PositiveInfinity, sun.Irradiance, float.PositiveInfinity)
                : Reflected(point, reflection, wo, direction, float.PositiveInfinity, sun.Radiance / sun.Density, sun.Density);
        }
        if (Scene.Sky.IsSampled)
        {
            var direction = Scene.Sky.Sample(random.Next2(), out var density);
            if (density > 0)
            {
                sum += Reflected(point, reflection, wo, direction, float.PositiveInfinity, Scene.Sky.Radiance(direction) / density, density);
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
                sum += Reflected(point, reflection, wo, direction, distance, radiance / density, density);
            }
        }
        return sum;
    }

    /// <param name="light">The radiance over the density of choosing its direction.</param>
    private Vector3 Reflected(in RenderScene.Point point, in Reflection reflection, Vector3 wo, Vector3 direction, float far, Vector3 light, float density)
    {
        if (Vector3.Dot(direction, point.Side) <= 0)
        {
            return Vector3.Zero;
        }
        var wi = ToLocal(direction, point.Normal);
        var part = reflection.Evaluate(wo, wi);
        return part == Vector3.Zero ? part
            : part * light * (Weight(density, reflection.Density(wo, wi)) * Scene.Transmittance(new(point.Position, direction, far * 0.9999f)));
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

/// <summary>One look: sun with hard shadows, lamps without, and an even sky. For seeing where things are.</summary>
internal sealed class DraftIntegrator(RenderScene scene) : Integrator(scene, picks: 0)
{
    internal override Vector3 Radiance(Ray ray, ref Sequence random, out float cover)
    {
        var sum = Vector3.Zero;
        var passing = 1f;
        cover = 1;
        for (var layer = 0; layer < RenderScene.MostLayers; layer++)
        {
            var hit = Scene.Trace(ray);
            if (!hit.IsHit)
            {
                return sum + Behind(ray.Direction, new(passing), out cover);
            }
            var point = Scene.PointAt(ray, hit);
            // One look does not bend light: glass is mostly not there.
            var opacity = Math.Clamp(point.Surface.Opacity, 0, 1) * (1 - 0.85f * (point.Surface.Layers?.Glass ?? 0));
            sum += passing * opacity * (Shade(Scene, point, shadows: true) + point.Surface.Emission);
            passing *= 1 - opacity;
            if (passing < 0.01f)
            {
                break;
            }
            ray = ray.Past(point.Beyond, hit.T);
        }
        return sum;
    }

    /// <summary>Matt shading.</summary>
    internal static Vector3 Shade(RenderScene scene, in RenderScene.Point point, bool shadows)
    {
        var light = Around(scene, point, shadows);
        foreach (var lamp in scene.Near.Lamps)
        {
            light += lamp.Irradiance(point.Position, point.Normal) / MathF.PI;
        }
        return light * point.Surface.Color;
    }

    /// <summary>Irradiance ÷ π of sky and suns.</summary>
    internal static Vector3 Around(RenderScene scene, in RenderScene.Point point, bool shadows)
    {
        var light = scene.Sky.Ambient(point.Normal);
        foreach (var sun in scene.Suns)
        {
            var cos = Vector3.Dot(sun.Direction, point.Normal);
            if (cos > 0 && Vector3.Dot(sun.Direction, point.Side) > 0)
            {
                var seen = shadows ? scene.Transmittance(new(point.Position, sun.Direction)) : Vector3.One;
                light += sun.Irradiance * (seen * cos / MathF.PI);
            }
        }
        return light;
    }
}

/// <summary>Soft shadows from suns, lamps and sky; light that has bounced once is guessed.</summary>
internal sealed class PreviewIntegrator(RenderScene scene) : Integrator(scene, picks: 4)
{
    internal override Vector3 Radiance(Ray ray, ref Sequence random, out float cover)
    {
        cover = 1;
        var (light, passing) = (Vector3.Zero, Vector3.One);
        for (var layer = 0; layer < RenderScene.MostLayers; layer++)
        {
            var hit = Scene.Trace(ray);
            if (!hit.IsHit)
            {
                return light + Behind(ray.Direction, passing, out cover);
            }
            var point = Scene.PointAt(ray, hit);
            if (point.Surface.Opacity < 1 && random.Next1() >= point.Surface.Opacity)
            {
                ray = ray.Past(point.Beyond, hit.T);
                continue;
            }
            var wo = ToLocal(-ray.Direction, point.Normal);
            var reflection = new Reflection(point.Surface, wo.Z, point.IsFront);
            var sum = point.Surface.Emission + Direct(point, reflection, wo, ref random);
            var weight = reflection.Sample(wo, random.Next2(), random.Next1(), out var wi, out var density, out var how);
            var bounce = Warp.ToWorld(wi, point.Normal);
            if (how == Scattering.Refracted)
            {
                light += passing * sum;
                passing *= weight;
                ray = ray.Turned(point.Beyond, bounce, hit.T);
                continue;
            }
            if (weight != Vector3.Zero && Vector3.Dot(bounce, point.Side) > 0)
            {
                var onwards = ray.Turned(point.Position, bounce, hit.T, SpreadOf(density));
                var origin = new Origin(point.Position, point.Normal, density);
                var next = Scene.Trace(onwards);
                sum += weight * (Met(onwards, next.IsHit ? next.T : float.PositiveInfinity, origin)
                    + (next.IsHit ? Guess(onwards, next, origin, ref random) : Sky(bounce, density)));
            }
            return light + passing * sum;
        }
        return light;
    }

    private Vector3 Guess(in Ray ray, in Hit hit, in Origin origin, ref Sequence random)
    {
        var point = Scene.PointAt(ray, hit);
        var light = DraftIntegrator.Around(Scene, point, shadows: false);
        // Few samples cannot average what lies close to a lamp: it counts as no nearer than half the way from which it is seen, rather than left as a speck.
        var near = Scene.Near;
        var choice = near.Count > 1 ? random.Next1() : 0;
        if (near.Pick(0, 1, choice, point.Position, point.Normal, out var share) is >= 0 and var chosen && chosen < near.Lamps.Length)
        {
            light += near.Lamps[chosen].Irradiance(point.Position, point.Normal, hit.T / 2) / (MathF.PI * share);
        }
        // Where something stands close by, less of the sky is seen.
        return Emitted(point, origin) + 0.6f * light * point.Surface.Color;
    }
}

/// <summary>Paths of light of any length (J. Kajiya, "The rendering equation", 1986), with all that shines sampled at every point.</summary>
internal sealed class PathIntegrator(RenderScene scene) : Integrator(scene, picks: 1)
{
    private const int MostReflections = 64;

    // What light meets after something matt mirrors it no more sharply than this roughness says: what a mirror gathers is spread, and none of it is lost
    // (A. Kaplanyan and C. Dachsbacher, "Path space regularization for holistic and robust light transport", 2013). Found by chance, it would be specks.
    private const float RoughAfterMatt = 0.65f;

    internal override Vector3 Radiance(Ray ray, ref Sequence random, out float cover)
    {
        cover = 1;
        var sum = Vector3.Zero;
        var throughput = Vector3.One;
        // From the camera there was no other choice.
        var origin = new Origin(ray.Origin, Vector3.Zero, float.PositiveInfinity);
        // What light goes through counts apart from what it is reflected by.
        var (reflections, layers) = (0, 0);
        // What shines has been asked for straight through glass: what a bent ray meets of it there would count twice.
        var (isAsked, isThrough) = (false, false);
        var least = 0f;
        while (reflections <= MostReflections && layers <= RenderScene.MostLayers)
        {
            var hit = Scene.Trace(ray);
            if (reflections > 0 && !(isAsked && isThrough))
            {
                sum += throughput * Met(ray, hit.IsHit ? hit.T : float.PositiveInfinity, origin);
            }
            if (!hit.IsHit)
            {
                return reflections == 0 ? sum + Behind(ray.Direction, throughput, out cover)
                    : isAsked && isThrough && Scene.Sky.IsSampled ? sum
                    : sum + throughput * Sky(ray.Direction, origin.Density);
            }
            var point = Scene.PointAt(ray, hit);
            if (point.Surface.Opacity < 1 && random.Next1() >= point.Surface.Opacity)
            {
                layers++;
                ray = ray.Past(point.Beyond, hit.T);
                continue;
            }
            var wo = ToLocal(-ray.Direction, point.Normal);
            var reflection = new Reflection(point.Surface, wo.Z, point.IsFront, wanders: point.IsFront, least);
            if (!(isAsked && isThrough))
            {
                sum += throughput * Emitted(point, origin);
            }
            sum += throughput * Direct(point, reflection, wo, ref random);
            throughput *= Onwards(point, reflection, wo, ref random, out var direction, out var density, out var how);
            var facing = how == Scattering.Reflected ? point.Side : -point.Flat;
            var side = Vector3.Dot(direction, facing);
            if (side <= 0 && point.Surface.Layers?.Glass > 0)
            {
                // Where the normals disagree glass sends light to the side that it belongs to.
                direction -= 2 * side * facing;
                side = -side;
            }
            if (throughput == Vector3.Zero || side <= 0)
            {
                return sum;
            }
            if (how == Scattering.Refracted)
            {
                layers++;
                isThrough = true;
                origin = new(point.Beyond, -point.Normal, density);
                ray = ray.Turned(point.Beyond, direction, hit.T);
            }
            else
            {
                if (how == Scattering.Entered)
                {
                    if (Wander(ref point, direction, ref throughput, ref random) is not { } exit)
                    {
                        return sum;
                    }
                    var matt = Reflection.Matt(Vector3.One);
                    sum += throughput * Direct(exit, matt, Vector3.UnitZ, ref random);
                    throughput *= Onwards(exit, matt, Vector3.UnitZ, ref random, out direction, out density, out _);
                    point = exit;
                    least = RoughAfterMatt;
                    if (Vector3.Dot(direction, point.Side) <= 0)
                    {
                        return sum;
                    }
                }
                else
                {
                    // Less dense than 1 a steradian is as wide as matt.
                    least = MathF.Max(least, RoughAfterMatt / MathF.Max(1, reflection.Density(wo, ToLocal(direction, point.Normal))));
                }
                (isAsked, isThrough) = (true, false);
                origin = new(point.Position, point.Normal, density);
                reflections++;
                ray = ray.Turned(point.Position, direction, hit.T, SpreadOf(density));
            }
            // Russian roulette: dim paths end early, those that go on count for them.
            if (reflections >= 3)
            {
                var survive = Math.Clamp(MathF.Max(throughput.X, MathF.Max(throughput.Y, throughput.Z)), 0.05f, 1);
                if (random.Next1() >= survive)
                {
                    return sum;
                }
                throughput /= survive;
            }
        }
        return sum;
    }

    /// <summary>
    /// A direction from which light comes: by how the surface reflects, or towards what stands close to a lamp. What is reflected counts by how densely
    /// both ways together choose it (the one-sample model of E. Veach, 1997, section 9.2.4).
    /// </summary>
    /// <param name="density">Infinite where light goes through or in, which has no other way.</param>
    /// <returns>The reflected part over that density.</returns>
    private Vector3 Onwards(
        in RenderScene.Point point, in Reflection reflection, Vector3 wo, ref Sequence random, out Vector3 direction, out float density, out Scattering how)
    {
        var around = Scene.Surroundings;
        var (u, lobe) = (random.Next2(), random.Next1());
        if (around.IsNone)
        {
            var kept = reflection.Sample(wo, u, lobe, out var only, out density, out how);
            direction = Warp.ToWorld(only, point.Normal);
            return kept;
        }
        var choice = random.Next1();
        how = Scattering.Reflected;
        // What mirrors shows what it faces: of that nothing is known here.
        var part = Surroundings.Part * reflection.Spread;
        Vector3 wi;
        if (choice < part && around.Sample(point.Position, choice / part, u, out direction))
        {
            wi = ToLocal(direction, point.Normal);
        }
        else
        {
            var weight = reflection.Sample(wo, u, lobe, out wi, out density, out how);
            direction = Warp.ToWorld(wi, point.Normal);
            if (how != Scattering.Reflected)
            {
                return weight / (1 - part * around.Chance(point.Position));
            }
        }
        density = (1 - part * around.Chance(point.Position)) * reflection.Density(wo, wi) + part * around.Density(point.Position, direction);
        return wi.Z > 1e-6f && density > 0 ? reflection.Evaluate(wo, wi) / density : Vector3.Zero;
    }

    /// <summary>
    /// Light that has gone into a body wanders until it comes out again: the place where, or null where it does not. How far it goes and how much is
    /// kept at each turn follow from the colour (M. Chiang et al., "Practical and controllable subsurface scattering for production path tracing", 2016).
    /// </summary>
    private RenderScene.Point? Wander(ref RenderScene.Point point, Vector3 direction, ref Vector3 throughput, ref Sequence random)
    {
        var color = Vector3.Clamp(point.Surface.Color, new(0.001f), new(0.999f));
        static Vector3 Exp(Vector3 v) => new(MathF.Exp(v.X), MathF.Exp(v.Y), MathF.Exp(v.Z));
        var kept = Vector3.One - Exp(color * -5.09406f + color * color * 2.61188f - color * color * color * 4.31805f);
        var off = color - new Vector3(0.8f);
        var reach = (new Vector3(1.9f) - color + off * off * 3.5f) * point.Surface.Layers!.Radius;
        var density = Vector3.One / reach;
        var position = point.Beyond;
        for (var step = 0; step < 512; step++)
        {
            // A colour is chosen by what it carries, and what it finds is weighed against what the others would have found.
            var share = throughput * kept;
            share /= share.X + share.Y + share.Z;
            var choice = random.Next1();
            var channel = choice < share.X ? 0 : choice < share.X + share.Y ? 1 : 2;
            var far = -MathF.Log(MathF.Max(1e-9f, 1 - random.Next1())) / density[channel];
            var ray = new Ray(position, direction, far);
            var hit = Scene.Trace(ray);
            var left = Exp(density * -(hit.IsHit ? hit.T : far));
            if (hit.IsHit)
            {
                throughput *= left / Vector3.Dot(share, left);
                if (hit.Instance == point.Instance)
                {
                    // As it is seen from outside.
                    return Scene.PointAt(new(ray.Origin, -direction), hit);
                }
                // Something else within: it throws back what its colour says, and light wanders on.
                var within = Scene.PointAt(ray, hit);
                throughput *= within.Surface.Color;
                if (throughput == Vector3.Zero)
                {
                    return null;
                }
                position = within.Position;
                direction = Warp.ToWorld(Warp.CosineHemisphere(random.Next2()), within.Flat);
                continue;
            }
            throughput *= kept * density * left / Vector3.Dot(share, density * left);
            if (step > 8)
            {
                var survive = Math.Clamp(MathF.Max(throughput.X, MathF.Max(throughput.Y, throughput.Z)), 0.05f, 0.99f);
                if (random.Next1() >= survive)
                {
                    return null;
                }
                throughput /= survive;
            }
            position += direction * far;
            direction = Warp.ToWorld(Warp.Cap(random.Next2(), 2), Vector3.UnitZ);
        }
        return null;
    }
}
