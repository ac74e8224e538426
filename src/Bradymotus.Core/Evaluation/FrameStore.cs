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
        if (Reach.Of(before, after) is not var (first, last))
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
}
