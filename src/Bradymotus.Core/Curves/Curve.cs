using System.Collections.Immutable;
using System.Diagnostics;
using System.Text.Json.Serialization;

namespace Bradymotus.Core.Curves;

/// <summary>Keys in order of their frames, and what happens before and after them. Immutable; at least one key.</summary>
/// <example><code>
/// var fall = new Curve([new Key(0, 2.5), new Key(20, 0)]);
/// var height = fall.Evaluate(10);
/// </code></example>
public sealed record Curve
{
    /// <summary>Keys lie at least so many frames apart: what is closer is the same frame, so that 0.1 + 0.2 and 0.3 are one.</summary>
    public const double LeastGap = 1e-6;

    /// <param name="keys">In any order; they are sorted by frame.</param>
    /// <param name="before">What happens before the first key; null is hold.</param>
    /// <param name="after">What happens after the last key; null is hold.</param>
    /// <exception cref="Refusal">No keys, two keys on one frame, or a number that is not finite.</exception>
    public Curve(ImmutableArray<Key> keys, Extrapolation? before = null, Extrapolation? after = null)
    {
        Keys = CurveRules.Sorted(keys);
        Before = before ?? Extrapolation.Hold;
        After = after ?? Extrapolation.Hold;
        CurveRules.Validate(this);
    }

    private Curve(ImmutableArray<Key> keys, Extrapolation before, Extrapolation after, bool isSound)
    {
        Debug.Assert(isSound, "Keys that have not been looked at go through the public constructor.");
        (Keys, Before, After) = (keys, before, after);
    }

    /// <summary>What the curve does before its first key.</summary>
    public Extrapolation Before { get; init; }

    /// <summary>What the curve does after its last key.</summary>
    public Extrapolation After { get; init; }

    /// <summary>The keys, by rising frame.</summary>
    public ImmutableArray<Key> Keys { get; }

    /// <summary>First key to last key, in frames.</summary>
    [JsonIgnore]
    public double Period => Keys[^1].Frame - Keys[0].Frame;

    /// <summary>The value at a frame, in the unit of the channel. For many frames of one curve <see cref="Compile"/> it.</summary>
    public double Evaluate(double frame)
    {
        if (frame >= Keys[0].Frame && frame < Keys[^1].Frame)
        {
            return CurvePiece.Of(this, SegmentAt(frame)).ValueAtFrame(frame);
        }
        var (at, value) = new CurveEnds(this).Map(frame);
        return double.IsNaN(at) ? value : value + CurvePiece.Of(this, SegmentAt(at)).ValueAtFrame(at);
    }

    /// <summary>
    /// A form for evaluating many frames fast. It is several times as large as the keys and not kept here, so that a history
    /// of many curves holds keys alone.
    /// </summary>
    public CurveEvaluator Compile() => new(this);

    /// <summary>The same extrapolation with other keys.</summary>
    /// <exception cref="Refusal">As the constructor.</exception>
    public Curve WithKeys(ImmutableArray<Key> keys) => new(keys, Before, After);

    /// <summary>The same with the frames until which it goes on before and after its keys taken elsewhere, as its keys are.</summary>
    /// <param name="frame">Where a frame goes.</param>
    public Curve UntilAt(Func<double, double> frame)
    {
        Extrapolation End(Extrapolation end) => end.Until is { } until ? end with { Until = frame(until) } : end;
        return Before.Until is null && After.Until is null ? this : new(Keys, End(Before), End(After));
    }

    /// <summary>The same with other keys, of which it is known that they rise and hold to <see cref="CurveRules"/>.</summary>
    internal Curve WithSound(ImmutableArray<Key> keys) => new(keys, Before, After, true);

    /// <summary>The index of the key on this frame, or the complement of where it would be inserted. Frames closer than <see cref="LeastGap"/> are one.</summary>
    public int IndexOf(double frame)
    {
        int low = 0, high = Keys.Length;
        while (low < high)
        {
            var middle = (low + high) >>> 1;
            if (Keys[middle].Frame - frame > -LeastGap)
            {
                high = middle;
            }
            else
            {
                low = middle + 1;
            }
        }
        if (low == Keys.Length || Keys[low].Frame - frame >= LeastGap)
        {
            return ~low;
        }
        var isNextNearer = low + 1 < Keys.Length && Math.Abs(Keys[low + 1].Frame - frame) < Math.Abs(Keys[low].Frame - frame);
        return isNextNearer ? low + 1 : low;
    }

    /// <summary>The key on exactly this frame, or null.</summary>
    public Key? KeyAt(double frame) => IndexOf(frame) is >= 0 and var i ? Keys[i] : null;

    /// <summary>The segment that holds a frame from the first key up to, and without, the last; the index of its first key.</summary>
    internal int SegmentAt(double frame)
    {
        int low = 0, high = Keys.Length - 1;
        while (high - low > 1)
        {
            var middle = (low + high) >>> 1;
            (low, high) = Keys[middle].Frame <= frame ? (middle, high) : (low, middle);
        }
        return low;
    }
}
