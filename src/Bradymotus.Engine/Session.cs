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
        Buffers.Fill(_state);
    }

    internal History History { get; private set; }

    /// <summary>The state that is shown: the newest of the history, or it with a change that is being tried.</summary>
    internal Shot Shown { get; private set; }

    internal CompiledShot Compiled => _compiled;

    internal FrameState State => _state;

    /// <summary>The evaluated frame.</summary>
    internal FrameBuffers Buffers { get; } = new();

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
        Buffers.Fill(_state);
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

    /// <summary>Holds the pose before, or keys this one where there is none before.</summary>
    internal Edit Hold(IReadOnlyList<ChannelAddress> channels) =>
        channels.Any(a => Shown.Channel(a).Curve is { } curve && curve.Keys[0].Frame < _frame) ? new HoldUntil(_frame, channels) : KeyNow(channels);

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
