using System.Collections.Immutable;
using System.Runtime.InteropServices;

namespace Bradymotus.Core.Curves;

/// <summary>
/// Changes to a curve's keys. Each takes a curve and gives a new one; none changes its argument. Keys are chosen by their
/// places among <see cref="Curve.Keys"/>, rising and each once. For keys put on a curve see <see cref="KeyInsertion"/>.
/// </summary>
public static class CurveEdits
{
    /// <summary>
    /// Sets the value on a frame. An existing key keeps its handles and its segment. A new key with the value that the curve has there does
    /// not change its shape, where it can be divided; another goes on as the segment it splits does (so a key inside a hold holds).
    /// </summary>
    /// <param name="style">How new keys are; null is a Bézier segment with auto handles.</param>
    public static Curve SetKey(Curve? curve, double frame, double value, KeyStyle? style = null)
    {
        style ??= KeyStyle.Usual;
        if (curve is null)
        {
            return new Curve([style.Key(frame, value, style.Segment)]);
        }
        var i = curve.IndexOf(frame);
        if (i >= 0)
        {
            return curve.WithKeys(curve.Keys.SetItem(i, curve.Keys[i] with { Value = value }));
        }
        var at = ~i;
        var there = curve.Evaluate(frame);
        if (at > 0 && at < curve.Keys.Length && Math.Abs(there - value) <= 1e-9 * Math.Max(1, Math.Abs(value)))
        {
            try
            {
                var divided = KeyInsertion.Insert(curve, frame);
                var i0 = divided.IndexOf(frame);
                return divided.Keys[i0].Value == value ? divided : divided.WithKeys(divided.Keys.SetItem(i0, divided.Keys[i0] with { Value = value }));
            }
            catch (Refusal)
            {
                // An easing that has no parts: it bends.
            }
        }
        // Beyond the ends a key is as new ones are; the last key, which led nowhere so far, leads to it in that way too.
        var isBeyond = at == 0 || at == curve.Keys.Length;
        var segment = isBeyond && curve.Keys[at == 0 ? 0 : ^1].Segment is BezierSegment ? style.Segment : curve.Keys[Math.Max(0, at - 1)].Segment;
        var keys = curve.Keys;
        if (at == keys.Length && keys[^1].Segment is BezierSegment && style.Segment is not BezierSegment)
        {
            keys = keys.SetItem(at - 1, keys[^1] with { Segment = style.Segment });
        }
        return curve.WithKeys(keys.Insert(at, style.Key(frame, value, segment)));
    }

    /// <summary>Removes keys.</summary>
    /// <returns>Null when none is left.</returns>
    public static Curve? RemoveKeys(Curve curve, IReadOnlyList<int> chosen)
    {
        if (chosen.Count == 0)
        {
            return curve;
        }
        var left = Without(curve.Keys, chosen);
        return left.Length == 0 ? null : curve.WithKeys(ImmutableArray.Create(left));
    }

    /// <summary>Moves and scales keys: frame → pivot + (frame − pivot)·factor + shift, the same for values. Free handles scale with them. Keys in the way of a moved one give way to it.</summary>
    /// <exception cref="Refusal">Two of the moved keys would fall on one frame.</exception>
    public static Curve Transform(Curve curve, IReadOnlyList<int> chosen, KeyTransform by)
    {
        by.Validate();
        if (chosen.Count == curve.Keys.Length && by.IsShift && Shifted(curve, by) is { } all)
        {
            return all.UntilAt(by.Frame);
        }
        var moved = new Key[chosen.Count];
        for (var i = 0; i < moved.Length; i++)
        {
            moved[i] = by.Apply(curve.Keys[chosen[i]]);
            if (i > 0 && moved[i].Frame - moved[i - 1].Frame < Curve.LeastGap)
            {
                throw new Refusal($"Two keys would fall on frame {CurveRules.Number(moved[i].Frame)}: scale them less, or move one first.");
            }
        }
        return moved.Length == curve.Keys.Length
            ? curve.WithKeys(ImmutableCollectionsMarshal.AsImmutableArray(moved)).UntilAt(by.Frame)
            : curve.WithKeys(Merged(Without(curve.Keys, chosen), moved));
    }

    /// <summary>All keys moved alike: order, handles and segments are as they were, so that only how far it goes has to be looked at. Null where that is too far.</summary>
    private static Curve? Shifted(Curve curve, KeyTransform by)
    {
        var keys = curve.Keys.AsSpan();
        var moved = new Key[keys.Length];
        for (var i = 0; i < moved.Length; i++)
        {
            var key = keys[i];
            var (frame, value) = (key.Frame + by.Frames, key.Value + by.Value);
            if (!(Math.Abs(frame) <= CurveRules.MostFrame) || !(Math.Abs(value) <= CurveRules.MostValue) || (i > 0 && frame - moved[i - 1].Frame < Curve.LeastGap))
            {
                return null;
            }
            moved[i] = key with { Frame = frame, Value = value };
        }
        return curve.WithSound(ImmutableCollectionsMarshal.AsImmutableArray(moved));
    }

    /// <summary>Turns the chosen keys round in time: the first becomes the last, with handles and segments mirrored.</summary>
    public static Curve Reverse(Curve curve, IReadOnlyList<int> chosen)
    {
        var count = chosen.Count;
        if (count < 2)
        {
            return curve;
        }
        Key At(int i) => curve.Keys[chosen[i]];
        var sum = At(0).Frame + At(count - 1).Frame;
        var mirrored = new Key[count];
        for (var i = 0; i < count; i++)
        {
            var k = At(i);
            // The segment that led to a key now leaves it; the last of the chosen keeps the way on from there.
            var segment = i > 0 ? Mirror(At(i - 1).Segment) : At(count - 1).Segment;
            mirrored[count - 1 - i] = k with { Frame = sum - k.Frame, In = Mirror(k.Out), Out = Mirror(k.In), Segment = segment };
        }
        return curve.WithKeys(Merged(Without(curve.Keys, chosen), mirrored));
    }

    /// <summary>
    /// Holds the value of the last key before a frame until there; a key on the frame goes on as that one did. What comes
    /// before that key and after the next one stays as it was.
    /// </summary>
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
        var after = Put(curve, [held with { Segment = Segment.Hold }, here with { Value = held.Value }]);
        var next = at >= 0 ? at + 1 : ~at;
        after = Pinned(curve, before, after, before, KeySide.In);
        return Pinned(curve, next, after, next + (at >= 0 ? 0 : 1), KeySide.Out);
    }

    /// <summary>Puts whole keys in, handles and all; those already on their frames give way.</summary>
    public static Curve Put(Curve? curve, ImmutableArray<Key> keys)
    {
        if (curve is null)
        {
            return new Curve(keys);
        }
        return keys.IsDefaultOrEmpty ? curve : curve.WithKeys(Merged(curve.Keys.AsSpan(), CurveRules.Sorted(keys).AsSpan()));
    }

    /// <summary>Says how keys go to the next one.</summary>
    public static Curve SetSegments(Curve curve, IReadOnlyList<int> chosen, Segment segment) =>
        Changed(curve, chosen, k => k with { Segment = segment });

    /// <summary>Sets the kinds of handles, and whether they are joined; null leaves each.</summary>
    public static Curve SetHandleKinds(Curve curve, IReadOnlyList<int> chosen, Handle? @in, Handle? @out, bool? joined) =>
        Changed(curve, chosen, k => k with { In = @in ?? k.In, Out = @out ?? k.Out, Joined = joined ?? k.Joined });

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
    /// Auto and smooth handles read the keys beside their own, and so would follow a change there. Where one has, it becomes
    /// a free handle that stays as it was.
    /// </summary>
    /// <param name="original">The place of the key before the change.</param>
    /// <param name="at">Its place after it.</param>
    internal static Curve Pinned(Curve before, int original, Curve after, int at, KeySide side)
    {
        if (original < 0 || original >= before.Keys.Length)
        {
            return after;
        }
        var was = ControlPoints.Offset(before, original, side);
        var (frames, value) = ControlPoints.Offset(after, at, side);
        if (was.Frames == 0 || (Math.Abs(was.Frames - frames) <= 1e-13 * Math.Abs(was.Frames) && Math.Abs(was.Value - value) <= 1e-13 * Math.Abs(was.Value)))
        {
            return after;
        }
        var free = new FreeHandle(was.Frames, was.Value);
        var key = after.Keys[at];
        return after.WithKeys(after.Keys.SetItem(at, side == KeySide.In ? key with { In = free } : key with { Out = free }));
    }

    /// <summary>Two rows of keys as one; where both have a frame, the second wins.</summary>
    internal static ImmutableArray<Key> Merged(ReadOnlySpan<Key> kept, ReadOnlySpan<Key> put)
    {
        var keys = ImmutableArray.CreateBuilder<Key>(kept.Length + put.Length);
        int i = 0, j = 0;
        while (i < kept.Length || j < put.Length)
        {
            if (j == put.Length || (i < kept.Length && kept[i].Frame <= put[j].Frame - Curve.LeastGap))
            {
                keys.Add(kept[i++]);
                continue;
            }
            if (i < kept.Length && kept[i].Frame < put[j].Frame + Curve.LeastGap)
            {
                i++;
                continue;
            }
            keys.Add(put[j++]);
        }
        return keys.DrainToImmutable();
    }

    private static Key[] Without(ImmutableArray<Key> keys, IReadOnlyList<int> chosen)
    {
        var left = new Key[keys.Length - chosen.Count];
        var next = 0;
        var count = 0;
        for (var i = 0; i < keys.Length; i++)
        {
            if (next < chosen.Count && chosen[next] == i)
            {
                next++;
            }
            else
            {
                left[count++] = keys[i];
            }
        }
        return left;
    }

    private static Curve Changed(Curve curve, IReadOnlyList<int> chosen, Func<Key, Key> change)
    {
        var keys = curve.Keys.ToBuilder();
        foreach (var i in chosen)
        {
            keys[i] = change(keys[i]);
        }
        return curve.WithKeys(keys.MoveToImmutable());
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
