using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Geometry;

/// <summary>A box. Faces are divided evenly, so that it can be bent; edges and corners may be rounded.</summary>
/// <param name="Width">Along X, in metres.</param>
/// <param name="Height">Along Y, in metres.</param>
/// <param name="Depth">Along Z, in metres.</param>
/// <param name="Divisions">Of each face, along both sides.</param>
/// <param name="Rounding">The radius of its edges, in metres; held to half of the shortest side.</param>
/// <param name="RoundSegments">Over half of the rounding of an edge: from the middle of the edge to the face.</param>
public sealed record BoxShape(double Width = 1, double Height = 1, double Depth = 1, int Divisions = 1, double Rounding = 0, int RoundSegments = 3) : Shape
{
    private static readonly ImmutableArray<ChannelSpec> Specs =
    [
        Length("width", "Width", 1), Length("height", "Height", 1), Length("depth", "Depth", 1), Count("divisions", "Divisions", 1),
        Length("rounding", "Rounding", 0), Count("roundSegments", "Round segments", 3),
    ];

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<ChannelSpec> Channels => Specs;

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<double> Numbers => [Width, Height, Depth, Divisions, Rounding, RoundSegments];

    internal override long VerticesOf(ReadOnlySpan<double> v)
    {
        var lines = Lines(v) + 1L;
        return 6 * lines * lines;
    }

    internal override void Build(ReadOnlySpan<double> v, MeshBuilder mesh)
    {
        var half = new Double3(v[0] / 2, v[1] / 2, v[2] / 2);
        var form = new Form(half, Math.Min(v[4], Math.Min(half.X, Math.Min(half.Y, half.Z))), (int)v[3], v[4] > 0 ? (int)v[5] : 0);
        mesh.Start(VerticesOf(v));
        // Each face is spanned by two axes whose cross product points outwards.
        Face(mesh, form, -Double3.UnitZ, Double3.UnitY, Double3.UnitX);
        Face(mesh, form, Double3.UnitZ, Double3.UnitY, -Double3.UnitX);
        Face(mesh, form, Double3.UnitX, -Double3.UnitZ, Double3.UnitY);
        Face(mesh, form, Double3.UnitX, Double3.UnitZ, -Double3.UnitY);
        Face(mesh, form, Double3.UnitX, Double3.UnitY, Double3.UnitZ);
        Face(mesh, form, -Double3.UnitX, Double3.UnitY, -Double3.UnitZ);
    }

    /// <summary>Lines of the flat part stand at even distances; those of a rounding at even angles, up to the middle of the edge, where the next face begins.</summary>
    private static void Face(MeshBuilder mesh, in Form form, Double3 across, Double3 up, Double3 normal)
    {
        var lines = form.Divisions + 2 * form.Round;
        var start = mesh.VertexCount;
        for (var j = 0; j <= lines; j++)
        {
            var (v, leansUp) = form.Line(j);
            for (var i = 0; i <= lines; i++)
            {
                var (u, leansAcross) = form.Line(i);
                var direction = across * leansAcross + up * leansUp + normal;
                var unit = form.Rounding > 0 ? direction.Normalized() : normal;
                var core = across * u + up * v + normal;
                var inner = new Double3(core.X * (form.Half.X - form.Rounding), core.Y * (form.Half.Y - form.Rounding), core.Z * (form.Half.Z - form.Rounding));
                mesh.Add(inner + unit * form.Rounding, unit, (double)i / lines, 1 - (double)j / lines);
            }
        }
        mesh.Quads(start, lines, lines);
    }

    private static int Lines(ReadOnlySpan<double> v) => (int)v[3] + (v[4] > 0 ? 2 * (int)v[5] : 0);

    private readonly record struct Form(Double3 Half, double Rounding, int Divisions, int Round)
    {
        /// <summary>Where a line of a face stands in the flat part, −1 to 1, and the slope of its normal.</summary>
        internal (double Flat, double Lean) Line(int i)
        {
            var beyond = i < Round ? i - Round : i > Round + Divisions ? i - Round - Divisions : 0;
            var lean = Math.Abs(beyond) == Round ? Math.Sign(beyond) : Real.TanDegrees(45.0 * beyond / Round);
            return (beyond < 0 ? -1 : beyond > 0 ? 1 : 2.0 * (i - Round) / Divisions - 1, beyond == 0 ? 0 : lean);
        }
    }
}
