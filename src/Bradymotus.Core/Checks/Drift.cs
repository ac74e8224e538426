using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>A slow change all the way to a key, where a hold before a sudden move is missing.</summary>
internal static class Drift
{
    internal static IEnumerable<Finding> Of(CheckedShot shot, Node node)
    {
        // A shape that comes slowly back from a stretch, and is stretched again at once, is meant to: of scales only what leaves its rest creeps.
        foreach (var group in new[] { "transform.translate.", "transform.rotate.", "transform.scale." })
        {
            var isScale = group == "transform.scale.";
            // A hold is missing in a curve: in that of a layer as much as in that of the channel itself.
            foreach (var layer in shot.Moved(node.Id, group).SelectMany(c => c.Parts.Select(p => new Moving(c, p))).GroupBy(m => m.Part.Address.Layer))
            {
                foreach (var moving in layer)
                {
                    foreach (var finding in Creeping(shot, moving, onlyFromRest: isScale).Concat(isScale ? [] : Left(shot, moving, [.. layer])))
                    {
                        yield return finding;
                    }
                }
            }
        }
    }

    private sealed record Moving(SeenChannel Seen, KeyedChannel Part);

    /// <summary>A long, slow and small change, and then a sudden large one from its key on.</summary>
    private static IEnumerable<Finding> Creeping(CheckedShot shot, Moving moving, bool onlyFromRest)
    {
        var channel = moving.Part;
        var keys = channel.Curve.Keys;
        for (var i = 0; i + 2 < keys.Length; i++)
        {
            var (a, b, c) = (keys[i], keys[i + 1], keys[i + 2]);
            var (wait, move) = (b.Frame - a.Frame, c.Frame - b.Frame);
            if (wait < 8 || wait < 2 * move || a.Segment is HoldSegment || b.Segment is HoldSegment || !Creeps(a.Value, b.Value, c.Value, wait, move)
                || (onlyFromRest && a.Value != keys[0].Value) || (i > 0 && IsMeant(keys[i - 1], a, b, c)))
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
        // The other way it is a wind-up.
        return (b - a) * (c - b) > 0 && slow <= 0.3 * sudden && slow > 0.004 * sudden && sudden / move >= 8 * slow / wait;
    }

    /// <summary>
    /// Whether what came before says that a slow way is meant: a moving hold goes on a little where a fast move has gone; and on an even way one key
    /// that is out of line is a key mistyped, and no hold is missing.
    /// </summary>
    private static bool IsMeant(Key before, Key a, Key b, Key c)
    {
        var came = a.Value - before.Value;
        var (speed, slow, mean) = (came / (a.Frame - before.Frame), (b.Value - a.Value) / (b.Frame - a.Frame), (c.Value - a.Value) / (c.Frame - a.Frame));
        return (came * (b.Value - a.Value) > 0 && Math.Abs(b.Value - a.Value) <= 0.12 * Math.Abs(came) && Math.Abs(speed) >= 4 * Math.Abs(slow))
            || Math.Abs(speed - mean) <= 0.15 * Math.Abs(mean);
    }

    /// <summary>Another axis holds still until a frame and then moves; this one has no key there and goes all the way.</summary>
    private static IEnumerable<Finding> Left(CheckedShot shot, Moving moving, List<Moving> others)
    {
        var channel = moving.Part;
        var keys = channel.Curve.Keys;
        // What travels evenly does not wait for another axis.
        for (var i = 0; i + 1 < keys.Length; i++)
        {
            var (a, b) = (keys[i], keys[i + 1]);
            if (b.Frame - a.Frame < 12 || a.Value == b.Value || a.Segment is HoldSegment or LinearSegment)
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
