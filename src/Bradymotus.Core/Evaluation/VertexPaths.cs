using System.Collections.Immutable;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Evaluation;

/// <summary>
/// The ways of chosen vertices (<see cref="MeshNode.Traced"/>) through the world, as their shapes are bent: worked out frame by frame, so that it
/// can run beside other work, and again only on frames that a change reaches.
/// </summary>
/// <param name="assets">The meshes that shots refer to.</param>
public sealed class VertexPaths(ShotAssets? assets = null)
{
    private readonly Dictionary<string, TracedMesh> _meshes = [];
    private int _versions;
    private (Shot? Shot, int First, int Last) _shown;

    /// <summary>The meshes with traced vertices, in the order of the shot.</summary>
    public IReadOnlyList<TracedMesh> Meshes { get; private set; } = [];

    /// <summary>Goes over to another state of the shot, or to another range of whole frames.</summary>
    public void Show(Shot shot, int first, int last)
    {
        if (ReferenceEquals(shot, _shown.Shot) && (first, last) == (_shown.First, _shown.Last))
        {
            return;
        }
        _shown = (shot, first, last);
        var traced = shot.Nodes.OfType<MeshNode>().Where(n => !n.Traced.IsEmpty).ToList();
        foreach (var gone in _meshes.Keys.Except(traced.Select(n => n.Id)).ToList())
        {
            _meshes.Remove(gone);
        }
        foreach (var node in traced)
        {
            if (!_meshes.TryGetValue(node.Id, out var mesh))
            {
                _meshes[node.Id] = mesh = new(node.Id, assets, () => ++_versions);
            }
            mesh.Show(shot, node, first, last);
        }
        Meshes = [.. traced.Select(n => _meshes[n.Id])];
    }

    /// <summary>Works out the frame that is nearest to another and not known yet.</summary>
    /// <returns>False when all are known.</returns>
    public bool Step(double near)
    {
        foreach (var mesh in Meshes)
        {
            if (mesh.Step(near))
            {
                return true;
            }
        }
        return false;
    }

    /// <summary>Meshes have come: what is of one that was not there is worked out again.</summary>
    public void ReloadAssets()
    {
        foreach (var mesh in Meshes)
        {
            mesh.ReloadAssets();
        }
    }
}

/// <summary>A mesh with the ways of its traced vertices.</summary>
public sealed class TracedMesh
{
    private readonly ShotAssets? _assets;
    private readonly Func<int> _next;
    private FrameState? _state;
    // For each frame, itself when it is unknown, else one nearer to the next unknown one; one past the last is always an end. The other way, with
    // all places one further up, 0 is the end. So the nearest is found in next to no time, however many are known.
    private int[] _nextUnknown = [0], _lastUnknown = [0];
    private int _unknown, _last;

    internal TracedMesh(string node, ShotAssets? assets, Func<int> next) => (Node, _assets, _next) = (node, assets, next);

    /// <summary>The id of the object.</summary>
    public string Node { get; }

    /// <summary>The vertices, by their place in the mesh.</summary>
    public ImmutableArray<int> Vertices { get; private set; } = [];

    /// <summary>The frame of the first point.</summary>
    public int First { get; private set; }

    /// <summary>For each vertex: x, y, z in the world for each frame; not a number where it is not known yet, or the vertex is nowhere.</summary>
    public IReadOnlyList<double[]> Points { get; private set; } = [];

    /// <summary>The frames of the range on which something that moves them has a key, rising.</summary>
    public IReadOnlyList<double> Keys { get; private set; } = [];

    /// <summary>Another number whenever a point is another.</summary>
    public int Version { get; private set; }

    internal void Show(Shot shot, MeshNode node, int first, int last)
    {
        var part = PartOf(shot, node);
        var before = _state?.Compiled;
        var isSame = before is not null && before.Shot.Layers == part.Layers && before.Shot.Rate == part.Rate && before.Shot.Nodes.AsSpan().SequenceEqual(part.Nodes.AsSpan());
        var isOtherRange = first != First || last != _last || !Vertices.SequenceEqual(node.Traced);
        if (isSame && !isOtherRange)
        {
            return;
        }
        if (isOtherRange)
        {
            (First, _last, Vertices) = (first, last, node.Traced);
            Points = [.. Vertices.Select(_ => new double[3 * Math.Max(0, last - first + 1)])];
            (_nextUnknown, _lastUnknown) = (new int[Math.Max(0, last - first + 1) + 1], new int[Math.Max(0, last - first + 1) + 1]);
            Forget(first, last);
        }
        if (!isSame)
        {
            var compiled = new CompiledShot(part, before);
            if (before is null)
            {
                _state = new(compiled, _assets);
            }
            else
            {
                var (from, to) = Reach.Of(before.Shot, part) ?? (double.NegativeInfinity, double.PositiveInfinity);
                _state!.Show(compiled);
                Forget(from, to);
            }
        }
        Keys = [.. _state!.Compiled.KeyFrames().Where(f => f >= first && f <= last)];
        Version = _next();
    }

    internal bool Step(double near)
    {
        if (_unknown == 0)
        {
            return false;
        }
        var at = Math.Clamp((int)Math.Round(near) - First, 0, _nextUnknown.Length - 2);
        var (later, earlier) = (Unknown(_nextUnknown, at), Unknown(_lastUnknown, at + 1) - 1);
        Work(later < _nextUnknown.Length - 1 && (earlier < 0 || later - at <= at - earlier) ? later : earlier);
        return true;
    }

    /// <summary>The end of a chain of places, each of which points to one that is nearer to the end; what was passed points there from now on.</summary>
    private static int Unknown(int[] chain, int at)
    {
        var end = at;
        while (chain[end] != end)
        {
            end = chain[end];
        }
        while (chain[at] != end)
        {
            (chain[at], at) = (end, chain[at]);
        }
        return end;
    }

    internal void ReloadAssets()
    {
        if (_state?.MissingAssets().Any() == true)
        {
            _state.ReloadAssets();
            Forget(First, _last);
        }
    }

    private void Work(int place)
    {
        _state!.Evaluate(First + place);
        var i = _state.Compiled.IndexOfNode(Node);
        var isThere = _state.Visible[i] || _state.Rendered[i];
        var (mesh, world) = (_state.Mesh(i)!, _state.World[i]);
        for (var v = 0; v < Vertices.Length; v++)
        {
            var from = 3 * Vertices[v];
            if (isThere && from + 2 < mesh.Positions.Length)
            {
                var p = world.Point(new(mesh.Positions[from], mesh.Positions[from + 1], mesh.Positions[from + 2]));
                (Points[v][3 * place], Points[v][3 * place + 1], Points[v][3 * place + 2]) = (p.X, p.Y, p.Z);
            }
        }
        _nextUnknown[place] = place + 1;
        _lastUnknown[place + 1] = place;
        _unknown--;
        Version = _next();
    }

    private void Forget(double first, double last)
    {
        var count = _nextUnknown.Length - 1;
        for (var i = (int)Math.Max(0, Math.Ceiling(first) - First); i < count && First + i <= last; i++)
        {
            (_nextUnknown[i], _lastUnknown[i + 1]) = (i, i + 1);
            foreach (var points in Points)
            {
                points.AsSpan(3 * i, 3).Fill(double.NaN);
            }
        }
        // A chain may pass over what is unknown again.
        _unknown = 0;
        for (var i = 0; i < count; i++)
        {
            if (_nextUnknown[i] != i)
            {
                (_nextUnknown[i], _lastUnknown[i + 1]) = (i + 1, i);
            }
            else
            {
                _unknown++;
            }
        }
        (_nextUnknown[count], _lastUnknown[0]) = (count, 0);
        Version = _next();
    }

    /// <summary>The shot with nothing but what has a say in where the vertices of a mesh are.</summary>
    private static Shot PartOf(Shot shot, MeshNode node)
    {
        var ids = new HashSet<string>();
        void Add(string? id)
        {
            while (shot.FindNode(id) is { } next && ids.Add(next.Id))
            {
                Add(next.Follows);
                foreach (var skin in (next as MeshNode)?.Deformers.OfType<Shaping.SkinDeformer>() ?? [])
                {
                    foreach (var joint in skin.Joints)
                    {
                        Add(joint);
                    }
                }
                id = next.Parent;
            }
        }
        Add(node.Id);
        return new()
        {
            Name = shot.Name,
            Rate = shot.Rate,
            Range = shot.Range,
            Size = shot.Size,
            Layers = shot.Layers,
            Nodes = [.. shot.Nodes.Where(n => ids.Contains(n.Id))],
        };
    }
}
