using Bradymotus.Core.Curves;
using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Evaluation;

/// <summary>
/// The four curves of a quaternion where they have their keys together: what is linear in all four goes from one key to the next by
/// <see cref="Quaternion.Slerp"/>, as glTF 2.0 says. Everything else is four curves, whose quaternion is taken with length 1 where it is used.
/// </summary>
internal sealed class SphericalEvaluator
{
    private readonly CurveEvaluator _time;
    private readonly Quaternion[] _keys;
    private readonly bool[] _isLinear;

    private SphericalEvaluator(CurveEvaluator time, Quaternion[] keys, bool[] isLinear) => (_time, _keys, _isLinear) = (time, keys, isLinear);

    /// <param name="curves">Of x, y, z, w.</param>
    /// <param name="compile">Gives the evaluator of a curve.</param>
    /// <returns>Null where not all four have keys on the same frames, or nothing is linear in all four.</returns>
    internal static SphericalEvaluator? Of(ReadOnlySpan<Curve?> curves, Func<Curve, CurveEvaluator> compile)
    {
        if (curves[0] is not { } x || curves[1] is not { } y || curves[2] is not { } z || curves[3] is not { } w
            || x.Keys.Length != y.Keys.Length || x.Keys.Length != z.Keys.Length || x.Keys.Length != w.Keys.Length
            || x.Before != y.Before || x.Before != z.Before || x.Before != w.Before || x.After != y.After || x.After != z.After || x.After != w.After)
        {
            return null;
        }
        var keys = new Quaternion[x.Keys.Length];
        var isLinear = new bool[Math.Max(0, keys.Length - 1)];
        var any = false;
        for (var i = 0; i < keys.Length; i++)
        {
            var (a, b, c, d) = (x.Keys[i], y.Keys[i], z.Keys[i], w.Keys[i]);
            if (a.Frame != b.Frame || a.Frame != c.Frame || a.Frame != d.Frame)
            {
                return null;
            }
            keys[i] = new(a.Value, b.Value, c.Value, d.Value);
            if (i < isLinear.Length)
            {
                isLinear[i] = a.Segment is LinearSegment && b.Segment is LinearSegment && c.Segment is LinearSegment && d.Segment is LinearSegment;
                any |= isLinear[i];
            }
        }
        return any ? new(compile(x), keys, isLinear) : null;
    }

    /// <returns>False where the four curves speak for themselves.</returns>
    internal bool TryEvaluate(double frame, out Quaternion value)
    {
        var i = _time.SegmentAt(frame, out var into);
        if (i < 0 || !_isLinear[i])
        {
            value = default;
            return false;
        }
        value = Quaternion.Slerp(_keys[i], _keys[i + 1], into);
        return true;
    }
}
