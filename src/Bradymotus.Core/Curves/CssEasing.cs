using System.Collections.Immutable;
using System.Globalization;
using System.Text;

namespace Bradymotus.Core.Curves;

/// <summary>Easings as the texts that style sheets have for them: <c>cubic-bezier(x1, y1, x2, y2)</c>, <c>linear(…)</c>, <c>steps(n, where)</c>, and their names.</summary>
/// <remarks>CSS Easing Functions Level 2, W3C.</remarks>
public static class CssEasing
{
    private static readonly Dictionary<string, string> Named = new(StringComparer.Ordinal)
    {
        ["ease"] = "cubic-bezier(0.25, 0.1, 0.25, 1)",
        ["ease-in"] = "cubic-bezier(0.42, 0, 1, 1)",
        ["ease-out"] = "cubic-bezier(0, 0, 0.58, 1)",
        ["ease-in-out"] = "cubic-bezier(0.42, 0, 0.58, 1)",
        ["linear"] = "linear(0, 1)",
        ["step-start"] = "steps(1, jump-start)",
        ["step-end"] = "steps(1, jump-end)",
    };

    private const int MostParts = 1000;

    /// <summary>The easing as a curve from frame 0 to frame 1, mostly from 0 to 1.</summary>
    /// <exception cref="Refusal">It is no easing.</exception>
    public static Curve Parse(string text)
    {
        var wanted = (text ?? "").Trim().TrimEnd(';').Trim().ToLowerInvariant();
        var easing = Named.GetValueOrDefault(wanted, wanted);
        var open = easing.IndexOf('(', StringComparison.Ordinal);
        if (open < 0 || !easing.EndsWith(')'))
        {
            throw Bad(text, "write it as cubic-bezier(0.3, 0, 0.2, 1), linear(0, 0.4 25%, 1) or steps(4)");
        }
        var parts = easing[(open + 1)..^1].Split(',', StringSplitOptions.TrimEntries);
        return parts.Length > MostParts ? throw Bad(text, $"it has more than {MostParts} parts") : easing[..open].Trim() switch
        {
            "cubic-bezier" => Bezier(text, parts),
            "linear" => Linear(text, parts),
            "steps" => Steps(text, parts),
            var name => throw Bad(text, $"“{name}” is none that style sheets have: there are cubic-bezier, linear and steps"),
        };
    }

    /// <summary>One segment of a curve as such a text.</summary>
    /// <param name="curve">The curve.</param>
    /// <param name="i">The key that the segment leaves.</param>
    public static string Format(Curve curve, int i)
    {
        if (i < 0 || i + 1 >= curve.Keys.Length)
        {
            throw new Refusal("There is no segment after this key: choose a key that another one follows.");
        }
        var (a, b) = (curve.Keys[i], curve.Keys[i + 1]);
        var (length, rise) = (b.Frame - a.Frame, b.Value - a.Value);
        switch (a.Segment)
        {
            case LinearSegment:
                return "linear";
            case HoldSegment:
                return "step-end";
            case BezierSegment when rise != 0:
                var p = ControlPoints.Of(curve, i);
                return $"cubic-bezier({N(p.OutFrames / length)}, {N(p.OutValue / rise)}, {N(1 + p.InFrames / length)}, {N(1 + p.InValue / rise)})";
        }
        if (rise == 0)
        {
            throw new Refusal("Both keys of this segment have one value, so that it has no easing: choose one that goes somewhere.");
        }
        const int Count = 32;
        var evaluator = curve.Compile();
        var list = new StringBuilder("linear(");
        for (var n = 0; n <= Count; n++)
        {
            var value = n == Count ? 1 : (evaluator.Evaluate(a.Frame + length * n / Count) - a.Value) / rise;
            list.Append(n == 0 ? "" : ", ").Append(N(value));
        }
        return list.Append(')').ToString();
    }

    /// <summary>Puts an easing into segments of a curve: each takes its shape, from the value of its first key to that of its second.</summary>
    /// <param name="curve">The curve.</param>
    /// <param name="chosen">The keys that the segments leave.</param>
    /// <param name="shape">From frame 0 to 1.</param>
    public static Curve Apply(Curve curve, IReadOnlyList<int> chosen, Curve shape)
    {
        if (shape.Keys.Length < 2 || Math.Abs(shape.Keys[0].Frame) > 1e-9 || Math.Abs(shape.Keys[^1].Frame - 1) > 1e-9)
        {
            throw new Refusal("An easing goes from frame 0 to frame 1: give its curve keys on both.");
        }
        var keys = new List<Key>(curve.Keys);
        for (var n = chosen.Count - 1; n >= 0; n--)
        {
            var i = chosen[n];
            if (i + 1 >= curve.Keys.Length)
            {
                continue;
            }
            var (a, b) = (keys[i], keys[i + 1]);
            var (length, rise) = (b.Frame - a.Frame, b.Value - a.Value);
            Handle Of(int k, KeySide side)
            {
                var (frames, value) = ControlPoints.Offset(shape, k, side);
                return new FreeHandle(frames * length, value * rise);
            }
            keys[i] = a with { Segment = shape.Keys[0].Segment, Out = Of(0, KeySide.Out), Joined = false };
            keys[i + 1] = b with { In = Of(shape.Keys.Length - 1, KeySide.In), Joined = false };
            for (var k = shape.Keys.Length - 2; k > 0; k--)
            {
                var s = shape.Keys[k];
                keys.Insert(i + 1, s with { Frame = a.Frame + s.Frame * length, Value = a.Value + s.Value * rise, In = Of(k, KeySide.In), Out = Of(k, KeySide.Out) });
            }
        }
        return curve.WithKeys([.. keys]);
    }

    private static Curve Bezier(string? text, string[] parts)
    {
        var n = parts.Select(p => Number(text, p)).ToArray();
        if (n.Length != 4 || n[0] is < 0 or > 1 || n[2] is < 0 or > 1)
        {
            throw Bad(text, "a cubic-bezier has four numbers, of which the first and the third lie between 0 and 1");
        }
        return new Curve([new(0, 0, Segment.Bezier, null, new FreeHandle(n[0], n[1]), false), new(1, 1, Segment.Bezier, new FreeHandle(n[2] - 1, n[3] - 1), null, false)]);
    }

    /// <summary>Stops of a value and perhaps one or two places; what has none lies evenly between those that have.</summary>
    private static Curve Linear(string? text, string[] parts)
    {
        var stops = new List<(double Value, double At)>();
        foreach (var part in parts)
        {
            var words = part.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
            var places = words.Where(w => w.EndsWith('%')).Select(w => Number(text, w[..^1]) / 100).ToArray();
            var values = words.Where(w => !w.EndsWith('%')).ToArray();
            if (values.Length != 1 || places.Length > 2)
            {
                throw Bad(text, "each part of linear() is a number and at most two places in %");
            }
            var value = Number(text, values[0]);
            foreach (var at in places.Length == 0 ? [double.NaN] : places)
            {
                stops.Add((value, at));
            }
        }
        if (stops.Count < 2)
        {
            throw Bad(text, "linear() needs two parts at least");
        }
        stops[0] = double.IsNaN(stops[0].At) ? (stops[0].Value, 0) : stops[0];
        stops[^1] = double.IsNaN(stops[^1].At) ? (stops[^1].Value, 1) : stops[^1];
        var largest = double.NegativeInfinity;
        for (var i = 0; i < stops.Count; i++)
        {
            if (!double.IsNaN(stops[i].At))
            {
                largest = Math.Max(largest, stops[i].At);
                stops[i] = (stops[i].Value, largest);
            }
        }
        for (var i = 1; i < stops.Count; i++)
        {
            if (double.IsNaN(stops[i].At))
            {
                var next = i;
                while (double.IsNaN(stops[next].At))
                {
                    next++;
                }
                var (from, to) = (stops[i - 1].At, stops[next].At);
                for (var n = i; n < next; n++)
                {
                    stops[n] = (stops[n].Value, from + (to - from) * (n - i + 1) / (next - i + 1));
                }
            }
        }
        if (Math.Abs(stops[0].At) > 1e-9 || Math.Abs(stops[^1].At - 1) > 1e-9)
        {
            throw Bad(text, "its first place has to be 0 % and its last 100 %, since there are keys at both");
        }
        var keys = new List<Key>();
        foreach (var (value, at) in stops)
        {
            // Two values at one place are a jump: the first is held up to it.
            if (keys.Count > 0 && at - keys[^1].Frame < 1e-4)
            {
                if (keys.Count > 1)
                {
                    keys.Add(new(at, value, Segment.Linear));
                    keys[^2] = keys[^2] with { Frame = at - 1e-4 };
                    continue;
                }
                keys[^1] = keys[^1] with { Value = value };
                continue;
            }
            keys.Add(new(at, value, Segment.Linear));
        }
        return new Curve([.. keys]);
    }

    private static Curve Steps(string? text, string[] parts)
    {
        var count = Number(text, parts[0]);
        var where = parts.Length > 1 ? parts[1] : "end";
        if (parts.Length > 2 || count != Math.Floor(count) || count is < 1 or > MostParts)
        {
            throw Bad(text, "steps() has a whole number above 0, and perhaps where it jumps");
        }
        var n = (int)count;
        var (first, levels) = where switch
        {
            "start" or "jump-start" => (1, n),
            "end" or "jump-end" => (0, n),
            "jump-none" when n > 1 => (0, n - 1),
            "jump-both" => (1, n + 1),
            _ => throw Bad(text, "steps() jumps at start, end, jump-none (of two steps at least) or jump-both"),
        };
        var keys = Enumerable.Range(0, n).Select(i => new Key((double)i / n, (double)(i + first) / levels, Segment.Hold)).Append(new Key(1, 1, Segment.Hold));
        return new Curve([.. keys]);
    }

    private static double Number(string? text, string part) =>
        double.TryParse(part, NumberStyles.Float, CultureInfo.InvariantCulture, out var n) && Math.Abs(n) <= 1e6
            ? n
            : throw Bad(text, $"“{part}” is no number");

    private static string N(double value) => Math.Round(value, 4).ToString("0.####", CultureInfo.InvariantCulture);

    private static Refusal Bad(string? text, string why) => new($"“{(text?.Length > 60 ? text[..60] + "…" : text)}” is no easing: {why}.");
}
