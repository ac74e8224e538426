using System.Runtime.Intrinsics;

namespace Bradymotus.Core.Curves;

/// <summary>
/// A curve compiled to one flat record a segment. Finding the segment takes constant time on average whatever the number of
/// keys: a uniform grid over the keys' range gives the first candidate. No state is kept between calls, so any thread may ask for any frame.
/// </summary>
public sealed class CurveEvaluator
{
    private enum SegmentKind : byte
    {
        /// <summary>The value is a cubic of time: holds, straight lines, and handles that both reach a third.</summary>
        Polynomial,

        /// <summary>Time is a cubic of the parameter and has to be solved for it first.</summary>
        Bezier,
        Ease,
    }

    /// <summary>
    /// One segment. With s the parameter and u the progress in time: u = ((Ax·s + Bx)·s + Cx)·s with Ax = 1 − Cx − Bx, and
    /// value = ((Ay·s + By)·s + Cy)·s + Dy. As large as a cache line, so that a jump to anywhere in a long curve touches little memory.
    /// </summary>
    private struct Piece
    {
        public double Frame, Scale, Bx, Cx, Ay, By, Cy, Dy;

        public readonly double ValueAt(double s) => ((Ay * s + By) * s + Cy) * s + Dy;

        /// <summary>
        /// The slopes of a cubic that guesses s from u: those of the inverse at its ends, 1/x'(0) and 1/x'(1); beyond 3 it would turn back.
        /// </summary>
        public readonly (double Start, double End) Guess =>
            (Math.Min(3, 1f / (float)Cx), Math.Min(3, 1f / (float)(3 - 2 * Cx - Bx)));
    }

    private readonly Piece[] _pieces;
    private readonly SegmentKind[] _kinds;
    private readonly EaseSegment?[] _eases;
    private readonly int[] _grid;
    private readonly double _first, _last, _period, _gridScale;
    private readonly double _firstValue, _lastValue, _slopeBefore, _slopeAfter;
    private readonly Extrapolation _before, _after;

    internal CurveEvaluator(Curve curve)
    {
        var keys = curve.Keys;
        _first = keys[0].Frame;
        _last = keys[^1].Frame;
        _firstValue = keys[0].Value;
        _lastValue = keys[^1].Value;
        _period = _last - _first;
        _before = curve.Before;
        _after = curve.After;
        _pieces = new Piece[keys.Length - 1];
        _kinds = new SegmentKind[_pieces.Length];
        _eases = new EaseSegment?[_pieces.Length];
        for (var i = 0; i < _pieces.Length; i++)
        {
            (_pieces[i], _kinds[i]) = Compile(curve, i);
            _eases[i] = keys[i].Segment as EaseSegment;
        }
        _grid = Grid(_pieces, _first, _period, out _gridScale);
        if (_pieces.Length > 0)
        {
            _slopeBefore = StartSlope(curve, 0);
            _slopeAfter = EndSlope(curve, _pieces.Length - 1);
        }
    }

    /// <summary>The value at a frame. Not-a-number gives the first value, infinity that of its end.</summary>
    public double Evaluate(double frame)
    {
        if (frame >= _first && frame < _last)
        {
            return Inside(frame);
        }
        if (frame == _last || _pieces.Length == 0)
        {
            return _lastValue;
        }
        return frame > _last ? After(frame) : Before(frame);
    }

    /// <summary>Values at evenly spaced frames: first, first + step, …. The same bits as <see cref="Evaluate"/>, several at a time.</summary>
    public void Sample(double first, double step, Span<double> values)
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

    private double Inside(double frame)
    {
        var i = Find(frame);
        ref readonly var p = ref _pieces[i];
        var u = (frame - p.Frame) * p.Scale;
        return _kinds[i] switch
        {
            SegmentKind.Polynomial => p.ValueAt(u),
            SegmentKind.Bezier => p.ValueAt(Solve(in p, u)),
            _ => p.Dy + p.Cy * Easing.Evaluate(_eases[i]!, u),
        };
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

    /// <summary>
    /// The parameter at progress u: two steps of Halley's iteration from a good guess nearly always suffice; where they do not
    /// (an upright or nearly upright curve), <see cref="SolveSafely"/> does.
    /// </summary>
    private static double Solve(in Piece p, double u)
    {
        double bx = p.Bx, cx = p.Cx, ax = 1 - cx - bx;
        var (start, end) = p.Guess;
        var s = (((start + end - 2) * u + (3 - 2 * start - end)) * u + start) * u;
        for (var i = 0; i < 2; i++)
        {
            var error = ((ax * s + bx) * s + cx) * s - u;
            var slope = (3 * ax * s + 2 * bx) * s + cx;
            var bend = 3 * ax * s + bx;
            s -= error * slope / (slope * slope - error * bend);
        }
        return Math.Abs(((ax * s + bx) * s + cx) * s - u) < 1e-13 && s >= 0 && s <= 1 ? s : SolveSafely(ax, bx, cx, u);
    }

    /// <summary><see cref="Solve"/> for four frames of one segment, operation by operation the same.</summary>
    private static void Solve4(in Piece p, double first, int index, double step, Span<double> values)
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
                values[i] = p.ValueAt(Solve(in p, u[i]));
            }
            return;
        }
        (((Vector256.Create(p.Ay) * s + Vector256.Create(p.By)) * s + Vector256.Create(p.Cy)) * s + Vector256.Create(p.Dy)).CopyTo(values);
    }

    /// <summary>Newton's iteration, kept inside a shrinking bracket by bisection.</summary>
    private static double SolveSafely(double ax, double bx, double cx, double u)
    {
        double low = 0, high = 1, s = u;
        for (var i = 0; i < 64; i++)
        {
            var error = ((ax * s + bx) * s + cx) * s - u;
            if (Math.Abs(error) < 1e-14)
            {
                return s;
            }
            if (error < 0)
            {
                low = s;
            }
            else
            {
                high = s;
            }
            var slope = (3 * ax * s + 2 * bx) * s + cx;
            var next = s - error / slope;
            if (!(next > low && next < high))
            {
                next = 0.5 * (low + high);
            }
            if (next == s)
            {
                break;
            }
            s = next;
        }
        return s;
    }

    private double After(double frame)
    {
        var kind = _after.Kind;
        if (kind == ExtrapolationKind.Hold || !double.IsFinite(frame))
        {
            return _lastValue;
        }
        if (kind == ExtrapolationKind.Linear)
        {
            return _lastValue + _slopeAfter * (frame - _last);
        }
        // Pass 0 is the keys themselves, pass 1 the first repetition.
        var pass = Math.Floor((frame - _first) / _period);
        if (_after.Count > 0 && frame >= _last + _after.Count * _period)
        {
            return EndOfPass(kind, _after.Count);
        }
        return InPass(kind, pass, frame - _first - pass * _period);
    }

    private double Before(double frame)
    {
        var kind = _before.Kind;
        if (kind == ExtrapolationKind.Hold || !double.IsFinite(frame))
        {
            return _firstValue;
        }
        if (kind == ExtrapolationKind.Linear)
        {
            return _firstValue + _slopeBefore * (frame - _first);
        }
        if (_before.Count > 0 && frame <= _first - _before.Count * _period)
        {
            return kind switch
            {
                ExtrapolationKind.LoopOffset => _firstValue - _before.Count * (_lastValue - _firstValue),
                ExtrapolationKind.PingPong when (_before.Count & 1) == 1 => _lastValue,
                _ => _firstValue,
            };
        }
        var pass = Math.Floor((frame - _first) / _period);
        return InPass(kind, pass, frame - _first - pass * _period);
    }

    private double InPass(ExtrapolationKind kind, double pass, double into)
    {
        into = Math.Clamp(into, 0, _period);
        var offset = 0.0;
        if (kind == ExtrapolationKind.PingPong && Math.Abs(pass % 2) == 1)
        {
            into = _period - into;
        }
        else if (kind == ExtrapolationKind.LoopOffset)
        {
            offset = pass * (_lastValue - _firstValue);
        }
        var at = _first + into;
        return offset + (at < _last ? Inside(at) : _lastValue);
    }

    private double EndOfPass(ExtrapolationKind kind, int pass) => kind switch
    {
        ExtrapolationKind.LoopOffset => _lastValue + pass * (_lastValue - _firstValue),
        ExtrapolationKind.PingPong when (pass & 1) == 1 => _firstValue,
        _ => _lastValue,
    };

    private static (Piece Piece, SegmentKind Kind) Compile(Curve curve, int i)
    {
        var a = curve.Keys[i];
        var b = curve.Keys[i + 1];
        var length = b.Frame - a.Frame;
        var piece = new Piece { Frame = a.Frame, Scale = 1 / length, Dy = a.Value };
        switch (a.Segment)
        {
            case HoldSegment:
                return (piece, SegmentKind.Polynomial);
            case LinearSegment:
                piece.Cy = b.Value - a.Value;
                return (piece, SegmentKind.Polynomial);
            case EaseSegment:
                piece.Cy = b.Value - a.Value;
                return (piece, SegmentKind.Ease);
        }
        var points = ControlPoints.Of(curve, i);
        var y1 = points.OutValue;
        var y2 = b.Value - a.Value + points.InValue;
        piece.Cy = 3 * y1;
        piece.By = 3 * (y2 - 2 * y1);
        piece.Ay = b.Value - a.Value - piece.Cy - piece.By;
        if (a.Out is not FreeHandle && b.In is not FreeHandle)
        {
            return (piece, SegmentKind.Polynomial);
        }
        var x1 = points.OutFrames / length;
        var x2 = 1 + points.InFrames / length;
        piece.Cx = 3 * x1;
        piece.Bx = 3 * (x2 - 2 * x1);
        return (piece, SegmentKind.Bezier);
    }

    private static int[] Grid(Piece[] pieces, double first, double period, out double scale)
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

    /// <summary>The slope in value per frame with which the curve leaves key <paramref name="i"/>; 0 where it is upright.</summary>
    private static double StartSlope(Curve curve, int i)
    {
        var (a, b) = (curve.Keys[i], curve.Keys[i + 1]);
        var chord = (b.Value - a.Value) / (b.Frame - a.Frame);
        if (a.Segment is BezierSegment)
        {
            var p = ControlPoints.Of(curve, i);
            var (frames, value) = (p.OutFrames, p.OutValue);
            if (frames == 0 && value == 0)
            {
                (frames, value) = (b.Frame - a.Frame + p.InFrames, b.Value - a.Value + p.InValue);
            }
            return frames == 0 ? (value == 0 ? chord : 0) : value / frames;
        }
        return a.Segment switch
        {
            LinearSegment => chord,
            EaseSegment ease => chord * Easing.EndSlope(ease, atEnd: false),
            _ => 0,
        };
    }

    /// <summary>The slope in value per frame with which the curve arrives at key <paramref name="i"/> + 1; 0 where it is upright.</summary>
    private static double EndSlope(Curve curve, int i)
    {
        var (a, b) = (curve.Keys[i], curve.Keys[i + 1]);
        var chord = (b.Value - a.Value) / (b.Frame - a.Frame);
        if (a.Segment is BezierSegment)
        {
            var p = ControlPoints.Of(curve, i);
            var (frames, value) = (-p.InFrames, -p.InValue);
            if (frames == 0 && value == 0)
            {
                (frames, value) = (b.Frame - a.Frame - p.OutFrames, b.Value - a.Value - p.OutValue);
            }
            return frames == 0 ? (value == 0 ? chord : 0) : value / frames;
        }
        return a.Segment switch
        {
            LinearSegment => chord,
            EaseSegment ease => chord * Easing.EndSlope(ease, atEnd: true),
            _ => 0,
        };
    }
}
