using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Curves;

/// <summary>
/// The published equations of Robert Penner ("Programming Macromedia Flash MX", 2002, chapter 7) over the unit interval:
/// 0 at 0 and 1 at 1. The other two directions follow from the way in: out(t) = 1 − in(1 − t), and in-and-out runs the two halves.
/// </summary>
public static class Easing
{
    private const double DefaultOvershoot = 1.70158;
    private const double BounceStrength = 7.5625;
    private const double Ln2 = 0.69314718055994530942;

    /// <summary>The eased progress.</summary>
    /// <param name="t">Progress in time, 0…1.</param>
    public static double Evaluate(EaseSegment ease, double t)
    {
        if (t <= 0)
        {
            return 0;
        }
        if (t >= 1)
        {
            return 1;
        }
        return ease.Direction switch
        {
            EaseDirection.In => In(ease, t),
            EaseDirection.Out => 1 - In(ease, 1 - t),
            _ => t < 0.5 ? In(ease, 2 * t) / 2 : 1 - In(ease, 2 - 2 * t) / 2,
        };
    }

    /// <summary>The slope d(progress)/d(time) at an end of the segment, from inside; 0 where it is infinite (circ).</summary>
    /// <remarks>
    /// From the derivatives of the equations. The published expo and elastic start with a step of a thousandth; the slope is
    /// that of the curve beside the step.
    /// </remarks>
    /// <param name="atEnd">True for t = 1, false for t = 0.</param>
    public static double EndSlope(EaseSegment ease, bool atEnd) => ease.Ease == EaseFamily.Circ ? 0 : SlopeBeside(ease, atEnd ? 1 : 0, atEnd ? 1 - 1e-9 : 1e-9);

    /// <summary>
    /// Where the easing is made of cubics, and bounce, quad, cubic and back are, the places at which they meet, from 0 to 1, with the progress there and
    /// the slopes on both sides; so it can be drawn exactly by as many Bézier segments. Null for the other families.
    /// </summary>
    internal static IReadOnlyList<EaseJoint>? Cubics(EaseSegment ease)
    {
        const double d = 2.75;
        IEnumerable<double>? inside = ease.Ease switch
        {
            EaseFamily.Quad or EaseFamily.Cubic or EaseFamily.Back => [],
            EaseFamily.Bounce => [1 - 2.5 / d, 1 - 2 / d, 1 - 1 / d],
            _ => null,
        };
        if (inside is null)
        {
            return null;
        }
        double[] places = ease.Direction switch
        {
            EaseDirection.In => [0, .. inside, 1],
            EaseDirection.Out => [0, .. inside.Select(t => 1 - t).Reverse(), 1],
            _ => [0, .. inside.Select(t => t / 2), 0.5, .. inside.Select(t => 1 - t / 2).Reverse(), 1],
        };
        var joints = new EaseJoint[places.Length];
        for (var i = 0; i < places.Length; i++)
        {
            var t = places[i];
            joints[i] = new(t, Evaluate(ease, t),
                i > 0 ? SlopeBeside(ease, t, (places[i - 1] + t) / 2) : 0,
                i < places.Length - 1 ? SlopeBeside(ease, t, (t + places[i + 1]) / 2) : 0);
        }
        return joints;
    }

    /// <summary>The slope at <paramref name="t"/>, continued from the piece that holds <paramref name="beside"/>.</summary>
    private static double SlopeBeside(EaseSegment ease, double t, double beside) => ease.Direction switch
    {
        EaseDirection.In => InSlope(ease, t, beside),
        EaseDirection.Out => InSlope(ease, 1 - t, 1 - beside),
        _ => beside < 0.5 ? InSlope(ease, 2 * t, 2 * beside) : InSlope(ease, 2 - 2 * t, 2 - 2 * beside),
    };

    private static double InSlope(EaseSegment ease, double t, double beside)
    {
        switch (ease.Ease)
        {
            case EaseFamily.Sine:
                return Math.PI / 2 * Real.SinDegrees(90 * t);
            case EaseFamily.Quad:
                return 2 * t;
            case EaseFamily.Cubic:
                return 3 * t * t;
            case EaseFamily.Quart:
                return 4 * t * t * t;
            case EaseFamily.Quint:
                return 5 * t * t * t * t;
            case EaseFamily.Expo:
                return 10 * Ln2 * Real.Exp2(10 * (t - 1));
            case EaseFamily.Back:
                var s = Overshoot(ease);
                return (3 * (s + 1) * t - 2 * s) * t;
            case EaseFamily.Elastic:
                var (amplitude, period, shift) = Wave(ease);
                var turn = 2 * Math.PI / period;
                var at = (t - 1 - shift) * turn;
                return -amplitude * Real.Exp2(10 * (t - 1)) * (10 * Ln2 * Real.Sin(at) + turn * Real.Sin(at + Math.PI / 2));
            case EaseFamily.Bounce:
                var (middle, _) = Hop(1 - beside);
                return 2 * BounceStrength * (1 - t - middle);
            default:
                return t <= 0 ? 0 : t / Math.Sqrt((1 - t) * (1 + t));
        }
    }

    private static double In(EaseSegment ease, double t) => ease.Ease switch
    {
        EaseFamily.Sine => 1 - Real.CosDegrees(t * 90),
        EaseFamily.Quad => t * t,
        EaseFamily.Cubic => t * t * t,
        EaseFamily.Quart => t * t * t * t,
        EaseFamily.Quint => t * t * t * t * t,
        EaseFamily.Expo => Expo(t),
        EaseFamily.Circ => 1 - Math.Sqrt((1 - t) * (1 + t)),
        EaseFamily.Back => BackIn(ease, t),
        EaseFamily.Elastic => ElasticIn(ease, t),
        EaseFamily.Bounce => 1 - BounceOut(1 - t),
        _ => throw new ArgumentOutOfRangeException(nameof(ease)),
    };

    private static double Expo(double t) => t <= 0 ? 0 : t >= 1 ? 1 : Real.Exp2(10 * (t - 1));

    // In and out, the published equation widens the overshoot, since each half covers half the distance.
    private static double Overshoot(EaseSegment ease) =>
        (ease.Overshoot ?? DefaultOvershoot) * (ease.Direction == EaseDirection.InOut ? 1.525 : 1);

    private static double BackIn(EaseSegment ease, double t)
    {
        var s = Overshoot(ease);
        return t * t * ((s + 1) * t - s);
    }

    private static (double Amplitude, double Period, double Shift) Wave(EaseSegment ease)
    {
        var period = ease.Period ?? (ease.Direction == EaseDirection.InOut ? 0.45 : 0.3);
        var amplitude = Math.Max(1, ease.Amplitude ?? 1);
        return (amplitude, period, period / (2 * Math.PI) * Real.Asin(1 / amplitude));
    }

    private static double ElasticIn(EaseSegment ease, double t)
    {
        if (t <= 0)
        {
            return 0;
        }
        if (t >= 1)
        {
            return 1;
        }
        var (amplitude, period, shift) = Wave(ease);
        return -(amplitude * Real.Exp2(10 * (t - 1)) * Real.Sin((t - 1 - shift) * (2 * Math.PI) / period));
    }

    /// <summary>The hop that a time of bouncing out lies in: its middle, and its height there.</summary>
    private static (double Middle, double Height) Hop(double t)
    {
        const double d = 2.75;
        return t < 1 / d ? (0, 0)
            : t < 2 / d ? (1.5 / d, 0.75)
            : t < 2.5 / d ? (2.25 / d, 0.9375)
            : (2.625 / d, 0.984375);
    }

    private static double BounceOut(double t)
    {
        var (middle, height) = Hop(t);
        t -= middle;
        return BounceStrength * t * t + height;
    }
}

/// <summary>Where two cubics of an easing meet: progress in time, progress, and the slopes before and after.</summary>
internal readonly record struct EaseJoint(double Time, double Value, double SlopeBefore, double SlopeAfter);
