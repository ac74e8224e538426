using System.Collections.Immutable;
using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Curves;

/// <summary>
/// Fits few Bézier segments to many points: each segment reaches as far as it stays within the tolerance, so that what was baked from a
/// curve gets no more segments than that has.
/// </summary>
/// <remarks>
/// After P. J. Schneider, "An algorithm for automatically fitting digitized curves", Graphics Gems, 1990, with two differences: the
/// points are a function of time, so the error is measured in value alone; and both lengths and slopes of the handles are found together,
/// by the method of Levenberg and Marquardt. Longer than most: one algorithm, whose steps mean nothing apart.
/// </remarks>
public static class CurveFitting
{
    /// <summary>The handles of a segment, in parts of its length: how far in time, and the slope in value over the whole length.</summary>
    private record struct Handles(double OutLength, double OutSlope, double InLength, double InSlope)
    {
        /// <summary>No Bézier segment fits: it stays what it is.</summary>
        public static Handles None => new(double.NaN, 0, 0, 0);

        public readonly bool IsNone => double.IsNaN(OutLength);
    }

    /// <summary>Handles shorter than this part of the segment have no slope to speak of.</summary>
    private const double Shortest = 0.02;

    /// <summary>The curve with as few keys as keep to it within a tolerance, on every whole frame, on every key and in between. Holds stay as they are.</summary>
    /// <param name="curve">The curve.</param>
    /// <param name="tolerance">In the unit of the channel, above 0.</param>
    /// <param name="first">Keys before this frame stay.</param>
    /// <param name="last">Keys after this frame stay.</param>
    /// <exception cref="Refusal">The tolerance is not above 0.</exception>
    public static Curve Simplify(Curve curve, double tolerance, double first = double.NegativeInfinity, double last = double.PositiveInfinity)
    {
        if (!(tolerance > 0) || !double.IsFinite(tolerance))
        {
            throw new Refusal("A curve cannot be simplified to a tolerance of nothing: give a number above 0, in the unit of the channel.");
        }
        var keys = curve.Keys;
        var evaluator = curve.Compile();
        var made = ImmutableArray.CreateBuilder<Key>();
        // The end of a run, which may be the beginning of what comes after it.
        Key? ending = null;
        for (var i = 0; i < keys.Length;)
        {
            var end = i;
            // Every frame is looked at, so a run has to be of a length that somebody may ever see.
            while (end + 1 < keys.Length && keys[i].Frame >= first && keys[end + 1].Frame <= last && keys[end].Segment is not HoldSegment
                && keys[end + 1].Frame - keys[i].Frame <= CurveTools.MostBaked)
            {
                end++;
            }
            if (end - i < 2)
            {
                // Nothing between the two that could go.
                made.Add(ending ?? keys[i]);
                ending = null;
                i++;
                continue;
            }
            var (frames, values, joints) = Samples(keys, evaluator, i, end);
            var run = Fit(frames, values, joints, tolerance);
            for (var k = 0; k + 1 < run.Length; k++)
            {
                if (run[k].Segment is not BezierSegment)
                {
                    var (from, to) = (curve.IndexOf(run[k].Frame), curve.IndexOf(run[k + 1].Frame));
                    run[k] = run[k] with { Segment = keys[from].Segment, Out = Pin(curve, from, KeySide.Out), Joined = false };
                    run[k + 1] = run[k + 1] with { In = Pin(curve, to, KeySide.In), Joined = false };
                }
            }
            // What comes before the run and after it stays as it was.
            run[0] = run[0] with { In = Pin(curve, i, KeySide.In), Joined = i == 0 };
            run[^1] = run[^1] with { Segment = keys[end].Segment, Out = Pin(curve, end, KeySide.Out), Joined = end == keys.Length - 1 };
            made.AddRange(run.AsSpan(0, run.Length - 1));
            (ending, i) = (run[^1], end);
        }
        return curve.WithKeys(made.ToImmutable());
    }

    /// <summary>A segment that is an easing as Bézier segments, within a tolerance.</summary>
    /// <param name="curve">The curve.</param>
    /// <param name="i">The key that the segment leaves.</param>
    /// <param name="tolerance">In the unit of the channel.</param>
    /// <returns>The keys from this to the next one, both included.</returns>
    internal static Key[] OfEasing(Curve curve, int i, double tolerance)
    {
        var (a, b) = (curve.Keys[i], curve.Keys[i + 1]);
        if (Easing.Cubics((EaseSegment)a.Segment) is { } joints)
        {
            return OfCubics(a, b, joints);
        }
        // Closer at the ends and in the middle, where an easing may be steep.
        const int Half = 256;
        var frames = new double[2 * Half + 1];
        var values = new double[2 * Half + 1];
        var evaluator = curve.Compile();
        for (var s = 0; s < frames.Length; s++)
        {
            var near = 0.25 * (1 - Real.CosDegrees(180.0 * (s % Half) / Half));
            frames[s] = s == 2 * Half ? b.Frame : a.Frame + (b.Frame - a.Frame) * (s < Half ? near : 0.5 + near);
            values[s] = s == 2 * Half ? b.Value : evaluator.Evaluate(frames[s]);
        }
        var made = Fit(frames, values, null, Math.Max(tolerance, 1e-12));
        made[0] = a with { Segment = Segment.Bezier, Out = made[0].Out };
        made[^1] = b with { In = made[^1].In };
        return made;
    }

    private static Key[] OfCubics(Key a, Key b, IReadOnlyList<EaseJoint> joints)
    {
        var (length, rise) = (b.Frame - a.Frame, b.Value - a.Value);
        var keys = new Key[joints.Count];
        for (var j = 0; j < keys.Length; j++)
        {
            var at = joints[j];
            Handle Side(double time, double slope) => new FreeHandle(time * length, slope * time * rise);
            var arrives = j > 0 ? Side((joints[j - 1].Time - at.Time) / 3, at.SlopeBefore) : a.In;
            var leaves = j + 1 < keys.Length ? Side((joints[j + 1].Time - at.Time) / 3, at.SlopeAfter) : b.Out;
            keys[j] = new Key(a.Frame + at.Time * length, a.Value + at.Value * rise, Segment.Bezier, arrives, leaves, Math.Abs(at.SlopeBefore - at.SlopeAfter) < 1e-9);
        }
        keys[0] = a with { Segment = Segment.Bezier, Out = keys[0].Out };
        keys[^1] = b with { In = keys[^1].In };
        return keys;
    }

    private static Handle Pin(Curve curve, int i, KeySide side)
    {
        var (frames, value) = ControlPoints.Offset(curve, i, side);
        return frames == 0 && value == 0 ? curve.Keys[i].Side(side) : new FreeHandle(frames, value);
    }

    /// <summary>Frames and values of a run of keys: the keys themselves, whole frames, and at least three more in each segment.</summary>
    private static (double[] Frames, double[] Values, bool[] Joints) Samples(ImmutableArray<Key> keys, CurveEvaluator evaluator, int first, int last)
    {
        var (frames, values, joints) = (new List<double>(), new List<double>(), new List<bool>());
        for (var k = first; k < last; k++)
        {
            var (a, b) = (keys[k], keys[k + 1]);
            var length = b.Frame - a.Frame;
            // What lies straight between two frames is said by its ends.
            var count = length <= 1 && a.Segment is LinearSegment ? 1 : (int)Math.Clamp(Math.Ceiling(length), 4, 200);
            void Add(double frame)
            {
                frames.Add(frame);
                values.Add(frame == a.Frame ? a.Value : evaluator.Evaluate(frame));
                joints.Add(frame == a.Frame);
            }
            var whole = Math.Floor(a.Frame) + 1;
            for (var s = 0; s < count; s++)
            {
                var frame = a.Frame + length * s / count;
                for (; whole < frame; whole++)
                {
                    Add(whole);
                }
                whole = whole == frame ? whole + 1 : whole;
                Add(frame);
            }
            for (; whole < b.Frame; whole++)
            {
                Add(whole);
            }
        }
        frames.Add(keys[last].Frame);
        values.Add(keys[last].Value);
        joints.Add(true);
        return ([.. frames], [.. values], [.. joints]);
    }

    private static Key[] Fit(double[] frames, double[] values, bool[]? joints, double tolerance)
    {
        var cuts = new List<int> { 0 };
        var parts = new List<Handles>();
        var from = 0;
        while (from < frames.Length - 1)
        {
            // Twice as far as long as it fits, then halved in between; a key is put only where one was.
            int Joint(int to)
            {
                while (joints is not null && to < frames.Length - 1 && !joints[to])
                {
                    to++;
                }
                return Math.Min(to, frames.Length - 1);
            }
            var good = Joint(from + 1);
            if (!TryFit(frames, values, from, good, tolerance, out var handles))
            {
                cuts.Add(good);
                parts.Add(Handles.None);
                from = good;
                continue;
            }
            var reach = 2 * (good - from);
            var bad = frames.Length;
            while (good < frames.Length - 1)
            {
                var to = Joint(Math.Min(from + reach, frames.Length - 1));
                if (to <= good)
                {
                    break;
                }
                if (!TryFit(frames, values, from, to, tolerance, out var longer))
                {
                    bad = to;
                    break;
                }
                (good, handles) = (to, longer);
                reach *= 2;
            }
            while (bad < frames.Length)
            {
                var to = Joint((good + bad) / 2);
                if (to <= good || to >= bad)
                {
                    // Between them there may still be joints nearer to the good one.
                    to = good + 1 < bad ? Joint(good + 1) : bad;
                    if (to <= good || to >= bad)
                    {
                        break;
                    }
                }
                if (TryFit(frames, values, from, to, tolerance, out var longer))
                {
                    (good, handles) = (to, longer);
                }
                else
                {
                    bad = to;
                }
            }
            cuts.Add(good);
            parts.Add(handles);
            from = good;
        }
        Join(frames, values, cuts, parts, tolerance);
        return Keys(frames, values, cuts, parts);
    }

    /// <summary>Where two segments meet at nearly one slope, both take the slope between, if they can.</summary>
    private static void Join(double[] frames, double[] values, List<int> cuts, List<Handles> parts, double tolerance)
    {
        for (var p = 0; p + 1 < parts.Count; p++)
        {
            var (a, b) = (parts[p], parts[p + 1]);
            if (a.IsNone || b.IsNone)
            {
                continue;
            }
            var (lengthA, lengthB) = (frames[cuts[p + 1]] - frames[cuts[p]], frames[cuts[p + 2]] - frames[cuts[p + 1]]);
            var (arrives, leaves) = (a.InSlope / lengthA, b.OutSlope / lengthB);
            if (Math.Abs(arrives - leaves) > 0.25 * (Math.Abs(arrives) + Math.Abs(leaves)) + 4 * tolerance / Math.Min(lengthA, lengthB))
            {
                continue;
            }
            var slope = (arrives + leaves) / 2;
            var (left, right) = (a with { InSlope = slope * lengthA }, b with { OutSlope = slope * lengthB });
            if (Refine(frames, values, cuts[p], cuts[p + 1], ref left, tolerance, fixOut: p > 0, fixIn: true)
                && Refine(frames, values, cuts[p + 1], cuts[p + 2], ref right, tolerance, fixOut: true, fixIn: false))
            {
                (parts[p], parts[p + 1]) = (left, right);
            }
        }
    }

    private static Key[] Keys(double[] frames, double[] values, List<int> cuts, List<Handles> parts)
    {
        var keys = new Key[cuts.Count];
        for (var c = 0; c < keys.Length; c++)
        {
            FreeHandle? arrives = null, leaves = null;
            if (c > 0 && !parts[c - 1].IsNone)
            {
                var length = frames[cuts[c]] - frames[cuts[c - 1]];
                var h = parts[c - 1];
                arrives = new(-h.InLength * length, -h.InLength * h.InSlope);
            }
            if (c < parts.Count && !parts[c].IsNone)
            {
                var length = frames[cuts[c + 1]] - frames[cuts[c]];
                var h = parts[c];
                leaves = new(h.OutLength * length, h.OutLength * h.OutSlope);
            }
            var isJoined = arrives is null || leaves is null
                || Math.Abs(arrives.Value * leaves.Frames - leaves.Value * arrives.Frames) <= 1e-9 * (Math.Abs(arrives.Value * leaves.Frames) + Math.Abs(arrives.Frames * leaves.Frames));
            // What stays as it is, is marked as a straight line until whoever asked says what it is.
            keys[c] = new Key(frames[cuts[c]], values[cuts[c]], c < parts.Count && parts[c].IsNone ? Segment.Linear : Segment.Bezier, arrives, leaves, isJoined);
        }
        return keys;
    }

    private static bool TryFit(double[] frames, double[] values, int from, int to, double tolerance, out Handles handles)
    {
        var length = frames[to] - frames[from];
        if (to - from == 1)
        {
            handles = new(1.0 / 3, values[to] - values[from], 1.0 / 3, values[to] - values[from]);
            return true;
        }
        // First with handles of a third, where the value is a cubic of time and the slopes are found at once.
        double a = 0, b = 0, c = 0, p = 0, q = 0;
        var (v0, v1) = (values[from], values[to]);
        for (var i = from + 1; i < to; i++)
        {
            var u = (frames[i] - frames[from]) / length;
            var (h0, h1) = (u * (1 - u) * (1 - u), -u * u * (1 - u));
            var rest = values[i] - v0 - (v1 - v0) * u * u * (3 - 2 * u);
            (a, b, c, p, q) = (a + h0 * h0, b + h0 * h1, c + h1 * h1, p + h0 * rest, q + h1 * rest);
        }
        // As near to the straight line as the points leave open, where they are few.
        var chord = v1 - v0;
        var slack = 1e-10 * (a + c);
        (p, q) = (p - (a + b) * chord, q - (b + c) * chord);
        (a, c) = (a + slack, c + slack);
        var determinant = a * c - b * b;
        handles = new(1.0 / 3, chord + (c * p - b * q) / determinant, 1.0 / 3, chord + (a * q - b * p) / determinant);
        if (IsWithin(frames, values, from, to, handles, tolerance))
        {
            return true;
        }
        // With the lengths as well: more is gained the longer the segment is.
        return to - from > 3 && Refine(frames, values, from, to, ref handles, tolerance);
    }

    /// <summary>Whether all points are kept to within the tolerance.</summary>
    private static bool IsWithin(double[] frames, double[] values, int from, int to, in Handles h, double tolerance)
    {
        var piece = new Piece(values[from], values[to], h);
        var length = frames[to] - frames[from];
        for (var i = from + 1; i < to; i++)
        {
            if (!(Math.Abs(piece.Value(piece.Parameter((frames[i] - frames[from]) / length)) - values[i]) <= tolerance))
            {
                return false;
            }
        }
        return true;
    }

    /// <summary>A segment over a time from 0 to 1, made ready to be asked at many times.</summary>
    private readonly struct Piece
    {
        private readonly double _ax, _bx, _cx, _x1, _x2, _v0, _y1, _y2, _v1;

        internal Piece(double v0, double v1, in Handles h)
        {
            (_x1, _x2) = (h.OutLength, 1 - h.InLength);
            (_cx, _bx) = (3 * _x1, 3 * (_x2 - _x1) - 3 * _x1);
            _ax = 1 - _cx - _bx;
            (_v0, _y1, _y2, _v1) = (v0, v0 + h.OutLength * h.OutSlope, v1 - h.InLength * h.InSlope, v1);
        }

        /// <summary>The parameter at a part of the time.</summary>
        internal double Parameter(double u)
        {
            var s = u;
            for (var n = 0; n < 20; n++)
            {
                var error = ((_ax * s + _bx) * s + _cx) * s - u;
                var d = (3 * _ax * s + 2 * _bx) * s + _cx;
                if (Math.Abs(error) < 1e-11 || d < 1e-9)
                {
                    break;
                }
                s = Math.Clamp(s - error / d, 0, 1);
            }
            return s;
        }

        internal double Value(double s)
        {
            var r = 1 - s;
            return r * r * r * _v0 + 3 * r * r * s * _y1 + 3 * r * s * s * _y2 + s * s * s * _v1;
        }

        /// <summary>How fast value runs against time.</summary>
        internal double Slope(double s)
        {
            var r = 1 - s;
            var dx = Math.Max(1e-9, 3 * r * r * _x1 + 6 * r * s * (_x2 - _x1) + 3 * s * s * (1 - _x2));
            return (3 * r * r * (_y1 - _v0) + 6 * r * s * (_y2 - _y1) + 3 * s * s * (_v1 - _y2)) / dx;
        }
    }

    /// <summary>Betters handles, lengths and slopes, until they keep to the tolerance or get no better.</summary>
    private static bool Refine(double[] frames, double[] values, int from, int to, ref Handles handles, double tolerance, bool fixOut = false, bool fixIn = false)
    {
        var (v0, v1, length) = (values[from], values[to], frames[to] - frames[from]);
        Span<double> jacobian = stackalloc double[4], normal = stackalloc double[16], right = stackalloc double[4], step = stackalloc double[4];
        var h = handles;
        var damping = 1e-3;
        var best = double.MaxValue;
        for (var n = 0; n < 30; n++)
        {
            normal.Clear();
            right.Clear();
            double sum = 0, worst = 0;
            var piece = new Piece(v0, v1, h);
            for (var i = from + 1; i < to; i++)
            {
                var s = piece.Parameter((frames[i] - frames[from]) / length);
                var slope = piece.Slope(s);
                var rest = values[i] - piece.Value(s);
                (sum, worst) = (sum + rest * rest, Math.Max(worst, Math.Abs(rest)));
                var (b1, b2) = (3 * (1 - s) * (1 - s) * s, 3 * (1 - s) * s * s);
                jacobian[0] = (h.OutSlope - slope) * b1;
                jacobian[1] = fixOut ? 0 : h.OutLength * b1;
                jacobian[2] = (slope - h.InSlope) * b2;
                jacobian[3] = fixIn ? 0 : -h.InLength * b2;
                for (var r = 0; r < 4; r++)
                {
                    right[r] += jacobian[r] * rest;
                    for (var c = r; c < 4; c++)
                    {
                        normal[4 * r + c] += jacobian[r] * jacobian[c];
                    }
                }
            }
            for (var r = 1; r < 4; r++)
            {
                for (var c = 0; c < r; c++)
                {
                    normal[4 * r + c] = normal[4 * c + r];
                }
            }
            if (worst <= tolerance)
            {
                handles = h;
                return true;
            }
            // Little gained is not going to be enough.
            if (n > 3 && sum > 0.9999 * best && damping > 1e3)
            {
                return false;
            }
            best = Math.Min(best, sum);
            var moved = false;
            for (var tries = 0; tries < 6 && !moved; tries++)
            {
                if (Solve(normal, right, damping, step))
                {
                    var next = new Handles(
                        Math.Clamp(h.OutLength + step[0], Shortest, 1), h.OutSlope + step[1],
                        Math.Clamp(h.InLength + step[2], Shortest, 1), h.InSlope + step[3]);
                    var after = 0.0;
                    var tried = new Piece(v0, v1, next);
                    for (var i = from + 1; i < to && after < sum; i++)
                    {
                        var rest = values[i] - tried.Value(tried.Parameter((frames[i] - frames[from]) / length));
                        after += rest * rest;
                    }
                    if (after < sum)
                    {
                        (h, damping, moved) = (next, Math.Max(1e-12, damping / 10), true);
                        // It closes in on what it can reach, which is too far away.
                        if (after > 0.97 * sum && n > 6 && Math.Sqrt(after / (to - from)) > tolerance)
                        {
                            return false;
                        }
                        break;
                    }
                }
                damping *= 10;
            }
            if (!moved)
            {
                return false;
            }
        }
        return false;
    }

    /// <summary>Four equations, by elimination; unknowns that nothing depends on stay 0.</summary>
    private static bool Solve(ReadOnlySpan<double> normal, ReadOnlySpan<double> right, double damping, Span<double> result)
    {
        Span<double> m = stackalloc double[20];
        for (var r = 0; r < 4; r++)
        {
            for (var c = 0; c < 4; c++)
            {
                m[5 * r + c] = normal[4 * r + c];
            }
            m[5 * r + r] = normal[5 * r] > 0 ? normal[5 * r] * (1 + damping) : 1;
            m[5 * r + 4] = right[r];
        }
        for (var k = 0; k < 4; k++)
        {
            if (!(Math.Abs(m[5 * k + k]) > 1e-300))
            {
                return false;
            }
            for (var r = k + 1; r < 4; r++)
            {
                var by = m[5 * r + k] / m[5 * k + k];
                for (var c = k; c < 5; c++)
                {
                    m[5 * r + c] -= by * m[5 * k + c];
                }
            }
        }
        for (var r = 3; r >= 0; r--)
        {
            var sum = m[5 * r + 4];
            for (var c = r + 1; c < 4; c++)
            {
                sum -= m[5 * r + c] * result[c];
            }
            result[r] = sum / m[5 * r + r];
            if (!double.IsFinite(result[r]))
            {
                return false;
            }
        }
        return true;
    }
}
