using System.Collections.Immutable;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Evaluation;

/// <summary>Everything of a frame that has to be worked out: the values, where all stands, and the shapes as they are bent.</summary>
internal sealed class KeptFrame
{
    internal double[] Values = [];
    internal Affine[] World = [];
    internal bool[] Visible = [], Rendered = [];
    // One for each node with deformers, in their order; null where it is worked out again.
    internal KeptShape?[] Shapes = [];
    // As a graphics card takes it, once it has been asked for.
    internal float[] Matrices = [];
    internal byte[] Seen = [];
    internal int[] MeshVersions = [];

    /// <summary>It is there as a graphics card takes it too.</summary>
    internal bool IsBuffered { get; set; }

    internal int Frame { get; set; }

    /// <summary>The evaluation that took it last.</summary>
    internal long Used { get; set; }

    internal long Bytes { get; set; }

    /// <summary>Puts a copy into what there was room for before.</summary>
    internal static void Put<T>(ref T[] kept, T[] now)
    {
        Array.Resize(ref kept, now.Length);
        now.CopyTo(kept, 0);
    }
}

/// <summary>A shape as it was bent.</summary>
internal sealed class KeptShape
{
    internal float[] Positions = [], Normals = [];
    internal double[] Values = [];

    internal Geometry.Mesh Rest { get; set; } = Geometry.Mesh.Empty;

    internal bool IsDeformed { get; set; }

    internal int Version { get; set; }
}

/// <summary>
/// Whole frames that have been evaluated, kept until something that they depend on is another. A change of keys lets go of the frames that
/// these keys reach, any other change of all of them.
/// </summary>
/// <param name="most">So many bytes are kept at the most.</param>
public sealed class FrameStore(long most = 160L << 20)
{
    // So many keys are compared at the most to see which frames a change reaches.
    private const int MostCompared = 20_000;

    // A frame that nobody has asked for in so many times as many evaluations as there are frames makes room. Sooner would be of no use: a
    // range that does not fit and plays in a loop would lose each frame just before it is shown.
    private const int Patience = 8;

    private readonly Dictionary<int, KeptFrame> _frames = [];
    private readonly Stack<KeptFrame> _spare = new();
    private long _bytes, _clock;

    /// <summary>Another number whenever other frames are kept.</summary>
    public int Version { get; private set; }

    /// <summary>How many frames are kept.</summary>
    public int Count => _frames.Count;

    /// <summary>The frames of a range that are kept: the first and the last of each run.</summary>
    public IReadOnlyList<int> Runs(int first, int last)
    {
        var runs = new List<int>();
        foreach (var frame in _frames.Keys.Where(f => f >= first && f <= last).Order())
        {
            if (runs.Count > 0 && runs[^1] == frame - 1)
            {
                runs[^1] = frame;
            }
            else
            {
                runs.Add(frame);
                runs.Add(frame);
            }
        }
        return runs;
    }

    /// <summary>The kept frame, or null. Counts as an evaluation.</summary>
    internal KeptFrame? Find(double frame)
    {
        _clock++;
        if (!IsWhole(frame) || !_frames.TryGetValue((int)frame, out var kept))
        {
            return null;
        }
        kept.Used = _clock;
        return kept;
    }

    /// <summary>Room for a frame that is not kept yet; null where there is none, or it is no whole frame.</summary>
    /// <param name="bytes">How large it is.</param>
    internal KeptFrame? Add(double frame, long bytes)
    {
        if (!IsWhole(frame) || bytes > most || _frames.ContainsKey((int)frame))
        {
            return null;
        }
        while (_bytes + bytes > most)
        {
            var oldest = _frames.Values.MinBy(f => f.Used)!;
            if (_clock - oldest.Used < Patience * (long)_frames.Count)
            {
                return null;
            }
            Remove(oldest);
        }
        var kept = _spare.TryPop(out var spare) ? spare : new();
        (kept.Frame, kept.Used, kept.Bytes, kept.IsBuffered) = ((int)frame, _clock, bytes, false);
        _frames.Add(kept.Frame, kept);
        _bytes += bytes;
        Version++;
        return kept;
    }

    internal void Clear()
    {
        if (_frames.Count > 0)
        {
            _frames.Clear();
            _bytes = 0;
            Version++;
        }
        // What is of another size is of no use.
        _spare.Clear();
    }

    /// <summary>Lets go of the frames that are others in another state of the shot.</summary>
    internal void Show(Shot before, Shot after)
    {
        if (_frames.Count == 0 || ReferenceEquals(before, after))
        {
            return;
        }
        if (new Reach().Of(before, after) is not var (first, last))
        {
            Clear();
            return;
        }
        foreach (var kept in _frames.Values.Where(f => f.Frame >= first && f.Frame <= last).ToList())
        {
            Remove(kept);
        }
    }

    private void Remove(KeptFrame kept)
    {
        _frames.Remove(kept.Frame);
        _bytes -= kept.Bytes;
        _spare.Push(kept);
        Version++;
    }

    private static bool IsWhole(double frame) => frame == Math.Floor(frame) && Math.Abs(frame) < int.MaxValue;

    /// <summary>Which frames a change reaches.</summary>
    private sealed class Reach
    {
        private double _first = double.PositiveInfinity, _last = double.NegativeInfinity;
        private int _compared;

        /// <returns>Null for all of them.</returns>
        internal (double First, double Last)? Of(Shot before, Shot after)
        {
            static Shot Head(Shot s) => s with { Nodes = [], Materials = [], World = null, Layers = [], Sounds = [], Name = "", Markers = [], Meant = [], Range = default, PlayRange = null };
            return Head(before) == Head(after) && Channels(before.World, after.World)
                && Owners(before.Nodes, after.Nodes, n => n.Channels, (a, b) => a with { Channels = b.Channels } == b)
                && Owners(before.Materials, after.Materials, m => m.Channels, (a, b) => a with { Channels = b.Channels } == b)
                && Owners(before.Layers, after.Layers, l => l.Channels, (a, b) => a with { Channels = b.Channels } == b)
                && Owners(before.Sounds, after.Sounds, s => s.Channels, (a, b) => a with { Channels = b.Channels } == b)
                ? (_first, _last)
                : null;
        }

        /// <summary>Takes in what is different in a list of owners; false where that reaches every frame.</summary>
        private bool Owners<T>(ImmutableArray<T> before, ImmutableArray<T> after, Func<T, ImmutableSortedDictionary<string, Channel>?> channels, Func<T, T, bool> isSame)
            where T : class
        {
            if (before == after)
            {
                return true;
            }
            for (var i = 0; i < after.Length && before.Length == after.Length; i++)
            {
                var (a, b) = (before[i], after[i]);
                if (!ReferenceEquals(a, b) && !(isSame(a, b) && Channels(channels(a), channels(b))))
                {
                    return false;
                }
            }
            return before.Length == after.Length;
        }

        /// <summary>Takes in what is different in the channels of one owner; false where that reaches every frame.</summary>
        private bool Channels(ImmutableSortedDictionary<string, Channel>? before, ImmutableSortedDictionary<string, Channel>? after)
        {
            if (ReferenceEquals(before, after))
            {
                return true;
            }
            if (before is null || after is null || before.Count != after.Count)
            {
                return false;
            }
            foreach (var (path, b) in after)
            {
                if (!before.TryGetValue(path, out var a))
                {
                    return false;
                }
                if (ReferenceEquals(a.Heard, b.Heard))
                {
                    if (b.Heard is null && a.Value != b.Value)
                    {
                        return false;
                    }
                }
                // The four curves of a quaternion are one as long as their keys lie on the same frames: what changes one may change all of them.
                else if (a.Heard is null || b.Heard is null || path.StartsWith("transform.quaternion", StringComparison.Ordinal) || !Curves(a.Heard, b.Heard))
                {
                    return false;
                }
            }
            return true;
        }

        private bool Curves(Curve before, Curve after)
        {
            var (a, b) = (before.Keys, after.Keys);
            if ((_compared += Math.Max(a.Length, b.Length)) > MostCompared || before.Before != after.Before || before.After != after.After)
            {
                return false;
            }
            var least = Math.Min(a.Length, b.Length);
            var (head, tail) = (0, 0);
            while (head < least && IsSame(a[head], b[head]))
            {
                head++;
            }
            while (tail < least - head && IsSame(a[^(tail + 1)], b[^(tail + 1)]))
            {
                tail++;
            }
            if (head == least && a.Length == b.Length)
            {
                return true;
            }
            // A handle looks at the keys on both sides of its own, so a key has a say as far as the second one from it; what repeats or goes on has it everywhere.
            var isOpenBefore = head < 2 || after.Before.Kind != ExtrapolationKind.Hold;
            var isOpenAfter = tail < 2 || after.After.Kind != ExtrapolationKind.Hold;
            _first = Math.Min(_first, isOpenBefore ? double.NegativeInfinity : a[head - 2].Frame);
            _last = Math.Max(_last, isOpenAfter ? double.PositiveInfinity : a[^(tail - 1)].Frame);
            return true;
        }

        private static bool IsSame(Key a, Key b) => ReferenceEquals(a, b) || a == b;
    }
}
