using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Geometry;

/// <summary>A flat outline made thick along Z: letters, a sign, a drawn shape. Holes are kept.</summary>
/// <param name="Path">Closed contours as SVG path data, in metres, y upwards; see <see cref="OutlinePath"/>.</param>
/// <param name="Text">The words that it was made from, so that they can be changed; null where it was drawn.</param>
/// <param name="Font">The font of these.</param>
/// <param name="Depth">From front to back, in metres.</param>
/// <param name="Bevel">How far the rims are rounded off, in metres; held to half of the depth and to what the outline has room for.</param>
/// <param name="BevelSegments">Over each rounding; 1 is a chamfer.</param>
/// <param name="CurveSegments">Straight pieces for each curved one of the outline.</param>
public sealed record OutlineShape(
    string Path, string? Text = null, string? Font = null, double Depth = 0.2, double Bevel = 0, int BevelSegments = 3, int CurveSegments = 8) : Shape
{
    /// <summary>The most characters of a text.</summary>
    public const int MostText = 200;

    // Neighbouring edges that turn by less are smooth: cos 30°.
    private const double Smooth = 0.866;

    private static readonly ImmutableArray<ChannelSpec> Specs =
    [
        Length("depth", "Depth", 0.2), Length("bevel", "Bevel", 0), Count("bevelSegments", "Bevel segments", 3), Count("curveSegments", "Curve segments", 8) with { Max = 64 },
    ];

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<ChannelSpec> Channels => Specs;

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<double> Numbers => [Depth, Bevel, BevelSegments, CurveSegments];

    internal override bool IsLike(Shape other) => other is OutlineShape outline && outline.Path == Path;

    internal override long VerticesOf(ReadOnlySpan<double> v) => OutlinePath.Of(Path, (int)v[3]).Points.Length * (2L + 2 * (Rows(v) + 1));

    internal override void Validate(string owner)
    {
        if (string.IsNullOrWhiteSpace(Path))
        {
            throw new Refusal($"The outline of “{owner}” is empty: give it path data.");
        }
        if (Text?.Length > MostText || Font?.Length > MostText)
        {
            throw new Refusal($"The text of “{owner}” is longer than {MostText} characters: shorten it.");
        }
        base.Validate(owner);
        if (VertexCount == 0)
        {
            throw new Refusal($"The outline of “{owner}” encloses nothing: give it contours of at least three points.");
        }
    }

    internal override void Build(ReadOnlySpan<double> v, MeshBuilder mesh)
    {
        var path = OutlinePath.Of(Path, (int)v[3]);
        mesh.Start(VerticesOf(v));
        var half = v[0] / 2;
        var bevel = v[1] > 0 ? Math.Min(v[1], Math.Min(half, path.MostInset * 0.98)) : 0;
        for (var side = -1; side <= 1; side += 2)
        {
            var first = mesh.VertexCount;
            for (var c = 0; c + 1 < path.Starts.Length; c++)
            {
                for (var i = path.Starts[c]; i < path.Starts[c + 1]; i++)
                {
                    var miter = path.Corner(c, i).Miter;
                    var (x, y) = (path.Points[i].X - miter.X * bevel, path.Points[i].Y - miter.Y * bevel);
                    mesh.Add(new(x, y, side * half), new(0, 0, side), x, -y);
                }
            }
            var triangles = path.Triangles;
            for (var t = 0; t < triangles.Length; t += 3)
            {
                mesh.Triangle(first + triangles[t], first + triangles[side < 0 ? t + 2 : t + 1], first + triangles[side < 0 ? t + 1 : t + 2]);
            }
        }
        var rows = Rows(v);
        for (var c = 0; c + 1 < path.Starts.Length; c++)
        {
            var along = 0.0;
            for (var i = path.Starts[c]; i < path.Starts[c + 1]; i++)
            {
                var next = path.Next(c, i);
                var length = Math.Sqrt(Square(path.Points[next].X - path.Points[i].X) + Square(path.Points[next].Y - path.Points[i].Y));
                Wall(mesh, path, c, (i, next), (half, bevel, rows), (along, along + length));
                along += length;
            }
        }
    }

    /// <summary>The strip of one edge from the back to the front, its rims rounded off.</summary>
    private static void Wall(MeshBuilder mesh, OutlinePath path, int contour, (int From, int To) edge, (double Half, double Bevel, int Rows) form, (double From, double To) along)
    {
        var start = mesh.VertexCount;
        var round = (form.Rows - 1) / 2;
        for (var row = 0; row <= form.Rows; row++)
        {
            // From the back's face to the side, and from there to the front's.
            var angle = round == 0 ? 0 : row <= round ? -90 + 90.0 * row / round : 90.0 * (row - round - 1) / round;
            var (s, c) = Real.SinCosDegrees(angle);
            var z = row <= round ? -form.Half + form.Bevel * (1 + s) : form.Half - form.Bevel * (1 - s);
            for (var end = 0; end < 2; end++)
            {
                var i = end == 0 ? edge.From : edge.To;
                var (before, after, miter) = path.Corner(contour, i);
                var own = end == 0 ? after : before;
                var isSmooth = before.X * after.X + before.Y * after.Y > Smooth;
                var flat = isSmooth ? new Double3(before.X + after.X, before.Y + after.Y, 0).Normalized() : new Double3(own.X, own.Y, 0);
                var inset = form.Bevel * (1 - c);
                mesh.Add(new(path.Points[i].X - miter.X * inset, path.Points[i].Y - miter.Y * inset, z), flat * c + Double3.UnitZ * s, end == 0 ? along.From : along.To, -z);
            }
        }
        mesh.Quads(start, 1, form.Rows);
    }

    private static double Square(double x) => x * x;

    /// <summary>Steps from the back to the front.</summary>
    private static int Rows(ReadOnlySpan<double> v) => 1 + (v[1] > 0 ? 2 * (int)v[2] : 0);
}
