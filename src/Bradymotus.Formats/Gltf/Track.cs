using Bradymotus.Core;
using Bradymotus.Core.Curves;

namespace Bradymotus.Formats.Gltf;

/// <summary>One key of a track: its values, and for a smooth one the slopes per frame with which it arrives and leaves.</summary>
internal sealed record TrackKey(double Frame, double[] Value, double[] In, double[] Out);

/// <summary>How a track goes from key to key, as glTF 2.0 knows it.</summary>
internal enum TrackKind
{
    Step,
    Linear,
    Cubic,
}

/// <summary>
/// Several curves as one track of glTF, where it can hold them: all of them hold, all are linear, or each is a cubic polynomial of time between its
/// keys, as every handle but free ones makes it. Where one has a key and another has none, that other gets one that changes nothing.
/// </summary>
internal sealed record Track(TrackKind Kind, IReadOnlyList<TrackKey> Keys)
{
    /// <param name="curves">One for each number; null is one that stands still.</param>
    /// <param name="statics">The values of those.</param>
    /// <param name="first">The first frame that is asked for.</param>
    /// <param name="last">The last.</param>
    /// <param name="seconds">The time of a frame in the file.</param>
    /// <returns>Null where glTF has no such track.</returns>
    internal static Track? Of(IReadOnlyList<Curve?> curves, IReadOnlyList<double> statics, double first, double last, Func<double, float> seconds)
    {
        curves = [.. curves.Select(c => c is null ? null : From(c, first))];
        var moving = curves.OfType<Curve>().ToList();
        if (moving.Count == 0 || !moving.All(c => HoldsBeyond(c, first, last)))
        {
            return null;
        }
        var kinds = moving.SelectMany(c => c.Keys.Take(c.Keys.Length - 1)).Select(k => k.Segment).ToList();
        TrackKind? kind = kinds.All(s => s is HoldSegment) && kinds.Count > 0 ? TrackKind.Step
            : kinds.All(s => s is LinearSegment) ? TrackKind.Linear
            : moving.All(IsPolynomial) ? TrackKind.Cubic
            : null;
        if (kind is null)
        {
            return null;
        }
        var frames = moving.SelectMany(c => c.Keys).Select(k => k.Frame).Order().ToList();
        var keys = new List<TrackKey>();
        foreach (var frame in frames)
        {
            if (keys.Count > 0 && frame - keys[^1].Frame < Curve.LeastGap)
            {
                continue;
            }
            var key = new TrackKey(frame, new double[curves.Count], new double[curves.Count], new double[curves.Count]);
            for (var i = 0; i < curves.Count; i++)
            {
                (key.Value[i], key.In[i], key.Out[i]) = curves[i] is { } curve ? At(curve, frame) : (statics[i], 0, 0);
            }
            // Times are numbers of 32 bits: keys that lie close together, far from the first, may have the same.
            if (keys.Count > 0 && !(seconds(frame) > seconds(keys[^1].Frame)))
            {
                return null;
            }
            keys.Add(key);
        }
        return new(kind.Value, keys);
    }

    /// <summary>A curve from a frame on, which is its time 0 in the file: what comes before has no time there. The same shape, where it can be divided.</summary>
    private static Curve From(Curve curve, double first)
    {
        if (curve.Keys[0].Frame >= first - Curve.LeastGap)
        {
            return curve;
        }
        try
        {
            var cut = curve.Keys[^1].Frame > first ? KeyInsertion.Insert(curve, first) : curve.WithKeys([.. curve.Keys, new Key(first, curve.Evaluate(first))]);
            return new Curve([.. cut.Keys.Where(k => k.Frame >= first - Curve.LeastGap)], null, cut.After);
        }
        catch (Refusal)
        {
            // An easing that cannot be divided is sampled, as all easings are.
            return curve;
        }
    }

    private static bool HoldsBeyond(Curve curve, double first, double last) =>
        curve.Keys.Length == 1
        || ((curve.Before.Kind == ExtrapolationKind.Hold || first >= curve.Keys[0].Frame)
            && (curve.After.Kind == ExtrapolationKind.Hold || last <= curve.Keys[^1].Frame));

    private static bool IsPolynomial(Curve curve)
    {
        for (var i = 0; i + 1 < curve.Keys.Length; i++)
        {
            if (curve.Keys[i].Segment is LinearSegment)
            {
                continue;
            }
            var third = (curve.Keys[i + 1].Frame - curve.Keys[i].Frame) / 3;
            if (curve.Keys[i].Segment is not BezierSegment
                || Math.Abs(ControlPoints.Offset(curve, i, KeySide.Out).Frames - third) > 1e-6 * third
                || Math.Abs(ControlPoints.Offset(curve, i + 1, KeySide.In).Frames + third) > 1e-6 * third)
            {
                return false;
            }
        }
        return true;
    }

    /// <summary>The value of a curve on a frame, and its slopes before and after it.</summary>
    private static (double Value, double In, double Out) At(Curve curve, double frame)
    {
        var keys = curve.Keys;
        var (i, high) = (0, keys.Length);
        while (high - i > 1)
        {
            var middle = (i + high) / 2;
            if (keys[middle].Frame <= frame + Curve.LeastGap / 2)
            {
                i = middle;
            }
            else
            {
                high = middle;
            }
        }
        if (Math.Abs(keys[i].Frame - frame) < Curve.LeastGap)
        {
            return (keys[i].Value, i > 0 ? Slopes(curve, i - 1).End : 0, i + 1 < keys.Length ? Slopes(curve, i).Start : 0);
        }
        if (frame < keys[0].Frame || i + 1 >= keys.Length)
        {
            return (frame < keys[0].Frame ? keys[0].Value : keys[^1].Value, 0, 0);
        }
        if (keys[i].Segment is HoldSegment)
        {
            return (keys[i].Value, 0, 0);
        }
        // Cubic Hermite interpolation of its two keys, and its derivative.
        var length = keys[i + 1].Frame - keys[i].Frame;
        var t = (frame - keys[i].Frame) / length;
        var (a, b) = (keys[i].Value, keys[i + 1].Value);
        var (p, q) = Slopes(curve, i);
        (p, q) = (p * length, q * length);
        var value = ((((2 * (a - b)) + p + q) * t + ((3 * (b - a)) - (2 * p) - q)) * t + p) * t + a;
        var slope = ((((3 * ((2 * (a - b)) + p + q)) * t) + (2 * ((3 * (b - a)) - (2 * p) - q))) * t + p) / length;
        return (value, slope, slope);
    }

    /// <summary>The slopes per frame at both ends of a segment that is no hold.</summary>
    private static (double Start, double End) Slopes(Curve curve, int i)
    {
        var length = curve.Keys[i + 1].Frame - curve.Keys[i].Frame;
        if (curve.Keys[i].Segment is not BezierSegment)
        {
            var chord = curve.Keys[i].Segment is LinearSegment ? (curve.Keys[i + 1].Value - curve.Keys[i].Value) / length : 0;
            return (chord, chord);
        }
        return (ControlPoints.Offset(curve, i, KeySide.Out).Value * 3 / length, -ControlPoints.Offset(curve, i + 1, KeySide.In).Value * 3 / length);
    }
}
