namespace Bradymotus.Core.Evaluation;

/// <summary>Motion paths, kept until something that they depend on is another: the object, or what it hangs below.</summary>
public sealed class PathCache
{
    // So many are kept: more are never drawn at once.
    private const int Most = 64;

    private readonly Dictionary<string, Kept> _kept = [];

    /// <summary>How many have been worked out so far.</summary>
    public int Made { get; private set; }

    /// <summary>Where the pivot of a node is on each whole frame of a range, as <see cref="CompiledShot.MotionPath"/>: x, y, z for each; with another version whenever it is another.</summary>
    public (double[] Points, int Version) Of(CompiledShot compiled, string id, int first, int last)
    {
        var chain = compiled.ChainOf(id);
        if (_kept.TryGetValue(id, out var kept) && kept.First == first && kept.Last == last && kept.Chain.AsSpan().SequenceEqual(chain))
        {
            return (kept.Points, kept.Version);
        }
        if (_kept.Count >= Most)
        {
            _kept.Clear();
        }
        var points = compiled.MotionPath(id, first, last);
        var numbers = new double[3 * points.Length];
        for (var i = 0; i < points.Length; i++)
        {
            (numbers[3 * i], numbers[3 * i + 1], numbers[3 * i + 2]) = (points[i].X, points[i].Y, points[i].Z);
        }
        Made++;
        _kept[id] = new(first, last, chain, numbers, Made);
        return (numbers, Made);
    }

    private sealed record Kept(int First, int Last, CompiledOwner[] Chain, double[] Points, int Version);
}
