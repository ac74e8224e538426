using System.Collections.Immutable;
using System.Text.Json;
using Bradymotus.Core;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;

namespace Bradymotus.Engine;

/// <summary>
/// One open shot: its history, what is being tried on top of it while a hand drags, and the evaluated frame.
/// </summary>
internal sealed class Session
{
    private readonly Dictionary<ChannelAddress, double> _waiting = [];
    private CompiledShot _compiled;
    private FrameState _state;
    private double _frame;
    private bool _stale = true;
    private bool _structureChanged = true;
    private readonly HashSet<ChannelAddress> _changedCurves = [];

    internal Session(Shot start, int revision)
    {
        History = new History(start, revision);
        Shown = start;
        _compiled = new CompiledShot(start);
        _state = new FrameState(_compiled);
        Export();
    }

    internal History History { get; private set; }

    /// <summary>The state that is shown: the newest of the history, or it with a change that is being tried.</summary>
    internal Shot Shown { get; private set; }

    internal CompiledShot Compiled => _compiled;

    internal FrameState State => _state;

    /// <summary>World matrices as the graphics card takes them: sixteen a node, in the order of evaluation.</summary>
    internal float[] Matrices { get; private set; } = [];

    /// <summary>1 for each node that is seen.</summary>
    internal byte[] Seen { get; private set; } = [];

    /// <summary>The version of each node's shape; 0 where it has none.</summary>
    internal int[] MeshVersions { get; private set; } = [];

    internal void Append(JournalEntry entry)
    {
        History.Append(entry);
        Show(History.Current);
    }

    /// <summary>Goes back to a state and a journal after it, as when another window was faster.</summary>
    internal void Rebase(History history)
    {
        History = history;
        Show(History.Current);
    }

    /// <summary>Shows what a change would do, without making it.</summary>
    internal void Try(Edit? edit) => Show(edit is null ? History.Current : edit.Apply(History.Current));

    internal void Evaluate(double frame)
    {
        if (!_stale && frame == _frame)
        {
            return;
        }
        if (frame != _frame)
        {
            // What was changed and not keyed holds only on its own frame.
            ForgetWaiting();
        }
        _frame = frame;
        _state.Evaluate(frame);
        Export();
        _stale = false;
    }

    internal IEnumerable<ChannelAddress> Waiting => _waiting.Keys;

    internal void Wait(IEnumerable<ChannelValue> values)
    {
        foreach (var (address, value) in values)
        {
            _waiting[address] = value;
        }
        Override();
    }

    internal void ForgetWaiting()
    {
        if (_waiting.Count > 0)
        {
            _waiting.Clear();
            Override();
        }
    }

    internal double Value(ChannelAddress address) =>
        _waiting.TryGetValue(address, out var value) ? value : Shown.Channel(address).Evaluate(_frame);

    /// <summary>What panels have to read again since this was last asked.</summary>
    internal ChangesView TakeChanges()
    {
        var keys = _changedCurves.ToDictionary(a => a.ToString(), a =>
            _compiled.IndexOfChannel(a) >= 0 && Shown.Channel(a).Curve is { } curve ? curve.Keys.Select(k => k.Frame).ToArray() : []);
        var view = new ChangesView(_structureChanged, keys);
        _structureChanged = false;
        _changedCurves.Clear();
        return view;
    }

    /// <summary>Notes what is different between two states. What is the same reference is the same.</summary>
    private void Note(Shot before, Shot after)
    {
        if (_structureChanged)
        {
            return;
        }
        _structureChanged = before.Nodes.Length != after.Nodes.Length || before.Materials.Length != after.Materials.Length
            || (before with { Nodes = after.Nodes, Materials = after.Materials, World = after.World }) != after;
        for (var i = 0; i < after.Nodes.Length && !_structureChanged; i++)
        {
            var (a, b) = (before.Nodes[i], after.Nodes[i]);
            if (!ReferenceEquals(a, b))
            {
                _structureChanged = (a with { Channels = b.Channels }) != b;
                NoteCurves(b.Id, a.Channels, b.Channels);
            }
        }
        for (var i = 0; i < after.Materials.Length && !_structureChanged; i++)
        {
            var (a, b) = (before.Materials[i], after.Materials[i]);
            if (!ReferenceEquals(a, b))
            {
                _structureChanged = a.Id != b.Id || a.Name != b.Name;
                NoteCurves(b.Id, a.Channels, b.Channels);
            }
        }
        NoteCurves(Shot.WorldOwner, before.World, after.World);
    }

    private void NoteCurves(string owner, ImmutableSortedDictionary<string, Channel>? before, ImmutableSortedDictionary<string, Channel>? after)
    {
        if (ReferenceEquals(before, after))
        {
            return;
        }
        foreach (var path in (before?.Keys ?? []).Union(after?.Keys ?? []))
        {
            if (!ReferenceEquals(before?.GetValueOrDefault(path)?.Curve, after?.GetValueOrDefault(path)?.Curve))
            {
                _changedCurves.Add(new(owner, path));
            }
        }
    }

    private void Show(Shot shot)
    {
        if (ReferenceEquals(shot, Shown))
        {
            return;
        }
        Note(Shown, shot);
        Shown = shot;
        _compiled = new CompiledShot(shot, _compiled);
        _state = new FrameState(_compiled, _state);
        // A value that has been keyed, or whose channel is gone, waits no longer.
        foreach (var address in _waiting.Keys.ToList())
        {
            if (_compiled.IndexOfChannel(address) < 0 || shot.Channel(address).Curve?.KeyAt(_frame) is not null)
            {
                _waiting.Remove(address);
            }
        }
        Override();
    }

    private void Override()
    {
        _state.ClearOverrides();
        foreach (var (address, value) in _waiting)
        {
            _state.Override(_compiled.IndexOfChannel(address), value);
        }
        _stale = true;
    }

    private void Export()
    {
        var count = _compiled.NodeCount;
        if (Seen.Length != count)
        {
            Matrices = new float[16 * count];
            Seen = new byte[count];
            MeshVersions = new int[count];
        }
        for (var i = 0; i < count; i++)
        {
            var w = _state.World[i];
            var m = Matrices.AsSpan(16 * i, 16);
            (m[0], m[1], m[2]) = ((float)w.X.X, (float)w.X.Y, (float)w.X.Z);
            (m[4], m[5], m[6]) = ((float)w.Y.X, (float)w.Y.Y, (float)w.Y.Z);
            (m[8], m[9], m[10]) = ((float)w.Z.X, (float)w.Z.Y, (float)w.Z.Z);
            (m[12], m[13], m[14], m[15]) = ((float)w.Origin.X, (float)w.Origin.Y, (float)w.Origin.Z, 1);
            Seen[i] = _state.Visible[i] ? (byte)1 : (byte)0;
            MeshVersions[i] = _state.Mesh(i)?.Version ?? 0;
        }
    }

    internal SceneView View()
    {
        var shot = Shown;
        var nodes = shot.Nodes.Select(n =>
        {
            var data = JsonSerializer.SerializeToElement(n with { Channels = null }, (System.Text.Json.Serialization.Metadata.JsonTypeInfo<Node>)ShotJson.Options.GetTypeInfo(typeof(Node)));
            return new NodeView(n.Id, n.Name, n.Parent, data.GetProperty("kind").GetString()!, _compiled.IndexOfNode(n.Id), n.Locked, data);
        }).ToArray();
        var specs = new List<ImmutableArray<ChannelSpec>>();
        var owners = new List<OwnerView>();
        foreach (var (id, first, list) in _compiled.OwnerChannels())
        {
            var at = specs.FindIndex(s => s == list);
            if (at < 0)
            {
                at = specs.Count;
                specs.Add(list);
            }
            owners.Add(new(id, first, at));
        }
        var keys = shot.AllSetChannels().Where(c => c.Channel.Curve is not null)
            .ToDictionary(c => c.Address.ToString(), c => c.Channel.Curve!.Keys.Select(k => k.Frame).ToArray());
        return new(shot.Name, shot.Rate.FramesPerSecond, shot.Rate.Numerator, shot.Rate.Denominator, shot.Range.First, shot.Range.Last,
            shot.Playing.First, shot.Playing.Last, shot.PlayRange is not null, shot.Size.Width, shot.Size.Height, shot.RenderCamera()?.Id, nodes,
            [.. shot.Materials.Select(m => new MaterialView(m.Id, m.Name))],
            [.. specs.Select(l => l.ToArray())], [.. owners], keys);
    }

    internal CurveView? CurveOf(ChannelAddress address)
    {
        if (Shown.Channel(address).Curve is not { } curve)
        {
            return null;
        }
        var keys = new KeyView[curve.Keys.Length];
        for (var i = 0; i < keys.Length; i++)
        {
            var k = curve.Keys[i];
            var (inFrames, inValue) = ControlPoints.Offset(curve, i, KeySide.In);
            var (outFrames, outValue) = ControlPoints.Offset(curve, i, KeySide.Out);
            double[]? samples = null;
            if (k.Segment is EaseSegment && i < keys.Length - 1)
            {
                samples = new double[49];
                var step = (curve.Keys[i + 1].Frame - k.Frame) / (samples.Length - 1);
                curve.Compiled().Sample(k.Frame, step, samples);
                samples[^1] = curve.Keys[i + 1].Value;
            }
            keys[i] = new(k.Frame, k.Value, k.Segment, k.In, k.Out, k.Joined, [inFrames, inValue], [outFrames, outValue], samples);
        }
        return new(keys, curve.Before, curve.After);
    }

    /// <summary>What setting values means here and now; see <see cref="Posing.Set"/>.</summary>
    internal (Edit? Edit, IReadOnlyList<ChannelValue> Waiting) Pose(IReadOnlyList<ChannelValue> values, bool autoKey) =>
        Posing.Set(History.Current, values, _frame, autoKey);

    /// <summary>The channel values with which nodes stand where a hand has put them.</summary>
    internal List<ChannelValue> Place(string[] ids, double[] worlds)
    {
        Evaluate(_frame);
        var changes = new List<ChannelValue>();
        for (var i = 0; i < ids.Length; i++)
        {
            var node = Shown.Node(ids[i]);
            var parent = node.Parent is null ? Affine.Identity : _state.World[_compiled.IndexOfNode(node.Parent)];
            changes.AddRange(Posing.ToLocal(node, parent, Affine.From(worlds.AsSpan(16 * i, 16)), path => Value(new(node.Id, path))));
        }
        return changes;
    }

    /// <summary>Keys the values that the channels have now.</summary>
    internal SetKeys KeyNow(IEnumerable<ChannelAddress> channels) =>
        new(_frame, [.. channels.Select(a => new ChannelValue(a, Value(a)))]);

    /// <summary>The way of a node's pivot over whole frames: x, y, z each.</summary>
    internal float[] Path(string id, int first, int last)
    {
        var node = Shown.Node(id);
        var points = new float[3 * Math.Max(0, last - first + 1)];
        for (var frame = first; frame <= last; frame++)
        {
            var world = _compiled.WorldAt(id, frame);
            double Pivot(string axis) => Shown.Channel(new(id, "transform.pivot." + axis)).Evaluate(frame);
            var p = world.Point(new(Pivot("x"), Pivot("y"), Pivot("z")));
            var at = 3 * (frame - first);
            (points[at], points[at + 1], points[at + 2]) = ((float)p.X, (float)p.Y, (float)p.Z);
        }
        return points;
    }

    internal ImmutableArray<ChannelKeys> Copy(IEnumerable<KeyAddress> keys) =>
        [.. keys.GroupBy(k => k.Address).Select(g =>
        {
            var curve = Shown.Channel(g.Key).Curve ?? throw new Refusal("There are no keys to copy: select some first.");
            return new ChannelKeys(g.Key, [.. g.Select(k => curve.KeyAt(k.Frame)).OfType<Key>()]);
        })];
}
