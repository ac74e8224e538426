using System.Collections.Immutable;
using System.Numerics;
using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Scene;

/// <summary>Cubes of two colours in turn, two across; on a plane, squares. The stage draws patterns by the same formulas (<c>viewport/scene/patterns.ts</c>).</summary>
public sealed record ChecksPattern : Pattern
{
    internal override ImmutableArray<Number> Numbers => [];

    internal override Double3 First => new(0.85, 0.83, 0.78);

    internal override Double3 Second => new(0.12, 0.14, 0.17);

    /// <inheritdoc/>
    public override (float Second, float Shade) At(Vector3 p, ReadOnlySpan<float> v)
    {
        // A little off the planes between them, where rounding would choose.
        var cell = MathF.Floor(p.X * 2 + 1e-4f) + MathF.Floor(p.Y * 2 + 1e-4f) + MathF.Floor(p.Z * 2 + 1e-4f);
        return (MathF.Abs(cell % 2) >= 0.5f ? 1 : 0, 1);
    }
}

/// <summary>Rows of bricks with mortar between them, every other row shifted: four rows to one up.</summary>
public sealed record BricksPattern : Pattern
{
    internal override ImmutableArray<Number> Numbers { get; } =
    [
        new("mortar", "mortar", 0.08, 0, 0.5), new("ratio", "length", 2.5, 0.2, 20), new("shift", "shift", 0.5, 0, 1), new("vary", "variation", 0.35, 0, 1),
    ];

    internal override Double3 First => new(0.42, 0.16, 0.1);

    internal override Double3 Second => new(0.55, 0.52, 0.47);

    /// <inheritdoc/>
    public override (float Second, float Shade) At(Vector3 p, ReadOnlySpan<float> v)
    {
        var (mortar, ratio) = (v[0], MathF.Max(0.2f, v[1]));
        var y = p.Y * 4;
        var row = MathF.Floor(y);
        var x = p.X * 4 / ratio + row % 2 * v[2];
        var column = MathF.Floor(x);
        // How far it is to the edge of the brick, in heights of a row.
        var (fx, fy) = ((x - column) * ratio, y - row);
        var edge = MathF.Min(MathF.Min(fx, ratio - fx), MathF.Min(fy, 1 - fy));
        var shade = 1 - v[3] * Noise.Hash((int)column, (int)row, 7);
        return (1 - Smooth(mortar * 0.4f, mortar * 0.6f + 1e-4f, edge), shade);
    }
}

/// <summary>Rings about the Y axis, disturbed, with a fine grain along it.</summary>
public sealed record WoodPattern : Pattern
{
    internal override ImmutableArray<Number> Numbers { get; } =
    [
        new("rings", "rings", 8, 0.1, 200, 0.1), new("disturb", "disturbance", 0.3, 0, 4), new("grain", "grain", 0.4, 0, 1), new("seed", "seed", 0, 0, 1000, 0.1, true),
    ];

    internal override Double3 First => new(0.5, 0.3, 0.15);

    internal override Double3 Second => new(0.24, 0.11, 0.045);

    /// <inheritdoc/>
    public override (float Second, float Shade) At(Vector3 p, ReadOnlySpan<float> v)
    {
        var seed = (int)v[3];
        var wide = Noise.Sum(new(p.X * 1.5f, p.Y * 0.4f, p.Z * 1.5f), 3, seed);
        var r = MathF.Sqrt(p.X * p.X + p.Z * p.Z) + v[1] * 0.25f * wide;
        var ring = r * v[0];
        var t = ring - MathF.Floor(ring);
        // Late wood grows slowly darker and ends at once.
        var second = Smooth(0.1f, 0.85f, t) * (1 - Smooth(0.92f, 1, t));
        var grain = Noise.Sum(new(p.X * 60, p.Y * 2, p.Z * 60), 2, seed + 1);
        return (second, 1 - v[2] * (0.5f + grain) * 0.5f);
    }
}

/// <summary>Clouds of the second in the first.</summary>
public sealed record NoisePattern : Pattern
{
    internal override ImmutableArray<Number> Numbers { get; } =
    [
        new("size", "density", 4, 0.01, 1000, 0.1), new("detail", "detail", 4, 1, 8, 0.1, true), new("contrast", "contrast", 0.5, 0, 1), new("seed", "seed", 0, 0, 1000, 0.1, true),
    ];

    internal override Double3 First => new(0.6, 0.6, 0.58);

    internal override Double3 Second => new(0.25, 0.26, 0.28);

    /// <inheritdoc/>
    public override (float Second, float Shade) At(Vector3 p, ReadOnlySpan<float> v)
    {
        var n = 0.5f + Noise.Sum(p * v[0], (int)v[1], (int)v[3]);
        var half = 0.5f * (1 - 0.98f * v[2]);
        return (Smooth(0.5f - half, 0.5f + half, n), 1);
    }
}

/// <summary>Gradient noise over space (K. Perlin, "Improving noise", 2002), its gradients from a hash: M. Jarzynski and M. Olano, "Hash functions for GPU rendering", JCGT 2020.</summary>
public static class Noise
{
    /// <summary>0 to 1, the same for the same whole numbers.</summary>
    public static float Hash(int x, int y, int z) => Pcg(x, y, z).X / 4294967296f;

    /// <summary>Octaves of noise, each twice as fine and half as strong: about −0.5 to 0.5.</summary>
    public static float Sum(Vector3 p, int octaves, int seed)
    {
        var (sum, weight, all) = (0f, 1f, 0f);
        for (var o = 0; o < Math.Clamp(octaves, 1, 8); o++)
        {
            sum += weight * At(p, seed + 31 * o);
            all += weight;
            weight *= 0.5f;
            p *= 2;
        }
        return sum / all;
    }

    /// <summary>About −0.7 to 0.7; 0 at whole numbers.</summary>
    public static float At(Vector3 p, int seed)
    {
        var (fx, fy, fz) = (MathF.Floor(p.X), MathF.Floor(p.Y), MathF.Floor(p.Z));
        var f = p - new Vector3(fx, fy, fz);
        var (x, y, z) = (ToWhole(fx), ToWhole(fy), ToWhole(fz));
        var u = f * f * f * (f * (f * 6 - new Vector3(15)) + new Vector3(10));
        float Corner(int i, int j, int k)
        {
            var h = Pcg(x + i, y + j, unchecked(z + k + seed * 1013));
            var g = new Vector3(h.X / 2147483648f - 1, h.Y / 2147483648f - 1, h.Z / 2147483648f - 1);
            return Vector3.Dot(g, f - new Vector3(i, j, k));
        }
        static float Mix(float a, float b, float t) => a + (b - a) * t;
        return Mix(
            Mix(Mix(Corner(0, 0, 0), Corner(1, 0, 0), u.X), Mix(Corner(0, 1, 0), Corner(1, 1, 0), u.X), u.Y),
            Mix(Mix(Corner(0, 0, 1), Corner(1, 0, 1), u.X), Mix(Corner(0, 1, 1), Corner(1, 1, 1), u.X), u.Y), u.Z);
    }

    private static int ToWhole(float x) => MathF.Abs(x) < 1e9f ? (int)x : 0;

    private static (uint X, uint Y, uint Z) Pcg(int px, int py, int pz)
    {
        unchecked
        {
            var (x, y, z) = ((uint)px * 1664525u + 1013904223u, (uint)py * 1664525u + 1013904223u, (uint)pz * 1664525u + 1013904223u);
            x += y * z;
            y += z * x;
            z += x * y;
            x ^= x >> 16;
            y ^= y >> 16;
            z ^= z >> 16;
            x += y * z;
            y += z * x;
            z += x * y;
            return (x, y, z);
        }
    }
}
