using System.Collections.Immutable;
using System.Runtime.Intrinsics;
using System.Text.Json.Serialization;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Shaping;

/// <summary>
/// Hangs a mesh on joints: each vertex goes along with the joints that carry it, by their weights. Where the object itself stands
/// makes no difference then, as glTF 2.0, section 3.7.3.3, has it.
/// </summary>
/// <remarks>Linear blend skinning: p' = Σ wⱼ · W⁻¹ · Wⱼ · Bⱼ · p with the world maps W of the object and Wⱼ of a joint, and Bⱼ from the mesh to the joint in the bind pose.</remarks>
public sealed unsafe record SkinDeformer : Deformer
{
    /// <summary>The ids of the joints, in the order in which the mesh counts them.</summary>
    public ImmutableArray<string> Joints { get => field.IsDefault ? [] : field; init; }

    /// <summary>From the mesh to each joint in the bind pose, as sixteen numbers; none is the identity for all.</summary>
    public ImmutableArray<Affine> Binds { get => field.IsDefault ? [] : field; init; }

    /// <inheritdoc/>
    [JsonIgnore]
    public override string Label => "Skin";

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<ChannelSpec> Channels => [];

    /// <inheritdoc/>
    public override bool IsIdle(ReadOnlySpan<double> values) => false;

    /// <inheritdoc/>
    public override void Apply(in Deformation shape)
    {
        if (shape.Rest.Weights is not { } skin || 16 * (skin.Highest + 1) > shape.Joints.Length)
        {
            return;
        }
        var influences = skin.Influences;
        fixed (float* positions = shape.Positions, normals = shape.Normals, maps = shape.Joints, weights = skin.Weights)
        fixed (ushort* joints = skin.Joints)
        {
            float* p = positions, n = normals, w = weights;
            var j = joints;
            for (var end = p + shape.Positions.Length; p < end; p += 3, n += 3, w += influences, j += influences)
            {
                var m = maps + 16 * j[0];
                var weight = Vector128.Create(w[0]);
                var x = Vector128.Load(m) * weight;
                var y = Vector128.Load(m + 4) * weight;
                var z = Vector128.Load(m + 8) * weight;
                var o = Vector128.Load(m + 12) * weight;
                for (var k = 1; k < influences; k++)
                {
                    if (w[k] == 0)
                    {
                        continue;
                    }
                    m = maps + 16 * j[k];
                    weight = Vector128.Create(w[k]);
                    x += Vector128.Load(m) * weight;
                    y += Vector128.Load(m + 4) * weight;
                    z += Vector128.Load(m + 8) * weight;
                    o += Vector128.Load(m + 12) * weight;
                }
                var position = x * Vector128.Create(p[0]) + y * Vector128.Create(p[1]) + z * Vector128.Create(p[2]) + o;
                p[0] = position.GetElement(0);
                p[1] = position.GetElement(1);
                p[2] = position.GetElement(2);
                var normal = x * Vector128.Create(n[0]) + y * Vector128.Create(n[1]) + z * Vector128.Create(n[2]);
                float nx = normal.GetElement(0), ny = normal.GetElement(1), nz = normal.GetElement(2);
                var scale = 1 / MathF.Sqrt(nx * nx + ny * ny + nz * nz);
                if (float.IsFinite(scale))
                {
                    n[0] = nx * scale;
                    n[1] = ny * scale;
                    n[2] = nz * scale;
                }
            }
        }
    }

    internal override void Validate(string owner)
    {
        if (Joints.IsEmpty || Joints.Length > ShotRules.MostNodes)
        {
            throw new Refusal($"The skin of “{owner}” has {Joints.Length} joints: give it 1 to {ShotRules.MostNodes}.");
        }
        if (!Binds.IsEmpty && Binds.Length != Joints.Length)
        {
            throw new Refusal($"The skin of “{owner}” has {Joints.Length} joints and {Binds.Length} bind maps: give it one for each joint, or none.");
        }
        if (!Binds.All(b => b.IsWithin(Curves.CurveRules.MostValue)))
        {
            throw new Refusal($"A bind map of the skin of “{owner}” holds numbers beyond 10¹², or none: bind the skin again.");
        }
    }
}
