namespace Bradymotus.Core.Curves;

/// <summary>The two ends of a curve, and how it goes on beyond them.</summary>
internal readonly struct CurveEnds
{
    // Beyond this a frame says nothing any more; what goes on straight stays within the range of numbers.
    private const double Farthest = 1e12;

    private readonly double _first, _last, _period, _firstValue, _lastValue, _slopeBefore, _slopeAfter;
    private readonly Extrapolation _before, _after;
    private readonly bool _isOne;

    internal CurveEnds(Curve curve)
    {
        var keys = curve.Keys;
        (_first, _last) = (keys[0].Frame, keys[^1].Frame);
        (_firstValue, _lastValue) = (keys[0].Value, keys[^1].Value);
        _period = _last - _first;
        (_before, _after) = (curve.Before, curve.After);
        _isOne = keys.Length == 1;
        if (!_isOne)
        {
            _slopeBefore = _before.Kind == ExtrapolationKind.Linear ? StartSlope(curve, 0) : 0;
            _slopeAfter = _after.Kind == ExtrapolationKind.Linear ? EndSlope(curve, keys.Length - 2) : 0;
        }
    }

    internal double First => _first;

    internal double Last => _last;

    /// <summary>
    /// Where a frame is to be asked for: the value of the curve is <c>Value</c> plus the one at frame <c>At</c> between the keys, or <c>Value</c>
    /// alone where <c>At</c> is not a number. Not-a-number gives the first value, infinity that of its end.
    /// </summary>
    internal (double At, double Value) Map(double frame)
    {
        if (frame >= _first && frame < _last)
        {
            return (frame, 0);
        }
        if (frame == _last || _isOne)
        {
            return (double.NaN, _lastValue);
        }
        return frame > _last
            ? After(_after.Until is { } to && frame > to ? Math.Max(to, _last) : frame)
            : Before(_before.Until is { } from && frame < from ? Math.Min(from, _first) : frame);
    }

    private (double At, double Value) After(double frame)
    {
        var kind = _after.Kind;
        if (kind == ExtrapolationKind.Hold || !double.IsFinite(frame))
        {
            return (double.NaN, _lastValue);
        }
        if (frame <= _last)
        {
            return (double.NaN, _lastValue);
        }
        frame = Math.Min(frame, Farthest);
        if (kind == ExtrapolationKind.Linear)
        {
            return (double.NaN, _lastValue + _slopeAfter * (frame - _last));
        }
        if (_after.Count > 0 && frame >= _last + _after.Count * _period)
        {
            return (double.NaN, kind switch
            {
                ExtrapolationKind.LoopOffset => _lastValue + _after.Count * (_lastValue - _firstValue),
                ExtrapolationKind.PingPong when (_after.Count & 1) == 1 => _firstValue,
                _ => _lastValue,
            });
        }
        return InPass(kind, frame);
    }

    private (double At, double Value) Before(double frame)
    {
        var kind = _before.Kind;
        if (kind == ExtrapolationKind.Hold || !double.IsFinite(frame))
        {
            return (double.NaN, _firstValue);
        }
        frame = Math.Max(frame, -Farthest);
        if (kind == ExtrapolationKind.Linear)
        {
            return (double.NaN, _firstValue + _slopeBefore * (frame - _first));
        }
        if (_before.Count > 0 && frame <= _first - _before.Count * _period)
        {
            return (double.NaN, kind switch
            {
                ExtrapolationKind.LoopOffset => _firstValue - _before.Count * (_lastValue - _firstValue),
                ExtrapolationKind.PingPong when (_before.Count & 1) == 1 => _lastValue,
                _ => _firstValue,
            });
        }
        return InPass(kind, frame);
    }

    // Pass 0 is the keys themselves, pass 1 the first repetition after them, pass −1 the one before.
    private (double At, double Value) InPass(ExtrapolationKind kind, double frame)
    {
        var pass = Math.Floor((frame - _first) / _period);
        var into = Math.Clamp(frame - _first - pass * _period, 0, _period);
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
        return at < _last ? (at, offset) : (double.NaN, offset + _lastValue);
    }

    /// <summary>The slope in value per frame with which the curve leaves key <paramref name="i"/>; 0 where it is upright.</summary>
    internal static double StartSlope(Curve curve, int i)
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
    internal static double EndSlope(Curve curve, int i)
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
