using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Editing;

/// <summary>The triangles of some nodes in the world, found by where they lie seen from above.</summary>
internal sealed class Surface
{
    private const int Cells = 64;

    private readonly List<Double3> _points = [];
    private readonly List<int> _corners = [];
    private readonly Dictionary<(int, int), List<int>> _cells = [];
    private readonly Bounds _box;
    private readonly double _cell;

    internal Surface(FrameState state, Func<int, bool> takes)
    {
        for (var i = 0; i < state.Compiled.NodeCount; i++)
        {
            if (state.Mesh(i) is not { } mesh || !takes(i))
            {
                continue;
            }
            var first = _points.Count;
            for (var v = 0; v < mesh.Positions.Length; v += 3)
            {
                _points.Add(state.World[i].Point(new(mesh.Positions[v], mesh.Positions[v + 1], mesh.Positions[v + 2])));
            }
            foreach (var corner in mesh.Indices)
            {
                _corners.Add(first + corner);
            }
        }
        if (_points.Count == 0)
        {
            return;
        }
        double Least(Func<Double3, double> of) => _points.Min(of);
        double Most(Func<Double3, double> of) => _points.Max(of);
        _box = new(new(Least(p => p.X), Least(p => p.Y), Least(p => p.Z)), new(Most(p => p.X), Most(p => p.Y), Most(p => p.Z)));
        _cell = Math.Max(1e-9, Math.Max(_box.Max.X - _box.Min.X, _box.Max.Z - _box.Min.Z) / Cells);
        for (var t = 0; t < _corners.Count; t += 3)
        {
            var (a, b, c) = (_points[_corners[t]], _points[_corners[t + 1]], _points[_corners[t + 2]]);
            var (low, high) = (CellOf(Math.Min(a.X, Math.Min(b.X, c.X)), Math.Min(a.Z, Math.Min(b.Z, c.Z))), CellOf(Math.Max(a.X, Math.Max(b.X, c.X)), Math.Max(a.Z, Math.Max(b.Z, c.Z))));
            for (var x = low.Item1; x <= high.Item1; x++)
            {
                for (var z = low.Item2; z <= high.Item2; z++)
                {
                    if (!_cells.TryGetValue((x, z), out var list))
                    {
                        _cells.Add((x, z), list = []);
                    }
                    list.Add(t);
                }
            }
        }
    }

    private (int, int) CellOf(double x, double z) =>
        ((int)Math.Clamp(Math.Floor((x - _box.Min.X) / _cell), 0, Cells), (int)Math.Clamp(Math.Floor((z - _box.Min.Z) / _cell), 0, Cells));

    /// <summary>How far the vertices of this are above what lies below them at the least; infinite where nothing does.</summary>
    internal double GapAbove(Surface ground)
    {
        var middle = (_box.Min.Y + _box.Max.Y) / 2;
        var gap = double.PositiveInfinity;
        foreach (var p in _points)
        {
            // Of several surfaces one above the other it stands on the highest that is not above its own middle.
            gap = Math.Min(gap, p.Y - ground.HeightAt(p.X, p.Z, middle, highest: true));
        }
        return gap;
    }

    /// <summary>How far the vertices of this are below what stands over them at the least.</summary>
    internal double GapBelow(Surface body)
    {
        var middle = (body._box.Min.Y + body._box.Max.Y) / 2;
        var gap = double.PositiveInfinity;
        foreach (var p in _points)
        {
            if (p.Y <= middle && p.X >= body._box.Min.X && p.X <= body._box.Max.X && p.Z >= body._box.Min.Z && p.Z <= body._box.Max.Z)
            {
                gap = Math.Min(gap, body.HeightAt(p.X, p.Z, double.PositiveInfinity, highest: false) - p.Y);
            }
        }
        return gap;
    }

    /// <summary>The height of the surface over a place: the highest up to a bound, or the lowest; −∞ or ∞ where there is none.</summary>
    internal double HeightAt(double x, double z, double bound, bool highest)
    {
        var height = highest ? double.NegativeInfinity : double.PositiveInfinity;
        if (!_cells.TryGetValue(CellOf(x, z), out var triangles))
        {
            return height;
        }
        foreach (var t in triangles)
        {
            var (a, b, c) = (_points[_corners[t]], _points[_corners[t + 1]], _points[_corners[t + 2]]);
            var area = (b.X - a.X) * (c.Z - a.Z) - (b.Z - a.Z) * (c.X - a.X);
            if (area == 0)
            {
                continue;
            }
            var u = ((x - a.X) * (c.Z - a.Z) - (z - a.Z) * (c.X - a.X)) / area;
            var v = ((b.X - a.X) * (z - a.Z) - (b.Z - a.Z) * (x - a.X)) / area;
            if (u < -1e-9 || v < -1e-9 || u + v > 1 + 1e-9)
            {
                continue;
            }
            var y = a.Y + u * (b.Y - a.Y) + v * (c.Y - a.Y);
            height = !highest ? Math.Min(height, y) : y <= bound ? Math.Max(height, y) : height;
        }
        return height;
    }
}
