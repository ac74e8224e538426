using System.Numerics;
using Bradymotus.Render.Rays;
using Bradymotus.Render.Sampling;

namespace Bradymotus.Render;

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
