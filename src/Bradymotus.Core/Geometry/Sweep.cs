using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Geometry;

/// <summary>A tube along a path, with a frame that does not turn about the path.</summary>
/// <remarks>W. Wang, B. Jüttler, D. Zheng, Y. Liu, "Computation of rotation minimizing frames", ACM Transactions on Graphics 27 (2008): the double reflection.</remarks>
/// <param name="Rows">Steps along the path.</param>
/// <param name="Sides">Steps round it.</param>
/// <param name="Radius">Of the tube, in metres.</param>
/// <param name="CapRows">Steps of the half ball at each end; 0 for flat ends.</param>
/// <param name="IsClosed">The last point is the first: there are no ends.</param>
internal readonly record struct Sweep(int Rows, int Sides, double Radius, int CapRows, bool IsClosed)
{
    internal long VertexCount => (Sides + 1L) * (Rows + 1L + (IsClosed ? 0 : CapRows > 0 ? 2L * CapRows : 4));

    /// <param name="at">The point of each row and the direction of the path there, which need not have length 1.</param>
    internal void Build<T>(MeshBuilder mesh, in T state, Func<T, int, (Double3 Point, Double3 Direction)> at)
    {
        var first = Frame.Start(at(state, 0));
        var turn = 0.0;
        if (IsClosed)
        {
            var last = first;
            for (var row = 1; row <= Rows; row++)
            {
                last = last.Next(at(state, row));
            }
            turn = -Real.Atan2Degrees(Double3.Dot(last.Across, first.Other), Double3.Dot(last.Across, first.Across)) / Rows;
        }
        if (!IsClosed && CapRows == 0)
        {
            var start = mesh.VertexCount;
            Ring(mesh, first, 0, 0, 0, -first.Along);
            Ring(mesh, first, 0, 1, 0, -first.Along);
            mesh.Quads(start, Sides, 1);
        }
        var body = mesh.VertexCount;
        var ends = IsClosed ? 0 : CapRows;
        for (var row = 0; row < ends; row++)
        {
            var (s, c) = Real.SinCosDegrees(-90 + 90.0 * row / ends);
            Ring(mesh, first, 0, c, s, null);
        }
        var frame = first;
        for (var row = 0; row <= Rows; row++)
        {
            frame = row == 0 ? first : frame.Next(at(state, row));
            Ring(mesh, IsClosed && row == Rows ? first : frame, IsClosed && row < Rows ? turn * row : 0, 1, 0, null);
        }
        for (var row = 1; row <= ends; row++)
        {
            var (s, c) = Real.SinCosDegrees(90.0 * row / ends);
            Ring(mesh, frame, 0, c, s, null);
        }
        mesh.Quads(body, Sides, Rows + 2 * ends);
        if (!IsClosed && CapRows == 0)
        {
            var start = mesh.VertexCount;
            Ring(mesh, frame, 0, 1, 0, frame.Along);
            Ring(mesh, frame, 0, 0, 0, frame.Along);
            mesh.Quads(start, Sides, 1);
        }
    }

    /// <summary>Vertices round a point of the path: so many radii from it across, and so many along.</summary>
    private void Ring(MeshBuilder mesh, in Frame frame, double turn, double across, double along, Double3? normal)
    {
        var v = Rows == 0 ? 0 : (double)mesh.VertexCount / (Sides + 1) / Rows;
        for (var i = 0; i <= Sides; i++)
        {
            var (s, c) = Real.SinCosDegrees(turn + 360.0 * i / Sides);
            var unit = (frame.Across * c + frame.Other * s) * across + frame.Along * along;
            mesh.Add(frame.Point + unit * Radius, normal ?? unit, (double)i / Sides, v);
        }
    }

    private readonly record struct Frame(Double3 Point, Double3 Along, Double3 Across)
    {
        internal Double3 Other => Double3.Cross(Along, Across);

        internal static Frame Start((Double3 Point, Double3 Direction) at)
        {
            var along = Unit(at.Direction, Double3.UnitY);
            // Across the axis that the path follows least.
            var axis = Math.Abs(along.X) < 0.6 ? Double3.UnitX : Double3.UnitZ;
            return new(at.Point, along, Double3.Cross(Double3.Cross(along, axis), along).Normalized());
        }

        internal Frame Next((Double3 Point, Double3 Direction) at)
        {
            var along = Unit(at.Direction, Along);
            var (across, leaning) = (Across, Along);
            var way = at.Point - Point;
            if (Double3.Dot(way, way) is > 1e-24 and var w)
            {
                across -= way * (2 / w * Double3.Dot(way, across));
                leaning -= way * (2 / w * Double3.Dot(way, leaning));
            }
            var between = along - leaning;
            if (Double3.Dot(between, between) is > 1e-24 and var b)
            {
                across -= between * (2 / b * Double3.Dot(between, across));
            }
            return new(at.Point, along, Unit(across - along * Double3.Dot(across, along), Across));
        }

        private static Double3 Unit(Double3 v, Double3 otherwise) => Double3.Dot(v, v) is > 1e-24 and var l ? v * (1 / Math.Sqrt(l)) : otherwise;
    }
}
