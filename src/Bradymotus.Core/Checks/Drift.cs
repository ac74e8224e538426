using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>A slow change all the way to a key, where a hold before a sudden move is missing.</summary>
internal static class Drift
{
    internal static IEnumerable<Finding> Of(CheckedShot shot, Node node)
    {
        // A shape that comes slowly back from a stretch, and is stretched again at once, is meant to.
        foreach (var group in new[] { "transform.translate.", "transform.rotate." })
        {
            var channels = shot.ByOwner[node.Id].Where(c => c.Address.Path.StartsWith(group, StringComparison.Ordinal)).ToList();
            foreach (var channel in channels)
            {
                foreach (var finding in Creeping(shot, channel).Concat(Left(shot, channel, channels)))
                {
                    yield return finding;
                }
            }
        }
    }

    /// <summary>A long, slow and small change, and then a sudden large one from its key on.</summary>
    private static IEnumerable<Finding> Creeping(CheckedShot shot, KeyedChannel channel)
    {
        var keys = channel.Curve.Keys;
        for (var i = 0; i + 2 < keys.Length; i++)
        {
            var (a, b, c) = (keys[i], keys[i + 1], keys[i + 2]);
            var (slow, sudden) = (Math.Abs(b.Value - a.Value), Math.Abs(c.Value - b.Value));
            var (wait, move) = (b.Frame - a.Frame, c.Frame - b.Frame);
            if (wait < 8 || wait < 2 * move || a.Segment is HoldSegment || b.Segment is HoldSegment || slow > 0.3 * sudden
                || slow <= 0.004 * sudden || sudden / move < 8 * slow / wait)
            {
                continue;
            }
            yield return Found(shot, channel, a.Frame, b.Frame,
                $"{CheckedShot.Name(channel)} drifts by {CheckedShot.Number(slow)}{Unit(channel)} from frame {CurveRules.Number(a.Frame)} on, all the way to the move on frame {CurveRules.Number(b.Frame)}.");
        }
    }

    /// <summary>Another axis holds still until a frame and then moves; this one has no key there and goes all the way.</summary>
    private static IEnumerable<Finding> Left(CheckedShot shot, KeyedChannel channel, List<KeyedChannel> others)
    {
        var keys = channel.Curve.Keys;
        for (var i = 0; i + 1 < keys.Length; i++)
        {
            var (a, b) = (keys[i], keys[i + 1]);
            if (b.Frame - a.Frame < 12 || a.Value == b.Value || a.Segment is HoldSegment)
            {
                continue;
            }
            foreach (var other in others)
            {
                if (other == channel || Start(other.Curve, a.Frame, b.Frame) is not { } start || (b.Frame - start) * 3 > b.Frame - a.Frame)
                {
                    continue;
                }
                yield return Found(shot, channel, a.Frame, start,
                    $"{CheckedShot.Name(channel)} drifts from frame {CurveRules.Number(a.Frame)} on, though {other.Spec.Label} holds still until the move on frame {CurveRules.Number(start)}.");
                break;
            }
        }
    }

    /// <summary>The frame between two keys of another channel on which this one begins to move, having held still since the first; null where it does not.</summary>
    private static double? Start(Curve curve, double from, double to)
    {
        var (i, end) = (curve.IndexOf(from), curve.IndexOf(to));
        if (i < 0 || end != i + 2)
        {
            return null;
        }
        var (a, k, b) = (curve.Keys[i], curve.Keys[i + 1], curve.Keys[end]);
        return a.Value == k.Value && b.Value != k.Value ? k.Frame : null;
    }

    private static Finding Found(CheckedShot shot, KeyedChannel channel, double first, double last, string sentence) => shot.Found(
        FindingKind.Drift, channel, first, last, sentence, $"Hold its value until frame {CurveRules.Number(last)}.", new HoldUntil(last, [channel.Address]));

    private static string Unit(KeyedChannel channel) => channel.Spec.Unit is "°" or "" or "×" ? channel.Spec.Unit : $" {channel.Spec.Unit}";
}
