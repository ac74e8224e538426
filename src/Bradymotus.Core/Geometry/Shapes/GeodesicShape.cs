using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Geometry;

/// <summary>A ball whose faces are all about as large: the faces of an icosahedron, each divided evenly and brought out to the ball.</summary>
/// <param name="Radius">In metres.</param>
/// <param name="Divisions">Of each edge of the icosahedron: 20 n² triangles.</param>
public sealed record GeodesicShape(double Radius = 0.5, int Divisions = 8) : Shape
{
    private static readonly ImmutableArray<ChannelSpec> Specs = [Length("radius", "Radius", 0.5), Count("divisions", "Divisions", 8)];

    // Twelve corners: cyclic permutations of (0, ±1, ±φ), φ the golden ratio. H. S. M. Coxeter, "Regular Polytopes", §3.7.
    private static readonly double Golden = (1 + Math.Sqrt(5)) / 2;

    private static readonly Double3[] Corners =
    [
        new(-1, Golden, 0), new(1, Golden, 0), new(-1, -Golden, 0), new(1, -Golden, 0),
        new(0, -1, Golden), new(0, 1, Golden), new(0, -1, -Golden), new(0, 1, -Golden),
        new(Golden, 0, -1), new(Golden, 0, 1), new(-Golden, 0, -1), new(-Golden, 0, 1),
    ];

    private static readonly (int, int, int)[] Faces =
    [
        (0, 11, 5), (0, 5, 1), (0, 1, 7), (0, 7, 10), (0, 10, 11), (1, 5, 9), (5, 11, 4), (11, 10, 2), (10, 7, 6), (7, 1, 8),
        (3, 9, 4), (3, 4, 2), (3, 2, 6), (3, 6, 8), (3, 8, 9), (4, 9, 5), (2, 4, 11), (6, 2, 10), (8, 6, 7), (9, 8, 1),
    ];

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<ChannelSpec> Channels => Specs;

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<double> Numbers => [Radius, Divisions];

    internal override long VerticesOf(ReadOnlySpan<double> v) => 10 * ((long)v[1] + 1) * ((long)v[1] + 2);

    internal override void Build(ReadOnlySpan<double> v, MeshBuilder mesh)
    {
        var n = (int)v[1];
        mesh.Start(VerticesOf(v));
        foreach (var (a, b, c) in Faces)
        {
            var first = mesh.VertexCount;
            for (var row = 0; row <= n; row++)
            {
                for (var i = 0; i <= row; i++)
                {
                    // Weights are whole, so that two faces have the same bits on the edge between them.
                    var unit = (Corners[a] * (n - row) + Corners[b] * (row - i) + Corners[c] * i).Normalized();
                    mesh.Add(unit * v[0], unit, 0.5 + Real.Atan2(unit.Z, -unit.X) / (2 * Math.PI), 0.5 - Real.Asin(unit.Y) / Math.PI);
                }
                var (above, here) = (first + row * (row - 1) / 2, first + row * (row + 1) / 2);
                for (var i = 0; i < row; i++)
                {
                    mesh.Triangle(above + i, here + i, here + i + 1);
                    if (i < row - 1)
                    {
                        mesh.Triangle(above + i, here + i + 1, above + i + 1);
                    }
                }
            }
        }
    }
}
