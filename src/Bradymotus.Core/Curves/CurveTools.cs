using System.Collections.Immutable;

namespace Bradymotus.Core.Curves;

/// <summary>What can be done to whole curves, and asked of them. None changes its argument.</summary>
public static partial class CurveTools
{
    /// <summary>
    /// The places of the keys without which the curve is the same on every frame. Where one of two neighbours could go, but not both, the
    /// first is named. All keys of a curve of several that never moves; none of a curve of one key.
    /// </summary>
    public static IReadOnlyList<int> IdleKeys(Curve curve)
    {
        var keys = curve.Keys;
        if (keys.Length < 2)
        {
            return [];
        }
        if (IsStill(curve))
        {
            return [.. Enumerable.Range(0, keys.Length)];
        }
        var low = keys.Min(k => k.Value);
        var high = keys.Max(k => k.Value);
        var tolerance = Math.Max(1e-9 * Math.Max(Math.Abs(low), Math.Abs(high)), 1e-6 * (high - low));
        var idle = new List<int>();
        // Those that stay so far, since what goes changes the neighbours of the next.
        var kept = new List<Key>(keys.Length) { keys[0] };
        for (var i = 1; i + 1 < keys.Length; i++)
        {
            if (IsIdle(kept, keys, i, tolerance))
            {
                idle.Add(i);
            }
            else
            {
                kept.Add(keys[i]);
            }
        }
        return idle;
    }

    /// <summary>It has the same value on every frame.</summary>
    public static bool IsStill(Curve curve)
    {
        var keys = curve.Keys;
        if (keys.Any(k => k.Value != keys[0].Value))
        {
            return false;
        }
        for (var i = 0; i + 1 < keys.Length; i++)
        {
            if (keys[i].Segment is BezierSegment && ControlPoints.Of(curve, i) is var p && (p.OutValue != 0 || p.InValue != 0))
            {
                return false;
            }
        }
        return true;
    }

    /// <summary>
    /// The curve with a key on every nth frame of a range, whatever lies beyond its keys included, and nothing else in it. Every frame: straight
    /// lines between them; else handles with the slope that the curve has there. Where the range reaches beyond the keys, the curve holds from its end on.
    /// </summary>
    /// <param name="evaluate">The value on a frame: of the curve, or of whatever is to be baked.</param>
    /// <exception cref="Refusal">The range runs backwards, the step is not above 0, or there would be more than a million keys.</exception>
    public static Curve Bake(Curve? curve, Func<double, double> evaluate, double first, double last, double step)
    {
        if (!(last >= first) || !(step >= Curve.LeastGap) || (last - first) / step > MostBaked)
        {
            throw new Refusal($"A range of {CurveRules.Number(first)} to {CurveRules.Number(last)} cannot be baked with a key every {CurveRules.Number(step)} frames: give it forwards, a step above 0, and at most a million keys.");
        }
        var count = (int)Math.Floor((last - first) / step + 1e-9) + 1;
        var keys = new List<Key>(count);
        const double Instant = 1e-3;
        for (var i = 0; i < count; i++)
        {
            var frame = first + i * step;
            var value = evaluate(frame);
            if (step <= 1)
            {
                keys.Add(new(frame, value, Segment.Linear));
                continue;
            }
            var (before, after) = ((value - evaluate(frame - Instant)) / Instant, (evaluate(frame + Instant) - value) / Instant);
            keys.Add(new(frame, value, Segment.Bezier, new FreeHandle(-step / 3, -before * step / 3), new FreeHandle(step / 3, after * step / 3),
                Math.Abs(before - after) <= 1e-3 * (Math.Abs(before) + Math.Abs(after)) + 1e-9));
        }
        if (curve is null)
        {
            return new Curve([.. keys]);
        }
        var baked = keys[^1].Frame;
        var kept = curve.Keys.Where(k => k.Frame < first - Curve.LeastGap || k.Frame > baked + Curve.LeastGap).ToList();
        var next = kept.FindIndex(k => k.Frame > baked);
        if (next >= 0)
        {
            // The rest goes on as it did.
            keys[^1] = keys[^1] with
            {
                Segment = Segment.Bezier,
                Out = new FreeHandle((kept[next].Frame - baked) / 3, (evaluate(baked + Instant) - keys[^1].Value) / Instant * (kept[next].Frame - baked) / 3)
            };
        }
        var merged = CurveEdits.Merged([.. kept], [.. keys]);
        return new Curve(merged, first < curve.Keys[0].Frame ? Extrapolation.Hold : curve.Before, baked > curve.Keys[^1].Frame ? Extrapolation.Hold : curve.After);
    }

    internal const int MostBaked = 1_000_000;

    /// <summary>Draws chosen keys towards the line between their neighbours: shakes get weaker, the ends of the curve stay.</summary>
    /// <param name="strength">0 leaves them, 1 puts each halfway.</param>
    public static Curve Smooth(Curve curve, IReadOnlyList<int> chosen, double strength)
    {
        var keys = curve.Keys.ToBuilder();
        foreach (var i in chosen)
        {
            if (i == 0 || i == keys.Count - 1)
            {
                continue;
            }
            var (a, k, b) = (curve.Keys[i - 1], curve.Keys[i], curve.Keys[i + 1]);
            var line = a.Value + (b.Value - a.Value) * ((k.Frame - a.Frame) / (b.Frame - a.Frame));
            keys[i] = k with { Value = k.Value + 0.5 * strength * (line - k.Value) };
        }
        return curve.WithKeys(keys.ToImmutable());
    }

    /// <summary>
    /// Adds an irregular shaking to a range: smooth noise between −strength and strength that fades in and out at its ends. The same seed gives the same shaking.
    /// </summary>
    /// <param name="period">Frames from one swing to the next, above 0.</param>
    /// <remarks>Gradient noise in one dimension after K. Perlin, "Improving noise", SIGGRAPH 2002.</remarks>
    /// <exception cref="Refusal">As <see cref="Bake"/>, or a period that is not above 0.</exception>
    public static Curve Shake(Curve? curve, Func<double, double> evaluate, double first, double last, double strength, double period, int seed)
    {
        if (!(period > 0) || !double.IsFinite(period))
        {
            throw new Refusal("A noise of no rate changes nothing: give it a rate above 0, in swings a second.");
        }
        if (!(last > first))
        {
            throw new Refusal($"The range {CurveRules.Number(first)} to {CurveRules.Number(last)} has no room for a noise: give it forwards.");
        }
        var fade = Math.Min(period, (last - first) / 2);
        var step = Math.Max(1, Math.Floor(period / 4));
        // The last key lies on the last frame.
        step = (last - first) / Math.Max(1, Math.Floor((last - first) / step));
        return Bake(curve, f => evaluate(f) + strength * Math.Clamp(Math.Min(f - first, last - f) / fade, 0, 1) * Noise((f - first) / period, seed), first, last, step);
    }

    private static double Noise(double x, int seed)
    {
        // Steep enough for 1 in the middle of two slopes that meet.
        static double Gradient(long cell, int seed)
        {
            var h = unchecked((ulong)cell * 0x9E3779B97F4A7C15UL ^ (ulong)(uint)seed * 0xC2B2AE3D27D4EB4FUL);
            h = unchecked((h ^ (h >> 29)) * 0xBF58476D1CE4E5B9UL);
            h ^= h >> 32;
            return (h & 0xFFFFFF) / (double)0x7FFFFF - 1;
        }
        var cell = (long)Math.Floor(x);
        var t = x - cell;
        var fade = t * t * t * (t * (t * 6 - 15) + 10);
        var (a, b) = (Gradient(cell, seed) * t, Gradient(cell + 1, seed) * (t - 1));
        return 2 * (a + (b - a) * fade);
    }

    /// <summary>Turns easings into handles, within a thousandth of their rise; exactly where they are cubics.</summary>
    /// <param name="chosen">The keys that they leave; other segments stay.</param>
    public static Curve EasesToHandles(Curve curve, IReadOnlyList<int> chosen)
    {
        var keys = new List<Key>(curve.Keys);
        for (var n = chosen.Count - 1; n >= 0; n--)
        {
            var i = chosen[n];
            if (curve.Keys[i].Segment is not EaseSegment || i + 1 >= curve.Keys.Length)
            {
                continue;
            }
            var rise = Math.Abs(curve.Keys[i + 1].Value - curve.Keys[i].Value);
            var part = CurveFitting.OfEasing(curve, i, 0.001 * rise);
            keys[i] = keys[i] with { Segment = Segment.Bezier, Out = part[0].Out };
            keys[i + 1] = keys[i + 1] with { In = part[^1].In };
            keys.InsertRange(i + 1, part[1..^1]);
        }
        return curve.WithKeys([.. keys]);
    }

    /// <summary>How far two curves are apart at most, between two frames.</summary>
    public static double Difference(Curve a, Curve b, double first, double last)
    {
        const int Count = 2000;
        var (one, other, worst) = (a.Compile(), b.Compile(), 0.0);
        for (var i = 0; i <= Count; i++)
        {
            var frame = first + (last - first) * i / Count;
            worst = Math.Max(worst, Math.Abs(one.Evaluate(frame) - other.Evaluate(frame)));
        }
        return worst;
    }

    /// <summary>Whether the curve round key <paramref name="i"/> is the same without it. A key and two beside it on each side say all there is to its segments.</summary>
    private static bool IsIdle(List<Key> kept, ImmutableArray<Key> keys, int i, double tolerance)
    {
        var before = kept.Count > 1 ? kept[^2] : null;
        var (previous, next) = (kept[^1], keys[i + 1]);
        // Cheap to see where they go another way.
        if (previous.Segment is HoldSegment != keys[i].Segment is HoldSegment || (previous.Segment is HoldSegment && keys[i].Value != previous.Value))
        {
            return false;
        }
        var after = i + 2 < keys.Length ? keys[i + 2] : null;
        Curve Of(bool with) => new([.. new[] { before, previous, with ? keys[i] : null, next, after }.OfType<Key>()]);
        var (one, other) = (Of(true), Of(false));
        // The handles of neighbours that look to it may turn, so the segments beside are looked at as well.
        Span<double> ends = [before?.Frame ?? previous.Frame, previous.Frame, keys[i].Frame, next.Frame, after?.Frame ?? next.Frame];
        for (var s = 0; s + 1 < ends.Length; s++)
        {
            for (var n = 1; n < 8 && ends[s + 1] > ends[s]; n++)
            {
                var frame = ends[s] + (ends[s + 1] - ends[s]) * n / 8;
                if (Math.Abs(one.Evaluate(frame) - other.Evaluate(frame)) > tolerance)
                {
                    return false;
                }
            }
        }
        return Math.Abs(one.Evaluate(keys[i].Frame) - other.Evaluate(keys[i].Frame)) <= tolerance;
    }

    /// <summary>
    /// Makes a loop close: where the keys repeat from the start, the last becomes as the first, and the curve leaves the one as fast as it
    /// arrives at the other; where each pass starts where the last one ended, only the speed. Swinging back and forth, both ends become level.
    /// </summary>
    /// <returns>The same curve where it does not repeat.</returns>
    public static Curve Seamless(Curve curve)
    {
        static bool Repeats(Extrapolation e) => e.Kind is ExtrapolationKind.Loop or ExtrapolationKind.LoopOffset or ExtrapolationKind.PingPong;
        if (curve.Keys.Length < 2 || (!Repeats(curve.Before) && !Repeats(curve.After)))
        {
            return curve;
        }
        var kind = Repeats(curve.After) ? curve.After.Kind : curve.Before.Kind;
        var keys = curve.Keys.ToBuilder();
        if (kind == ExtrapolationKind.Loop)
        {
            keys[^1] = keys[^1] with { Value = keys[0].Value };
        }
        var slope = 0.0;
        if (kind != ExtrapolationKind.PingPong && keys.Count > 2)
        {
            // As an automatic handle would have it between the last key but one and the second: flat at an extreme, never too steep.
            var before = (keys[^1].Value - keys[^2].Value) / (keys[^1].Frame - keys[^2].Frame);
            var after = (keys[1].Value - keys[0].Value) / (keys[1].Frame - keys[0].Frame);
            if (before * after > 0)
            {
                var mean = (keys[^1].Value - keys[^2].Value + keys[1].Value - keys[0].Value) / (keys[^1].Frame - keys[^2].Frame + keys[1].Frame - keys[0].Frame);
                slope = Math.Sign(mean) * Math.Min(Math.Abs(mean), 3 * Math.Min(Math.Abs(before), Math.Abs(after)));
            }
        }
        else if (kind == ExtrapolationKind.LoopOffset)
        {
            slope = (keys[^1].Value - keys[0].Value) / curve.Period;
        }
        Key Curved(int i) => keys[i].Segment is BezierSegment ? keys[i] : keys[i] with { Segment = Segment.Bezier, Out = Handle.Straight };
        var (first, last) = ((keys[1].Frame - keys[0].Frame) / 3, (keys[^1].Frame - keys[^2].Frame) / 3);
        keys[0] = Curved(0) with { Out = new FreeHandle(first, slope * first) };
        if (keys.Count > 2 && keys[^2].Segment is not BezierSegment)
        {
            keys[^2] = Curved(keys.Count - 2);
        }
        keys[^1] = keys[^1] with { In = new FreeHandle(-last, -slope * last) };
        return curve.WithKeys(keys.ToImmutable());
    }
}
