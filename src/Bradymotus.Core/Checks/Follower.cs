using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Checks;

/// <summary>The box round a mesh on a frame; empty where it is not seen.</summary>
internal readonly record struct Room(Double3 Min, Double3 Max)
{
    internal static Room None => new(new(double.PositiveInfinity, 0, 0), new(double.NegativeInfinity, 0, 0));

    internal bool IsNone => Min.X > Max.X;

    internal bool Meets(in Room b, double near) =>
        Min.X <= b.Max.X + near && b.Min.X <= Max.X + near && Min.Y <= b.Max.Y + near && b.Min.Y <= Max.Y + near && Min.Z <= b.Max.Z + near && b.Min.Z <= Max.Z + near;

    internal static Room Around(ReadOnlySpan<float> positions, in Affine map)
    {
        var (min, max) = (new Double3(double.MaxValue, double.MaxValue, double.MaxValue), new Double3(double.MinValue, double.MinValue, double.MinValue));
        for (var v = 0; v < positions.Length; v += 3)
        {
            var p = map.Point(new(positions[v], positions[v + 1], positions[v + 2]));
            min = new(Math.Min(min.X, p.X), Math.Min(min.Y, p.Y), Math.Min(min.Z, p.Z));
            max = new(Math.Max(max.X, p.X), Math.Max(max.Y, p.Y), Math.Max(max.Z, p.Z));
        }
        return new(min, max);
    }

    internal Room With(in Room b) => new(
        new(Math.Min(Min.X, b.Min.X), Math.Min(Min.Y, b.Min.Y), Math.Min(Min.Z, b.Min.Z)),
        new(Math.Max(Max.X, b.Max.X), Math.Max(Max.Y, b.Max.Y), Math.Max(Max.Z, b.Max.Z)));
}

/// <summary>A mesh of the shot: that of a node, or one that an instance or a repeater draws.</summary>
/// <param name="Node">The node whose shape it has, in the order of evaluation.</param>
/// <param name="Id">The id of that node, or of the instance or repeater: what a person picks.</param>
/// <param name="Key">Its own among all of the shot.</param>
/// <param name="Name">For people.</param>
internal record Body(int Node, string Id, string Key, string Name)
{
    /// <summary>It is drawn by an instance or a repeater.</summary>
    internal virtual bool IsCopy => false;

    /// <summary>The same for another state of frames, with nothing known yet.</summary>
    internal virtual Body Anew() => this;

    /// <summary>Its shape and where it stands on the evaluated frame; null where it is not rendered.</summary>
    internal virtual (MeshState Mesh, Affine World)? On(FrameState state) => state.Rendered[Node] && state.Mesh(Node) is { } mesh ? (mesh, state.World[Node]) : null;

    /// <summary>The pass in which it last became another.</summary>
    internal virtual int ChangedIn(FrameState state) => state.Changed[Node];
}

/// <param name="Owner">The instance or repeater, in the order of evaluation.</param>
/// <param name="Ordinal">Which of its meshes it is.</param>
internal sealed record CopyBody(int Node, string Id, string Key, string Name, int Owner, int Ordinal, CopyRuns Runs) : Body(Node, Id, Key, Name)
{
    private (int Version, Affine World) _last = (-1, default);
    private int _changed;

    internal override bool IsCopy => true;

    internal override Body Anew() => new CopyBody(Node, Id, Key, Name, Owner, Ordinal, new());

    internal override (MeshState Mesh, Affine World)? On(FrameState state) =>
        Runs.Find(state, Owner, Ordinal) is { Rendered: true } copy && copy.Source == Node && copy.State.Mesh(copy.Node) is { } mesh ? (mesh, copy.World) : null;

    internal override int ChangedIn(FrameState state)
    {
        if (On(state) is var (mesh, world) && _last != (mesh.Version, world))
        {
            _last = (mesh.Version, world);
            _changed = state.Pass;
        }
        return _changed;
    }
}

/// <summary>Finds copies by the instance or repeater that draws them.</summary>
internal sealed class CopyRuns
{
    private readonly Dictionary<int, (int Start, int Count)> _runs = [];
    private int _pass = -1;

    internal Copy? Find(FrameState state, int owner, int ordinal) =>
        On(state).TryGetValue(owner, out var run) && ordinal < run.Count ? state.Copies[run.Start + ordinal] : null;

    /// <summary>Where the copies of each begin in the list, and how many there are.</summary>
    internal Dictionary<int, (int Start, int Count)> On(FrameState state)
    {
        if (_pass != state.Pass)
        {
            _pass = state.Pass;
            _runs.Clear();
            for (var i = 0; i < state.Copies.Count; i++)
            {
                var owner = state.Copies[i].Owner;
                _runs[owner] = _runs.TryGetValue(owner, out var run) ? (run.Start, run.Count + 1) : (i, 1);
            }
        }
        return _runs;
    }
}

/// <summary>The rooms that a mesh takes, and how large it is.</summary>
/// <param name="frames">How many frames there are; 1 where it stands still.</param>
internal sealed class Rooms(int frames)
{
    /// <summary>The room on each frame; one for all where it stands still.</summary>
    internal Room[] OnFrames { get; } = new Room[frames];

    /// <summary>In metres; 0 while it has not been seen.</summary>
    internal double Size { get; set; }
}

/// <summary>A mesh that is being followed through the frames.</summary>
/// <param name="body">The mesh.</param>
/// <param name="rooms">The room that it takes.</param>
internal sealed class Follower(Body body, Rooms rooms)
{
    private PlacedMesh? _placed;
    private int _topology = -1, _shape = -1, _stands = -1;
    private bool _isOwn;

    internal Body Body => body;

    /// <summary>How large it is where it is first seen: the diagonal of a cube whose sides are as long as the middle one of its own box. So a beam is as large as it is thick.</summary>
    internal double Size => rooms.Size;

    /// <summary>The box round all that it passes through, between the frames as well: there it may be half a step farther.</summary>
    internal Room Everywhere { get; } = EverywhereOf(rooms.OnFrames);

    private static Room EverywhereOf(Room[] rooms)
    {
        var (all, last, step) = (Room.None, Room.None, 0.0);
        foreach (var room in rooms)
        {
            if (room.IsNone)
            {
                continue;
            }
            step = last.IsNone ? step : Math.Max(step, (room.Min + room.Max - last.Min - last.Max).Length / 2);
            (all, last) = (all.IsNone ? room : all.With(room), room);
        }
        var more = new Double3(step, step, step) * 0.5;
        return all.IsNone ? all : new(all.Min - more, all.Max + more);
    }

    internal Room At(int frame) => rooms.OnFrames[rooms.OnFrames.Length == 1 ? 0 : frame];

    /// <summary>Its triangles where they are on this frame.</summary>
    internal IEnumerable<bool> Place(FrameState state, Action<PlacedMesh> give)
    {
        var (mesh, world) = body.On(state)!.Value;
        if (_placed is null || _topology != mesh.Rest.Id || mesh.IsBent != _isOwn)
        {
            // A mesh at rest shares its tree with all that are like it; a bent one has its own, whose boxes move.
            _isOwn = mesh.IsBent;
            if (_isOwn)
            {
                var own = new TriangleTree(mesh.Positions, mesh.Indices);
                foreach (var _ in own.Build())
                {
                    yield return true;
                }
                _placed = new(own);
            }
            else
            {
                foreach (var _ in TriangleTree.Of(mesh.Rest, tree => _placed = new(tree)))
                {
                    yield return true;
                }
            }
            (_topology, _shape, _stands) = (mesh.Rest.Id, mesh.Version, -1);
        }
        else if (_isOwn && _shape != mesh.Version)
        {
            foreach (var _ in _placed.Tree.Refit(mesh.Positions))
            {
                yield return true;
            }
            _shape = mesh.Version;
        }
        if (body.ChangedIn(state) > _stands)
        {
            _placed!.Stand(world);
            _stands = state.Pass;
        }
        give(_placed!);
    }

    /// <summary>Notes the room that a mesh takes on the evaluated frame.</summary>
    /// <param name="boxes">The boxes of meshes at rest, as far as they are known.</param>
    internal static Room Look(FrameState state, Body body, Dictionary<Mesh, (Double3 Min, Double3 Max)> boxes, Rooms? rooms = null)
    {
        if (body.On(state) is not var (mesh, world) || mesh.Rest.TriangleCount == 0 || !world.IsWithin(1e9))
        {
            return Room.None;
        }
        ref var box = ref System.Runtime.InteropServices.CollectionsMarshal.GetValueRefOrAddDefault(boxes, mesh.Rest, out var isKnown);
        if (!isKnown)
        {
            box = mesh.Rest.Bounds();
        }
        var (low, high) = box;
        if (rooms is { Size: 0 })
        {
            rooms.Size = SizeOf(new((high.X - low.X) * world.X.Length, (high.Y - low.Y) * world.Y.Length, (high.Z - low.Z) * world.Z.Length));
        }
        if (mesh.IsBent)
        {
            return Room.Around(mesh.Positions, world);
        }
        Span<float> corners = stackalloc float[24];
        for (var c = 0; c < 8; c++)
        {
            (corners[3 * c], corners[3 * c + 1], corners[3 * c + 2]) = ((float)((c & 1) == 0 ? low.X : high.X), (float)((c & 2) == 0 ? low.Y : high.Y), (float)((c & 4) == 0 ? low.Z : high.Z));
        }
        return Room.Around(corners, world);
    }

    private static double SizeOf(Double3 sides)
    {
        Span<double> sorted = [sides.X, sides.Y, sides.Z];
        sorted.Sort();
        // A wire has no thickness to speak of.
        return Math.Max(Math.Sqrt(3) * sorted[1], 0.05 * sorted[2]);
    }
}
