using System.Numerics;
using Bradymotus.Render.Light;
using Bradymotus.Render.Rays;
using Bradymotus.Render.Sampling;

namespace Bradymotus.Render;

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
            var bsdf = new Bsdf(point.Surface, wo.Z, point.IsFront, hasSubsurface: point.IsFront, least);
            if (!(isAsked && isThrough))
            {
                sum += throughput * Emitted(point, origin);
            }
            sum += throughput * Direct(point, bsdf, wo, ref random);
            throughput *= Onwards(point, bsdf, wo, ref random, out var direction, out var density, out var how);
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
                    if (SubsurfaceWalk(ref point, direction, ref throughput, ref random) is not { } exit)
                    {
                        return sum;
                    }
                    var matt = Bsdf.Matt(Vector3.One);
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
                    least = MathF.Max(least, RoughAfterMatt / MathF.Max(1, bsdf.Density(wo, ToLocal(direction, point.Normal))));
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
        in RenderScene.Point point, in Bsdf bsdf, Vector3 wo, ref Sequence random, out Vector3 direction, out float density, out Scattering how)
    {
        var around = Scene.Surroundings;
        var (u, lobe) = (random.Next2(), random.Next1());
        if (around.IsNone)
        {
            var kept = bsdf.Sample(wo, u, lobe, out var only, out density, out how);
            direction = Warp.ToWorld(only, point.Normal);
            return kept;
        }
        var choice = random.Next1();
        how = Scattering.Reflected;
        // What mirrors shows what it faces: of that nothing is known here.
        var part = Surroundings.Part * bsdf.Spread;
        Vector3 wi;
        if (choice < part && around.Sample(point.Position, choice / part, u, out direction))
        {
            wi = ToLocal(direction, point.Normal);
        }
        else
        {
            var weight = bsdf.Sample(wo, u, lobe, out wi, out density, out how);
            direction = Warp.ToWorld(wi, point.Normal);
            if (how != Scattering.Reflected)
            {
                return weight / (1 - part * around.Chance(point.Position));
            }
        }
        density = (1 - part * around.Chance(point.Position)) * bsdf.Density(wo, wi) + part * around.Density(point.Position, direction);
        return wi.Z > 1e-6f && density > 0 ? bsdf.Evaluate(wo, wi) / density : Vector3.Zero;
    }

    /// <summary>
    /// Light that has gone into a body wanders until it comes out again: the place where, or null where it does not. How far it goes and how much is
    /// kept at each turn follow from the colour (M. Chiang et al., "Practical and controllable subsurface scattering for production path tracing", 2016).
    /// </summary>
    private RenderScene.Point? SubsurfaceWalk(ref RenderScene.Point point, Vector3 direction, ref Vector3 throughput, ref Sequence random)
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
