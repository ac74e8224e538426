using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>A corner in an arc without a contact: the way of an object turns at once, at speed, and nothing is there that would turn it.</summary>
internal static class Kink
{
    private const double LeastAngle = 30;

    /// <summary>What turns back the way it came is no corner in an arc.</summary>
    private const double MostAngle = 165;

    internal static IEnumerable<Finding> Of(CheckedShot shot, Node node)
    {
        var keyed = shot.Moved(node.Id, "transform.translate.");
        if (keyed.Count == 0 || shot.Count < 5)
        {
            yield break;
        }
        var path = shot.Path(node.Id);
        var fastest = 0.0;
        for (var i = 1; i < path.Length; i++)
        {
            fastest = Math.Max(fastest, (path[i] - path[i - 1]).Length);
        }
        if (fastest < 1e-6)
        {
            yield break;
        }
        // What goes along straight lines from corner to corner is drawn so.
        var parts = keyed.SelectMany(c => c.Parts).Select(p => p.Curve).ToList();
        if (parts.All(c => c.Keys.Length >= 4 && c.Keys.Take(c.Keys.Length - 1).All(k => k.Segment is LinearSegment or HoldSegment)))
        {
            yield break;
        }
        for (var i = 2; i + 2 < path.Length; i++)
        {
            var angle = Angle(path, i);
            if (angle is < LeastAngle or > MostAngle || Speed(path, i) < 0.1 * fastest || Speed(path, i + 1) < 0.1 * fastest
                // What turns on and on is a tight bend, or a shaking.
                || Math.Max(Angle(path, i - 1), Angle(path, i + 1)) > 0.4 * angle
                || !IsSharp(keyed, shot.First + i, out var isMirrored) || isMirrored || IsBounce(path, i, angle) || shot.Contacts.Touches(node.Id, i - 1, i + 1))
            {
                continue;
            }
            var frame = shot.First + i;
            var corners = keyed.SelectMany(c => c.KeyedOn(frame)).ToList();
            yield return new Finding(FindingKind.Kink, [node.Id], [.. (corners.Count > 0 ? corners : keyed.SelectMany(c => c.Parts)).Select(c => c.Address.ToString())], frame, frame,
                $"The way of “{node.Name}” has a corner of {Math.Round(angle)}° on frame {frame}, and nothing is there that it would meet.",
                corners.Count > 0 ? "Round it: smooth, joined handles on both sides." : null)
            { Fix = corners.Count > 0 ? Round(corners, frame) : null };
        }
    }

    private static double Speed(Double3[] path, int i) => (path[i] - path[i - 1]).Length;

    /// <summary>The angle in degrees by which the way turns at a point; 0 where it stands still.</summary>
    private static double Angle(Double3[] path, int i)
    {
        var (a, b) = (path[i] - path[i - 1], path[i + 1] - path[i]);
        return a.Length < 1e-9 || b.Length < 1e-9 ? 0 : Math.Atan2(Double3.Cross(a, b).Length, Double3.Dot(a, b)) * (180 / Math.PI);
    }

    /// <summary>Whether the own way of the object turns at the very instant; a soft start is spread over a frame.</summary>
    /// <param name="isMirrored">It goes on as a mirror throws it back: along one axis the other way as fast, along the others as before. It has met an edge.</param>
    private static bool IsSharp(List<SeenChannel> keyed, double frame, out bool isMirrored)
    {
        const double Instant = 0.02;
        var (before, after) = (Double3.Zero, Double3.Zero);
        foreach (var c in keyed)
        {
            var now = c.At(frame);
            var (a, b) = (now - c.At(frame - Instant), c.At(frame + Instant) - now);
            (before, after) = c.Address.Path[^1] switch
            {
                'x' => (before with { X = a }, after with { X = b }),
                'y' => (before with { Y = a }, after with { Y = b }),
                _ => (before with { Z = a }, after with { Z = b }),
            };
        }
        var slack = 0.1 * before.Length;
        (double Was, double Is)[] axes = [(before.X, after.X), (before.Y, after.Y), (before.Z, after.Z)];
        var turned = axes.Count(a => Math.Abs(a.Was + a.Is) <= slack && Math.Abs(a.Was) > slack);
        isMirrored = keyed.Count > 1 && turned == 1 && axes.Count(a => Math.Abs(a.Was - a.Is) <= slack) == 2;
        return Math.Atan2(Double3.Cross(before, after).Length, Double3.Dot(before, after)) * (180 / Math.PI) > 0.6 * LeastAngle;
    }

    /// <summary>What falls and flies up again has met something, whether it is in the shot or not.</summary>
    private static bool IsBounce(Double3[] path, int i, double angle) => angle > 90 && path[i].Y < path[i - 1].Y && path[i].Y < path[i + 1].Y;

    private static Batch Round(List<KeyedChannel> corners, int frame)
    {
        var edits = new List<Edit>();
        foreach (var c in corners)
        {
            var at = c.Curve.IndexOf(frame);
            List<KeyAddress> curved = [new(c.Address, c.Curve.Keys[at].Frame)];
            if (at > 0)
            {
                curved.Add(new(c.Address, c.Curve.Keys[at - 1].Frame));
            }
            edits.Add(new SetSegments(curved, Segment.Bezier));
            edits.Add(new SetHandleKinds([new(c.Address, c.Curve.Keys[at].Frame)], Handle.Smooth, Handle.Smooth, true));
        }
        return new("Round a corner", edits);
    }
}
