using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Evaluation;

/// <summary>The daylight sky that belongs to a sun.</summary>
/// <remarks>
/// A. Preetham, P. Shirley, B. Smits, "A practical analytic model for daylight", SIGGRAPH 1999, appendix A.2. Below the horizon it goes over to the
/// ground. The model ends at sunset: lower suns keep its last colours and fade until twelve degrees below.
/// </remarks>
public sealed class PhysicalSky
{
    /// <summary>From thousands of candela per square metre to the shot's unit, in which the sun of a clear day is about 3.</summary>
    private const double Unit = 0.03;

    private readonly Double3 _sun;
    private readonly Perez _luminance, _x, _y;
    private readonly double _fade;

    /// <param name="sun">Towards the sun, of length 1.</param>
    /// <param name="turbidity">How hazy the air is: 2 very clear, 6 hazy; held to 2 to 10.</param>
    public PhysicalSky(Double3 sun, double turbidity)
    {
        (Sun, Turbidity) = (sun, turbidity);
        var altitude = Real.Asin(sun.Y) * (180 / Math.PI);
        _fade = Math.Pow(Math.Clamp((altitude + 12) / 12.5, 0, 1), 2);
        // What is left of the direction, half a degree above the horizon.
        var flat = Math.Sqrt(sun.X * sun.X + sun.Z * sun.Z);
        var (least, across) = Real.SinCosDegrees(0.5);
        _sun = sun.Y >= least ? sun : flat > 1e-9 ? new(sun.X / flat * across, least, sun.Z / flat * across) : Double3.UnitY;
        var t = Math.Clamp(turbidity, 2, 10);
        var theta = Angle(_sun.Y);
        var (t2, t3) = (theta * theta, theta * theta * theta);
        var chi = (4.0 / 9 - t / 120) * (Math.PI - 2 * theta);
        Zenith = (4.0453 * t - 4.9710) * Real.TanDegrees(chi * (180 / Math.PI)) - 0.2155 * t + 2.4192;
        var x = t * t * (0.00166 * t3 - 0.00375 * t2 + 0.00209 * theta) + t * (-0.02903 * t3 + 0.06377 * t2 - 0.03202 * theta + 0.00394)
            + 0.11693 * t3 - 0.21196 * t2 + 0.06052 * theta + 0.25886;
        var y = t * t * (0.00275 * t3 - 0.00610 * t2 + 0.00317 * theta) + t * (-0.04214 * t3 + 0.08970 * t2 - 0.04153 * theta + 0.00516)
            + 0.15346 * t3 - 0.26756 * t2 + 0.06670 * theta + 0.26688;
        _luminance = new(0.1787 * t - 1.4630, -0.3554 * t + 0.4275, -0.0227 * t + 5.3251, 0.1206 * t - 2.5771, -0.0670 * t + 0.3703, Zenith, theta);
        _x = new(-0.0193 * t - 0.2592, -0.0665 * t + 0.0008, -0.0004 * t + 0.2125, -0.0641 * t - 0.8989, -0.0033 * t + 0.0452, x, theta);
        _y = new(-0.0167 * t - 0.2608, -0.0950 * t + 0.0092, -0.0079 * t + 0.2102, -0.0441 * t - 1.6537, -0.0109 * t + 0.0529, y, theta);
    }

    /// <summary>Towards the sun, as it was given.</summary>
    public Double3 Sun { get; }

    /// <summary>How hazy the air is, as it was given.</summary>
    public double Turbidity { get; }

    /// <summary>The luminance of the zenith, in thousands of candela per square metre.</summary>
    public double Zenith { get; }

    /// <summary>The sky of a frame, with its first sun; null where the shot has painted colours.</summary>
    public static PhysicalSky? Of(FrameState state)
    {
        if (state.Value(new(Shot.WorldOwner, "sky.physical")) < 0.5)
        {
            return null;
        }
        var sun = new Double3(0.3, 0.6, 0.5).Normalized();
        for (var i = 0; i < state.Compiled.NodeCount; i++)
        {
            if (state.Compiled.NodeAt(i) is SunNode && state.Rendered[i])
            {
                sun = state.World[i].Z.Normalized();
                break;
            }
        }
        return new(sun, state.Value(new(Shot.WorldOwner, "sky.turbidity")));
    }

    /// <summary>Linear sRGB from a direction of length 1, in the shot's unit; as at the horizon where it points below.</summary>
    public Double3 Radiance(Double3 direction)
    {
        var up = Math.Max(0.01, direction.Y);
        var level = Math.Sqrt((1 - up * up) / Math.Max(1e-12, direction.X * direction.X + direction.Z * direction.Z));
        var at = direction.Y >= 0.01 ? direction : new Double3(direction.X * level, up, direction.Z * level);
        var cosGamma = Math.Clamp(Double3.Dot(at, _sun), -1, 1);
        var gamma = Angle(cosGamma);
        var (luminance, x, y) = (_luminance.At(at.Y, gamma, cosGamma), _x.At(at.Y, gamma, cosGamma), _y.At(at.Y, gamma, cosGamma));
        var (bigX, bigZ) = (luminance * x / y, luminance * (1 - x - y) / y);
        var k = Unit * _fade;
        // IEC 61966-2-1.
        return new(
            k * Math.Max(0, 3.2404542 * bigX - 1.5371385 * luminance - 0.4985314 * bigZ),
            k * Math.Max(0, -0.9692660 * bigX + 1.8760108 * luminance + 0.0415560 * bigZ),
            k * Math.Max(0, 0.0556434 * bigX - 0.2040259 * luminance + 1.0572252 * bigZ));
    }

    /// <summary>
    /// The whole sphere as a picture, three numbers a pixel: rows from straight up to straight down, columns once round from −X by −Z, +X and +Z. Below the
    /// horizon it goes over to a colour of the ground, as a painted sky does.
    /// </summary>
    public float[] Picture(int width, int height, Double3 ground)
    {
        var picture = new float[3 * width * height];
        for (int row = 0, at = 0; row < height; row++)
        {
            var (sin, cos) = Real.SinCosDegrees(180.0 * (row + 0.5) / height);
            for (var column = 0; column < width; column++, at += 3)
            {
                var (s, c) = Real.SinCosDegrees(360.0 * (column + 0.5) / width - 180);
                var sky = Radiance(new(sin * c, cos, sin * s));
                var below = Math.Clamp(-cos * 8, 0, 1);
                (picture[at], picture[at + 1], picture[at + 2]) =
                    ((float)(sky.X + (ground.X - sky.X) * below), (float)(sky.Y + (ground.Y - sky.Y) * below), (float)(sky.Z + (ground.Z - sky.Z) * below));
            }
        }
        return picture;
    }

    private static double Angle(double cos) => Real.Atan2(Math.Sqrt(Math.Max(0, 1 - cos * cos)), cos);

    /// <summary>R. Perez et al., "All-weather model for sky luminance distribution" (1993), scaled so that the zenith has its value.</summary>
    private readonly struct Perez
    {
        private readonly double _a, _b, _c, _d, _e, _scale;

        internal Perez(double a, double b, double c, double d, double e, double zenith, double sun)
        {
            (_a, _b, _c, _d, _e, _scale) = (a, b, c, d, e, 1);
            _scale = zenith / At(1, sun, Real.CosDegrees(sun * (180 / Math.PI)));
        }

        internal double At(double cosTheta, double gamma, double cosGamma) =>
            _scale * (1 + _a * Exp(_b / cosTheta)) * (1 + _c * Exp(_d * gamma) + _e * cosGamma * cosGamma);

        private static double Exp(double x) => Real.Exp2(x * 1.4426950408889634);
    }
}
