using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Shaping;

/// <summary>Squashes (below 0 %) or stretches (above 0 %) along Y from the base, keeping the volume: height × (1 + a), width and depth ÷ √(1 + a).</summary>
public sealed record SquashDeformer : Deformer
{
    private static readonly ImmutableArray<ChannelSpec> Specs =
        [new("amount", "Squash", ChannelFamily.Shape, "", 0, -0.95, 10)];

    /// <inheritdoc/>
    [JsonIgnore]
    public override string Label => "Squash and stretch";

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
        var along = (float)(1 + Math.Clamp(values[0], -0.95, 10));
        var across = 1 / MathF.Sqrt(along);
        for (var i = 0; i < positions.Length; i += 3)
        {
            positions[i] *= across;
            positions[i + 1] = height.Low + (positions[i + 1] - height.Low) * along;
            positions[i + 2] *= across;
            var nx = normals[i] / across;
            var ny = normals[i + 1] / along;
            var nz = normals[i + 2] / across;
            var scale = 1 / MathF.Sqrt(nx * nx + ny * ny + nz * nz);
            normals[i] = nx * scale;
            normals[i + 1] = ny * scale;
            normals[i + 2] = nz * scale;
        }
    }
}
