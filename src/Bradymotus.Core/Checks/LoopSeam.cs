using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>What repeats jumps in value or speed where the passes meet.</summary>
internal static class LoopSeam
{
    internal static IEnumerable<Finding> Of(CheckedShot shot, KeyedChannel channel)
    {
        var curve = channel.Curve;
        var keys = curve.Keys;
        if (keys.Length < 2 || channel.Spec.Stepped || channel.Spec.Whole || keys[^2].Segment is HoldSegment)
        {
            yield break;
        }
        foreach (var isAfter in new[] { false, true })
        {
            var kind = (isAfter ? curve.After : curve.Before).Kind;
            var at = isAfter ? keys[^1].Frame : keys[0].Frame;
            // A loop whose last key is the frame after the range meets itself where playing begins again.
            var isSeen = isAfter ? at <= shot.Last + 1 && at > shot.First : at > shot.First && at <= shot.Last + 1;
            if (kind is ExtrapolationKind.Hold or ExtrapolationKind.Linear || !isSeen || (!isAfter && kind == curve.After.Kind && keys[^1].Frame <= shot.Last + 1))
            {
                continue;
            }
            if (Seam(channel, kind, isAfter) is { } sentence)
            {
                yield return shot.Found(FindingKind.LoopSeam, channel, at, at, sentence, "Make the loop seamless: value and speed of both ends are made equal.", new MakeSeamless([channel.Address]));
            }
        }
    }

    private static string? Seam(KeyedChannel channel, ExtrapolationKind kind, bool isAfter)
    {
        var curve = channel.Curve;
        var (first, last) = (curve.Keys[0], curve.Keys[^1]);
        var samples = new double[129];
        curve.Compile().Sample(first.Frame, curve.Period / 128, samples);
        samples[128] = last.Value;
        var (low, high) = CheckedShot.Span(samples);
        if (high - low <= 1e-9 * Math.Max(1, Math.Abs(high)))
        {
            return null;
        }
        var jump = last.Value - first.Value;
        if (Same(channel) is > 0 and var same)
        {
            jump -= same * Math.Round(jump / same);
        }
        if (kind == ExtrapolationKind.Loop && Math.Abs(jump) > 0.005 * (high - low) && Same(channel) == 0 && IsSawtooth(curve))
        {
            return null;
        }
        if (kind == ExtrapolationKind.Loop && Math.Abs(jump) > 0.005 * (high - low))
        {
            return $"{CheckedShot.Name(channel)} jumps by {CheckedShot.Number(Math.Abs(jump))}{Unit(channel)} where its passes meet: the last key is not as the first.";
        }
        var fastest = 0.0;
        for (var i = 1; i < samples.Length; i++)
        {
            fastest = Math.Max(fastest, Math.Abs(samples[i] - samples[i - 1]) / (curve.Period / 128));
        }
        var (leaves, arrives) = (CurveEnds.StartSlope(curve, 0), CurveEnds.EndSlope(curve, curve.Keys.Length - 2));
        if (kind == ExtrapolationKind.PingPong)
        {
            (arrives, leaves) = isAfter ? (arrives, -arrives) : (-leaves, leaves);
        }
        // What comes down and goes up again as fast is no jump but a bounce.
        var isBounce = channel.Spec.Family == ChannelFamily.Position && leaves * arrives < 0 && Math.Abs(leaves) < 2.5 * Math.Abs(arrives) && Math.Abs(arrives) < 2.5 * Math.Abs(leaves);
        return Math.Abs(leaves - arrives) <= 0.15 * fastest || isBounce || Math.Abs(leaves - arrives) <= 1.001 * LargestCorner(curve)
            ? null
            : $"{CheckedShot.Name(channel)} changes its speed from {CheckedShot.Number(arrives)} to {CheckedShot.Number(leaves)}{Unit(channel)} a frame at once where its passes meet.";
    }

    /// <summary>What more or less of a channel looks the same: a whole turn, a whole tile of a map; 0 for none.</summary>
    private static double Same(KeyedChannel channel) =>
        channel.Spec.Unit == "°" && (channel.Spec.Family == ChannelFamily.Rotation || channel.Address.Base.Path is "sky.turn"
            || channel.Address.Base.Path.EndsWith(".rotate", StringComparison.Ordinal)) ? 360
        : channel.Address.Base.Path.StartsWith("map.", StringComparison.Ordinal) && channel.Address.Base.Path.Contains(".offset", StringComparison.Ordinal) ? 1 : 0;

    /// <summary>Whether a curve goes one way at an even speed all the time: a conveyor, which starts again.</summary>
    private static bool IsSawtooth(Curve curve)
    {
        var keys = curve.Keys;
        var mean = (keys[^1].Value - keys[0].Value) / curve.Period;
        return Enumerable.Range(0, keys.Length - 1)
            .All(i => keys[i].Segment is LinearSegment && Math.Abs((keys[i + 1].Value - keys[i].Value) / (keys[i + 1].Frame - keys[i].Frame) - mean) <= 0.01 * Math.Abs(mean));
    }

    /// <summary>The largest change of speed at a key within: at the seam it may be as large, as in a to and fro of straight strokes.</summary>
    private static double LargestCorner(Curve curve) =>
        Enumerable.Range(1, Math.Max(0, curve.Keys.Length - 2)).Max(i => (double?)Math.Abs(CurveEnds.StartSlope(curve, i) - CurveEnds.EndSlope(curve, i - 1))) ?? 0;

    private static string Unit(KeyedChannel channel) => channel.Spec.Unit is "°" ? "°" : channel.Spec.Unit.Length > 0 ? $" {channel.Spec.Unit}" : "";
}
