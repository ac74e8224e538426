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
    /// Light straight from what shines, reflected towards <paramref name="wo"/>, with shadows: of suns, lamps and glowing surfaces one sample each.
    /// What a ray that is reflected by chance may meet too is weighted against it (<see cref="Weight"/>).
    /// </summary>
    /// <param name="share">1 for all lamps and what glows; less for one of them, chosen with this chance: enough where light has been reflected before.</param>
    protected Vector3 Direct(in RenderScene.Point point, in Reflection reflection, Vector3 wo, float share, ref Sequence random)
    {
        var only = share < 1 ? (int)(random.Next1() / share) : -1;
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
        for (var i = 0; i < Scene.Lamps.Length; i++)
        {
            if (only >= 0 && only != i)
            {
                continue;
            }
            var lamp = Scene.Lamps[i];
            if (lamp.Sample(point.Position, random.Next2(), out var direction, out var distance) * share is > 0 and var density)
            {
                sum += Reflected(point, reflection, wo, direction, distance, lamp.Radiance(point.Position) / density, density);
            }
        }
        if (!Scene.Glow.IsNone && (only < 0 || only >= Scene.Lamps.Length))
        {
            var (position, flat, emission, chosen) = Scene.Glow.Sample(random.Next1(), random.Next2());
            var to = position - point.Position;
            var length = to.Length();
            var cos = MathF.Abs(Vector3.Dot(to, flat)) / length;
            var density = share * chosen * length * length / cos;
            if (cos > 0 && float.IsFinite(density))
            {
                sum += Reflected(point, reflection, wo, to / length, length, emission / density, density);
            }
        }
        return sum;
    }

    /// <param name="light">The radiance over the density of choosing its direction.</param>
    private Vector3 Reflected(in RenderScene.Point point, in Reflection reflection, Vector3 wo, Vector3 direction, float far, Vector3 light, float density)
    {
        if (Vector3.Dot(direction, point.Flat) <= 0)
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
    /// <param name="from">Where it was reflected; it may have gone through something since.</param>
    /// <param name="density">With which it was chosen there.</param>
    /// <param name="share">That of <see cref="Direct"/> there.</param>
    protected Vector3 Met(in Ray ray, float far, Vector3 from, float density, float share)
    {
        var sum = Vector3.Zero;
        foreach (var lamp in Scene.Lamps)
        {
            if (lamp.Distance(ray.Origin, ray.Direction) < far)
            {
                sum += lamp.Radiance(from) * Weight(density, share * lamp.Density(from, ray.Direction));
            }
        }
        if (float.IsPositiveInfinity(far))
        {
            foreach (var sun in Scene.Suns)
            {
                if (sun.IsMetBy(ray.Direction))
                {
                    sum += sun.Radiance * Weight(density, sun.Density);
                }
            }
        }
        return sum;
    }

    /// <summary>The sky in a direction that was chosen by how a surface reflects.</summary>
    protected Vector3 Sky(Vector3 direction, float density) =>
        Scene.Sky.Radiance(direction) * (Scene.Sky.IsSampled ? Weight(density, Scene.Sky.Density(direction)) : 1);

    /// <summary>The glow of a surface that a ray has met which was chosen by how another, at <paramref name="from"/>, reflects.</summary>
    protected static Vector3 Glow(in RenderScene.Point point, Vector3 from, float density, float share)
    {
        if (point.Surface.Emission == Vector3.Zero)
        {
            return Vector3.Zero;
        }
        var to = point.Position - from;
        var cos = MathF.Max(1e-6f, MathF.Abs(Vector3.Dot(to, point.Flat)) / to.Length());
        return point.Surface.Emission * Weight(density, share * point.GlowDensity * to.LengthSquared() / cos);
    }

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
internal sealed class DraftIntegrator(RenderScene scene) : Integrator(scene)
{
    internal override Vector3 Radiance(Ray ray, ref Sequence random, out float cover)
    {
        var sum = Vector3.Zero;
        var passing = 1f;
        cover = 1;
        for (var layer = 0; layer < 8; layer++)
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
            ray = new(point.Beyond, ray.Direction);
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
                var seen = shadows ? scene.Transmittance(new(point.Position, sun.Direction)) : Vector3.One;
                light += sun.Irradiance * (seen * cos / MathF.PI);
            }
        }
        foreach (var lamp in scene.Lamps)
        {
            light += lamp.Irradiance(point.Position, point.Normal) / MathF.PI;
        }
        return light * point.Surface.Color;
    }
}

/// <summary>Soft shadows from suns, lamps and sky; light that has bounced once is guessed.</summary>
internal sealed class PreviewIntegrator(RenderScene scene) : Integrator(scene)
{
    internal override Vector3 Radiance(Ray ray, ref Sequence random, out float cover)
    {
        cover = 1;
        var (light, passing) = (Vector3.Zero, Vector3.One);
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
                ray = new(point.Beyond, ray.Direction);
                continue;
            }
            var wo = ToLocal(-ray.Direction, point.Normal);
            var reflection = new Reflection(point.Surface, wo.Z, point.IsFront);
            var sum = point.Surface.Emission + Direct(point, reflection, wo, 1, ref random);
            var weight = reflection.Sample(wo, random.Next2(), random.Next1(), out var wi, out var density, out var how);
            var bounce = Warp.ToWorld(wi, point.Normal);
            if (how == Scattering.Refracted)
            {
                light += passing * sum;
                passing *= weight;
                ray = new(point.Beyond, bounce);
                continue;
            }
            if (weight != Vector3.Zero && Vector3.Dot(bounce, point.Flat) > 0)
            {
                var onwards = new Ray(point.Position, bounce);
                var next = Scene.Trace(onwards);
                sum += weight * (Met(onwards, next.IsHit ? next.T : float.PositiveInfinity, point.Position, density, 1)
                    + (next.IsHit ? Guess(onwards, next, density) : Sky(bounce, density)));
            }
            return light + passing * sum;
        }
        return light + Behind(ray.Direction, passing, out cover);
    }

    private Vector3 Guess(in Ray ray, in Hit hit, float density)
    {
        var point = Scene.PointAt(ray, hit);
        // A few samples cannot average what lies close to a lamp: it is held to what is bright in this picture, rather than left as a speck.
        // Where something stands close by, less of the sky is seen.
        return Glow(point, ray.Origin, density, 1) + Vector3.Min(0.6f * DraftIntegrator.Shade(Scene, point, shadows: false), new(Scene.Bright));
    }
}

/// <summary>Paths of light of any length (J. Kajiya, "The rendering equation", 1986), with all that shines sampled at every point.</summary>
internal sealed class PathIntegrator(RenderScene scene) : Integrator(scene)
{
    private const int MostBounces = 64;

    // Light that has been reflected twice or more: no more than what is bright in this picture without it. All but the surroundings of a lamp stay
    // below it; these are found so seldom, and are so bright, that they would be specks and no light.
    private readonly Vector3 _most = new(scene.Bright);

    private readonly float _share = 1f / Math.Max(1, scene.Lamps.Length + (scene.Glow.IsNone ? 0 : 1));

    internal override Vector3 Radiance(Ray ray, ref Sequence random, out float cover)
    {
        cover = 1;
        var sum = Vector3.Zero;
        var throughput = Vector3.One;
        // Where the ray was reflected last, and how densely it was chosen there; from the camera there was no other choice.
        var (from, density) = (ray.Origin, float.PositiveInfinity);
        var (reflections, share) = (0, 1f);
        // What shines has been asked for straight through glass: what a bent ray meets of it there would count twice.
        var (isAsked, isThrough) = (false, false);
        for (var bounce = 0; bounce < MostBounces; bounce++)
        {
            var hit = Scene.Trace(ray);
            if (reflections > 0 && !(isAsked && isThrough))
            {
                sum += Held(throughput * Met(ray, hit.IsHit ? hit.T : float.PositiveInfinity, from, density, share), reflections);
            }
            if (!hit.IsHit)
            {
                return reflections == 0 ? sum + Behind(ray.Direction, throughput, out cover)
                    : isAsked && isThrough && Scene.Sky.IsSampled ? sum
                    : sum + throughput * Sky(ray.Direction, density);
            }
            var point = Scene.PointAt(ray, hit);
            if (point.Surface.Opacity < 1 && random.Next1() >= point.Surface.Opacity)
            {
                ray = new(point.Beyond, ray.Direction);
                continue;
            }
            var wo = ToLocal(-ray.Direction, point.Normal);
            var reflection = new Reflection(point.Surface, wo.Z, point.IsFront, wanders: point.IsFront);
            if (!(isAsked && isThrough))
            {
                sum += Held(throughput * Glow(point, from, density, share), reflections);
            }
            share = reflections == 0 ? 1 : _share;
            sum += Held(throughput * Direct(point, reflection, wo, share, ref random), reflections + 1);
            throughput *= reflection.Sample(wo, random.Next2(), random.Next1(), out var wi, out density, out var how);
            var direction = Warp.ToWorld(wi, point.Normal);
            var side = Vector3.Dot(direction, point.Flat) * (how == Scattering.Reflected ? 1 : -1);
            if (side <= 0 && point.Surface.Layers?.Glass > 0)
            {
                // Where the smooth normal and the flat one disagree glass sends light to the side that it belongs to.
                direction -= 2 * Vector3.Dot(direction, point.Flat) * point.Flat;
                side = -side;
            }
            if (throughput == Vector3.Zero || side <= 0)
            {
                return sum;
            }
            if (how == Scattering.Refracted)
            {
                isThrough = true;
                from = point.Beyond;
                ray = new(point.Beyond, direction);
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
                    sum += Held(throughput * Direct(exit, matt, Vector3.UnitZ, share, ref random), reflections + 1);
                    throughput *= matt.Sample(Vector3.UnitZ, random.Next2(), random.Next1(), out wi, out density, out _);
                    (point, direction) = (exit, Warp.ToWorld(wi, exit.Normal));
                }
                (isAsked, isThrough) = (true, false);
                from = point.Position;
                reflections++;
                ray = new(point.Position, direction);
            }
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
                var exit = Scene.PointAt(ray, hit);
                return exit.Instance != point.Instance ? null : exit with
                {
                    // It leaves to the other side of where it came from.
                    Position = exit.Beyond,
                    Beyond = exit.Position,
                    Flat = -exit.Flat,
                    Normal = -exit.Normal,
                };
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

    private Vector3 Held(Vector3 light, int reflections) => reflections < 2 ? light : Vector3.Min(light, _most);
}
