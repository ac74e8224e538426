using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>A curve leaves the range of two keys at a contact: a handle swings past the key, and the ball goes through the floor.</summary>
internal static class Overshoot
{
    internal static IEnumerable<Finding> Of(CheckedShot shot, Node node)
    {
        foreach (var channel in shot.ByOwner[node.Id].Where(c => c.Address.Path.StartsWith("transform.translate.", StringComparison.Ordinal)))
        {
            var keys = channel.Curve.Keys;
            var (low, high) = CheckedShot.Span([.. keys.Select(k => k.Value)]);
            CurveEvaluator? evaluator = null;
            for (var i = 0; i + 1 < keys.Length; i++)
            {
                var (a, b) = (keys[i], keys[i + 1]);
                if (a.Segment is not BezierSegment || !Leaves(channel.Curve, i))
                {
                    continue;
                }
                evaluator ??= channel.Curve.Compile();
                var values = new double[33];
                evaluator.Sample(a.Frame, (b.Frame - a.Frame) / 32, values);
                values[32] = b.Value;
                var (least, most) = CheckedShot.Span(values);
                var (below, above) = (Math.Min(a.Value, b.Value) - least, most - Math.Max(a.Value, b.Value));
                if (Math.Max(below, above) <= 0.005 * Math.Max(high - low, 1e-6))
                {
                    continue;
                }
                var (edge, by) = below > above ? (a.Value < b.Value ? i : i + 1, below) : (a.Value > b.Value ? i : i + 1, above);
                var side = edge == i ? KeySide.Out : KeySide.In;
                if (!IsContact(shot, node, channel.Curve, edge, side))
                {
                    continue;
                }
                yield return shot.Found(FindingKind.Overshoot, channel, a.Frame, b.Frame,
                    $"{CheckedShot.Name(channel)} swings {CheckedShot.Number(by)} m past its contact on frame {CurveRules.Number(keys[edge].Frame)}: between frames {CurveRules.Number(a.Frame)} and {CurveRules.Number(b.Frame)} it leaves the range of its two keys.",
                    "Make the handle there automatic: it never leaves the range of its keys.",
                    new SetHandleKinds([new(channel.Address, keys[edge].Frame)], side == KeySide.In ? Handle.Auto : null, side == KeySide.Out ? Handle.Auto : null));
            }
        }
    }

    /// <summary>Only where a handle is outside the range of the keys can the curve be.</summary>
    private static bool Leaves(Curve curve, int i)
    {
        var (a, b) = (curve.Keys[i], curve.Keys[i + 1]);
        var p = ControlPoints.Of(curve, i);
        var (low, high) = (Math.Min(a.Value, b.Value), Math.Max(a.Value, b.Value));
        var slack = 1e-9 * Math.Max(1, high - low);
        return a.Value + p.OutValue < low - slack || a.Value + p.OutValue > high + slack || b.Value + p.InValue < low - slack || b.Value + p.InValue > high + slack;
    }

    /// <summary>What it touches says that a turning point is a contact; so does a corner, made with split handles.</summary>
    private static bool IsContact(CheckedShot shot, Node node, Curve curve, int at, KeySide side)
    {
        var keys = curve.Keys;
        var key = keys[at];
        double Rise(int i) => i < 0 || i >= keys.Length ? 0 : keys[i].Value - key.Value;
        if (Rise(at - 1) * Rise(at + 1) < 0 || (Rise(at - 1) == 0 && Rise(at + 1) == 0))
        {
            return false;
        }
        var frame = shot.Frame(key.Frame) - shot.First;
        if (shot.Contacts.Touches(node.Id, frame, frame))
        {
            return true;
        }
        if (key.Joined || at == 0 || at == keys.Length - 1)
        {
            return false;
        }
        // On the side that does not swing past, it comes or goes at speed.
        var (arrives, leaves) = (CurveEnds.EndSlope(curve, at - 1), CurveEnds.StartSlope(curve, at));
        var slope = side == KeySide.In ? leaves : arrives;
        var chord = side == KeySide.In ? Rise(at + 1) / (keys[at + 1].Frame - key.Frame) : Rise(at - 1) / (keys[at - 1].Frame - key.Frame);
        return chord != 0 && slope / chord is > 0.5 or < -0.1;
    }
}
