using System.Numerics;
using Bradymotus.Render.Sampling;

namespace Bradymotus.Render.Light;

/// <summary>Light from infinitely far. <paramref name="Irradiance"/> falls on a surface that faces it.</summary>
/// <param name="Direction">Towards the sun.</param>
/// <param name="CosAngle">Cosine of half its angular diameter; 1 for a point.</param>
internal readonly record struct Sun(Vector3 Direction, Vector3 Irradiance, float CosAngle)
{
    /// <summary>A point, which no ray meets by chance.</summary>
    internal bool IsPoint => CosAngle >= 1;

    /// <summary>Of its disc: what falls on a surface that faces it is π·sin² times that.</summary>
    // By 1 − cos, which <see cref="Density"/> has too: its rounding, large for a small disc, is then no matter.
    internal Vector3 Radiance => Irradiance / (MathF.PI * (1 - CosAngle) * (1 + CosAngle));

    /// <summary>How densely <see cref="Sample"/> chooses a direction within its disc, per solid angle.</summary>
    internal float Density => 1 / (2 * MathF.PI * (1 - CosAngle));

    /// <summary>A direction towards the sun's disc.</summary>
    internal Vector3 Sample(Vector2 u) => IsPoint ? Direction : Warp.ToWorld(Warp.Cone(u, CosAngle), Direction);

    internal bool IsMetBy(Vector3 direction) => !IsPoint && Vector3.Dot(direction, Direction) >= CosAngle;
}

/// <summary>What is behind everything.</summary>
internal abstract class Sky
{
    /// <summary>Radiance from a direction of length 1.</summary>
    internal abstract Vector3 Radiance(Vector3 direction);

    /// <summary>Irradiance ÷ π on a surface with this normal and nothing in the way, about.</summary>
    internal abstract Vector3 Ambient(Vector3 normal);

    /// <summary>It is sampled as a light: it may have bright places.</summary>
    internal virtual bool IsSampled => false;

    /// <summary>A direction, chosen where the sky is bright, and how densely, per solid angle.</summary>
    internal virtual Vector3 Sample(Vector2 u, out float density)
    {
        density = 0;
        return Vector3.UnitY;
    }

    /// <summary>How densely <see cref="Sample"/> chooses a direction.</summary>
    internal virtual float Density(Vector3 direction) => 0;
}

/// <summary>A sky that goes from the ground's colour below over the horizon to the top.</summary>
internal sealed class PaintedSky(Vector3 top, Vector3 horizon, Vector3 ground) : Sky
{
    internal override Vector3 Radiance(Vector3 direction)
    {
        var up = direction.Y;
        // The horizon is a narrow band: half of the way to the top is done at 15°.
        return up >= 0
            ? Vector3.Lerp(horizon, top, MathF.Sqrt(up) is var s ? s * (2 - s) : 0)
            : Vector3.Lerp(horizon, ground, MathF.Min(1, -up * 8));
    }

    /// <summary>A fit between up, sideways and down.</summary>
    internal override Vector3 Ambient(Vector3 normal)
    {
        var above = Vector3.Lerp(horizon, top, 0.8f);
        var below = Vector3.Lerp(horizon, ground, 0.9f);
        return Vector3.Lerp(below, above, 0.5f + 0.5f * normal.Y);
    }
}

/// <summary>A sky from a picture of the whole sphere, as <see cref="Core.Evaluation.PhysicalSky.Picture"/> makes it.</summary>
internal sealed class PictureSky : Sky
{
    /// <summary>A picture of all that is around, as bright as it is to be.</summary>
    /// <param name="turn">How far the middle of the picture is turned from −Z to −X, seen from above against the clock.</param>
    internal static PictureSky Of((float[] Picture, int Width, int Height) around, float strength, float turn)
    {
        var scaled = new float[around.Picture.Length];
        for (var i = 0; i < scaled.Length; i++)
        {
            scaled[i] = around.Picture[i] * strength;
        }
        return new(scaled, around.Width, around.Height, (float)((0.75 + turn / 360.0) % 1 + 1) % 1);
    }

    private readonly float[] _picture;
    private readonly int _width, _height;
    // Where in the picture +X is, once round is 1.
    private readonly float _shift;
    // For choosing by brightness: how much there is up to the end of each row, and in each row up to each pixel.
    private readonly float[] _rows, _columns;
    // Irradiance ÷ π on the sides of a cube: +X, −X, +Y, −Y, +Z, −Z.
    private readonly Vector3[] _sides = new Vector3[6];

    /// <param name="shift">Where in the picture the direction +X is, once round is 1; 0.5 is its middle.</param>
    internal PictureSky(float[] picture, int width, int height, float shift = 0.5f)
    {
        (_picture, _width, _height, _shift) = (picture, width, height, shift);
        (_rows, _columns) = (new float[height], new float[width * height]);
        var mean = 0.0;
        foreach (var part in picture)
        {
            mean += part;
        }
        // Everywhere a little, since between two pixels the picture is not that of one.
        var least = (float)(mean / (width * height) * 0.05) + 1e-12f;
        var all = 0.0;
        Span<Vector3> axes = [Vector3.UnitX, -Vector3.UnitX, Vector3.UnitY, -Vector3.UnitY, Vector3.UnitZ, -Vector3.UnitZ];
        for (var row = 0; row < height; row++)
        {
            var (sin, cos) = MathF.SinCos(MathF.PI * (row + 0.5f) / height);
            var angle = sin * (MathF.PI / height) * (2 * MathF.PI / width);
            var sum = 0.0;
            for (var column = 0; column < width; column++)
            {
                var (s, c) = MathF.SinCos(2 * MathF.PI * ((column + 0.5f) / width - shift));
                var pixel = At(column, row);
                _columns[row * width + column] = (float)(sum += pixel.X + pixel.Y + pixel.Z + least);
                for (var side = 0; side < 6; side++)
                {
                    _sides[side] += pixel * (MathF.Max(0, Vector3.Dot(new(sin * c, cos, sin * s), axes[side])) * angle / MathF.PI);
                }
            }
            _rows[row] = (float)(all += sum * sin);
        }
    }

    internal override bool IsSampled => true;

    internal override Vector3 Sample(Vector2 u, out float density)
    {
        var row = Find(_rows, u.Y * _rows[^1], out var v);
        var own = _columns.AsSpan(row * _width, _width);
        var column = Find(own, u.X * own[^1], out var h);
        var (sin, cos) = MathF.SinCos(MathF.PI * (row + v) / _height);
        var (s, c) = MathF.SinCos(2 * MathF.PI * ((column + h) / _width - _shift));
        density = DensityAt(row, column, sin);
        return new(sin * c, cos, sin * s);
    }

    internal override float Density(Vector3 direction)
    {
        var y = Math.Clamp(MathF.Acos(Math.Clamp(direction.Y, -1, 1)) / MathF.PI * _height, 0, _height - 1);
        var x = (MathF.Atan2(direction.Z, direction.X) / (2 * MathF.PI) + _shift + 1) % 1 * _width;
        return DensityAt((int)y, Math.Min((int)x, _width - 1), MathF.Sqrt(MathF.Max(0, 1 - direction.Y * direction.Y)));
    }

    /// <summary>The chance of a pixel over its solid angle.</summary>
    private float DensityAt(int row, int column, float sin)
    {
        var at = row * _width + column;
        var chance = (_rows[row] - (row > 0 ? _rows[row - 1] : 0)) / _rows[^1] * ((_columns[at] - (column > 0 ? _columns[at - 1] : 0)) / _columns[(row + 1) * _width - 1]);
        return chance * _width * _height / MathF.Max(1e-6f, sin * 2 * MathF.PI * MathF.PI);
    }

    private static int Find(ReadOnlySpan<float> until, float value, out float within)
    {
        var at = until.BinarySearch(value);
        at = Math.Min(at < 0 ? ~at : at, until.Length - 1);
        var before = at > 0 ? until[at - 1] : 0;
        within = Math.Clamp((value - before) / MathF.Max(1e-30f, until[at] - before), 0, 0.999999f);
        return at;
    }

    internal override Vector3 Radiance(Vector3 direction)
    {
        // Between the four nearest pixels, once round and up to the poles.
        var x = (MathF.Atan2(direction.Z, direction.X) / (2 * MathF.PI) + _shift + 1) % 1 * _width - 0.5f;
        var y = Math.Clamp(MathF.Acos(Math.Clamp(direction.Y, -1, 1)) / MathF.PI * _height - 0.5f, 0, _height - 1);
        var (left, top) = ((int)MathF.Floor(x), Math.Clamp((int)y, 0, Math.Max(0, _height - 2)));
        var (u, v) = (x - left, y - top);
        // A picture of one row is the same from the ground to the top.
        var below = Math.Min(top + 1, _height - 1);
        return Vector3.Lerp(Vector3.Lerp(At(left, top), At(left + 1, top), u), Vector3.Lerp(At(left, below), At(left + 1, below), u), v);
    }

    internal override Vector3 Ambient(Vector3 normal)
    {
        var n = normal * normal;
        return _sides[normal.X >= 0 ? 0 : 1] * n.X + _sides[normal.Y >= 0 ? 2 : 3] * n.Y + _sides[normal.Z >= 0 ? 4 : 5] * n.Z;
    }

    private Vector3 At(int column, int row)
    {
        var at = 3 * (row * _width + (column + _width) % _width);
        return new(_picture[at], _picture[at + 1], _picture[at + 2]);
    }
}
