using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;

namespace Bradymotus.Engine;

/// <summary>A frame that is evaluated, with its buffers.</summary>
internal sealed record EvaluatedFrame(FrameState State, FrameBuffers Buffers);

/// <summary>
/// One open shot: its history, what is being tried on top of it while a hand drags, and the evaluated frame.
/// </summary>
internal sealed partial class Session
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
}
