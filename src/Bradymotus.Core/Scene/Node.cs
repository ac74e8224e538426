using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Shaping;

namespace Bradymotus.Core.Scene;

/// <summary>
/// Something in the scene that has a place. Its own map is T(position)·T(pivot)·R·S·T(−pivot); in the world it is the
/// parent's map, then <see cref="Offset"/>, then its own.
/// </summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(GroupNode), "group")]
[JsonDerivedType(typeof(MeshNode), "mesh")]
[JsonDerivedType(typeof(CameraNode), "camera")]
[JsonDerivedType(typeof(SunNode), "sun")]
[JsonDerivedType(typeof(LampNode), "lamp")]
[JsonDerivedType(typeof(JointNode), "joint")]
[JsonDerivedType(typeof(ControlNode), "control")]
[JsonDerivedType(typeof(InstanceNode), "instance")]
[JsonDerivedType(typeof(RepeatNode), "repeat")]
public abstract record Node
{
    /// <summary>Unique in the shot among nodes and materials; never changes.</summary>
    public required string Id { get; init; }

    /// <summary>For people; unique among siblings, so that paths are.</summary>
    public required string Name { get; init; }

    /// <summary>The id of the node it hangs under, or null.</summary>
    public string? Parent { get; init; }

    /// <summary>
    /// Between the parent and the object's own channels: kept from the moment of parenting, so that the channels and their keys
    /// mean the same place in the world as before. Null for none.
    /// </summary>
    public Affine? Offset { get; init; }

    /// <summary>How its rotation is said.</summary>
    public RotationOrder RotationOrder { get; init; }

    /// <summary>A locked node cannot be picked or changed in the views.</summary>
    public bool Locked { get; init; }

    /// <summary>
    /// The id of a node whose channels it has where it has none of its own: an instance of its motion. What is set or keyed on the node itself
    /// takes the place of what it follows, channel by channel. Null for none.
    /// </summary>
    public string? Follows { get; init; }

    /// <summary>The channels that somebody has set, by path. The others have the default of <see cref="ChannelCatalog"/>.</summary>
    public ImmutableSortedDictionary<string, Channel>? Channels { get; init; }
}

/// <summary>A parent and nothing else.</summary>
public sealed record GroupNode : Node;

/// <summary>A shape with a surface.</summary>
public sealed record MeshNode : Node
{
    /// <summary>What it is before anything bends it.</summary>
    public required Shape Shape { get; init; }

    /// <summary>The id of its material, or null for plain grey.</summary>
    public string? Material { get; init; }

    /// <summary>For a mesh of several parts: the material of each, in their order, "" for grey. Parts beyond it have <see cref="Material"/>.</summary>
    public ImmutableArray<string> PartMaterials { get => field.IsDefault ? [] : field; init; }

    /// <summary>The id of the material of a part, or null for plain grey.</summary>
    public string? MaterialOf(int part) => part < PartMaterials.Length ? PartMaterials[part] is { Length: > 0 } own ? own : null : Material;

    /// <summary>What bends its shape, in the order applied.</summary>
    public ImmutableArray<Deformer> Deformers { get => field.IsDefault ? [] : field; init; }

    /// <summary>The most vertices of one mesh that are traced.</summary>
    public const int MostTraced = 16;

    /// <summary>The vertices whose motion path is drawn, by their place in the mesh. One that the mesh does not have (any more) is drawn nowhere.</summary>
    public ImmutableArray<int> Traced { get => field.IsDefault ? [] : field; init; }
}

/// <summary>A bone's upper end: what a skin hangs on, and what is turned to pose it.</summary>
public sealed record JointNode : Node;

/// <summary>Something to grab that is not rendered: what hangs below it goes along.</summary>
public sealed record ControlNode : Node
{
    /// <summary>What it looks like.</summary>
    public ControlForm Form { get; init; }
}

/// <summary>Another node with all below it, drawn once more where this one stands: an instance. What changes there changes here.</summary>
public sealed record InstanceNode : Node
{
    /// <summary>The id of the node that is drawn. Its own place is not taken over, what is below it is.</summary>
    public required string Of { get; init; }
}

/// <summary>
/// Draws what hangs below it again and again: each copy stands to the last as the first step says, which is the channels
/// <c>repeat.…</c> or the place of another node.
/// </summary>
public sealed record RepeatNode : Node
{
    /// <summary>The most copies.</summary>
    public const int MostCopies = 10_000;

    /// <summary>The id of a node whose place as seen from this one is the step; null for the channels.</summary>
    public string? Step { get; init; }
}

/// <summary>What a control looks like.</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<ControlForm>))]
public enum ControlForm
{
    /// <summary>A ring lying flat.</summary>
    Ring,
    /// <summary>The edges of a box.</summary>
    Box,
    /// <summary>An arrow along Z.</summary>
    Arrow,
    /// <summary>Three rings.</summary>
    Ball,
}

/// <summary>Looks along its −Z axis with +Y up.</summary>
public sealed record CameraNode : Node
{
    /// <summary>How it flattens space.</summary>
    public Projection Projection { get; init; }

    /// <summary>Whether a perspective camera is told by its angle or by a focal length.</summary>
    public LensKind Lens { get; init; }
}

/// <summary>Light from infinitely far, along its −Z axis.</summary>
public sealed record SunNode : Node;

/// <summary>A lamp: a ball that shines all round, or along its −Z axis a spot, a rectangle or a disc.</summary>
public sealed record LampNode : Node
{
    /// <summary>How it shines.</summary>
    public LampForm Form { get; init; }
}

/// <summary>How a lamp shines.</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<LampForm>))]
public enum LampForm
{
    /// <summary>A ball, all round.</summary>
    Point,

    /// <summary>A ball, within a cone; as bright within it as the ball would be.</summary>
    Spot,

    /// <summary>A panel that glows on one side.</summary>
    Rectangle,

    /// <summary>A round panel.</summary>
    Disc,
}

/// <summary>What says how wide a camera sees.</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<LensKind>))]
public enum LensKind
{
    /// <summary>The channel <c>camera.fov</c>.</summary>
    Angle,

    /// <summary>The channels <c>camera.focal</c> and <c>camera.sensor</c>.</summary>
    Focal,
}

/// <summary>How a camera flattens space.</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<Projection>))]
public enum Projection
{
    /// <summary>What is farther is smaller.</summary>
    Perspective,
    /// <summary>What is farther is as large.</summary>
    Orthographic,
}
