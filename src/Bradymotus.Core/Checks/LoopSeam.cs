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
        if (channel.Spec is { Family: ChannelFamily.Rotation, Unit: "°" })
        {
            jump -= 360 * Math.Round(jump / 360);
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

    // A curve of so many straight pieces is one that was sampled.
    private const int LeastSamples = 9;

    /// <summary>The largest change of speed at a key between straight pieces, of a curve that was sampled: at its seam it may be as large. 0 for any other curve.</summary>
    private static double LargestCorner(Curve curve)
    {
        var keys = curve.Keys;
        if (keys.Length < LeastSamples || keys.Take(keys.Length - 1).Any(k => k.Segment is not LinearSegment))
        {
            return 0;
        }
        double Slope(int i) => (keys[i + 1].Value - keys[i].Value) / (keys[i + 1].Frame - keys[i].Frame);
        return Enumerable.Range(1, keys.Length - 2).Max(i => Math.Abs(Slope(i) - Slope(i - 1)));
    }

    private static string Unit(KeyedChannel channel) => channel.Spec.Unit is "°" ? "°" : channel.Spec.Unit.Length > 0 ? $" {channel.Spec.Unit}" : "";
}
