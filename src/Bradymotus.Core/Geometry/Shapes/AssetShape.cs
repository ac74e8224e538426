using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Geometry;

/// <summary>A mesh that has been brought in: an asset beside the shot.</summary>
/// <param name="Asset">The SHA-256 of its bytes, in lower-case hexadecimal digits.</param>
/// <param name="Vertices">How many it has.</param>
/// <param name="Triangles">How many it has.</param>
public sealed record AssetShape(string Asset, int Vertices, int Triangles) : Shape
{
    /// <summary>The most triangles of one mesh.</summary>
    public const int MostTriangles = 10_000_000;

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<ChannelSpec> Channels => [];

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<double> Numbers => [];

    internal override long VerticesOf(ReadOnlySpan<double> v) => Vertices;

    /// <summary>Nothing: the triangles come from a <see cref="ShotAssets"/>.</summary>
    internal override void Build(ReadOnlySpan<double> v, MeshBuilder mesh) => mesh.Start(0);

    internal override void Validate(string owner)
    {
        if (!IsName(Asset))
        {
            throw new Refusal($"The mesh of “{owner}” has the name “{Asset}”: expected the 64 hexadecimal digits of a SHA-256.");
        }
        if (Vertices < 0 || Triangles is < 0 or > MostTriangles)
        {
            throw new Refusal($"The mesh of “{owner}” cannot have {Vertices} vertices and {Triangles} triangles: at most {MostVertices} and {MostTriangles} are taken.");
        }
        CheckVertices(owner, Vertices);
    }

    /// <summary>Whether a text can be the name of an asset.</summary>
    public static bool IsName(string? name) => name is { Length: 64 } && name.All(c => c is (>= '0' and <= '9') or (>= 'a' and <= 'f'));
}
