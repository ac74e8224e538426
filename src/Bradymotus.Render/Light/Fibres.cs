using System.Numerics;
using Bradymotus.Render.Sampling;

namespace Bradymotus.Render.Light;

/// <summary>
/// The fibres of cloth: A. Estevez and C. Kulla, "Production friendly microfacet sheen BRDF", 2017, with the visibility of D. Neubelt and M.
/// Pettineo, 2013, as KHR_materials_sheen allows.
/// </summary>
internal static class Fibres
{
    private const int Size = 32;
    private static readonly float[] Table = Compute();

    /// <summary>Times the cosine of ωi.</summary>
    internal static float Evaluate(Vector3 wo, Vector3 wi, float roughness)
    {
        var h = Vector3.Normalize(wo + wi);
        var power = 1 / (roughness * roughness);
        var sin = MathF.Sqrt(MathF.Max(0, 1 - h.Z * h.Z));
        var distribution = (2 + power) * MathF.Pow(sin, power) / (2 * MathF.PI);
        return distribution * wi.Z / (4 * (wo.Z + wi.Z - wo.Z * wi.Z));
    }

    /// <summary>The part of even light that they reflect.</summary>
    internal static float Albedo(float cos, float roughness)
    {
        var (x, y) = (Math.Clamp(cos, 0, 1) * (Size - 1), Math.Clamp(roughness, 0, 1) * (Size - 1));
        var (i, j) = (Math.Min((int)x, Size - 2), Math.Min((int)y, Size - 2));
        static float Mix(float a, float b, float t) => a + (b - a) * t;
        return Mix(Mix(Table[j * Size + i], Table[j * Size + i + 1], x - i), Mix(Table[(j + 1) * Size + i], Table[(j + 1) * Size + i + 1], x - i), y - j);
    }

    private static float[] Compute()
    {
        const int samples = 4096;
        var table = new float[Size * Size];
        for (var j = 0; j < Size; j++)
        {
            var roughness = MathF.Max(0.07f, j / (Size - 1f));
            for (var i = 0; i < Size; i++)
            {
                var cos = MathF.Max(0.01f, i / (Size - 1f));
                var wo = new Vector3(MathF.Sqrt(1 - cos * cos), 0, cos);
                var sum = 0.0;
                for (var k = 0; k < samples; k++)
                {
                    var wi = Warp.Cap(new((k + 0.5f) / samples, k * 0.61803398875f % 1), 1);
                    sum += Evaluate(wo, wi, roughness);
                }
                table[j * Size + i] = (float)(sum / samples * 2 * Math.PI);
            }
        }
        return table;
    }
}
