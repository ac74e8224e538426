using Bradymotus.Core.Curves;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>
/// From what a hand does to the motion path of an object to edits of its three position channels: path, poses and curves are one thing.
/// Frames are those of the keys in the layer that is worked in.
/// </summary>
public sealed class PathPosing
{
    private static readonly string[] Axes = ["transform.translate.x", "transform.translate.y", "transform.translate.z"];

    private readonly Shot _shot;
    private readonly Node _node;
    private readonly string? _layer;

    /// <param name="shot">The shot.</param>
    /// <param name="node">The id of the object.</param>
    /// <param name="layer">The layer that takes the change; null is below all layers.</param>
    /// <exception cref="Refusal">There is no such object.</exception>
    public PathPosing(Shot shot, string node, string? layer = null)
    {
        (_shot, _node) = (shot, shot.Node(node));
        _layer = shot.FindLayer(layer)?.Id;
    }

    private ChannelAddress At(int axis) => new ChannelAddress(_node.Id, Axes[axis]).In(_layer);

    private Curve? CurveOf(int axis) => _shot.Channel(At(axis)).Curve;

    /// <summary>The frames on which any of the three channels has a key, rising.</summary>
    public IReadOnlyList<double> Frames => [.. Enumerable.Range(0, 3).Select(CurveOf).OfType<Curve>().SelectMany(c => c.Keys).Select(k => k.Frame).Distinct().Order()];

    /// <summary>From what the position channels count in to the world.</summary>
    private Affine Outside(double frame) => CompiledShot.WorldOf(_shot, _node.Parent, frame) * (_node.Offset ?? Affine.Identity);

    /// <summary>Where the object's pivot is in the world.</summary>
    private Double3 Place(double frame)
    {
        double Now(string path) => CompiledShot.ValueOf(_shot, new(_node.Id, path), frame);
        return Outside(frame).Point(new(Now(Axes[0]) + Now("transform.pivot.x"), Now(Axes[1]) + Now("transform.pivot.y"), Now(Axes[2]) + Now("transform.pivot.z")));
    }

    /// <summary>How the three channels have to change for a step in the world, as they count in their layer.</summary>
    private double[] Inside(Double3 step, double frame)
    {
        if (!(Outside(frame) with { Origin = Double3.Zero }).TryInvert(out var inverse))
        {
            throw new Refusal($"“{_node.Name}” has a parent that is scaled to nothing on frame {CurveRules.Number(frame)}: give that a scale first.");
        }
        var by = inverse.Vector(step);
        return [by.X * Share(0, frame), by.Y * Share(1, frame), by.Z * Share(2, frame)];
    }

    /// <summary>How much a channel in its layer has to change for one unit of what is seen.</summary>
    private double Share(int axis, double frame)
    {
        if (_shot.Layers.IsEmpty)
        {
            return 1;
        }
        var address = new ChannelAddress(_node.Id, Axes[axis]);
        double Own(double value) => Posing.InLayer(_shot, [new(address, value)], frame, _layer).First().Value;
        return Own(1) - Own(0);
    }

    /// <summary>Puts the pose of a key somewhere else in the world. A channel that has no keys yet gets one on each frame of the others, so that the rest of the path stays.</summary>
    /// <param name="to">Where the pivot shall be.</param>
    /// <exception cref="Refusal">There is no key on the frame, or the place cannot be reached.</exception>
    public Edit MoveKey(double frame, Double3 to)
    {
        RequireKey(frame);
        var by = Inside(to - Place(frame), frame);
        var edits = new List<Edit>();
        var values = new List<ChannelValue>();
        for (var axis = 0; axis < 3; axis++)
        {
            var channel = _shot.Channel(At(axis));
            if (channel.Locked || Math.Abs(by[axis]) <= 1e-9 * Math.Max(1, Math.Abs(channel.Evaluate(frame))))
            {
                continue;
            }
            edits.AddRange(KeyedLikeTheOthers(axis));
            values.Add(new(At(axis), channel.Evaluate(frame) + by[axis]));
        }
        return new Batch($"Move “{_node.Name}” on its path", [.. edits, new SetKeys(frame, values)]);
    }

    private IEnumerable<Edit> KeyedLikeTheOthers(int axis)
    {
        var channel = _shot.Channel(At(axis));
        if (channel.Curve is null)
        {
            yield return new PutKeys([new(At(axis), [.. Frames.Select(f => new Key(f, channel.Value, _shot.NewKeys?.Segment))])]);
        }
    }

    private void RequireKey(double frame)
    {
        if (!Frames.Contains(frame))
        {
            throw new Refusal($"“{_node.Name}” has no key of its position on frame {CurveRules.Number(frame)}: it may have been moved or removed.");
        }
    }

    /// <summary>Where a handle of a key ends in the world; null where the path does not bend by it.</summary>
    public Double3? HandleEnd(double frame, KeySide side)
    {
        var (step, any) = (new double[3], false);
        var reach = Reach(frame, side);
        for (var axis = 0; axis < 3 && reach != 0; axis++)
        {
            if (CurveOf(axis) is { } curve)
            {
                // Along the way that the channel goes at the key, as far as the handle that leads reaches.
                var share = Share(axis, frame);
                step[axis] = share == 0 ? 0 : Slope(curve, frame, side) * reach / share;
                any = true;
            }
        }
        return any ? Place(frame) + (Outside(frame) with { Origin = Double3.Zero }).Vector(new(step[0], step[1], step[2])) : null;
    }

    /// <summary>How many frames the handles of a key reach: those of the first channel with one that bends; 0 where none does.</summary>
    private double Reach(double frame, KeySide side)
    {
        for (var axis = 0; axis < 3; axis++)
        {
            if (CurveOf(axis) is { } curve && curve.IndexOf(frame) is >= 0 and var i && Bends(curve, i, side)
                && ControlPoints.Offset(curve, i, side).Frames is var frames && Math.Abs(frames) > 1e-6)
            {
                return frames;
            }
        }
        return 0;
    }

    private static bool Bends(Curve curve, int i, KeySide side) => side == KeySide.Out
        ? i < curve.Keys.Length - 1 && curve.Keys[i].Segment is BezierSegment
        : i > 0 && curve.Keys[i - 1].Segment is BezierSegment;

    private static double Slope(Curve curve, double frame, KeySide side)
    {
        var i = curve.IndexOf(frame);
        if (i >= 0)
        {
            var (frames, value) = ControlPoints.Offset(curve, i, side);
            return Math.Abs(frames) > 1e-6 ? value / frames : 0;
        }
        const double apart = 1e-3;
        return (curve.Evaluate(frame + apart) - curve.Evaluate(frame - apart)) / (2 * apart);
    }

    /// <summary>Bends the path: a handle of a key ends somewhere else. The lengths of the handles in time stay; a joined key turns its other handle too.</summary>
    /// <param name="to">Where the handle shall end in the world.</param>
    /// <exception cref="Refusal">There is no key on the frame, or nothing bends on that side.</exception>
    public Edit MoveHandle(double frame, KeySide side, Double3 to)
    {
        RequireKey(frame);
        var by = Inside(to - Place(frame), frame);
        var reach = Reach(frame, side);
        var isFree = reach == 0;
        var edits = new List<Edit>();
        for (var axis = 0; axis < 3; axis++)
        {
            var channel = _shot.Channel(At(axis));
            if (channel.Locked || (channel.Curve is null && Math.Abs(by[axis]) < 1e-9))
            {
                continue;
            }
            var shot = _shot;
            foreach (var edit in KeyedLikeTheOthers(axis))
            {
                edits.Add(edit);
                shot = edit.Apply(shot);
            }
            if (shot.Channel(At(axis)).Curve!.IndexOf(frame) < 0)
            {
                var insert = new InsertKeys([new(At(axis), frame)]);
                edits.Add(insert);
                shot = insert.Apply(shot);
            }
            foreach (var edit in MadeToBend(shot.Channel(At(axis)).Curve!, axis, frame, side))
            {
                edits.Add(edit);
                shot = edit.Apply(shot);
            }
            var curve = shot.Channel(At(axis)).Curve!;
            var i = curve.IndexOf(frame);
            if (!Bends(curve, i, side))
            {
                continue;
            }
            var frames = ControlPoints.Offset(curve, i, side).Frames;
            // A handle that stands upright gets the usual length.
            frames = Math.Abs(frames) > 1e-6 ? frames : (curve.Keys[side == KeySide.Out ? i + 1 : i - 1].Frame - frame) / 3;
            reach = isFree ? frames : reach;
            edits.Add(new SetHandle(new(At(axis), frame), side, new FreeHandle(frames, by[axis] * frames / reach)));
        }
        return edits.Any(e => e is SetHandle)
            ? new Batch($"Bend the path of “{_node.Name}”", edits)
            : throw new Refusal($"The path of “{_node.Name}” does not bend on this side of frame {CurveRules.Number(frame)}: make the segment a Bézier curve first.");
    }

    /// <summary>A straight segment becomes one with handles, which at its other end still aims at the key.</summary>
    private IEnumerable<Edit> MadeToBend(Curve curve, int axis, double frame, KeySide side)
    {
        var i = curve.IndexOf(frame);
        var (lead, other) = side == KeySide.Out ? (i, i + 1) : (i - 1, i - 1);
        if (lead >= 0 && other < curve.Keys.Length && curve.Keys[lead].Segment is LinearSegment)
        {
            yield return new SetSegments([new(At(axis), curve.Keys[lead].Frame)], Segment.Bezier);
            yield return new SetHandleKinds([new(At(axis), curve.Keys[other].Frame)], side == KeySide.Out ? Handle.Straight : null, side == KeySide.In ? Handle.Straight : null);
        }
    }

    /// <summary>
    /// Gives a frame between two keys the place that another frame between the same two has: the object comes there earlier or later, on the same way.
    /// </summary>
    /// <param name="frame">The frame that is given another place.</param>
    /// <param name="from">The frame that has it now.</param>
    /// <exception cref="Refusal">A key lies between the two, or on one of them.</exception>
    public Edit MoveTick(double frame, double from)
    {
        var (low, high) = (Math.Min(frame, from), Math.Max(frame, from));
        var between = Frames.Where(f => f > low - Curve.LeastGap && f < high + Curve.LeastGap).ToList();
        if (between.Count > 0)
        {
            throw new Refusal($"There is a key on frame {CurveRules.Number(between[0])}: a frame is moved along the path between two keys; the keys themselves are moved in time on the strip or in the tracks.");
        }
        ChannelAddress[] keyed = [.. Enumerable.Range(0, 3).Where(a => CurveOf(a) is not null && !_shot.Channel(At(a)).Locked).Select(At)];
        if (keyed.Length == 0 || Frames[0] > low || Frames[^1] < high)
        {
            throw new Refusal($"“{_node.Name}” has no keys around frame {CurveRules.Number(frame)} to move it between: key its position first.");
        }
        var (first, last) = (Frames.Last(f => f < low), Frames.First(f => f > high));
        return new Batch($"Retime “{_node.Name}” on its path", [new PutKeys([.. keyed.Select(a => new ChannelKeys(a, [.. Retimed(_shot.Channel(a).Curve!, first, from, last, frame)]))])]);
    }

    /// <summary>
    /// The keys of a curve from one frame to another, with a key between that has moved in time. The handles become longer or shorter with their
    /// part of the time and keep their values: so all three channels go the same way as before.
    /// </summary>
    private static IEnumerable<Key> Retimed(Curve curve, double first, double from, double last, double to)
    {
        var (before, after) = ((to - first) / (from - first), (last - to) / (last - from));
        Handle Scaled(Handle handle, double by) => handle is FreeHandle free ? free with { Frames = free.Frames * by } : handle;
        foreach (var key in KeyInsertion.Insert(curve, first, from, last).Keys.Where(k => k.Frame >= first && k.Frame <= last))
        {
            yield return key with
            {
                Frame = key.Frame == from ? to : key.Frame < from ? first + (key.Frame - first) * before : last - (last - key.Frame) * after,
                In = key.Frame == first ? key.In : Scaled(key.In, key.Frame <= from ? before : after),
                Out = key.Frame == last ? key.Out : Scaled(key.Out, key.Frame < from ? before : after),
            };
        }
    }
}
