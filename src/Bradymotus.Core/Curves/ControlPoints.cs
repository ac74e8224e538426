namespace Bradymotus.Core.Curves;

/// <summary>
/// The two inner control points of a Bézier segment, as the handles of its two keys give them:
/// offsets from their own key, in frames and value.
/// </summary>
/// <param name="OutFrames">From the first key, 0 … length of the segment.</param>
/// <param name="OutValue">From the first key.</param>
/// <param name="InFrames">From the second key, −length … 0.</param>
/// <param name="InValue">From the second key.</param>
public readonly record struct ControlPoints(double OutFrames, double OutValue, double InFrames, double InValue)
{
    /// <summary>For the segment from key <paramref name="i"/> to the next.</summary>
    public static ControlPoints Of(Curve curve, int i)
    {
        var (outFrames, outValue) = Offset(curve, i, KeySide.Out);
        var (inFrames, inValue) = Offset(curve, i + 1, KeySide.In);
        return new(outFrames, outValue, inFrames, inValue);
    }

    /// <summary>Where one handle of a key ends, as an offset from the key. At the ends of the curve, where there is no segment on that side, the handle is (0, 0).</summary>
    public static (double Frames, double Value) Offset(Curve curve, int i, KeySide side)
    {
        var keys = curve.Keys;
        var j = side == KeySide.Out ? i + 1 : i - 1;
        if (j < 0 || j >= keys.Length)
        {
            return (0, 0);
        }
        var toNeighbour = keys[j].Frame - keys[i].Frame;
        if (keys[i].Side(side) is FreeHandle free)
        {
            return Shortened(free, toNeighbour);
        }
        var slope = keys[i].Side(side) switch
        {
            AutoHandle => AutoSlope(curve, i),
            SmoothHandle => SmoothSlope(curve, i),
            StraightHandle => (keys[j].Value - keys[i].Value) / toNeighbour,
            _ => 0,
        };
        return (toNeighbour / 3, slope * (toNeighbour / 3));
    }

    /// <summary>
    /// Time must not run backwards, so a handle ends within its segment (the constraint of the CSS Easing standard on
    /// cubic-bezier()); its slope is kept. One that points away from its segment stands upright.
    /// </summary>
    private static (double Frames, double Value) Shortened(FreeHandle free, double toNeighbour)
    {
        var along = free.Frames * Math.Sign(toNeighbour);
        // A handle with hardly a width has no slope that a number could hold: it stands upright too.
        if (along < 1e-9)
        {
            return (0, free.Value);
        }
        var length = Math.Abs(toNeighbour);
        return along <= length ? (free.Frames, free.Value) : (toNeighbour, free.Value * (length / along));
    }

    private static double SmoothSlope(Curve curve, int i)
    {
        var keys = curve.Keys;
        var a = keys[Math.Max(0, i - 1)];
        var b = keys[Math.Min(keys.Length - 1, i + 1)];
        return (b.Value - a.Value) / (b.Frame - a.Frame);
    }

    private static double AutoSlope(Curve curve, int i)
    {
        var keys = curve.Keys;
        if (i == 0 || i == keys.Length - 1)
        {
            return 0;
        }
        var rise = (keys[i].Value - keys[i - 1].Value) / (keys[i].Frame - keys[i - 1].Frame);
        var next = (keys[i + 1].Value - keys[i].Value) / (keys[i + 1].Frame - keys[i].Frame);
        if (rise * next <= 0)
        {
            return 0;
        }
        // Handles of a third stay within their two keys as long as they are no steeper than three times the chord.
        var steepest = 3 * Math.Min(Math.Abs(rise), Math.Abs(next));
        var slope = SmoothSlope(curve, i);
        return Math.Abs(slope) <= steepest ? slope : Math.Sign(slope) * steepest;
    }
}
