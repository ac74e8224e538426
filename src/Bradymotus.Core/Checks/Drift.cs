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
            // A hold is missing in a curve: in that of a layer as much as in that of the channel itself.
            foreach (var layer in shot.Moved(node.Id, group).SelectMany(c => c.Parts.Select(p => new Moving(c, p))).GroupBy(m => m.Part.Address.Layer))
            {
                foreach (var moving in layer)
                {
                    foreach (var finding in Creeping(shot, moving).Concat(Left(shot, moving, [.. layer])))
                    {
                        yield return finding;
                    }
                }
            }
        }
    }

    private sealed record Moving(SeenChannel Seen, KeyedChannel Part);

    /// <summary>A long, slow and small change, and then a sudden large one from its key on.</summary>
    private static IEnumerable<Finding> Creeping(CheckedShot shot, Moving moving)
    {
        var channel = moving.Part;
        var keys = channel.Curve.Keys;
        for (var i = 0; i + 2 < keys.Length; i++)
        {
            var (a, b, c) = (keys[i], keys[i + 1], keys[i + 2]);
            var (wait, move) = (b.Frame - a.Frame, c.Frame - b.Frame);
            if (wait < 8 || wait < 2 * move || a.Segment is HoldSegment || b.Segment is HoldSegment || !Creeps(a.Value, b.Value, c.Value, wait, move))
            {
                continue;
            }
            var slow = Math.Abs(b.Value - a.Value);
            if (moving.Seen.IsLayered)
            {
                // With all layers it has to be seen as well, and nothing else may move meanwhile.
                var seen = moving.Seen.Between(a.Frame, b.Frame, 17);
                var (low, high) = CheckedShot.Span(seen);
                slow = high - low;
                if (!Creeps(0, slow, slow + Math.Abs(moving.Seen.At(c.Frame) - seen[^1]), wait, move))
                {
                    continue;
                }
            }
            yield return Found(shot, channel, a.Frame, b.Frame,
                $"{CheckedShot.Name(channel)} drifts by {CheckedShot.Number(slow)}{Unit(channel)} from frame {CurveRules.Number(a.Frame)} on, all the way to the move on frame {CurveRules.Number(b.Frame)}.");
        }
    }

    /// <summary>Whether the way from the first to the second value is slow and small, and that to the third sudden and large.</summary>
    private static bool Creeps(double a, double b, double c, double wait, double move)
    {
        var (slow, sudden) = (Math.Abs(b - a), Math.Abs(c - b));
        return slow <= 0.3 * sudden && slow > 0.004 * sudden && sudden / move >= 8 * slow / wait;
    }

    /// <summary>Another axis holds still until a frame and then moves; this one has no key there and goes all the way.</summary>
    private static IEnumerable<Finding> Left(CheckedShot shot, Moving moving, List<Moving> others)
    {
        var channel = moving.Part;
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
                if (other == moving || Start(other.Part.Curve, a.Frame, b.Frame) is not { } start || (b.Frame - start) * 3 > b.Frame - a.Frame
                    || !IsStill(other.Seen, a.Frame, start) || (moving.Seen.IsLayered && IsStill(moving.Seen, a.Frame, start)))
                {
                    continue;
                }
                yield return Found(shot, channel, a.Frame, start,
                    $"{CheckedShot.Name(channel)} drifts from frame {CurveRules.Number(a.Frame)} on, though {other.Part.Spec.Label} holds still until the move on frame {CurveRules.Number(start)}.");
                break;
            }
        }
    }

    /// <summary>Whether a channel does not move on a way, with all layers.</summary>
    private static bool IsStill(SeenChannel channel, double from, double to)
    {
        if (!channel.IsLayered)
        {
            return true;
        }
        var (low, high) = CheckedShot.Span(channel.Between(from, to, 17));
        return high - low <= 1e-6 * Math.Max(1, Math.Abs(high));
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
