using System.Globalization;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>
/// Takes an object out of another that it passes through: its keys on those frames, and new ones where they are not enough, are moved by as much
/// as it takes, the way that is shortest where it is deepest. Measured on the triangles, as the finding is.
/// </summary>
internal sealed class TakeOut
{
    // After so many looks it is given up.
    private const int MostRounds = 24;

    private const int MostKeys = 300;

    // A surface that leans no more than this from an axis is left along the axis alone, so that one curve is changed and not three.
    private static readonly double NearAxis = Math.Cos(Math.PI / 9);

    private readonly CheckedShot _shot;
    private readonly Node _mover;
    private readonly Body _moved, _other;
    private readonly IReadOnlyList<ChannelAddress> _axes;
    private readonly int _first, _last;
    private readonly float _tolerance;
    private readonly float[] _before;
    // What is tried where this one cannot be moved out.
    private TakeOut? _else;

    private TakeOut(CheckedShot shot, Node mover, Body moved, Body other, IReadOnlyList<ChannelAddress> axes, int first, int last, float tolerance, float[] before) =>
        (_shot, _mover, _moved, _other, _axes, _first, _last, _tolerance, _before) = (shot, mover, moved, other, axes, first, last, tolerance, before);

    /// <summary>What is done, for people.</summary>
    internal string Words => $"Move “{_mover.Name}” out of “{_other.Name}”, on its keys there and on new ones where those are not enough.";

    /// <summary>Which of two objects can be taken out of the other; null where neither has keys of its position.</summary>
    /// <param name="a">The one that is moved rather.</param>
    /// <param name="first">Where they are in each other.</param>
    /// <param name="tolerance">How deep they may be.</param>
    /// <param name="before">How deep they are on each frame of the range.</param>
    internal static TakeOut? Of(CheckedShot shot, Body a, Body b, int first, int last, float tolerance, float[] before)
    {
        // A whole row is moved only where what meets one of it cannot be.
        (a, b) = a.IsCopy && !b.IsCopy ? (b, a) : (a, b);
        var (one, other) = (From(shot, a, b, first, last, tolerance, before), From(shot, b, a, first, last, tolerance, before));
        if (one is not null)
        {
            one._else = other;
        }
        return one ?? other;
    }

    private static TakeOut? From(CheckedShot shot, Body moved, Body other, int first, int last, float tolerance, float[] before)
    {
        if (shot.Compiled.NodeAt(moved.Node) is MeshNode mesh && mesh.Deformers.OfType<Shaping.SkinDeformer>().Any())
        {
            return null;
        }
        for (var node = shot.Shot.FindNode(moved.Id); node is not null && !shot.Shot.Descendants([node.Id]).Contains(other.Id); node = shot.Shot.FindNode(node.Parent))
        {
            // In the lowest curve that has a say.
            var keyed = shot.Moved(node.Id, "transform.translate.").Select(c => c.Parts[0].Address).ToList();
            if (keyed.Count > 0)
            {
                return node.Locked || keyed.Any(c => shot.Shot.Channel(c).Locked || shot.Shot.FindLayer(c.Layer ?? "") is { Locked: true }) ? null
                    : new(shot, node, moved, other, keyed, first, last, tolerance, before);
            }
            // For a limb that is posed the whole character is not moved away.
            if (node is JointNode or ControlNode && shot.Moved(node.Id, "transform.").Count > 0)
            {
                return null;
            }
        }
        return null;
    }

    /// <summary>The change that does it.</summary>
    /// <exception cref="Refusal">It cannot be done by moving it one way.</exception>
    internal Edit Work()
    {
        try
        {
            return WorkAlone();
        }
        catch (Refusal) when (_else is not null)
        {
            return _else.WorkAlone();
        }
    }

    private Batch WorkAlone()
    {
        var probe = new Probe(_shot, _moved, _other, _tolerance);
        var depths = Enumerable.Range(_first, _last - _first + 1).Select(f => (Frame: f, Depth: probe.Measure(f, out var way), Way: way)).ToList();
        var deepest = depths.MaxBy(d => d.Depth);
        if (!(deepest.Depth > _tolerance))
        {
            return new Batch(Label, []);
        }
        var out_ = Snapped(deepest.Way);
        var shot = _shot.Shot;
        var edits = new List<Edit>();
        var placed = new SortedSet<double>(_axes.SelectMany(a => shot.Channel(a).Curve!.Keys).Select(k => k.Frame).Where(f => f >= _first && f <= _last));
        // The keys that are in it first, each by as much as it needs.
        var wanted = placed.Select(f => (Frame: f, Depth: probe.Measure(f, out _))).Where(p => p.Depth > 0).ToList();
        if (wanted.Count > MostKeys)
        {
            throw new Refusal($"“{_mover.Name}” has {wanted.Count} keys on {CheckedShot.Frames(_first, _last)}, too many to move one by one: simplify its curves first.");
        }
        if (wanted.Count == 0)
        {
            wanted.Add((deepest.Frame, deepest.Depth));
        }
        for (var round = 0; round < MostRounds; round++)
        {
            foreach (var (frame, depth) in wanted)
            {
                foreach (var edit in Moved(shot, frame, out_, depth))
                {
                    edits.Add(edit);
                    shot = edit.Apply(shot);
                }
                placed.Add(frame);
            }
            probe.Show(shot);
            // A key has a say as far as the second one from it.
            var keys = _axes.SelectMany(a => shot.Channel(a).Curve!.Keys).Select(k => k.Frame).Distinct().Order().ToList();
            var from = (int)Math.Max(_shot.First, Math.Ceiling(keys.LastOrDefault(k => k < placed.Min, _shot.First)));
            var to = (int)Math.Min(_shot.Last, keys.FirstOrDefault(k => k > placed.Max, _shot.Last));
            var worst = (Frame: 0, Depth: 0.0);
            for (var f = from; f <= to; f++)
            {
                // What was in it before and lies beyond belongs to another finding.
                if ((f < _first || f > _last) && _before[f - _shot.First] > 0)
                {
                    continue;
                }
                var depth = probe.Measure(f, out _);
                worst = depth > worst.Depth ? (f, depth) : worst;
                // From before it to behind it between two frames is no way out.
                if (f < to && (depth = probe.Measure(f + 0.5, out _)) > 0.5 * deepest.Depth && depth > worst.Depth)
                {
                    worst = (f, depth);
                }
            }
            // Nor is it one to go through it earlier or later.
            if (worst.Depth > _tolerance && (worst.Frame < _first - 2 || worst.Frame > _last + 2))
            {
                break;
            }
            if (worst.Depth <= _tolerance)
            {
                return new Batch(Label, edits);
            }
            // Beside a key that has been moved already it goes farther; elsewhere there is one more.
            var near = placed.MinBy(p => Math.Abs(p - worst.Frame));
            wanted = [(Math.Abs(near - worst.Frame) < 1.5 ? near : worst.Frame, worst.Depth * 1.05)];
        }
        throw new Refusal($"“{_mover.Name}” cannot be taken out of “{_other.Name}” by moving it one way: move it by hand on {CheckedShot.Frames(_first, _last)}.");
    }

    private string Label => $"Take {_mover.Name} out of {_other.Name}";

    private static Double3 Snapped(Double3 way)
    {
        foreach (var axis in (Double3[])[Double3.UnitX, Double3.UnitY, Double3.UnitZ])
        {
            if (Math.Abs(Double3.Dot(way, axis)) > NearAxis)
            {
                return axis * Math.Sign(Double3.Dot(way, axis));
            }
        }
        return way;
    }

    /// <summary>Keys the object on a frame so far from where it is, along its keyed axes.</summary>
    private List<Edit> Moved(Shot shot, double frame, Double3 way, double by)
    {
        var above = CompiledShot.WorldOf(shot, _mover.Parent, frame);
        if (_mover.Offset is { } offset)
        {
            above *= offset;
        }
        if (!above.TryInvert(out var back))
        {
            throw new Refusal($"What “{_mover.Name}” hangs under has no size on frame {CheckedShot.Number(frame)}: it cannot be moved there.");
        }
        // A little more than measured, and a round number.
        var step = back.Vector(way);
        var unit = Math.Pow(10, Math.Floor(Math.Log10(by)) - 2);
        var far = Math.Ceiling(by / unit) * unit;
        var values = new List<ChannelValue>();
        var along = 0.0;
        foreach (var axis in _axes)
        {
            var share = axis.Base.Path[^1] switch { 'x' => step.X, 'y' => step.Y, _ => step.Z };
            if (Math.Abs(share) < 1e-6 * step.Length)
            {
                continue;
            }
            along += share * share;
            var seen = new ChannelValue(axis.Base, CompiledShot.ValueOf(shot, axis, frame) + share * far);
            values.AddRange(LayerPosing.Solve(shot, [seen], frame, axis.Layer).SelectMany(s => s.Own).Select(v => v with { Value = decimal.ToDouble(Math.Round((decimal)v.Value, 6)) }));
        }
        if (along < 0.25 * Double3.Dot(step, step))
        {
            throw new Refusal($"“{_mover.Name}” has no keys on the axis along which it leaves “{_other.Name}” ({way.X.ToString("0.##", CultureInfo.InvariantCulture)}, {way.Y.ToString("0.##", CultureInfo.InvariantCulture)}, {way.Z.ToString("0.##", CultureInfo.InvariantCulture)}): key its position there first.");
        }
        // A key that is new here must not swing past where it was put; one that was there keeps its handles.
        var added = values.Where(v => shot.Channel(v.Address).Curve?.KeyAt(frame) is null).Select(v => new KeyAddress(v.Address, frame)).ToList();
        return added.Count == 0 ? [new SetKeys(frame, values)] : [new SetKeys(frame, values), new SetHandleKinds(added, Handle.Auto, Handle.Auto, true)];
    }

    /// <summary>Says how deep two meshes are in each other in a shot that is being changed.</summary>
    private sealed class Probe
    {
        private readonly FrameState _state;
        private readonly Follower _a, _b;
        private readonly double _tolerance;

        internal Probe(CheckedShot shot, Body a, Body b, double tolerance)
        {
            _tolerance = tolerance;
            _state = new(shot.Compiled, shot.Assets);
            (_a, _b) = (new(a.Anew(), new(0)), new(b.Anew(), new(0)));
        }

        internal void Show(Shot shot) => _state.Show(new CompiledShot(shot, _state.Compiled));

        /// <param name="way">The shortest way out of it for the first, of length 1.</param>
        internal double Measure(double frame, out Double3 way)
        {
            _state.Evaluate(frame);
            way = Double3.UnitY;
            if (_a.Body.On(_state) is null || _b.Body.On(_state) is null)
            {
                return 0;
            }
            var (a, b) = (Place(_a), Place(_b));
            var isIn = false;
            Through(PlacedMesh.Cross(a, b, () => isIn = true));
            var (depth, found) = (0.0, Double3.UnitY);
            Through(Penetration.Find(a, b, isIn, _tolerance, (d, w) => (depth, found) = (d, w)));
            way = found;
            return depth;
        }

        private PlacedMesh Place(Follower follower)
        {
            PlacedMesh? placed = null;
            Through(follower.Place(_state, m => placed = m));
            return placed!;
        }

        private static bool Through(IEnumerable<bool> work)
        {
            foreach (var _ in work)
            {
            }
            return true;
        }
    }
}
