using System.Numerics;
using Bradymotus.Render.Sampling;

namespace Bradymotus.Render.Light;

/// <summary>
/// A rough mirror over a matt base. In all formulas the surface normal is +Z; ωo looks to where the light goes, ωi to where it comes from.
/// </summary>
/// <remarks>
/// The mirror is the microfacet model of Trowbridge and Reitz (GGX) with Smith's height-correlated masking (E. Heitz, JCGT 2014) and Schlick's Fresnel term.
/// What is lost between the facets is given back by a factor (E. Turquin, "Practical multiple scattering compensation for microfacet models", 2019);
/// the base gets what the mirror leaves. So a white surface reflects everything, at every roughness.
/// </remarks>
internal readonly struct Reflection
{
    private readonly Vector3 _f0, _diffuse, _mirror, _compensation;
    private readonly float _alpha, _mirrorChance;

    /// <param name="cosOut">The cosine between ωo and the normal, above 0.</param>
    internal Reflection(in Surface surface, float cosOut)
    {
        var roughness = Math.Clamp(surface.Roughness, 0.05f, 1);
        _alpha = roughness * roughness;
        _f0 = Vector3.Lerp(new(0.04f), surface.Color, surface.Metallic);
        var (scale, bias) = Albedo.Of(cosOut, roughness);
        var whole = scale + bias;
        _compensation = Vector3.One + _f0 * ((1 - whole) / whole);
        _mirror = (_f0 * scale + new Vector3(bias)) * _compensation;
        _diffuse = surface.Color * (1 - surface.Metallic) * (Vector3.One - Vector3.Min(_mirror, Vector3.One));
        var m = Mean(_mirror);
        _mirrorChance = m / Math.Max(1e-6f, m + Mean(_diffuse));
    }

    /// <summary>All the light that is reflected out of even light.</summary>
    internal Vector3 Total => _mirror + _diffuse;

    /// <summary>The reflected part per solid angle, times the cosine of ωi.</summary>
    internal Vector3 Evaluate(Vector3 wo, Vector3 wi) =>
        wi.Z <= 0 ? Vector3.Zero : _diffuse * (wi.Z / MathF.PI) + Mirror(wo, wi) * wi.Z;

    /// <summary>A direction from which light comes, and the reflected part over the density of choosing it.</summary>
    /// <param name="density">As <see cref="Density"/>.</param>
    internal Vector3 Sample(Vector3 wo, Vector2 u, float lobe, out Vector3 wi, out float density)
    {
        wi = lobe < _mirrorChance ? Vector3.Reflect(-wo, Facet(wo, u)) : Warp.CosineHemisphere(u);
        density = wi.Z <= 1e-6f ? 0 : Density(wo, wi);
        return density > 0 ? Evaluate(wo, wi) / density : Vector3.Zero;
    }

    /// <summary>How densely <see cref="Sample"/> chooses a direction, per solid angle.</summary>
    internal float Density(Vector3 wo, Vector3 wi)
    {
        if (wi.Z <= 0)
        {
            return 0;
        }
        var half = Vector3.Normalize(wo + wi);
        var mirrorDensity = VisibleDensity(wo, half) / (4 * MathF.Max(1e-6f, Vector3.Dot(wo, half)));
        return _mirrorChance * mirrorDensity + (1 - _mirrorChance) * wi.Z / MathF.PI;
    }

    private Vector3 Mirror(Vector3 wo, Vector3 wi)
    {
        var h = Vector3.Normalize(wo + wi);
        var (d, g) = (Distribution(h.Z), 1 / (1 + Lambda(wo.Z) + Lambda(wi.Z)));
        return Fresnel(Vector3.Dot(wo, h)) * _compensation * (d * g / (4 * wo.Z * wi.Z));
    }

    private Vector3 Fresnel(float cos) => _f0 + (Vector3.One - _f0) * Albedo.Fifth(1 - Math.Clamp(cos, 0, 1));

    private float Distribution(float cos) => Albedo.Distribution(cos, _alpha);

    private float Lambda(float cos) => Albedo.Lambda(cos, _alpha);

    private float VisibleDensity(Vector3 wo, Vector3 h) =>
        Distribution(h.Z) * MathF.Max(0, Vector3.Dot(wo, h)) / (wo.Z * (1 + Lambda(wo.Z)));

    private Vector3 Facet(Vector3 wo, Vector2 u) => Albedo.VisibleFacet(wo, u, _alpha);

    private static float Mean(Vector3 v) => (v.X + v.Y + v.Z) / 3;
}

/// <summary>The part of even light that the mirror reflects towards a direction, with F = f0·scale + bias, worked out once.</summary>
internal static class Albedo
{
    private const int Cosines = 32;
    private const int Roughnesses = 32;
    private static readonly (float Scale, float Bias)[] Table = Compute();

    internal static (float Scale, float Bias) Of(float cos, float roughness)
    {
        var x = Math.Clamp(cos, 0, 1) * (Cosines - 1);
        var y = Math.Clamp(roughness, 0, 1) * (Roughnesses - 1);
        var (i, j) = (Math.Min((int)x, Cosines - 2), Math.Min((int)y, Roughnesses - 2));
        var (fx, fy) = (x - i, y - j);
        var (a, b) = (Table[j * Cosines + i], Table[j * Cosines + i + 1]);
        var (c, d) = (Table[(j + 1) * Cosines + i], Table[(j + 1) * Cosines + i + 1]);
        static float Mix(float a, float b, float c, float d, float fx, float fy) =>
            (a * (1 - fx) + b * fx) * (1 - fy) + (c * (1 - fx) + d * fx) * fy;
        return (Mix(a.Scale, b.Scale, c.Scale, d.Scale, fx, fy), Mix(a.Bias, b.Bias, c.Bias, d.Bias, fx, fy));
    }

    internal static float Distribution(float cos, float alpha)
    {
        var a2 = alpha * alpha;
        var d = cos * cos * (a2 - 1) + 1;
        return a2 / (MathF.PI * d * d);
    }

    internal static float Lambda(float cos, float alpha)
    {
        var tan2 = MathF.Max(0, 1 - cos * cos) / (cos * cos);
        return (MathF.Sqrt(1 + alpha * alpha * tan2) - 1) / 2;
    }

    internal static float Fifth(float x) => x * x * (x * x) * x;

    /// <summary>A facet's normal out of those seen from ωo (E. Heitz, "Sampling the GGX distribution of visible normals", JCGT 2018).</summary>
    internal static Vector3 VisibleFacet(Vector3 wo, Vector2 u, float alpha)
    {
        var v = Vector3.Normalize(new(alpha * wo.X, alpha * wo.Y, wo.Z));
        var length = v.X * v.X + v.Y * v.Y;
        var t1 = length > 0 ? new Vector3(-v.Y, v.X, 0) / MathF.Sqrt(length) : Vector3.UnitX;
        var t2 = Vector3.Cross(v, t1);
        var p = Warp.Disk(u);
        var s = 0.5f * (1 + v.Z);
        var y = (1 - s) * MathF.Sqrt(MathF.Max(0, 1 - p.X * p.X)) + s * p.Y;
        var n = t1 * p.X + t2 * y + v * MathF.Sqrt(MathF.Max(0, 1 - p.X * p.X - y * y));
        return Vector3.Normalize(new(alpha * n.X, alpha * n.Y, MathF.Max(1e-6f, n.Z)));
    }

    private static (float, float)[] Compute()
    {
        const int samples = 1024;
        var table = new (float, float)[Cosines * Roughnesses];
        for (var j = 0; j < Roughnesses; j++)
        {
            var roughness = MathF.Max(0.05f, j / (Roughnesses - 1f));
            var alpha = roughness * roughness;
            for (var i = 0; i < Cosines; i++)
            {
                var cos = MathF.Max(0.01f, i / (Cosines - 1f));
                var wo = new Vector3(MathF.Sqrt(1 - cos * cos), 0, cos);
                double scale = 0, bias = 0;
                for (var k = 0; k < samples; k++)
                {
                    // A lattice by the golden ratio.
                    var u = new Vector2((k + 0.5f) / samples, k * 0.61803398875f % 1);
                    var h = VisibleFacet(wo, u, alpha);
                    var wi = Vector3.Reflect(-wo, h);
                    if (wi.Z > 0)
                    {
                        var weight = (1 + Lambda(wo.Z, alpha)) / (1 + Lambda(wo.Z, alpha) + Lambda(wi.Z, alpha));
                        var f = Fifth(1 - Math.Clamp(Vector3.Dot(wo, h), 0, 1));
                        scale += weight * (1 - f);
                        bias += weight * f;
                    }
                }
                table[j * Cosines + i] = ((float)(scale / samples), (float)(bias / samples));
            }
        }
        return table;
    }
}
