using System.Numerics;
using Bradymotus.Render.Sampling;

namespace Bradymotus.Render.Light;

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
