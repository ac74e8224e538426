using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Shaping;

/// <summary>
/// Something that bends the shape of an object in the object's own space. A new kind is one record: its channels and its map.
/// Those of maps that are smooth take normals along by the map's own derivative, so they stay exact without being worked out again from the triangles.
/// </summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(TwistDeformer), "twist")]
[JsonDerivedType(typeof(SquashDeformer), "squash")]
[JsonDerivedType(typeof(MorphDeformer), "morph")]
[JsonDerivedType(typeof(SkinDeformer), "skin")]
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

    /// <summary>Moves vertices and normals in place.</summary>
    public abstract void Apply(in Deformation shape);

    /// <summary>True when these values leave the shape as it is, so that nothing needs to be done.</summary>
    public abstract bool IsIdle(ReadOnlySpan<double> values);

    /// <summary>The full path of one of its channels.</summary>
    public virtual string ChannelPath(string name) => $"deform.{Id}.{name}";

    /// <exception cref="Refusal">What it is made of does not fit together.</exception>
    internal virtual void Validate(string owner)
    {
    }
}
