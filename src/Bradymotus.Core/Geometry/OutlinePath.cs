using System.Globalization;
using System.Runtime.CompilerServices;

namespace Bradymotus.Core.Geometry;

/// <summary>
/// Closed contours from path data as SVG 2 has it (chapter 9.3), in metres with y upwards: M, L, H, V, C, Q and Z, absolute or relative.
/// Outer contours run counter-clockwise, holes clockwise, whichever way they were written: what lies inside an odd number of others is a hole.
/// </summary>
internal sealed class OutlinePath
{
    /// <summary>The most points of all contours together.</summary>
    internal const int MostPoints = 8000;

    /// <summary>The longest path data.</summary>
    internal const int MostLength = 200_000;

    private static readonly ConditionalWeakTable<string, Dictionary<int, OutlinePath>> Known = [];

    private readonly List<(double X, double Y, bool IsJoint)> _points = [];
    private readonly List<int> _starts = [];
    private readonly Lazy<int[]> _triangles;
    private readonly Lazy<double> _mostInset;

    private OutlinePath(string data, int segments)
    {
        new Reader(data, segments, this).Read();
        Starts = [.. _starts, _points.Count];
        Orient();
        Points = [.. _points];
        _triangles = new(() => OutlineTriangles.Of(this));
        _mostInset = new(() => OutlineTriangles.MostInset(this, Triangles));
    }

    /// <summary>All points; where one is a joint, the outline may have a corner.</summary>
    internal (double X, double Y, bool IsJoint)[] Points { get; }

    /// <summary>The first point of each contour, and the end.</summary>
    internal int[] Starts { get; }

    /// <summary>Three points a triangle of what is inside, counter-clockwise.</summary>
    internal int[] Triangles => _triangles.Value;

    /// <summary>How far all edges can be moved inwards before a triangle turns over.</summary>
    internal double MostInset => _mostInset.Value;

    /// <summary>The contours of path data.</summary>
    /// <param name="data">The path data.</param>
    /// <param name="segments">Straight pieces for each curved one.</param>
    /// <exception cref="Refusal">The data cannot be read, or there are too many points.</exception>
    internal static OutlinePath Of(string data, int segments)
    {
        var bySegments = Known.GetOrCreateValue(data);
        lock (bySegments)
        {
            if (!bySegments.TryGetValue(segments, out var path))
            {
                if (bySegments.Count > 32)
                {
                    bySegments.Clear();
                }
                bySegments.Add(segments, path = new(data, segments));
            }
            return path;
        }
    }

    /// <summary>The point after another on its contour.</summary>
    internal int Next(int contour, int point) => point + 1 < Starts[contour + 1] ? point + 1 : Starts[contour];

    /// <summary>Unit normals outwards of the edges before and after a point, and the way it goes when both edges move outwards by 1.</summary>
    internal ((double X, double Y) Before, (double X, double Y) After, (double X, double Y) Miter) Corner(int contour, int point)
    {
        var before = EdgeNormal(contour, point > Starts[contour] ? point - 1 : Starts[contour + 1] - 1);
        var after = EdgeNormal(contour, point);
        // A spike would go far: it is held to three times.
        var scale = 1 / Math.Max(0.22, 1 + before.X * after.X + before.Y * after.Y);
        return (before, after, ((before.X + after.X) * scale, (before.Y + after.Y) * scale));
    }

    private (double X, double Y) EdgeNormal(int contour, int point)
    {
        var (a, b) = (Points[point], Points[Next(contour, point)]);
        var (x, y) = (b.X - a.X, b.Y - a.Y);
        var length = Math.Sqrt(x * x + y * y);
        return (y / length, -x / length);
    }

    private void Orient()
    {
        for (var c = 0; c + 1 < Starts.Length; c++)
        {
            var (first, end) = (Starts[c], Starts[c + 1]);
            var area = 0.0;
            for (var i = first; i < end; i++)
            {
                var (a, b) = (_points[i], _points[i + 1 < end ? i + 1 : first]);
                area += a.X * b.Y - b.X * a.Y;
            }
            var depth = 0;
            for (var other = 0; other + 1 < Starts.Length; other++)
            {
                depth += other != c && IsInside(_points[first], other) ? 1 : 0;
            }
            if (area > 0 != (depth % 2 == 0))
            {
                _points.Reverse(first, end - first);
            }
        }
    }

    internal bool IsInside((double X, double Y, bool) p, int contour)
    {
        var inside = false;
        var (first, end) = (Starts[contour], Starts[contour + 1]);
        for (int i = first, j = end - 1; i < end; j = i++)
        {
            var (a, b) = (_points[i], _points[j]);
            if (a.Y > p.Y != b.Y > p.Y && p.X < (b.X - a.X) * (p.Y - a.Y) / (b.Y - a.Y) + a.X)
            {
                inside = !inside;
            }
        }
        return inside;
    }

    private void Add(double x, double y, bool isJoint)
    {
        var first = _starts[^1];
        if (_points.Count > first && _points[^1] is var last && Math.Abs(last.X - x) + Math.Abs(last.Y - y) < 1e-9)
        {
            return;
        }
        if (_points.Count >= MostPoints)
        {
            throw new Refusal($"The outline has more than {MostPoints} points: give it fewer curve segments, or a simpler path.");
        }
        _points.Add((x, y, isJoint));
    }

    /// <summary>Ends a contour: the last point is not the first one again, and one of less than three points is none.</summary>
    private void Close()
    {
        if (_starts.Count == 0)
        {
            return;
        }
        var first = _starts[^1];
        if (_points.Count > first + 1 && Math.Abs(_points[^1].X - _points[first].X) + Math.Abs(_points[^1].Y - _points[first].Y) < 1e-9)
        {
            _points.RemoveAt(_points.Count - 1);
        }
        if (_points.Count - first < 3)
        {
            _points.RemoveRange(first, _points.Count - first);
            _starts.RemoveAt(_starts.Count - 1);
        }
    }

    private ref struct Reader(string data, int segments, OutlinePath into)
    {
        private int _at;
        private (double X, double Y) _now, _start;

        internal void Read()
        {
            if (data.Length > MostLength)
            {
                throw new Refusal($"The outline's path data has {data.Length} characters: at most {MostLength} are taken.");
            }
            var command = '\0';
            var (isOpen, hasBegun) = (false, false);
            while (Skip() < data.Length)
            {
                if (char.IsAsciiLetter(data[_at]))
                {
                    command = data[_at++];
                }
                else if (command is '\0' or 'Z' or 'z')
                {
                    throw Wrong("expected a command");
                }
                var isRelative = char.IsAsciiLetterLower(command);
                var (x, y) = isRelative ? _now : default;
                switch (char.ToUpperInvariant(command))
                {
                    case 'M':
                        into.Close();
                        into._starts.Add(into._points.Count);
                        _now = _start = (x + Number(), y + Number());
                        into.Add(_now.X, _now.Y, true);
                        command = isRelative ? 'l' : 'L';
                        isOpen = hasBegun = true;
                        continue;
                    case 'Z':
                        into.Close();
                        _now = _start;
                        isOpen = false;
                        continue;
                }
                if (!isOpen)
                {
                    if (!hasBegun)
                    {
                        throw Wrong("expected M first");
                    }
                    into._starts.Add(into._points.Count);
                    into.Add(_now.X, _now.Y, true);
                    isOpen = true;
                }
                switch (char.ToUpperInvariant(command))
                {
                    case 'L':
                        Line(x + Number(), y + Number());
                        break;
                    case 'H':
                        Line(x + Number(), _now.Y);
                        break;
                    case 'V':
                        Line(_now.X, y + Number());
                        break;
                    case 'Q':
                        var (qx, qy, ex, ey) = (x + Number(), y + Number(), x + Number(), y + Number());
                        // A parabola is the cubic whose handles are two thirds of the way to its one control point.
                        Cubic(_now.X + (qx - _now.X) * 2 / 3, _now.Y + (qy - _now.Y) * 2 / 3, ex + (qx - ex) * 2 / 3, ey + (qy - ey) * 2 / 3, ex, ey);
                        break;
                    case 'C':
                        Cubic(x + Number(), y + Number(), x + Number(), y + Number(), x + Number(), y + Number());
                        break;
                    default:
                        throw Wrong($"the command {command} is not taken here (M, L, H, V, C, Q and Z are); bring the outline in from an SVG file, which knows all");
                }
            }
            into.Close();
        }

        private void Line(double x, double y)
        {
            _now = (x, y);
            into.Add(x, y, true);
        }

        private void Cubic(double ax, double ay, double bx, double by, double x, double y)
        {
            var (sx, sy) = _now;
            for (var i = 1; i <= segments; i++)
            {
                var t = (double)i / segments;
                var (u, v) = (1 - t, t);
                var (p, q, r, s) = (u * u * u, 3 * u * u * v, 3 * u * v * v, v * v * v);
                into.Add(p * sx + q * ax + r * bx + s * x, p * sy + q * ay + r * by + s * y, i == segments);
            }
            _now = (x, y);
        }

        private int Skip()
        {
            while (_at < data.Length && (char.IsWhiteSpace(data[_at]) || data[_at] == ','))
            {
                _at++;
            }
            return _at;
        }

        private double Number()
        {
            var from = Skip();
            if (_at < data.Length && data[_at] is '+' or '-')
            {
                _at++;
            }
            var hasPoint = false;
            while (_at < data.Length && (char.IsAsciiDigit(data[_at]) || (data[_at] == '.' && !hasPoint)
                || (data[_at] is 'e' or 'E' && _at > from) || (data[_at] is '+' or '-' && data[_at - 1] is 'e' or 'E')))
            {
                hasPoint |= data[_at++] is '.' or 'e' or 'E';
            }
            return double.TryParse(data.AsSpan(from, _at - from), NumberStyles.Float, CultureInfo.InvariantCulture, out var number) && Math.Abs(number) <= 1e6
                ? number
                : throw Wrong("expected a number of up to a million");
        }

        private readonly Refusal Wrong(string what) => new($"The outline's path data cannot be read at character {_at + 1}: {what}.");
    }
}
