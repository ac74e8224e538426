using System.Runtime.Intrinsics;

namespace Bradymotus.Core.Curves;

/// <summary>
/// A curve made ready for being asked often: asked for more than a few frames it is compiled, so that a curve that a hand drags is not
/// compiled at every step for the one frame that is shown. The same bits either way, and any thread may ask for any frame.
/// </summary>
public sealed class CurveEvaluator
{
    // Asked for so many single frames it is compiled: one a little later than the other, so that a large shot that begins to play does not
    // compile all of its curves on one frame.
    private const int Few = 4, Spread = 48;
    private static int _made;

    private readonly Curve _curve;
    private CompiledCurve? _compiled;
    private readonly int _patience;
    private int _asked;

    internal CurveEvaluator(Curve curve)
    {
        _curve = curve;
        // One that is short is compiled as fast as it is asked.
        _compiled = curve.Keys.Length <= Few ? new(curve) : null;
        _patience = Few + (int)((uint)Interlocked.Increment(ref _made) % Spread);
    }

    private CompiledCurve Compiled => _compiled ??= new(_curve);

    /// <summary>The value at a frame. Not-a-number gives the first value, infinity that of its end.</summary>
    public double Evaluate(double frame) => _compiled is { } compiled ? compiled.Evaluate(frame) : Uncompiled(frame);

    /// <summary>Values at evenly spaced frames: first, first + step, …. The same bits as <see cref="Evaluate"/>, several at a time.</summary>
    public void Sample(double first, double step, Span<double> values)
    {
        if (values.Length == 1)
        {
            values[0] = Evaluate(first);
            return;
        }
        Compiled.Sample(first, step, values);
    }

    /// <summary>The segment that gives the value at a frame, and how far into it that is, 0 to 1 in time; −1 where the value is not inside one as it stands.</summary>
    internal int SegmentAt(double frame, out double into) => Compiled.SegmentAt(frame, out into);

    // Which thread counts does not matter: it is compiled a little sooner or later, or twice.
    private double Uncompiled(double frame) => ++_asked > _patience ? Compiled.Evaluate(frame) : _curve.Evaluate(frame);
}

/// <summary>
/// A curve compiled to one flat record a segment. Finding the segment takes constant time on average whatever the number of
/// keys: a uniform grid over the keys' range gives the first candidate. No state is kept between calls, so any thread may ask for any frame.
/// </summary>
internal sealed class CompiledCurve
{
    private readonly CurvePiece[] _pieces;
    private readonly SegmentKind[] _kinds;
    private readonly EaseSegment?[]? _eases;
    private readonly int[] _grid;
    private readonly double _first, _last, _gridScale;
    private readonly CurveEnds _ends;

    internal CompiledCurve(Curve curve)
    {
        var keys = curve.Keys;
        _ends = new(curve);
        (_first, _last) = (_ends.First, _ends.Last);
        _pieces = new CurvePiece[keys.Length - 1];
        _kinds = new SegmentKind[_pieces.Length];
        for (var i = 0; i < _pieces.Length; i++)
        {
            _pieces[i] = CurvePiece.Compile(curve, i, out _kinds[i]);
            if (keys[i].Segment is EaseSegment ease)
            {
                (_eases ??= new EaseSegment?[_pieces.Length])[i] = ease;
            }
        }
        _grid = Grid(_pieces, _first, _last - _first, out _gridScale);
    }

    internal double Evaluate(double frame)
    {
        if (frame >= _first && frame < _last)
        {
            return Inside(frame);
        }
        var (at, value) = _ends.Map(frame);
        return double.IsNaN(at) ? value : value + Inside(at);
    }

    internal void Sample(double first, double step, Span<double> values)
    {
        var i = 0;
        while (i < values.Length)
        {
            var frame = first + i * step;
            if (frame >= _first && frame < _last && step > 0)
            {
                var at = Find(frame);
                ref readonly var piece = ref _pieces[at];
                if (_kinds[at] == SegmentKind.Bezier)
                {
                    var end = at + 1 < _pieces.Length ? _pieces[at + 1].Frame : _last;
                    for (; i + 4 <= values.Length && first + (i + 3) * step < end; i += 4)
                    {
                        Solve4(in piece, first, i, step, values.Slice(i, 4));
                    }
                    if (i >= values.Length)
                    {
                        return;
                    }
                }
            }
            values[i] = Evaluate(first + i * step);
            i++;
        }
    }

    /// <summary>The segment that gives the value at a frame, and how far into it that is, 0 to 1 in time; −1 where the value is not inside one as it stands.</summary>
    internal int SegmentAt(double frame, out double into)
    {
        var (at, value) = _ends.Map(frame);
        into = 0;
        if (double.IsNaN(at) || value != 0)
        {
            return -1;
        }
        var i = Find(at);
        var end = i + 1 < _pieces.Length ? _pieces[i + 1].Frame : _last;
        into = (at - _pieces[i].Frame) / (end - _pieces[i].Frame);
        return i;
    }

    private double Inside(double frame)
    {
        var i = Find(frame);
        return _pieces[i].ValueAtFrame(frame, _kinds[i], _eases?[i]);
    }

    /// <summary>The segment that holds a frame from the first key up to, and without, the last.</summary>
    private int Find(double frame)
    {
        var cell = (int)((frame - _first) * _gridScale);
        var low = _grid[cell];
        var high = _grid[cell + 1];
        while (high - low > 8)
        {
            var middle = (low + high) >> 1;
            if (_pieces[middle].Frame <= frame)
            {
                low = middle;
            }
            else
            {
                high = middle;
            }
        }
        // Rounding may put a frame on a cell's edge into the cell beside it.
        while (low > 0 && frame < _pieces[low].Frame)
        {
            low--;
        }
        while (low + 1 < _pieces.Length && frame >= _pieces[low + 1].Frame)
        {
            low++;
        }
        return low;
    }

    /// <summary><see cref="CurvePiece.Solve"/> for four frames of one segment, operation by operation the same.</summary>
    private static void Solve4(in CurvePiece p, double first, int index, double step, Span<double> values)
    {
        double bx = p.Bx, cx = p.Cx, ax = 1 - cx - bx;
        var (start, end) = p.Guess;
        var frames = Vector256.Create(first) + Vector256.Create((double)index, index + 1, index + 2, index + 3) * step;
        var u = (frames - Vector256.Create(p.Frame)) * p.Scale;
        var (a, b, c) = (Vector256.Create(ax), Vector256.Create(bx), Vector256.Create(cx));
        var (a3, b2) = (Vector256.Create(3 * ax), Vector256.Create(2 * bx));
        var s = ((Vector256.Create(start + end - 2) * u + Vector256.Create(3 - 2 * start - end)) * u + Vector256.Create(start)) * u;
        for (var i = 0; i < 2; i++)
        {
            var error = ((a * s + b) * s + c) * s - u;
            var slope = (a3 * s + b2) * s + c;
            var bend = a3 * s + b;
            s -= error * slope / (slope * slope - error * bend);
        }
        var rest = Vector256.Abs(((a * s + b) * s + c) * s - u);
        var done = Vector256.LessThan(rest, Vector256.Create(1e-13)) & Vector256.GreaterThanOrEqual(s, Vector256<double>.Zero) & Vector256.LessThanOrEqual(s, Vector256<double>.One);
        if (done.ExtractMostSignificantBits() != 0b1111)
        {
            for (var i = 0; i < 4; i++)
            {
                values[i] = p.ValueAt(p.Solve(u[i]));
            }
            return;
        }
        (((Vector256.Create(p.Ay) * s + Vector256.Create(p.By)) * s + Vector256.Create(p.Cy)) * s + Vector256.Create(p.Dy)).CopyTo(values);
    }

    private static int[] Grid(CurvePiece[] pieces, double first, double period, out double scale)
    {
        scale = pieces.Length / period;
        if (pieces.Length == 0 || !double.IsFinite(scale))
        {
            scale = 0;
            return [0, Math.Max(0, pieces.Length - 1)];
        }
        // One cell more than pieces, since rounding may reach the edge, and one to bound the last.
        var grid = new int[pieces.Length + 2];
        var piece = 0;
        for (var cell = 0; cell < grid.Length; cell++)
        {
            var edge = first + cell / scale;
            while (piece < pieces.Length - 1 && pieces[piece + 1].Frame <= edge)
            {
                piece++;
            }
            grid[cell] = piece;
        }
        return grid;
    }
}
