using System.Collections.Immutable;
using Bradymotus.Core;
using Bradymotus.Core.Checks;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Engine;

/// <summary>A frame that is evaluated, with its buffers.</summary>
internal sealed record EvaluatedFrame(FrameState State, FrameBuffers Buffers);

/// <summary>
/// One open shot: its history, what is being tried on top of it while a hand drags, and the evaluated frame.
/// </summary>
internal sealed class Session
{
    private readonly Dictionary<ChannelAddress, double> _waiting = [];
    private readonly Dictionary<ChannelAddress, double> _dragged = [];
    private readonly EvaluatedFrame _main;
    private EvaluatedFrame? _aside;
    private (double Frame, List<ChannelValue> Values)? _left;
    private double _frame;
    private bool _stale = true;
    private bool _structureChanged = true;
    private bool _headChanged;
    private readonly HashSet<string> _changedNodes = [];
    private readonly HashSet<ChannelAddress> _changedCurves = [];

    internal Session(History history)
    {
        History = history;
        Shown = history.Current;
        Compiled = new CompiledShot(Shown);
        // What only shots had that were open before would fill the memory of the page.
        Meshes.Retain(Shown.Nodes.OfType<MeshNode>().Select(n => n.Shape).OfType<Core.Geometry.AssetShape>().Select(s => s.Asset).ToHashSet());
        _main = new(new FrameState(Compiled, Meshes) { Store = Kept }, new FrameBuffers());
        _main.Buffers.Fill(_main.State);
    }

    /// <summary>The meshes that have come to this page for the shot that is open, and what was tried of others since.</summary>
    internal static ShotAssets Meshes { get; } = new();

    /// <summary>The motion paths that have been asked for.</summary>
    internal PathCache Paths { get; } = new();

    /// <summary>The motion paths of vertices.</summary>
    internal VertexPaths Traces { get; } = new(Meshes);

    /// <summary>Goes on with the motion paths of vertices for about so long.</summary>
    /// <returns>Whether they are done.</returns>
    internal bool Trace(int first, int last, double near, double milliseconds)
    {
        Traces.Show(Shown, first, last);
        return WorkFor(milliseconds, () => Traces.Step(near));
    }

    /// <summary>Does something in small pieces for about so long.</summary>
    /// <param name="step">Does a piece; false when all is done.</param>
    /// <returns>Whether it is done.</returns>
    private static bool WorkFor(double milliseconds, Func<bool> step)
    {
        var watch = System.Diagnostics.Stopwatch.StartNew();
        while (step())
        {
            if (watch.Elapsed.TotalMilliseconds >= milliseconds)
            {
                return false;
            }
        }
        return true;
    }

    /// <summary>The frames that are kept.</summary>
    internal FrameStore Kept { get; } = new();

    internal History History { get; private set; }

    /// <summary>The state that is shown: the newest of the history, or it with a change that is being tried.</summary>
    internal Shot Shown { get; private set; }

    internal CompiledShot Compiled { get; private set; }

    /// <summary>The evaluated frame, or the one beside it that small pictures are made of.</summary>
    internal EvaluatedFrame Frame(bool aside) => aside && _aside is not null ? _aside : _main;

    internal void Append(JournalEntry entry, bool isForeign)
    {
        History.Append(entry, isForeign);
        _dragged.Clear();
        Show(History.Current);
    }

    internal (IReadOnlyList<JournalEntry> Pending, int Dropped) Merge(int confirmed, IReadOnlyList<JournalEntry> missed) => TakeOver(History.Merge(confirmed, missed));

    internal (IReadOnlyList<JournalEntry> Pending, int Dropped) Resume(int after, IReadOnlyList<JournalEntry> entries) => TakeOver(History.Resume(after, entries));

    private (IReadOnlyList<JournalEntry> Pending, int Dropped) TakeOver((History Merged, IReadOnlyList<JournalEntry> Pending, int Dropped) merge)
    {
        History = merge.Merged;
        Show(History.Current);
        return (merge.Pending, merge.Dropped);
    }

    internal void Drop(int confirmed)
    {
        History.Truncate(confirmed);
        Show(History.Current);
    }

    /// <summary>Shows what a change would do, without making it.</summary>
    internal void Try(Edit? edit)
    {
        if (edit is null)
        {
            _dragged.Clear();
        }
        Show(edit is null ? History.Current : edit.Apply(History.Current));
    }

    private readonly List<KeyGroups> _held = [];

    /// <summary>Holds a long list of keys.</summary>
    /// <returns>Its number.</returns>
    internal int HoldKeys(IReadOnlyList<KeyAddress> keys)
    {
        _held.Add(new(keys));
        return _held.Count - 1;
    }

    internal void DropKeys() => _held.Clear();

    /// <summary>An edit with the lists that are held in the place of those that it leaves out.</summary>
    /// <param name="held">For each edit that moves keys, in order, the number of its list; −1 where it brings its own.</param>
    internal Edit WithHeld(Edit edit, Queue<int> held) => edit switch
    {
        TransformKeys move => held.Dequeue() is >= 0 and var i ? move with { Keys = _held[i] } : move,
        Batch batch => batch with { Edits = [.. batch.Edits.Select(e => WithHeld(e, held))] },
        _ => edit,
    };

    internal void Evaluate(double frame)
    {
        if (!_stale && frame == _frame)
        {
            return;
        }
        if (frame != _frame)
        {
            LeaveWaiting();
        }
        _frame = frame;
        _main.State.Evaluate(frame);
        _main.Buffers.Fill(_main.State);
        _stale = false;
    }

    internal void EvaluateAside(double frame)
    {
        _aside ??= new(new FrameState(Compiled, Meshes), new FrameBuffers());
        _aside.State.Show(Compiled);
        _aside.State.Evaluate(frame);
        _aside.Buffers.Fill(_aside.State);
    }

    /// <summary>Draws a mesh that has come from now on.</summary>
    internal void ReloadAssets()
    {
        _main.State.ReloadAssets();
        _aside?.State.ReloadAssets();
        Traces.ReloadAssets();
        _stale = true;
    }

    /// <summary>The id of the layer that takes what is done; null is below all layers.</summary>
    internal string? Layer { get; set; }

    internal IEnumerable<ChannelAddress> Waiting => _waiting.Keys;

    /// <summary>What waited on a frame that was left without keying it.</summary>
    internal LeftView? Left => _left is var (frame, values) ? new(frame, values.Count) : null;

    /// <param name="set">What was set by hand: what does not wait of it waits no longer.</param>
    /// <param name="waiting">What waits of it.</param>
    internal void Wait(IEnumerable<ChannelValue> set, IEnumerable<ChannelValue> waiting)
    {
        foreach (var (address, _) in set)
        {
            _waiting.Remove(address);
        }
        foreach (var (address, value) in waiting)
        {
            _waiting[address] = value;
        }
        Override();
    }

    internal void BringBack()
    {
        if (_left is var (frame, values) && frame == _frame)
        {
            var known = values.Where(v => Compiled.IndexOfChannel(v.Address) >= 0).ToList();
            Wait(known, known);
            _left = null;
        }
    }

    internal double[] ValuesOf(IReadOnlyList<ChannelAddress> channels)
    {
        var values = ValuesNow(channels).GroupBy(v => v.Address).ToDictionary(g => g.Key, g => g.First().Value);
        return [.. channels.Select(a => values.TryGetValue(a, out var v) ? v : Shown.Channel(a).Evaluate(_frame))];
    }

    /// <summary>What channels have to be keyed with so that what is seen now is kept; those of a rotation may come in company.</summary>
    private IEnumerable<ChannelValue> ValuesNow(IReadOnlyList<ChannelAddress> channels)
    {
        if (Shown.Layers.IsEmpty)
        {
            return channels.Select(a => new ChannelValue(a, _waiting.TryGetValue(a, out var value) ? value : Shown.Channel(a).Evaluate(_frame)));
        }
        var values = new List<ChannelValue>();
        foreach (var layer in channels.GroupBy(a => a.Layer))
        {
            // What nobody has touched has its own value; what waits, or takes the place of what is below for the first time, is worked out.
            bool IsOwn(ChannelAddress a) => !_waiting.Keys.Any(w => w.Owner == a.Owner) && (layer.Key is null
                || Shown.FindLayer(layer.Key) is { Mode: LayerMode.Add } || Shown.SetChannels(a.Owner)?.ContainsKey(a.Path) == true);
            values.AddRange(layer.Where(IsOwn).Select(a => new ChannelValue(a, Shown.Channel(a).Evaluate(_frame))));
            var asked = layer.Where(a => !IsOwn(a)).Select(a => new ChannelValue(a.Base, _main.State.Value(a.Base))).ToList();
            values.AddRange(Posing.InLayer(Shown, asked, _frame, layer.Key));
        }
        return values;
    }

    /// <summary>A pose that is being put in part, where it fits, and what was seen before.</summary>
    private (List<Fit<PosePart>> Fits, Dictionary<ChannelAddress, double> From)? _put;

    /// <summary>Begins to put a pose, whole or in part.</summary>
    /// <returns>What fits and what does not, a sentence each.</returns>
    /// <exception cref="Refusal">Nothing of it fits.</exception>
    internal IReadOnlyList<string> BeginPut(SavedPose pose, IReadOnlyList<string> targets, bool mirror)
    {
        var fits = pose.Parts.Fits(Shown, targets, mirror, Layer).ToList();
        if (fits.Count == 0)
        {
            throw pose.Parts.NoneFits("pose");
        }
        _put = (fits, fits.ToDictionary(f => f.Address.Base, f => _main.State.Value(f.Address.Base)));
        return pose.Parts.Report(fits);
    }

    /// <summary>What is seen once the pose is put of which <see cref="BeginPut"/> has spoken.</summary>
    /// <param name="share">0 is how it was, 1 is the pose.</param>
    internal IReadOnlyList<ChannelValue> Put(double share) => _put is var (fits, from)
        ? SavedPose.Values(fits, a => from[a], share)
        : throw new Refusal("There is no pose to put: choose one first.");

    /// <summary>What panels have to read again since this was last asked.</summary>
    /// <param name="frames">Those of the keys of changed curves, one after the other.</param>
    internal ChangesView TakeChanges(List<double> frames)
    {
        frames.Clear();
        var keys = new Dictionary<string, int>();
        foreach (var address in _structureChanged ? [] : _changedCurves)
        {
            var from = frames.Count;
            if (IsThere(address) && Shown.Channel(address).Curve is { } curve)
            {
                foreach (var key in curve.Keys)
                {
                    frames.Add(key.Frame);
                }
            }
            keys.Add(address.ToString(), frames.Count - from);
        }
        NodeView[] nodes = _structureChanged ? [] : [.. _changedNodes.Select(Shown.FindNode).OfType<Node>().Select(n => NodeView.Of(Compiled, n))];
        var view = new ChangesView(_structureChanged, _headChanged && !_structureChanged ? HeadView.Of(Shown) : null, nodes, keys);
        _structureChanged = _headChanged = false;
        _changedNodes.Clear();
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
        // All but what is looked at one by one.
        static Shot Head(Shot shot) => shot with { Nodes = [], Materials = [], World = null, Layers = [], Sounds = [] };
        _headChanged |= Head(before) != Head(after);
        _structureChanged = before.Nodes.Length != after.Nodes.Length || before.Materials.Length != after.Materials.Length
            || AreOther(before.Layers, after.Layers, (a, b) => a with { Channels = b.Channels } == b)
            || AreOther(before.Sounds, after.Sounds, (a, b) => a with { Channels = b.Channels } == b);
        for (var i = 0; i < after.Nodes.Length && !_structureChanged && before.Nodes != after.Nodes; i++)
        {
            var (a, b) = (before.Nodes[i], after.Nodes[i]);
            if (ReferenceEquals(a, b))
            {
                continue;
            }
            _structureChanged = a.Id != b.Id || a.Parent != b.Parent || !ReferenceEquals(ChannelCatalog.For(a), ChannelCatalog.For(b));
            if ((a with { Channels = b.Channels }) != b)
            {
                _changedNodes.Add(b.Id);
            }
            NoteCurves(b.Id, a.Channels, b.Channels);
        }
        for (var i = 0; i < after.Materials.Length && !_structureChanged && before.Materials != after.Materials; i++)
        {
            var (a, b) = (before.Materials[i], after.Materials[i]);
            if (!ReferenceEquals(a, b))
            {
                _structureChanged = a.Id != b.Id || a.Name != b.Name || a.Maps != b.Maps;
                NoteCurves(b.Id, a.Channels, b.Channels);
            }
        }
        NoteCurves(Shot.WorldOwner, before.World, after.World);
    }

    /// <summary>Whether layers or sounds are others in something but their channels, which are noted.</summary>
    private bool AreOther<T>(ImmutableArray<T> before, ImmutableArray<T> after, Func<T, T, bool> isSame)
        where T : IChannelOwner
    {
        if (before == after)
        {
            return false;
        }
        for (var i = 0; i < after.Length && before.Length == after.Length; i++)
        {
            if (!isSame(before[i], after[i]))
            {
                return true;
            }
            NoteCurves(after[i].Id, before[i].Channels, after[i].Channels);
        }
        return before.Length != after.Length;
    }

    private void NoteCurves(string owner, ImmutableSortedDictionary<string, Channel>? before, ImmutableSortedDictionary<string, Channel>? after)
    {
        if (ReferenceEquals(before, after))
        {
            return;
        }
        foreach (var path in (before?.Keys ?? []).Union(after?.Keys ?? []))
        {
            var (a, b) = (before?.GetValueOrDefault(path), after?.GetValueOrDefault(path));
            _structureChanged |= (a?.Locked ?? false) != (b?.Locked ?? false) || (a?.Muted ?? false) != (b?.Muted ?? false);
            if (!ReferenceEquals(a?.Curve, b?.Curve))
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
        Compiled = new CompiledShot(shot, Compiled);
        _main.State.Show(Compiled);
        Layer = shot.FindLayer(Layer)?.Id;
        // A value that has been keyed, or whose channel is gone, waits no longer.
        foreach (var address in _waiting.Keys.ToList())
        {
            if (Compiled.IndexOfChannel(address) < 0 || shot.Channel(address.In(Layer)).Curve?.KeyAt(_frame) is not null)
            {
                _waiting.Remove(address);
            }
        }
        Override();
    }

    private void Override()
    {
        _main.State.ClearOverrides();
        foreach (var (address, value) in _waiting)
        {
            _main.State.Override(Compiled.IndexOfChannel(address), value);
        }
        _stale = true;
    }

    /// <summary>What was changed and not keyed holds only on its own frame.</summary>
    private void LeaveWaiting()
    {
        if (_waiting.Count > 0)
        {
            _left = (_frame, [.. _waiting.Select(w => new ChannelValue(w.Key, w.Value))]);
            _waiting.Clear();
            Override();
        }
    }

    /// <summary>Whether there is a channel of an address, which may be in a layer.</summary>
    private bool IsThere(ChannelAddress address) => Compiled.IndexOfChannel(address.Base) >= 0 && (address.Layer is null || Shown.FindLayer(address.Layer) is not null);

    /// <summary>What all layers together make of a channel at evenly spaced frames.</summary>
    internal double[] SampleSum(ChannelAddress address, double first, double step, int count)
    {
        var values = new double[count];
        Compiled.Sample(address.Base, first, step, values);
        return values;
    }

    // What is drawn of a curve is asked for again with every other part of time.
    private readonly System.Runtime.CompilerServices.ConditionalWeakTable<Curve, CurveEvaluator> _evaluators = [];

    private CurveEvaluator EvaluatorOf(Curve curve) => _evaluators.GetValue(curve, c => c.Compile());

    internal double[] Sample(ChannelAddress address, double first, double step, int count)
    {
        var values = new double[count];
        var channel = Shown.Channel(address);
        if (channel.Curve is { } curve)
        {
            EvaluatorOf(curve).Sample(first, step, values);
        }
        else
        {
            Array.Fill(values, channel.Value);
        }
        return values;
    }

    /// <summary>How fast a channel changes at evenly spaced frames, in value per frame; or how fast that changes.</summary>
    internal double[] Slopes(ChannelAddress address, double first, double step, int count, bool acceleration)
    {
        var values = new double[count];
        if (Shown.Channel(address).Curve is not { } curve)
        {
            return values;
        }
        var evaluator = EvaluatorOf(curve);
        var apart = acceleration ? 0.5 : 0.05;
        for (var i = 0; i < count; i++)
        {
            var frame = first + i * step;
            var (before, after) = (evaluator.Evaluate(frame - apart), evaluator.Evaluate(frame + apart));
            values[i] = acceleration ? (after - 2 * evaluator.Evaluate(frame) + before) / (apart * apart) : (after - before) / (2 * apart);
        }
        return values;
    }

    /// <summary>A curve for drawing; null where there is none.</summary>
    /// <param name="numbers">Of its keys; see <see cref="CurveView.NumbersOfKey"/>.</param>
    internal CurveView? CurveOf(ChannelAddress address, out double[] numbers)
    {
        numbers = [];
        if (!IsThere(address) || Shown.Channel(address).Curve is not { } curve)
        {
            return null;
        }
        var (looks, eases) = (new List<KeyLook>(), new List<EaseSamples>());
        var n = 0;
        numbers = new double[CurveView.NumbersOfKey * curve.Keys.Length];
        Key? last = null;
        for (var i = 0; i < curve.Keys.Length; i++)
        {
            var k = curve.Keys[i];
            if (k.Segment is EaseSegment && i < curve.Keys.Length - 1)
            {
                var samples = new double[49];
                var step = (curve.Keys[i + 1].Frame - k.Frame) / (samples.Length - 1);
                EvaluatorOf(curve).Sample(k.Frame, step, samples);
                samples[^1] = curve.Keys[i + 1].Value;
                eases.Add(new(i, samples));
            }
            // Mostly as the key before.
            if (last is null || !ReferenceEquals(k.Segment, last.Segment) || !ReferenceEquals(k.In, last.In) || !ReferenceEquals(k.Out, last.Out) || k.Joined != last.Joined)
            {
                static Handle Kind(Handle handle) => handle is FreeHandle ? FreeKind : handle;
                var look = new KeyLook(k.Segment, Kind(k.In), Kind(k.Out), k.Joined);
                n = looks.IndexOf(look);
                if (n < 0)
                {
                    n = looks.Count;
                    looks.Add(look);
                }
                last = k;
            }
            var key = numbers.AsSpan(CurveView.NumbersOfKey * i, CurveView.NumbersOfKey);
            (key[0], key[1], key[6]) = (k.Frame, k.Value, n);
            (key[2], key[3]) = ControlPoints.Offset(curve, i, KeySide.In);
            (key[4], key[5]) = ControlPoints.Offset(curve, i, KeySide.Out);
        }
        return new([.. looks], [.. eases], curve.Before, curve.After);
    }

    private static readonly FreeHandle FreeKind = new(0, 0);

    /// <summary>What setting values means here and now; see <see cref="Posing.Set"/>.</summary>
    internal (Edit? Edit, IReadOnlyList<ChannelValue> Waiting) Pose(IReadOnlyList<ChannelValue> values, bool autoKey) =>
        Posing.Set(History.Current, [.. values.Select(v => v with { Address = v.Address.Base })], _frame, autoKey, Layer);

    /// <summary>
    /// The channel values with which nodes stand where a hand has put them. While a hand drags, rotations go on from where
    /// the last step had them, so that many turns add up.
    /// </summary>
    internal List<ChannelValue> Place(string[] ids, double[] worlds)
    {
        var changes = new List<ChannelValue>();
        for (var i = 0; i < ids.Length; i++)
        {
            var node = Shown.Node(ids[i]);
            var parent = node.Parent is null ? Affine.Identity : _main.State.World[Compiled.IndexOfNode(node.Parent)];
            double Now(string path)
            {
                ChannelAddress address = new(node.Id, path);
                return CompiledShot.ValueOf(History.Current, address, _frame);
            }
            double Near(string path) => _dragged.TryGetValue(new(node.Id, path), out var dragged) ? dragged
                : _waiting.TryGetValue(new(node.Id, path), out var waiting) ? waiting : Now(path);
            var own = Posing.ToLocal(node, parent, Affine.From(worlds.AsSpan(16 * i, 16)), Now, Near);
            changes.AddRange(own);
            // What waited and is back where the curve has it is said too, so that it waits no longer.
            foreach (var address in _waiting.Keys.Where(a => a.Owner == node.Id && a.Path.StartsWith("transform.", StringComparison.Ordinal)
                && !a.Path.StartsWith("transform.pivot", StringComparison.Ordinal)))
            {
                if (own.All(c => c.Address != address))
                {
                    changes.Add(new(address, Now(address.Path)));
                }
            }
        }
        foreach (var (address, value) in changes)
        {
            _dragged[address] = value;
        }
        return changes;
    }

    /// <summary>The box round objects on the evaluated frame, in the space of a node or of the world: six numbers, or none where there is nothing.</summary>
    internal double[] BoundsOf(string[] ids, string within)
    {
        Affine? into = within.Length == 0 ? null
            : _main.State.World[Compiled.IndexOfNode(Shown.Node(within).Id)].TryInvert(out var inverse) ? inverse : throw new Refusal("What is scaled to nothing has no room for a box.");
        return Bounds.Of(_main.State, ids, into) is var (min, max) ? [min.X, min.Y, min.Z, max.X, max.Y, max.Z] : [];
    }

    /// <summary>How many vertices and triangles objects have: two numbers for each, 0 for what is no mesh.</summary>
    internal int[] CountsOf(string[] ids) =>
        [.. ids.SelectMany(id => Compiled.IndexOfNode(id) is >= 0 and var i && _main.State.Mesh(i) is { Rest: var mesh } ? new[] { mesh.VertexCount, mesh.TriangleCount } : [0, 0])];

    /// <summary>Position, rotation (XYZ) and scale with which something stands at a place in the world, below nothing.</summary>
    internal static double[] TransformAt(ReadOnlySpan<double> world)
    {
        var node = new GroupNode { Id = "x", Name = "x" };
        var values = Posing.ToLocal(node, Affine.Identity, Affine.From(world), path => ChannelCatalog.For(node).Find(path)!.Default).ToDictionary(v => v.Address.Path, v => v.Value);
        return [.. ChannelCatalog.For(node).Take(9).Select(c => values.GetValueOrDefault(c.Path, c.Default))];
    }

    /// <summary>How far from a camera the pivot of an object is, along its axis.</summary>
    internal double DepthOf(string camera, string id)
    {
        var (eye, index) = (_main.State.World[Compiled.IndexOfNode(Shown.Node(camera).Id)], Compiled.IndexOfNode(Shown.Node(id).Id));
        double At(string axis) => _main.State.Value(new(id, $"transform.pivot.{axis}"));
        return Double3.Dot(_main.State.World[index].Point(new(At("x"), At("y"), At("z"))) - eye.Origin, -eye.Z.Normalized());
    }

    /// <summary>How flat objects lie in the space of the first of them: x and y of the x axis, the y axis and the origin of each.</summary>
    internal double[] FlatMapsOf(string[] ids)
    {
        var state = _main.State;
        Affine WorldOf(string id) => state.World[Compiled.IndexOfNode(Shown.Node(id).Id)];
        return ids.Length > 0 && WorldOf(ids[0]).TryInvert(out var toFirst)
            ? [.. ids.Select(id => toFirst * WorldOf(id)).SelectMany(m => new[] { m.X.X, m.X.Y, m.Y.X, m.Y.Y, m.Origin.X, m.Origin.Y })]
            : [];
    }

    /// <summary>Where objects stand once they are put in order: <c>align</c>, <c>distribute</c> or <c>drop</c>.</summary>
    internal List<ChannelValue> Arrange(string[] ids, string how, int axis, int side)
    {
        var places = how switch
        {
            "align" => Arranging.Align(_main.State, ids, axis, side),
            "distribute" => Arranging.Distribute(_main.State, ids, axis),
            _ => Arranging.Drop(_main.State, ids),
        };
        var worlds = new double[16 * places.Count];
        for (var i = 0; i < places.Count; i++)
        {
            places[i].World.CopyTo(worlds.AsSpan(16 * i));
        }
        _dragged.Clear();
        return Place([.. places.Select(p => p.Id)], worlds);
    }

    /// <summary>Moves pivots: to the <c>centre</c> or the <c>base</c> of each object's own box, the <c>origin</c> of the world, or the pivot of another object.</summary>
    internal Edit PivotTo(string[] ids, string where)
    {
        var state = _main.State;
        var pivots = new List<NewPivot>();
        foreach (var id in ids)
        {
            var node = Shown.Node(id);
            var index = Compiled.IndexOfNode(id);
            if (!state.World[index].TryInvert(out var toOwn))
            {
                throw new Refusal($"“{node.Name}” is scaled to nothing: give it a scale first.");
            }
            Double3 to;
            if (where is "centre" or "base")
            {
                var box = Bounds.Of(state, [id], toOwn) ?? throw new Refusal($"“{node.Name}” has no shape, nor has anything below it: there is no {where} to move its pivot to.");
                to = where == "centre" ? box.Centre : box.Centre with { Y = box.Min.Y };
            }
            else if (where == "origin")
            {
                to = toOwn.Point(Double3.Zero);
            }
            else
            {
                var other = Compiled.IndexOfNode(Shown.Node(where).Id);
                double At(string axis) => state.Value(new(where, $"transform.pivot.{axis}"));
                to = toOwn.Point(state.World[other].Point(new(At("x"), At("y"), At("z"))));
            }
            pivots.Add(new(id, to.X, to.Y, to.Z));
        }
        return new MovePivots(pivots, _frame);
    }

    private readonly CheckMemory _checked = new();
    private MotionChecks? _checks;

    /// <summary>What the checks have found that ran last.</summary>
    internal IReadOnlyList<Finding> Findings { get; private set; } = [];

    /// <summary>Begins to check the shot as it is now. What was found before stays until this is done.</summary>
    internal void BeginChecks() => _checks = new(History.Current, Meshes, _checked, Compiled);

    /// <summary>Goes on with the checks for about so long.</summary>
    /// <returns>Whether they are done.</returns>
    internal bool Check(double milliseconds)
    {
        if (_checks is not { } checks)
        {
            return true;
        }
        if (!WorkFor(milliseconds, checks.Step))
        {
            return false;
        }
        (Findings, _checks) = (checks.Findings, null);
        return true;
    }

    /// <summary>The change that mends findings, by their places in the list.</summary>
    internal Edit Mend(IEnumerable<int> findings) => Mending.Of(History.Current, [.. findings.Where(i => i >= 0 && i < Findings.Count).Select(i => Findings[i])]);

    /// <summary>Keys on this frame what lies between the pose before and the pose after it: 0 is the one, 1 the other, and it may go past both.</summary>
    internal SetKeys Between(IReadOnlyList<ChannelAddress> channels, double share)
    {
        var values = new List<ChannelValue>();
        foreach (var address in channels)
        {
            var channel = History.Current.Channel(address);
            if (channel.Curve is not { } curve || channel.Locked)
            {
                continue;
            }
            var at = curve.IndexOf(_frame);
            var (before, after) = at >= 0 ? (at - 1, at + 1) : (~at - 1, ~at);
            if (before >= 0 && after < curve.Keys.Length)
            {
                var (a, b) = (curve.Keys[before].Value, curve.Keys[after].Value);
                values.Add(new(address, a + (b - a) * share));
            }
        }
        return values.Count > 0
            ? new(_frame, values)
            : throw new Refusal("There is no pose on both sides of this frame: go to a frame between two poses.");
    }

    /// <summary>Keys the values that the channels have now.</summary>
    internal SetKeys KeyNow(IEnumerable<ChannelAddress> channels)
    {
        var asked = channels.ToList();
        // What is locked is passed by, unless nothing else was meant.
        var free = asked.Where(a => !Shown.Channel(a).Locked).ToList();
        return new(_frame, [.. ValuesNow(free.Count > 0 ? free : asked)]);
    }

    /// <summary>Holds the pose before, or keys this one where there is none before.</summary>
    internal Edit Hold(IReadOnlyList<ChannelAddress> channels) =>
        channels.Any(a => Shown.Channel(a).Curve is { } curve && curve.Keys[0].Frame < _frame)
            ? new HoldUntil(_frame, [.. channels.Where(a => !Shown.Channel(a).Locked)])
            : KeyNow(channels);

    internal ImmutableArray<ChannelKeys> Copy(IEnumerable<KeyAddress> keys) =>
        [.. keys.GroupBy(k => k.Address).Select(g =>
        {
            var curve = Shown.Channel(g.Key).Curve ?? throw new Refusal("There are no keys to copy: select some first.");
            return new ChannelKeys(g.Key, [.. g.Select(k => curve.KeyAt(k.Frame)).OfType<Key>()]);
        })];
}
