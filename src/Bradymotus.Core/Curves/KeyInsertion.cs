using System.Collections.Immutable;

namespace Bradymotus.Core.Curves;

/// <summary>
/// Puts keys on a curve without changing its shape. A Bézier segment is divided by de Casteljau's construction, a hold and
/// a straight line go on as they are, an easing made of cubics becomes the Bézier segments that it is. What cannot be
/// divided exactly is refused.
/// </summary>
public static class KeyInsertion
{
    private readonly record struct Point(double Frame, double Value)
    {
        public static Point Mix(Point a, Point b, double t) => new(a.Frame + (b.Frame - a.Frame) * t, a.Value + (b.Value - a.Value) * t);
    }

    /// <summary>A cubic Bézier segment by its four points.</summary>
    private readonly record struct Cubic(Point A, Point B, Point C, Point D)
    {
        /// <summary>A handle that reaches out of its segment would be shortened, which bends the curve.</summary>
        public bool FitsIn
        {
            get
            {
                var slack = 1e-13 * (D.Frame - A.Frame);
                return B.Frame >= A.Frame - slack && B.Frame <= D.Frame + slack && C.Frame >= A.Frame - slack && C.Frame <= D.Frame + slack;
            }
        }

        public double FrameAt(double t)
        {
            var r = 1 - t;
            return r * r * r * A.Frame + 3 * r * r * t * B.Frame + 3 * r * t * t * C.Frame + t * t * t * D.Frame;
        }

        /// <summary>The parameter of a frame; by bisection, which needs no slope.</summary>
        public double ParameterAt(double frame)
        {
            double low = 0, high = 1;
            for (var n = 0; n < 60; n++)
            {
                var s = 0.5 * (low + high);
                (low, high) = FrameAt(s) < frame ? (s, high) : (low, s);
            }
            return 0.5 * (low + high);
        }

        /// <summary>
        /// Where time runs slowest (or fastest): its second derivative is 0. Beyond it, time bends one way only, and then no part of the curve has handles that reach out.
        /// </summary>
        public double? Bend
        {
            get
            {
                var a = D.Frame - 3 * C.Frame + 3 * B.Frame - A.Frame;
                var b = C.Frame - 2 * B.Frame + A.Frame;
                var t = -b / a;
                return t is > 1e-6 and < 1 - 1e-6 ? t : null;
            }
        }

        public (Cubic Left, Cubic Right) Split(double t)
        {
            var (ab, bc, cd) = (Point.Mix(A, B, t), Point.Mix(B, C, t), Point.Mix(C, D, t));
            var (abc, bcd) = (Point.Mix(ab, bc, t), Point.Mix(bc, cd, t));
            var middle = Point.Mix(abc, bcd, t);
            return (new(A, ab, abc, middle), new(middle, bcd, cd, D));
        }
    }

    /// <summary>Puts keys on these frames. Where a handle could not be divided alone, one more key is put where time runs slowest.</summary>
    /// <returns>The same curve where all frames have a key already.</returns>
    /// <exception cref="Refusal">A frame lies where the curve repeats its keys, or in an easing that has no exact parts.</exception>
    public static Curve Insert(Curve curve, params IReadOnlyList<double> frames)
    {
        ArgumentNullException.ThrowIfNull(frames);
        var wanted = new List<double>();
        foreach (var frame in frames.Order())
        {
            if (curve.IndexOf(frame) < 0 && (wanted.Count == 0 || frame - wanted[^1] >= Curve.LeastGap))
            {
                wanted.Add(frame);
            }
        }
        if (wanted.Count == 0)
        {
            return curve;
        }
        var first = curve.Keys[0].Frame;
        var before = wanted.Count(f => f < first);
        var next = before;
        var source = curve.Keys.ToArray();
        var keys = ImmutableArray.CreateBuilder<Key>(source.Length + wanted.Count);
        for (var i = 0; i < source.Length; i++)
        {
            var from = next;
            while (i + 1 < source.Length && next < wanted.Count && wanted[next] < source[i + 1].Frame)
            {
                next++;
            }
            if (next == from)
            {
                keys.Add(source[i]);
                continue;
            }
            // A segment and the keys beside it say all there is to its shape.
            var (low, high) = (Math.Max(0, i - 1), Math.Min(source.Length, i + 3));
            var part = Inside(new Curve(ImmutableArray.Create(source, low, high - low)), i - low, wanted[from..next]);
            var end = part.Keys.Length - (high - i - 1);
            keys.AddRange(part.Keys.AsSpan()[(i - low)..end]);
            source[i + 1] = part.Keys[end];
        }
        var inside = new Curve(keys.DrainToImmutable(), curve.Before, curve.After);
        return Beyond(Beyond(inside, wanted[..before], KeySide.In), wanted[next..], KeySide.Out);
    }

    private static Curve Inside(Curve curve, int i, IReadOnlyList<double> frames)
    {
        var (a, b) = (curve.Keys[i], curve.Keys[i + 1]);
        IReadOnlyList<Cubic> cubics;
        switch (a.Segment)
        {
            case BezierSegment:
                var p = ControlPoints.Of(curve, i);
                cubics = [new(new(a.Frame, a.Value), new(a.Frame + p.OutFrames, a.Value + p.OutValue), new(b.Frame + p.InFrames, b.Value + p.InValue), new(b.Frame, b.Value))];
                break;
            case EaseSegment ease:
                cubics = CubicsOf(ease, a, b);
                break;
            default:
                return Pinned(curve, i, curve.WithKeys(curve.Keys.InsertRange(i + 1,
                    frames.Select(f => new Key(f, curve.Evaluate(f), a.Segment)))), frames.Count);
        }
        var parts = Divided(cubics, frames);
        var keys = curve.Keys.ToBuilder();
        FreeHandle Out(Cubic c) => new(Math.Max(0, c.B.Frame - c.A.Frame), c.B.Value - c.A.Value);
        FreeHandle In(Cubic c) => new(Math.Min(0, c.C.Frame - c.D.Frame), c.C.Value - c.D.Value);
        keys[i] = a with { Segment = Segment.Bezier, Out = Out(parts[0]) };
        keys[i + 1] = b with { In = In(parts[^1]) };
        for (var k = parts.Count - 1; k > 0; k--)
        {
            var (before, after) = (In(parts[k - 1]), Out(parts[k]));
            var corner = Math.Abs(before.Value * after.Frames - after.Value * before.Frames) > 1e-9 * (Math.Abs(before.Frames * after.Frames) + Math.Abs(before.Value * after.Value));
            keys.Insert(i + 1, new Key(parts[k].A.Frame, parts[k].A.Value, Segment.Bezier, before, after, Joined: !corner));
        }
        return Pinned(curve, i, curve.WithKeys(keys.ToImmutable()), parts.Count - 1);
    }

    private static Curve Pinned(Curve before, int i, Curve after, int added) => CurveEdits.Pinned(before, i + 1,
        CurveEdits.Pinned(before, i, after, i, KeySide.In), i + 1 + added, KeySide.Out);

    private static List<Cubic> Divided(IReadOnlyList<Cubic> cubics, IReadOnlyList<double> frames)
    {
        var parts = new List<Cubic>();
        foreach (var cubic in cubics)
        {
            var cuts = frames.Where(f => f > cubic.A.Frame + Curve.LeastGap && f < cubic.D.Frame - Curve.LeastGap)
                .Select(f => (T: cubic.ParameterAt(f), Frame: f)).ToList();
            var divided = Split(cubic, cuts);
            if (!divided.All(c => c.FitsIn) && cubic.Bend is { } t)
            {
                // By its parameter: where time runs slowest, many parameters have almost the same frame.
                var bend = cubic.FrameAt(t);
                divided = Split(cubic, [.. cuts.Where(c => Math.Abs(c.Frame - bend) >= 2 * Curve.LeastGap).Append((T: t, Frame: bend)).OrderBy(c => c.T)]);
            }
            parts.AddRange(divided);
        }
        return parts;
    }

    private static List<Cubic> Split(Cubic cubic, List<(double T, double Frame)> cuts)
    {
        var parts = new List<Cubic>(cuts.Count + 1);
        var done = 0.0;
        foreach (var (t, frame) in cuts)
        {
            var (left, right) = cubic.Split((t - done) / (1 - done));
            parts.Add(left with { D = left.D with { Frame = frame } });
            cubic = right with { A = right.A with { Frame = frame } };
            done = t;
        }
        parts.Add(cubic);
        return parts;
    }

    private static List<Cubic> CubicsOf(EaseSegment ease, Key a, Key b)
    {
        var joints = Easing.Cubics(ease) ?? throw new Refusal(
            $"An easing like this one ({ease.Ease.ToString().ToLowerInvariant()}) has no parts that are easings themselves, so no key can be put on it without bending it: set a key with a value of its own (K), or make the segment a curve first.");
        var (length, rise) = (b.Frame - a.Frame, b.Value - a.Value);
        var cubics = new List<Cubic>();
        for (var j = 0; j + 1 < joints.Count; j++)
        {
            var (from, to) = (joints[j], joints[j + 1]);
            var third = (to.Time - from.Time) / 3;
            Point At(double time, double value) => new(a.Frame + time * length, a.Value + value * rise);
            cubics.Add(new(
                j == 0 ? new(a.Frame, a.Value) : At(from.Time, from.Value),
                At(from.Time + third, from.Value + from.SlopeAfter * third),
                At(to.Time - third, to.Value - to.SlopeBefore * third),
                j + 2 == joints.Count ? new(b.Frame, b.Value) : At(to.Time, to.Value)));
        }
        return cubics;
    }

    /// <summary>Before the first or after the last key, where a curve holds or goes straight on.</summary>
    private static Curve Beyond(Curve curve, IReadOnlyList<double> frames, KeySide side)
    {
        if (frames.Count == 0)
        {
            return curve;
        }
        var isAfter = side == KeySide.Out;
        var kind = curve.Keys.Length == 1 ? ExtrapolationKind.Hold : (isAfter ? curve.After : curve.Before).Kind;
        if (kind is not (ExtrapolationKind.Hold or ExtrapolationKind.Linear))
        {
            var (first, last) = (curve.Keys[0].Frame, curve.Keys[^1].Frame);
            throw new Refusal($"On frame {CurveRules.Number(frames[0])} the curve repeats its keys, and a key there would change every pass: put it between frames {CurveRules.Number(first)} and {CurveRules.Number(last)}.");
        }
        var segment = kind == ExtrapolationKind.Linear ? Segment.Linear : Segment.Hold;
        var end = isAfter ? curve.Keys[^1] : curve.Keys[0];
        var put = frames.Select(f => new Key(f, curve.Evaluate(f), segment)).ToArray();
        if (!isAfter)
        {
            return CurveEdits.Pinned(curve, 0, curve.WithKeys([.. put, .. curve.Keys]), put.Length, KeySide.Out);
        }
        // The last key goes on as the curve did; a key that is put after all this goes on as the old last one.
        put[^1] = put[^1] with { Segment = end.Segment };
        var keys = curve.Keys.SetItem(curve.Keys.Length - 1, end with { Segment = segment });
        return CurveEdits.Pinned(curve, curve.Keys.Length - 1, curve.WithKeys([.. keys, .. put]), curve.Keys.Length - 1, KeySide.In);
    }
}
