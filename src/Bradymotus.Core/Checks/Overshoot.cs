using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>A curve leaves the range of two keys at a contact: a handle swings past the key, and the ball goes through the floor.</summary>
internal static class Overshoot
{
    internal static IEnumerable<Finding> Of(CheckedShot shot, Node node)
    {
        foreach (var channel in shot.Moved(node.Id, "transform.translate."))
        {
            var frames = channel.Frames;
            var values = channel.Values;
            var (low, high) = CheckedShot.Span(values);
            for (var i = 0; i + 1 < frames.Count; i++)
            {
                var (a, b) = (frames[i], frames[i + 1]);
                // In layers any curved way will do, but none that repeats.
                if (channel.IsLayered ? !channel.Parts.All(p => IsBetweenKeys(p.Curve, a, b)) || !channel.Parts.Any(p => CurvedAt(p.Curve, a, b) >= 0) : !Leaves(channel.Parts[0].Curve, i))
                {
                    continue;
                }
                var (least, most) = CheckedShot.Span(channel.Between(a, b, 33));
                var (from, to) = (values[i], values[i + 1]);
                var (below, above) = (Math.Min(from, to) - least, most - Math.Max(from, to));
                if (Math.Max(below, above) <= 0.005 * Math.Max(high - low, 1e-6))
                {
                    continue;
                }
                var by = Math.Max(below, above);
                // The key that it swings past; where both have one value, that with the contact.
                int[] edges = from == to ? [i, i + 1] : [(below > above) == (from < to) ? i : i + 1];
                var edge = edges.FirstOrDefault(e => IsContact(shot, node, channel, values, e, e == i ? KeySide.Out : KeySide.In), -1);
                if (edge < 0)
                {
                    continue;
                }
                var side = edge == i ? KeySide.Out : KeySide.In;
                // The curves whose own handle there leads out of it.
                List<KeyAddress> swinging = [.. channel.KeyedOn(frames[edge]).Where(p => Leaves(p.Curve, CurvedAt(p.Curve, a, b)))
                    .Select(p => new KeyAddress(p.Address, p.Curve.KeyAt(frames[edge])!.Frame))];
                yield return new Finding(FindingKind.Overshoot, [node.Id], [.. channel.Addresses], shot.Frame(a), shot.Frame(b),
                    $"{CheckedShot.Name(channel)} swings {CheckedShot.Number(by)} m past its contact on frame {CurveRules.Number(frames[edge])}: between frames {CurveRules.Number(a)} and {CurveRules.Number(b)} it leaves the range of its two keys.",
                    swinging.Count > 0 ? "Make the handle there automatic: it never leaves the range of its keys." : null)
                { Fix = swinging.Count > 0 ? new SetHandleKinds(swinging, side == KeySide.In ? Handle.Auto : null, side == KeySide.Out ? Handle.Auto : null) : null };
            }
        }
    }

    /// <summary>Whether a curve goes from key to key between two frames, or rests: what repeats has no range of two keys.</summary>
    private static bool IsBetweenKeys(Curve curve, double a, double b) =>
        (a > curve.Keys[0].Frame - Curve.LeastGap || curve.Before.Kind == ExtrapolationKind.Hold) && (b < curve.Keys[^1].Frame + Curve.LeastGap || curve.After.Kind == ExtrapolationKind.Hold);

    /// <summary>The Bézier segment that spans a way; −1 where there is none.</summary>
    private static int CurvedAt(Curve curve, double from, double to)
    {
        var at = curve.IndexOf(from);
        var i = at >= 0 ? at : ~at - 1;
        return i >= 0 && i + 1 < curve.Keys.Length && curve.Keys[i].Segment is BezierSegment && curve.Keys[i + 1].Frame > to - Curve.LeastGap ? i : -1;
    }

    /// <summary>Only where a handle is outside the range of the keys can the curve be.</summary>
    private static bool Leaves(Curve curve, int i)
    {
        if (i < 0 || curve.Keys[i].Segment is not BezierSegment)
        {
            return false;
        }
        var (a, b) = (curve.Keys[i], curve.Keys[i + 1]);
        var p = ControlPoints.Of(curve, i);
        var (low, high) = (Math.Min(a.Value, b.Value), Math.Max(a.Value, b.Value));
        var slack = 1e-9 * Math.Max(1, high - low);
        return a.Value + p.OutValue < low - slack || a.Value + p.OutValue > high + slack || b.Value + p.InValue < low - slack || b.Value + p.InValue > high + slack;
    }

    /// <summary>What it touches says that a turning point is a contact; so does a corner, made with split handles.</summary>
    private static bool IsContact(CheckedShot shot, Node node, SeenChannel channel, double[] values, int at, KeySide side)
    {
        var frames = channel.Frames;
        double Rise(int i) => i < 0 || i >= values.Length ? 0 : values[i] - values[at];
        if (Rise(at - 1) * Rise(at + 1) < 0 || (Rise(at - 1) == 0 && Rise(at + 1) == 0))
        {
            return false;
        }
        var frame = shot.Frame(frames[at]) - shot.First;
        // The floor that a door stands on does not stop it.
        var axis = channel.Address.Path[^1] switch { 'x' => Double3.UnitX, 'y' => Double3.UnitY, _ => Double3.UnitZ };
        if (shot.Contacts.Touches(node.Id, frame, frame, CompiledShot.WorldOf(shot.Shot, node.Parent, frames[at]).Vector(axis).Normalized())
            || (side == KeySide.In ? shot.Contacts.PassesThrough(node.Id, frame - Around, frame) : shot.Contacts.PassesThrough(node.Id, frame, frame + Around)))
        {
            return true;
        }
        if (at == 0 || at == values.Length - 1 || channel.KeyedOn(frames[at]).All(p => p.Curve.KeyAt(frames[at])!.Joined))
        {
            return false;
        }
        // On the side that does not swing past, it comes or goes at speed.
        var other = side == KeySide.In ? at + 1 : at - 1;
        var way = frames[other] - frames[at];
        var slope = (channel.At(frames[at] + Instant * way) - values[at]) / (Instant * way);
        var chord = Rise(other) / way;
        return chord != 0 && slope / chord is > 0.5 or < -0.1;
    }

    /// <summary>So many frames beside a contact what swings past it passes through what is there.</summary>
    private const int Around = 4;

    /// <summary>The part of the way to the next key on which a speed is measured.</summary>
    private const double Instant = 1e-3;
}
