using System.Collections.Immutable;
using System.Text.Json.Serialization;

namespace Bradymotus.Core.Curves;

/// <summary>Keys in order of their frames, and what happens before and after them. Immutable; at least one key.</summary>
/// <example><code>
/// var fall = new Curve([new Key(0, 2.5), new Key(20, 0)]);
/// var height = fall.Evaluate(10);
/// </code></example>
public sealed record Curve
{
    private CurveEvaluator? _evaluator;

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

    // The evaluator belongs to one set of keys: a copy makes its own.
    private Curve(Curve other)
    {
        Keys = other.Keys;
        Before = other.Before;
        After = other.After;
    }

    public Extrapolation Before { get; init; }

    public Extrapolation After { get; init; }

    /// <summary>The keys, by rising frame.</summary>
    public ImmutableArray<Key> Keys { get; }

    /// <summary>First key to last key, in frames.</summary>
    [JsonIgnore]
    public double Period => Keys[^1].Frame - Keys[0].Frame;

    /// <summary>The value at a frame, in the unit of the channel.</summary>
    public double Evaluate(double frame) => Compiled().Evaluate(frame);

    /// <summary>The compiled form, made once.</summary>
    public CurveEvaluator Compiled() => _evaluator ??= new CurveEvaluator(this);

    /// <summary>The same extrapolation with other keys.</summary>
    /// <exception cref="Refusal">As the constructor.</exception>
    public Curve WithKeys(ImmutableArray<Key> keys) => new(keys, Before, After);

    /// <summary>The index of the key on this frame, or the complement of where it would be inserted.</summary>
    public int IndexOf(double frame)
    {
        int low = 0, high = Keys.Length - 1;
        while (low <= high)
        {
            var middle = (low + high) / 2;
            var at = Keys[middle].Frame;
            if (at == frame)
            {
                return middle;
            }
            if (at < frame)
            {
                low = middle + 1;
            }
            else
            {
                high = middle - 1;
            }
        }
        return ~low;
    }

    public Key? KeyAt(double frame) => IndexOf(frame) is >= 0 and var i ? Keys[i] : null;
}
