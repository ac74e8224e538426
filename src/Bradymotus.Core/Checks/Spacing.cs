using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>Uneven speed of what turns or travels round and round.</summary>
internal static class Spacing
{
    /// <summary>A turn may be so much faster in one place than in another.</summary>
    private const double MostOfTurns = 1.1;

    /// <summary>What travels may be, since a closed path of few keys is never quite even.</summary>
    private const double MostOfRoutes = 1.8;

    internal static IEnumerable<Finding> OfTurns(CheckedShot shot, KeyedChannel channel)
    {
        var (curve, spec) = (channel.Curve, channel.Spec);
        var keys = curve.Keys;
        if (!channel.IsActive || spec.Family != ChannelFamily.Rotation || spec.Unit != "°" || keys.Length < 2)
        {
            yield break;
        }
        var turned = keys[^1].Value - keys[0].Value;
        var isRound = Math.Abs(turned) >= 359.5 && Math.Abs(turned - 360 * Math.Round(turned / 360)) < 0.5;
        var repeats = curve.Before.Kind is ExtrapolationKind.Loop or ExtrapolationKind.LoopOffset || curve.After.Kind is ExtrapolationKind.Loop or ExtrapolationKind.LoopOffset;
        var fills = keys[0].Frame <= shot.First && keys[^1].Frame >= shot.Last;
        if (!isRound || (!repeats && !fills))
        {
            yield break;
        }
        var steps = new double[(int)Math.Min(20_000, Math.Floor(curve.Period)) + 1];
        curve.Compile().Sample(keys[0].Frame, 1, steps);
        var (slow, fast, slowest) = (double.PositiveInfinity, 0.0, 0);
        for (var i = 1; i < steps.Length; i++)
        {
            var step = (steps[i] - steps[i - 1]) * Math.Sign(turned);
            // Turning back is a motion of another kind.
            if (step < -1e-9)
            {
                yield break;
            }
            (slow, fast, slowest) = (Math.Min(slow, step), Math.Max(fast, step), step < slow ? i : slowest);
        }
        // One spin from rest to rest is a move, and no turning round and round.
        var isMove = !repeats && keys[^1].Frame <= shot.Last && Math.Max(steps[1] - steps[0], steps[^1] - steps[^2]) * Math.Sign(turned) < 0.5 * Math.Abs(turned) / steps.Length;
        if (steps.Length < 3 || isMove || fast <= slow * MostOfTurns + 1e-9)
        {
            yield break;
        }
        yield return shot.Found(FindingKind.Spacing, channel, keys[0].Frame, keys[^1].Frame,
            $"{CheckedShot.Name(channel)} goes round unevenly: between {CheckedShot.Number(slow)}° and {CheckedShot.Number(fast)}° a frame.",
            "Make its interpolation linear: every frame turns by as much.",
            new SetCurve(channel.Address, Even(curve)));
    }

    /// <summary>What travels on a closed path, over and over, at an uneven speed.</summary>
    internal static IEnumerable<Finding> OfRoutes(CheckedShot shot, Node node)
    {
        // A route is of one piece: what another layer does to it is not even and need not be.
        var moves = shot.Moved(node.Id, "transform.translate").SelectMany(c => c.Parts).Where(c => c.Curve.Keys.Length > 2).GroupBy(c => c.Address.Layer);
        return moves.SelectMany(layer => OfRoute(shot, node, [.. layer.Where(c => c.Curve.After.Kind == ExtrapolationKind.Loop || c.Curve.Before.Kind == ExtrapolationKind.Loop)]));
    }

    private static IEnumerable<Finding> OfRoute(CheckedShot shot, Node node, List<KeyedChannel> looping)
    {
        if (looping.Count < 2)
        {
            yield break;
        }
        var (from, period) = (looping[0].Curve.Keys[0].Frame, looping[0].Curve.Period);
        if (period < 8 || looping.Any(c => Math.Abs(c.Curve.Period - period) > Curve.LeastGap))
        {
            yield break;
        }
        const int Samples = 96;
        var points = new Double3[Samples];
        foreach (var channel in looping)
        {
            var values = new double[Samples];
            channel.Curve.Compile().Sample(from, period / Samples, values);
            for (var i = 0; i < Samples; i++)
            {
                points[i] = channel.Address.Base.Path[^1] switch { 'x' => points[i] with { X = values[i] }, 'y' => points[i] with { Y = values[i] }, _ => points[i] with { Z = values[i] } };
            }
        }
        var (slow, fast, total) = (double.PositiveInfinity, 0.0, 0.0);
        var (axis, turned) = (Double3.Zero, 0.0);
        for (var i = 0; i < Samples; i++)
        {
            var (a, b) = (points[(i + 1) % Samples] - points[i], points[(i + 2) % Samples] - points[(i + 1) % Samples]);
            (slow, fast, total) = (Math.Min(slow, a.Length), Math.Max(fast, a.Length), total + a.Length);
            axis += Double3.Cross(a, b);
            turned += Math.Atan2(Double3.Cross(a, b).Length, Double3.Dot(a, b));
        }
        // Round and round: it turns by about one turn in all, one way. What swings to and fro does not.
        if (total < 1e-6 || axis.Length == 0 || turned is < 5.5 or > 7.5 || fast <= slow * MostOfRoutes + 1e-9 || IsOrbit(points, total))
        {
            yield break;
        }
        var perFrame = Samples / period;
        yield return new Finding(FindingKind.Spacing, [node.Id], [.. looping.Select(c => c.Address.ToString())], shot.Frame(from), shot.Frame(from + period),
            $"“{node.Name}” goes round its path unevenly: between {CheckedShot.Number(slow * perFrame)} m and {CheckedShot.Number(fast * perFrame)} m a frame.", null);
    }

    /// <summary>
    /// Whether what goes round is slowest half the way round from where it is fastest, and changes its speed evenly between, as a planet does
    /// (J. Kepler's second law).
    /// </summary>
    private static bool IsOrbit(Double3[] points, double total)
    {
        var speeds = points.Select((p, i) => (points[(i + 1) % points.Length] - p).Length).ToArray();
        var (slowest, fastest) = (Array.IndexOf(speeds, speeds.Min()), Array.IndexOf(speeds, speeds.Max()));
        var (way, falls) = (0.0, true);
        for (int i = fastest, n = 0; n < points.Length; i = (i + 1) % points.Length, n++)
        {
            var change = speeds[(i + 1) % points.Length] - speeds[i];
            falls = falls && i != slowest;
            way += falls ? speeds[i] : 0;
            if (falls ? change > 0.04 * speeds[fastest] : change < -0.04 * speeds[fastest])
            {
                return false;
            }
        }
        return Math.Abs(way / total - 0.5) < 0.12;
    }

    /// <summary>Straight from the first key to the last: those between stay where they are in time, on the straight line.</summary>
    private static Curve Even(Curve curve)
    {
        var (a, b) = (curve.Keys[0], curve.Keys[^1]);
        double On(double frame) => a.Value + (b.Value - a.Value) * ((frame - a.Frame) / curve.Period);
        // The last key keeps its own way on, which its own repetition does not use.
        return new Curve([a with { Segment = Segment.Linear }, b with { Value = On(b.Frame), Segment = Segment.Linear }], curve.Before, curve.After);
    }
}
