using System.Collections.Immutable;
using System.Globalization;

namespace Bradymotus.Core.Curves;

/// <summary>What every curve keeps to.</summary>
public static class CurveRules
{
    /// <summary>Frames beyond this lose the precision that a frame needs.</summary>
    internal const double MostFrame = 1e9;

    /// <summary>Values and handles beyond this are no values of an animation, and their products would leave the range of numbers.</summary>
    public const double MostValue = 1e12;

    internal static ImmutableArray<Key> Sorted(ImmutableArray<Key> keys)
    {
        if (keys.IsDefaultOrEmpty)
        {
            throw new Refusal("A curve needs at least one key: leave the curve out where there are none.");
        }
        for (var i = 1; i < keys.Length; i++)
        {
            if (keys[i] is null || keys[i - 1] is null || keys[i].Frame < keys[i - 1].Frame)
            {
                return keys.Any(k => k is null)
                    ? throw new Refusal("A key of a curve is empty: give it a frame and a value.")
                    : keys.Sort((a, b) => a.Frame.CompareTo(b.Frame));
            }
        }
        return keys;
    }

    internal static void Validate(Curve curve)
    {
        if (curve.Before.Count < 0 || curve.After.Count < 0)
        {
            throw new Refusal("The count of passes before or after a curve is below 0: use 0 for ever, or a number of passes.");
        }
        if (curve.Before.Until is { } from && !(Math.Abs(from) <= MostFrame) || curve.After.Until is { } to && !(Math.Abs(to) <= MostFrame))
        {
            throw new Refusal($"A curve can go on until a frame up to {Number(MostFrame)}: give one that lies beyond its keys.");
        }
        var keys = curve.Keys;
        for (var i = 0; i < keys.Length; i++)
        {
            Validate(keys[i]);
            if (i > 0 && keys[i].Frame - keys[i - 1].Frame < Curve.LeastGap)
            {
                throw new Refusal($"Two keys lie on frame {Number(keys[i].Frame)} (or nearer to it than {Number(Curve.LeastGap)} frames): keep one of them.");
            }
        }
    }

    /// <summary>What an edit brings is checked even where it touches nothing, since its line in the journal has to be written.</summary>
    internal static void Finite(params ReadOnlySpan<double> numbers)
    {
        foreach (var number in numbers)
        {
            if (!double.IsFinite(number))
            {
                throw new Refusal($"The change holds a number that is not finite ({Number(number)}): give it a real number.");
            }
        }
    }

    internal static void Finite(Handle? handle)
    {
        if (handle is FreeHandle free)
        {
            Finite(free.Frames, free.Value);
        }
    }

    internal static void Finite(Segment segment)
    {
        if (segment is EaseSegment ease)
        {
            Finite(ease.Overshoot ?? 0, ease.Amplitude ?? 0, ease.Period ?? 0);
        }
    }

    private static void Validate(Key key)
    {
        if (!double.IsFinite(key.Frame) || !double.IsFinite(key.Value))
        {
            throw new Refusal($"A key (frame {Number(key.Frame)}, value {Number(key.Value)}) holds a number that is not finite: give it a real number.");
        }
        if (Math.Abs(key.Frame) > MostFrame)
        {
            throw new Refusal($"The key on frame {Number(key.Frame)} is too far away: frames go up to {Number(MostFrame)}.");
        }
        if (Math.Abs(key.Value) > MostValue)
        {
            throw new Refusal($"The key on frame {Number(key.Frame)} cannot be {Number(key.Value)}: give it a number up to 10¹².");
        }
        Validate(key.In, key.Frame);
        Validate(key.Out, key.Frame);
        if (key.Segment is EaseSegment ease)
        {
            Validate(ease, key.Frame);
        }
    }

    private static void Validate(Handle handle, double frame)
    {
        if (handle is not FreeHandle free)
        {
            return;
        }
        if (!double.IsFinite(free.Frames) || !double.IsFinite(free.Value))
        {
            throw new Refusal($"A handle of the key on frame {Number(frame)} holds a number that is not finite: give it a real number.");
        }
        if (Math.Abs(free.Frames) > MostValue || Math.Abs(free.Value) > MostValue)
        {
            throw new Refusal($"A handle of the key on frame {Number(frame)} is too long: give it numbers up to 10¹².");
        }
    }

    private static void Validate(EaseSegment ease, double frame)
    {
        if (ease.Overshoot is { } s && !(double.IsFinite(s) && Math.Abs(s) <= 1000))
        {
            throw new Refusal($"The overshoot of the easing on frame {Number(frame)} must be a number up to 1000.");
        }
        if (ease.Amplitude is { } a && !(a is >= 0 and <= 1000))
        {
            throw new Refusal($"The amplitude of the easing on frame {Number(frame)} must be between 0 and 1000.");
        }
        if (ease.Period is { } p && !(p is >= 0.001 and <= 1000))
        {
            throw new Refusal($"The period of the easing on frame {Number(frame)} must be between 0.001 and 1000.");
        }
    }

    internal static string Number(double value) => value.ToString("R", CultureInfo.InvariantCulture);
}
