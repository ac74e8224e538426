namespace Bradymotus.Core.Curves;

/// <summary>
/// One segment compiled. With s the parameter and u the progress in time: u = ((Ax·s + Bx)·s + Cx)·s with Ax = 1 − Cx − Bx, and
/// value = ((Ay·s + By)·s + Cy)·s + Dy. As large as a cache line, so that a jump to anywhere in a long curve touches little memory.
/// </summary>
internal struct CurvePiece
{
    internal double Frame, Scale, Bx, Cx, Ay, By, Cy, Dy;

    internal readonly double ValueAt(double s) => ((Ay * s + By) * s + Cy) * s + Dy;

    /// <summary>
    /// The slopes of a cubic that guesses s from u: those of the inverse at its ends, 1/x'(0) and 1/x'(1); beyond 3 it would turn back.
    /// </summary>
    internal readonly (double Start, double End) Guess =>
        (Math.Min(3, 1f / (float)Cx), Math.Min(3, 1f / (float)(3 - 2 * Cx - Bx)));

    /// <summary>A segment by itself, for asking it once.</summary>
    internal static Alone Of(Curve curve, int i) => new(Compile(curve, i, out var kind), kind, curve.Keys[i].Segment as EaseSegment);

    /// <summary>Compiles the segment from key <paramref name="i"/> to the next.</summary>
    internal static CurvePiece Compile(Curve curve, int i, out SegmentKind kind)
    {
        var a = curve.Keys[i];
        var b = curve.Keys[i + 1];
        var length = b.Frame - a.Frame;
        var piece = new CurvePiece { Frame = a.Frame, Scale = 1 / length, Dy = a.Value };
        kind = SegmentKind.Polynomial;
        switch (a.Segment)
        {
            case HoldSegment:
                return piece;
            case LinearSegment:
                piece.Cy = b.Value - a.Value;
                return piece;
            case EaseSegment:
                piece.Cy = b.Value - a.Value;
                kind = SegmentKind.Ease;
                return piece;
        }
        var points = ControlPoints.Of(curve, i);
        var y1 = points.OutValue;
        var y2 = b.Value - a.Value + points.InValue;
        piece.Cy = 3 * y1;
        piece.By = 3 * (y2 - 2 * y1);
        piece.Ay = b.Value - a.Value - piece.Cy - piece.By;
        if (a.Out is FreeHandle || b.In is FreeHandle)
        {
            var x1 = points.OutFrames / length;
            var x2 = 1 + points.InFrames / length;
            piece.Cx = 3 * x1;
            piece.Bx = 3 * (x2 - 2 * x1);
            kind = SegmentKind.Bezier;
        }
        return piece;
    }

    /// <summary>The value at a frame inside the segment.</summary>
    internal readonly double ValueAtFrame(double frame, SegmentKind kind, EaseSegment? ease)
    {
        var u = (frame - Frame) * Scale;
        return kind switch
        {
            SegmentKind.Polynomial => ValueAt(u),
            SegmentKind.Bezier => ValueAt(Solve(u)),
            _ => Dy + Cy * Easing.Evaluate(ease!, u),
        };
    }

    /// <summary>
    /// The parameter at progress u: two steps of Halley's iteration from a good guess nearly always suffice; where they do not
    /// (an upright or nearly upright curve), <see cref="SolveSafely"/> does.
    /// </summary>
    internal readonly double Solve(double u)
    {
        double bx = Bx, cx = Cx, ax = 1 - cx - bx;
        var (start, end) = Guess;
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

    internal readonly struct Alone(CurvePiece piece, SegmentKind kind, EaseSegment? ease)
    {
        internal double ValueAtFrame(double frame) => piece.ValueAtFrame(frame, kind, ease);
    }
}

internal enum SegmentKind : byte
{
    /// <summary>The value is a cubic of time: holds, straight lines, and handles that both reach a third.</summary>
    Polynomial,

    /// <summary>Time is a cubic of the parameter and has to be solved for it first.</summary>
    Bezier,
    Ease,
}
