using System.Collections.Immutable;

namespace Bradymotus.Core.Curves;

/// <summary>Changes to a curve's keys. Each takes a curve and gives a new one; none changes its argument.</summary>
public static class CurveEdits
{
    /// <summary>
    /// Sets the value on a frame. An existing key keeps its handles and its segment; a new key goes on as the segment it
    /// splits does (so a key inside a hold holds), with auto handles.
    /// </summary>
    public static Curve SetKey(Curve? curve, double frame, double value)
    {
        if (curve is null)
        {
            return new Curve([new Key(frame, value)]);
        }
        var i = curve.IndexOf(frame);
        if (i >= 0)
        {
            return curve.WithKeys(curve.Keys.SetItem(i, curve.Keys[i] with { Value = value }));
        }
        var at = ~i;
        var segment = curve.Keys[Math.Max(0, at - 1)].Segment;
        return curve.WithKeys(curve.Keys.Insert(at, new Key(frame, value, segment)));
    }

    /// <summary>
    /// Puts a key on the curve without changing its shape: a Bézier segment is split by de Casteljau's construction.
    /// Splitting an easing turns the part after the key into a straight way to the next key's value through auto handles, since an easing has no part.
    /// </summary>
    /// <returns>The same curve where there is a key already.</returns>
    public static Curve InsertOnCurve(Curve curve, double frame)
    {
        var i = curve.IndexOf(frame);
        if (i >= 0)
        {
            return curve;
        }
        var value = curve.Evaluate(frame);
        var after = ~i;
        if (after == 0 || after == curve.Keys.Length || curve.Keys[after - 1].Segment is not BezierSegment)
        {
            return KeepFarSides(curve, SetKey(curve, frame, value), after);
        }
        var (a, b) = (curve.Keys[after - 1], curve.Keys[after]);
        var p = ControlPoints.Of(curve, after - 1);
        // The parameter: bisection is exact enough and independent of the fast solver.
        double x1 = a.Frame + p.OutFrames, x2 = b.Frame + p.InFrames, y1 = a.Value + p.OutValue, y2 = b.Value + p.InValue;
        double low = 0, high = 1;
        for (var n = 0; n < 60; n++)
        {
            var s = 0.5 * (low + high);
            var r = 1 - s;
            var x = r * r * r * a.Frame + 3 * r * r * s * x1 + 3 * r * s * s * x2 + s * s * s * b.Frame;
            (low, high) = x < frame ? (s, high) : (low, s);
        }
        var t = 0.5 * (low + high);
        static (double X, double Y) Mix((double X, double Y) p, (double X, double Y) q, double t) =>
            (p.X + (q.X - p.X) * t, p.Y + (q.Y - p.Y) * t);
        var q0 = Mix((a.Frame, a.Value), (x1, y1), t);
        var q1 = Mix((x1, y1), (x2, y2), t);
        var q2 = Mix((x2, y2), (b.Frame, b.Value), t);
        var r0 = Mix(q0, q1, t);
        var r1 = Mix(q1, q2, t);
        var key = new Key(frame, value, Segment.Bezier,
            new FreeHandle(Math.Min(0, r0.X - frame), r0.Y - value), new FreeHandle(Math.Max(0, r1.X - frame), r1.Y - value));
        var keys = curve.Keys.ToBuilder();
        keys[after - 1] = a with { Out = new FreeHandle(q0.X - a.Frame, q0.Y - a.Value) };
        keys[after] = b with { In = new FreeHandle(q2.X - b.Frame, q2.Y - b.Value) };
        keys.Insert(after, key);
        return KeepFarSides(curve, curve.WithKeys(keys.ToImmutable()), after);
    }

    /// <summary>Removes the keys on these frames.</summary>
    /// <returns>Null when none is left.</returns>
    public static Curve? RemoveKeys(Curve curve, IReadOnlySet<double> frames)
    {
        var left = curve.Keys.RemoveAll(k => frames.Contains(k.Frame));
        return left.IsEmpty ? null : left.Length == curve.Keys.Length ? curve : curve.WithKeys(left);
    }

    /// <summary>Moves and scales keys: frame → pivot + (frame − pivot)·factor + shift, the same for values. Free handles scale with them. Keys in the way of a moved one give way to it.</summary>
    /// <exception cref="Refusal">Two of the moved keys would fall on one frame.</exception>
    public static Curve Transform(Curve curve, IReadOnlySet<double> frames, KeyTransform by)
    {
        var moved = new Dictionary<double, Key>();
        foreach (var key in curve.Keys.Where(k => frames.Contains(k.Frame)))
        {
            var changed = by.Apply(key);
            if (!moved.TryAdd(changed.Frame, changed))
            {
                throw new Refusal($"Two keys would fall on frame {CurveRules.Number(changed.Frame)}: scale them less, or move one first.");
            }
        }
        return curve.WithKeys([.. curve.Keys.Where(k => !frames.Contains(k.Frame) && !moved.ContainsKey(k.Frame)), .. moved.Values]);
    }

    /// <summary>Turns the chosen keys round in time: the first becomes the last, with handles and segments mirrored.</summary>
    public static Curve Reverse(Curve curve, IReadOnlySet<double> frames)
    {
        var chosen = curve.Keys.Where(k => frames.Contains(k.Frame)).ToArray();
        if (chosen.Length < 2)
        {
            return curve;
        }
        var sum = chosen[0].Frame + chosen[^1].Frame;
        var mirrored = new Key[chosen.Length];
        for (var i = 0; i < chosen.Length; i++)
        {
            var k = chosen[i];
            // The segment that led to a key now leaves it; the last of the chosen keeps the way on from there.
            var segment = i > 0 ? Mirror(chosen[i - 1].Segment) : chosen[^1].Segment;
            mirrored[i] = k with { Frame = sum - k.Frame, In = Mirror(k.Out), Out = Mirror(k.In), Segment = segment };
        }
        var taken = mirrored.Select(k => k.Frame).ToHashSet();
        return curve.WithKeys([.. curve.Keys.Where(k => !frames.Contains(k.Frame) && !taken.Contains(k.Frame)), .. mirrored]);
    }

    /// <summary>Holds the value of the last key before a frame until there; a key on the frame goes on as that one did.</summary>
    /// <returns>The same curve where no key comes before the frame.</returns>
    public static Curve HoldUntil(Curve curve, double frame)
    {
        var at = curve.IndexOf(frame);
        var before = (at >= 0 ? at : ~at) - 1;
        if (before < 0)
        {
            return curve;
        }
        var held = curve.Keys[before];
        var here = at >= 0 ? curve.Keys[at] : new Key(frame, held.Value, held.Segment, Out: held.Out);
        return Put(curve, [held with { Segment = Segment.Hold }, here with { Value = held.Value }]);
    }

    /// <summary>Puts whole keys in, handles and all; those already on their frames give way.</summary>
    public static Curve Put(Curve? curve, ImmutableArray<Key> keys)
    {
        var taken = keys.Select(k => k.Frame).ToHashSet();
        return curve is null ? new Curve(keys) : curve.WithKeys([.. curve.Keys.Where(k => !taken.Contains(k.Frame)), .. keys]);
    }

    /// <summary>
    /// Sets a handle. When the key is joined and the handle is free, the other handle, if it is not free already, becomes free,
    /// and both lie on one line; the other keeps its length in frames.
    /// </summary>
    public static Curve SetHandle(Curve curve, int index, KeySide side, Handle handle)
    {
        var key = curve.Keys[index];
        var changed = side == KeySide.In ? key with { In = handle } : key with { Out = handle };
        var other = side == KeySide.In ? KeySide.Out : KeySide.In;
        var hasOther = other == KeySide.In ? index > 0 : index < curve.Keys.Length - 1;
        if (key.Joined && hasOther && handle is FreeHandle free)
        {
            var frames = key.Side(other) is FreeHandle f ? f.Frames : ControlPoints.Offset(curve, index, other).Frames;
            if (Math.Abs(free.Frames) > 1e-9)
            {
                var aligned = new FreeHandle(frames, free.Value / free.Frames * frames);
                changed = other == KeySide.In ? changed with { In = aligned } : changed with { Out = aligned };
            }
        }
        else if (key.Joined && handle is not FreeHandle && key.Side(other) is FreeHandle)
        {
            // Going back to a kind that the curve works out takes both sides along, or the key would break.
            changed = other == KeySide.In ? changed with { In = handle } : changed with { Out = handle };
        }
        return curve.WithKeys(curve.Keys.SetItem(index, changed));
    }

    /// <summary>
    /// The far sides of the neighbours of a new key must not follow it: auto and smooth handles read it as their neighbour.
    /// Where that would bend the curve, the handle becomes a free one that stays as it was.
    /// </summary>
    private static Curve KeepFarSides(Curve before, Curve after, int inserted)
    {
        Curve Keep(Curve curve, int original, int at, KeySide side)
        {
            if (original < 0 || original >= before.Keys.Length)
            {
                return curve;
            }
            var was = ControlPoints.Offset(before, original, side);
            var (frames, value) = ControlPoints.Offset(curve, at, side);
            if (was.Frames == 0 || (Math.Abs(was.Frames - frames) < 1e-12 && Math.Abs(was.Value - value) < 1e-12))
            {
                return curve;
            }
            var free = new FreeHandle(was.Frames, was.Value);
            var key = curve.Keys[at];
            return curve.WithKeys(curve.Keys.SetItem(at, side == KeySide.In ? key with { In = free } : key with { Out = free }));
        }
        return Keep(Keep(after, inserted - 1, inserted - 1, KeySide.In), inserted, inserted + 1, KeySide.Out);
    }

    private static Segment Mirror(Segment segment) => segment is EaseSegment ease
        ? ease with
        {
            Direction = ease.Direction switch
            {
                EaseDirection.In => EaseDirection.Out,
                EaseDirection.Out => EaseDirection.In,
                _ => EaseDirection.InOut,
            },
        }
        : segment;

    private static Handle Mirror(Handle handle) => handle is FreeHandle free ? free with { Frames = -free.Frames } : handle;
}

/// <summary>Moves and scales keys in frames and in value.</summary>
/// <param name="Frames">Shift in frames.</param>
/// <param name="Value">Shift in value.</param>
/// <param name="FramePivot">The frame that stays while scaling.</param>
/// <param name="FrameScale">Above 0.</param>
/// <param name="ValuePivot">The value that stays while scaling.</param>
/// <param name="ValueScale">May be negative, which mirrors.</param>
/// <param name="Snap">Rounds the frames to whole ones.</param>
public sealed record KeyTransform(
    double Frames = 0, double Value = 0, double FramePivot = 0, double FrameScale = 1,
    double ValuePivot = 0, double ValueScale = 1, bool Snap = false)
{
    internal Key Apply(Key key)
    {
        if (!(FrameScale > 0) || !double.IsFinite(FrameScale) || !double.IsFinite(ValueScale))
        {
            throw new Refusal("Keys can only be scaled in time by a number above 0: reverse them to turn them round.");
        }
        var frame = FramePivot + (key.Frame - FramePivot) * FrameScale + Frames;
        return key with
        {
            Frame = Snap ? Math.Round(frame) : frame,
            Value = ValuePivot + (key.Value - ValuePivot) * ValueScale + Value,
            In = Scale(key.In),
            Out = Scale(key.Out),
        };
    }

    private Handle Scale(Handle handle) => handle is FreeHandle free
        ? new FreeHandle(free.Frames * FrameScale, free.Value * ValueScale)
        : handle;
}
