namespace Bradymotus.Core.Curves;

/// <summary>What can be done to whole curves, and asked of them: another way through time.</summary>
public static partial class CurveTools
{
    /// <summary>
    /// Gives a range a time of its own: on a new frame the curve is as it was on the frame that the map says. Before the range nothing changes;
    /// after it the keys come as much later as the range became longer.
    /// </summary>
    /// <param name="map">New frames to old ones; it rises all the way.</param>
    /// <exception cref="Refusal">The map runs backwards or stands still.</exception>
    public static Curve Retime(Curve curve, Curve map)
    {
        var (to0, to1) = (map.Keys[0].Frame, map.Keys[^1].Frame);
        var (from0, from1) = (map.Keys[0].Value, map.Keys[^1].Value);
        var evaluator = map.Compile();
        var steps = new double[1025];
        evaluator.Sample(to0, (to1 - to0) / 1024, steps);
        steps[1024] = from1;
        for (var i = 1; i < steps.Length; i++)
        {
            if (map.Keys.Length < 2 || !(steps[i] - steps[i - 1] > 1e-9 * (from1 - from0)))
            {
                throw new Refusal("This timing runs backwards or stands still: give it a curve that rises all the way, from the first frame to the last.");
            }
        }
        double NewFrame(double old)
        {
            if (old <= from0)
            {
                return old - from0 + to0;
            }
            if (old >= from1)
            {
                return old - from1 + to1;
            }
            var (low, high) = (to0, to1);
            for (var n = 0; n < 60; n++)
            {
                var middle = 0.5 * (low + high);
                (low, high) = evaluator.Evaluate(middle) < old ? (middle, high) : (low, middle);
            }
            return Math.Abs(Math.Round(high) - high) < 1e-9 ? Math.Round(high) : high;
        }
        // How fast the old time runs at a new frame, on either side of it.
        double Speed(double frame, int side)
        {
            const double Instant = 1e-4;
            var (a, b) = side < 0 ? (frame - Instant, frame) : (frame, frame + Instant);
            return b <= to0 || a >= to1 ? 1 : (evaluator.Evaluate(b) - evaluator.Evaluate(a)) / Instant;
        }
        // Whether time runs evenly between two new frames, so that what is straight stays so.
        bool IsEven(double from, double to)
        {
            var (a, b) = (evaluator.Evaluate(from), evaluator.Evaluate(to));
            return (to <= to0 || from >= to1) || Enumerable.Range(1, 7).All(n => Math.Abs(evaluator.Evaluate(from + (to - from) * n / 8) - (a + (b - a) * n / 8)) < 1e-6 * (1 + Math.Abs(b - a)));
        }
        // The ends of the range, and where its own time has keys, become keys of the curve, which does not change its shape.
        var cut = curve;
        foreach (var at in map.Keys.Select(k => k.Value))
        {
            if (at > curve.Keys[0].Frame && at < curve.Keys[^1].Frame)
            {
                try
                {
                    cut = KeyInsertion.Insert(cut, at);
                }
                catch (Refusal)
                {
                    // An easing that cannot be divided keeps its two keys.
                }
            }
        }
        var keys = cut.Keys.Select((k, i) =>
        {
            if (k.Frame < from0 || k.Frame > from1)
            {
                return k with { Frame = k.Frame < from0 ? k.Frame : NewFrame(k.Frame) };
            }
            var frame = NewFrame(k.Frame);
            Handle Timed(KeySide side)
            {
                var (frames, value) = ControlPoints.Offset(cut, i, side);
                var (own, other) = side == KeySide.Out ? (i, i + 1) : (i - 1, i - 1);
                if (own >= 0 && other < cut.Keys.Length && cut.Keys[own].Segment is LinearSegment)
                {
                    // A straight segment goes on straight, whatever its handles would say.
                    (frames, value) = ((cut.Keys[other].Frame - k.Frame) / 3, (cut.Keys[other].Value - k.Value) / 3);
                }
                return frames == 0 ? k.Side(side) : new FreeHandle(frames / Speed(frame, side == KeySide.In ? -1 : 1), value);
            }
            var isStraight = k.Segment is LinearSegment && (i + 1 == cut.Keys.Length || IsEven(frame, NewFrame(cut.Keys[i + 1].Frame)));
            return k with { Frame = frame, In = Timed(KeySide.In), Out = Timed(KeySide.Out), Segment = k.Segment is LinearSegment && !isStraight ? Segment.Bezier : k.Segment };
        });
        return cut.WithKeys([.. keys]).UntilAt(f => f < from0 ? f : NewFrame(f));
    }
}
