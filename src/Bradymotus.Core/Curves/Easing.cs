using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Curves;

/// <summary>
/// The published equations of Robert Penner ("Programming Macromedia Flash MX", 2002, chapter 7) over the unit interval:
/// 0 at 0 and 1 at 1. The other two directions follow from the way in: out(t) = 1 − in(1 − t), and in-and-out runs the two halves.
/// </summary>
public static class Easing
{
    private const double DefaultOvershoot = 1.70158;

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
    /// <param name="atEnd">True for t = 1, false for t = 0.</param>
    public static double EndSlope(EaseSegment ease, bool atEnd)
    {
        if (ease.Ease == EaseFamily.Circ)
        {
            return 0;
        }
        // A one-sided difference of second order; the families are smooth on the last thousandth of the interval.
        const double h = 1e-5;
        if (atEnd)
        {
            return (3 * Evaluate(ease, 1) - 4 * Evaluate(ease, 1 - h) + Evaluate(ease, 1 - 2 * h)) / (2 * h);
        }
        // The published expo and elastic start with a step of a thousandth; the slope is that of the curve after it.
        var f0 = Evaluate(ease, h);
        return (-3 * f0 + 4 * Evaluate(ease, 2 * h) - Evaluate(ease, 3 * h)) / (2 * h);
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

    private static double BackIn(EaseSegment ease, double t)
    {
        // In and out, the published equation widens the overshoot, since each half covers half the distance.
        var s = (ease.Overshoot ?? DefaultOvershoot) * (ease.Direction == EaseDirection.InOut ? 1.525 : 1);
        return t * t * ((s + 1) * t - s);
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
        var period = ease.Period ?? (ease.Direction == EaseDirection.InOut ? 0.45 : 0.3);
        var amplitude = Math.Max(1, ease.Amplitude ?? 1);
        var shift = period / (2 * Math.PI) * Real.Asin(1 / amplitude);
        return -(amplitude * Real.Exp2(10 * (t - 1)) * Real.Sin((t - 1 - shift) * (2 * Math.PI) / period));
    }

    private static double BounceOut(double t)
    {
        const double k = 7.5625;
        const double d = 2.75;
        if (t < 1 / d)
        {
            return k * t * t;
        }
        if (t < 2 / d)
        {
            t -= 1.5 / d;
            return k * t * t + 0.75;
        }
        if (t < 2.5 / d)
        {
            t -= 2.25 / d;
            return k * t * t + 0.9375;
        }
        t -= 2.625 / d;
        return k * t * t + 0.984375;
    }
}
