using System.Collections.Immutable;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Evaluation;

/// <summary>Which frames a change reaches.</summary>
internal sealed class Reach
{
    // So many keys are compared at the most.
    private const int MostCompared = 20_000;

    private double _first = double.PositiveInfinity, _last = double.NegativeInfinity;
    private int _compared;

    private Reach()
    {
    }

    /// <summary>The frames that are others in another state of a shot; none where the first lies after the last.</summary>
    /// <returns>Null for all of them.</returns>
    internal static (double First, double Last)? Of(Shot before, Shot after)
    {
        static Shot Head(Shot s) => s with { Nodes = [], Materials = [], World = null, Layers = [], Sounds = [], Name = "", Markers = [], Sets = [], Meant = [], Range = default, PlayRange = null };
        // Names and locks change nothing that is seen either.
        var reach = new Reach();
        return Head(before) == Head(after) && reach.Channels(before.World, after.World)
            && reach.Owners(before.Nodes, after.Nodes, n => n.Channels, (a, b) => a with { Channels = b.Channels, Name = b.Name, Locked = b.Locked } == b)
            && reach.Owners(before.Materials, after.Materials, m => m.Channels, (a, b) => a with { Channels = b.Channels, Name = b.Name } == b)
            && reach.Owners(before.Layers, after.Layers, l => l.Channels, (a, b) => a with { Channels = b.Channels, Name = b.Name, Locked = b.Locked } == b)
            && reach.Owners(before.Sounds, after.Sounds, s => s.Channels, (a, b) => a with { Channels = b.Channels, Name = b.Name } == b)
            ? (reach._first, reach._last)
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
            if (ReferenceEquals(a.ActiveCurve, b.ActiveCurve))
            {
                if (b.ActiveCurve is null && a.Value != b.Value)
                {
                    return false;
                }
            }
            // The four curves of a quaternion are one as long as their keys lie on the same frames: what changes one may change all of them.
            else if (a.ActiveCurve is null || b.ActiveCurve is null || path.StartsWith("transform.quaternion", StringComparison.Ordinal) || !Curves(a.ActiveCurve, b.ActiveCurve))
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
