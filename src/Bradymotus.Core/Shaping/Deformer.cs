using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Shaping;

/// <summary>
/// Something that bends the shape of an object in the object's own space. A new kind is one record: its channels and its map.
/// Normals go with the map's own derivative, so they stay exact without being worked out again from the triangles.
/// </summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(TwistDeformer), "twist")]
[JsonDerivedType(typeof(SquashDeformer), "squash")]
public abstract record Deformer
{
    /// <summary>Unique on its object; letters and digits. Its channels are <c>deform.ID.NAME</c>.</summary>
    public required string Id { get; init; }

    /// <summary>For people.</summary>
    [JsonIgnore]
    public abstract string Label { get; }

    /// <summary>Its channels, with paths relative to the deformer.</summary>
    [JsonIgnore]
    public abstract ImmutableArray<ChannelSpec> Channels { get; }

    /// <summary>Moves vertices in place.</summary>
    /// <param name="positions">x, y, z for each vertex.</param>
    /// <param name="normals">x, y, z for each vertex, length 1 before and after.</param>
    /// <param name="values">The values of <see cref="Channels"/>, in their order.</param>
    /// <param name="height">The lowest and the highest y of the shape that comes in.</param>
    public abstract void Apply(Span<float> positions, Span<float> normals, ReadOnlySpan<double> values, (float Low, float High) height);

    /// <summary>True when these values leave the shape as it is, so that nothing needs to be done.</summary>
    public abstract bool IsIdle(ReadOnlySpan<double> values);

    /// <summary>The full path of one of its channels.</summary>
    public string ChannelPath(string name) => $"deform.{Id}.{name}";
}
