using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Shaping;

/// <summary>Turns each height about the Y axis, from nothing at the base to the whole angle at the top.</summary>
/// <remarks>
/// Global deformation by a variable rotation: A. Barr, "Global and local deformations of solid primitives", SIGGRAPH 1984.
/// With θ = k·(y − base): x' = x cos θ + z sin θ, z' = −x sin θ + z cos θ. The normal goes with the inverse transpose of the Jacobian:
/// it is turned like the point, and its y component takes −k times the normal's component along the point's motion.
/// </remarks>
public sealed unsafe record TwistDeformer : Deformer
{
    private static readonly ImmutableArray<ChannelSpec> Specs =
        [new("angle", "Twist", ChannelFamily.Shape, "°", 0, Step: 0.5)];

    /// <inheritdoc/>
    [JsonIgnore]
    public override string Label => "Twist";

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<ChannelSpec> Channels => Specs;

    /// <inheritdoc/>
    public override bool IsIdle(ReadOnlySpan<double> values) => values[0] == 0;

    /// <inheritdoc/>
    public override void Apply(in Deformation shape)
    {
        Span<float> positions = shape.Positions, normals = shape.Normals;
        var values = shape.Values;
        var height = shape.Height();
        var span = height.High - height.Low;
        if (span <= 0)
        {
            return;
        }
        var k = (float)(values[0] * (Math.PI / 180) / span);
        // Neighbouring vertices often share a height: the last sine and cosine are kept.
        var lastY = float.NaN;
        float sin = 0, cos = 1;
        // Pointers, since the browser's runtime checks and works out every index of a span anew.
        fixed (float* firstPosition = positions, firstNormal = normals)
        {
            float* p = firstPosition, n = firstNormal;
            for (var end = p + positions.Length; p < end; p += 3, n += 3)
            {
                float x = p[0], y = p[1], z = p[2];
                if (y != lastY)
                {
                    lastY = y;
                    var (s, c) = Real.SinCosDegrees(values[0] * ((y - height.Low) / span));
                    (sin, cos) = ((float)s, (float)c);
                }
                var px = x * cos + z * sin;
                var pz = z * cos - x * sin;
                p[0] = px;
                p[2] = pz;
                float nx = n[0], nz = n[2];
                var tx = nx * cos + nz * sin;
                var tz = nz * cos - nx * sin;
                // ∂(x', z')/∂y = k·(z', −x').
                var ty = n[1] - k * (tx * pz - tz * px);
                var scale = 1 / MathF.Sqrt(tx * tx + ty * ty + tz * tz);
                n[0] = tx * scale;
                n[1] = ty * scale;
                n[2] = tz * scale;
            }
        }
    }
}
