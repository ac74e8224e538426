using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>Euler angles that jump from one frame to the next while the orientation does not.</summary>
internal static class Flip
{
    private const string Path = "transform.rotate.";

    internal static IEnumerable<Finding> Of(CheckedShot shot, Node node)
    {
        if (node.RotationOrder == RotationOrder.Quaternion)
        {
            foreach (var finding in Tumbles(shot, node))
            {
                yield return finding;
            }
            yield break;
        }
        var keyed = shot.Moved(node.Id, Path);
        if (keyed.Count == 0)
        {
            yield break;
        }
        foreach (var finding in keyed.Where(c => !c.IsLayered).SelectMany(c => LongWays(shot, node, c.Parts[0])))
        {
            yield return finding;
        }
        double[][] angles = [.. "xyz".Select(a => shot.Values(new ChannelAddress(node.Id, Path + a)))];
        Double3 At(int i) => new(angles[0][i], angles[1][i], angles[2][i]);
        for (var i = 1; i < shot.Count; i++)
        {
            if (!Jumps(At(i - 1), At(i)) || Turn(At(i - 1), At(i), node.RotationOrder) > 40 || IsNewPass(keyed, shot.First + i))
            {
                continue;
            }
            var first = i;
            while (i + 1 < shot.Count && Jumps(At(i), At(i + 1)))
            {
                i++;
            }
            var fix = Unroll(shot, node, keyed, shot.First + first - 1, shot.First + first);
            yield return new Finding(FindingKind.Flip, [node.Id], [.. keyed.SelectMany(c => c.Addresses)], shot.First + first - 1, shot.First + i,
                $"The angles of “{node.Name}” jump between frames {shot.First + first - 1} and {shot.First + first}, though it hardly turns: what lies between them, blur and blends, goes the long way round.",
                fix is null ? null : "Remove the flip: each frame gets those nearest to the frame before.")
            { Fix = fix };
        }
        foreach (var (from, to) in BetweenKeys(shot, node, keyed))
        {
            var fix = Unroll(shot, node, keyed, from, to);
            yield return new Finding(FindingKind.Flip, [node.Id], [.. keyed.SelectMany(c => c.Addresses)], (int)Math.Floor(from), (int)Math.Ceiling(to),
                $"From its key on frame {CheckedShot.Number(from)} to that on {CheckedShot.Number(to)} “{node.Name}” tumbles over, though its two poses lie close together: the angles of the second are the far ones of the two that give this pose.",
                fix is null ? null : "Remove the flip: each key gets those nearest to the key before.")
            { Fix = fix };
        }
    }

    /// <summary>
    /// A needle that went one way, past the end of its dial, and goes back the long way to a place that lies just ahead: from 350° to 10°, all angles
    /// within one turn. Where it was not going that way before, the long way may be meant.
    /// </summary>
    private static IEnumerable<Finding> LongWays(CheckedShot shot, Node node, KeyedChannel channel)
    {
        var keys = channel.Curve.Keys;
        if (keys.Any(k => k.Value < keys[0].Value - 360 || k.Value > keys[0].Value + 360))
        {
            yield break;
        }
        for (var i = 1; i + 1 < keys.Length; i++)
        {
            var (before, a, b) = (keys[i - 1], keys[i], keys[i + 1]);
            var (came, goes) = (a.Value - before.Value, b.Value - a.Value);
            if (a.Segment is HoldSegment || b.Frame - a.Frame < 1.5 || came * goes >= 0 || Math.Abs(goes) is <= 270 or >= 359.5 || Math.Abs(came) > 300)
            {
                continue;
            }
            var later = keys.Skip(i + 1).Select(k => new KeyAddress(channel.Address, k.Frame)).ToList();
            yield return new Finding(FindingKind.Flip, [node.Id], [channel.Address.ToString()], shot.Frame(a.Frame), shot.Frame(b.Frame),
                $"{CheckedShot.Name(channel)} turns back by {CheckedShot.Number(Math.Abs(goes))}° from frame {CurveRules.Number(a.Frame)} to {CurveRules.Number(b.Frame)}, the long way to a place that lies {CheckedShot.Number(360 - Math.Abs(goes))}° ahead.",
                $"Go on by {CheckedShot.Number(360 - Math.Abs(goes))}°: the later keys get a whole turn more.")
            { Fix = new TransformKeys(later, new KeyTransform(Value: -360 * Math.Sign(goes))) };
            yield break;
        }
    }

    /// <summary>A quaternion and its negative are one pose; between two keys of opposite signs it tumbles the long way.</summary>
    private static IEnumerable<Finding> Tumbles(CheckedShot shot, Node node)
    {
        const string Path = "transform.quaternion.";
        var keyed = shot.Moved(node.Id, Path);
        if (keyed.Count == 0)
        {
            yield break;
        }
        double[] At(double frame) => [.. "xyzw".Select(a => shot.At(new(node.Id, Path + a), frame))];
        static double Dot(double[] a, double[] b) => a.Zip(b, (x, y) => x * y).Sum();
        static double Length(double[] a) => Math.Sqrt(Dot(a, a));
        // Half the angle between two poses, whatever their signs.
        static double Apart(double[] a, double[] b) => Length(a) * Length(b) is > 0 and var both ? Math.Acos(Math.Min(1, Math.Abs(Dot(a, b)) / both)) : 0;
        var frames = keyed.SelectMany(c => c.Frames).Where(f => f >= shot.First && f <= shot.Last).Distinct().Order().ToList();
        for (var i = 1; i < frames.Count; i++)
        {
            var (from, to) = (frames[i - 1], frames[i]);
            var (a, b) = (At(from), At(to));
            var steps = Enumerable.Range(0, 17).Select(s => At(from + (to - from) * s / 16)).ToList();
            var way = steps.Skip(1).Select((q, s) => Apart(steps[s], q)).Sum();
            if (Dot(a, b) >= 0 || way < Apart(a, b) + Math.PI / 4 || keyed.SelectMany(c => c.Parts).All(p => p.Curve.KeyAt(from)?.Segment is HoldSegment))
            {
                continue;
            }
            Edit? fix = null;
            if (keyed.Count == 4 && keyed.All(c => !c.IsLayered))
            {
                // From there on each key gets the sign that is nearer to the key before.
                var edits = new List<Edit>();
                var near = a;
                foreach (var frame in frames.Skip(i))
                {
                    var q = At(frame);
                    if (Dot(near, q) < 0)
                    {
                        q = [.. q.Select(x => -x)];
                        edits.Add(new SetKeys(frame, [.. "xyzw".Select((axis, n) => new ChannelValue(new(node.Id, Path + axis), q[n]))]));
                    }
                    near = q;
                }
                fix = new Batch("Turn the quaternions the near way", edits);
            }
            yield return new Finding(FindingKind.Flip, [node.Id], [.. keyed.SelectMany(c => c.Addresses)], (int)Math.Floor(from), (int)Math.Ceiling(to),
                $"From its key on frame {CheckedShot.Number(from)} to that on {CheckedShot.Number(to)} “{node.Name}” tumbles over: the second quaternion has the opposite sign, which is the same pose by the long way.",
                fix is null ? null : "Give each key the sign that is nearer to the key before.")
            { Fix = fix };
            yield break;
        }
    }

    /// <summary>Unrolls the angles that do it: of the channels themselves, or of a layer; null where it comes of several together, or of one that cannot be unrolled.</summary>
    private static UnrollRotations? Unroll(CheckedShot shot, Node node, List<SeenChannel> keyed, double from, double to)
    {
        foreach (var layer in keyed.SelectMany(c => c.Parts).Select(p => p.Address.Layer).Distinct())
        {
            Double3 At(double frame)
            {
                double Of(char axis) => shot.Shot.Channel(new ChannelAddress(node.Id, Path + axis).In(layer)).Evaluate(frame);
                return new(Of('x'), Of('y'), Of('z'));
            }
            if (Jumps(At(from), At(to)) && UnrollRotations.WhyNot(shot.Shot, node, layer) is null)
            {
                return new([node.Id], layer);
            }
        }
        return null;
    }

    /// <summary>
    /// Keys that lie apart, of which the second has the twin of the angles that it ought to have: x + 180°, 180° − y, z + 180° is the same
    /// orientation (for the axes in their order). Whole turns are spins, and meant.
    /// </summary>
    private static IEnumerable<(double From, double To)> BetweenKeys(CheckedShot shot, Node node, List<SeenChannel> keyed)
    {
        Double3 At(double frame)
        {
            double Of(char axis) => shot.At(new(node.Id, Path + axis), frame);
            return new(Of('x'), Of('y'), Of('z'));
        }
        var frames = keyed.SelectMany(c => c.Frames).Where(f => f >= shot.First && f <= shot.Last).Distinct().Order().ToList();
        for (var i = 1; i < frames.Count; i++)
        {
            var (from, to) = (frames[i - 1], frames[i]);
            // What jumps from frame to frame has been found; what is held does not tumble.
            if (to - from < 1.5 || keyed.SelectMany(c => c.Parts).All(p => p.Curve.KeyAt(from)?.Segment is HoldSegment))
            {
                continue;
            }
            var (a, b) = (At(from), At(to));
            double[] ways = [Math.Abs(b.X - a.X), Math.Abs(b.Y - a.Y), Math.Abs(b.Z - a.Z)];
            if (ways.Count(w => w > 120) < 2 || Turn(a, b, node.RotationOrder) > 120)
            {
                continue;
            }
            var near = Euler.From(Affine.Rotation(b, node.RotationOrder), node.RotationOrder, a);
            double[] least = [Math.Abs(near.X - a.X), Math.Abs(near.Y - a.Y), Math.Abs(near.Z - a.Z)];
            double[] halves = [(near.X - b.X) / 180, (near.Y - b.Y) / 180, (near.Z - b.Z) / 180];
            if (least.Sum() + 180 < ways.Sum() && halves.Any(h => Math.Abs(h - Math.Round(h)) < 0.01 && (int)Math.Round(h) % 2 != 0))
            {
                yield return (from, to);
            }
        }
    }

    /// <summary>Whether a loop begins anew on the way to a frame: what lies between belongs to the one pass or the other, and goes no long way.</summary>
    private static bool IsNewPass(List<SeenChannel> keyed, double frame) => keyed.SelectMany(c => c.Parts).Select(p => p.Curve).Any(c =>
        c.Keys.Length > 1 && (c.After.Kind == ExtrapolationKind.Loop || c.Before.Kind == ExtrapolationKind.Loop)
        // The end of a pass may be on either of the two frames.
        && Math.Floor((frame - c.Keys[0].Frame) / c.Period + 1e-9) >= Math.Ceiling((frame - 1 - c.Keys[0].Frame) / c.Period - 1e-9));

    private static bool Jumps(Double3 a, Double3 b) => Math.Abs(b.X - a.X) > 120 || Math.Abs(b.Y - a.Y) > 120 || Math.Abs(b.Z - a.Z) > 120;

    /// <summary>The angle between two orientations, in degrees.</summary>
    private static double Turn(Double3 a, Double3 b, RotationOrder order)
    {
        var (p, q) = (Affine.Rotation(a, order), Affine.Rotation(b, order));
        var trace = Double3.Dot(p.X, q.X) + Double3.Dot(p.Y, q.Y) + Double3.Dot(p.Z, q.Z);
        return Math.Acos(Math.Clamp((trace - 1) / 2, -1, 1)) * (180 / Math.PI);
    }
}
