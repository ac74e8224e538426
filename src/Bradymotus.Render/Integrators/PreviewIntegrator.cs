using System.Numerics;
using Bradymotus.Render.Light;
using Bradymotus.Render.Rays;
using Bradymotus.Render.Sampling;

namespace Bradymotus.Render;

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
            var bsdf = new Bsdf(point.Surface, wo.Z, point.IsFront);
            var sum = point.Surface.Emission + Direct(point, bsdf, wo, ref random);
            var weight = bsdf.Sample(wo, random.Next2(), random.Next1(), out var wi, out var density, out var how);
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
