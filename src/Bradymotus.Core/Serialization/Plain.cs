using Bradymotus.Core.Curves;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Serialization;

/// <summary>Records as they are made fresh: what is as one of these has it is not written, so that files show what matters.</summary>
public static class Plain
{
    /// <summary>The plain one: each member has its default.</summary>
    public static Key Key { get; } = new(0, 0);
    /// <summary>The plain one: each member has its default.</summary>
    public static Extrapolation Extrapolation { get; } = new(ExtrapolationKind.Linear);
    /// <summary>The plain one: each member has its default.</summary>
    public static GroupNode GroupNode { get; } = new() { Id = "", Name = "" };
    /// <summary>The plain one: each member has its default.</summary>
    public static MeshNode MeshNode { get; } = new() { Id = "", Name = "", Shape = new BoxShape(-1) };
    /// <summary>The plain one: each member has its default.</summary>
    public static CameraNode CameraNode { get; } = new() { Id = "", Name = "" };
    /// <summary>The plain one: each member has its default.</summary>
    public static SunNode SunNode { get; } = new() { Id = "", Name = "" };
    /// <summary>The plain one: each member has its default.</summary>
    public static LampNode LampNode { get; } = new() { Id = "", Name = "" };
    /// <summary>The plain one: each member has its default.</summary>
    public static JointNode JointNode { get; } = new() { Id = "", Name = "" };
    /// <summary>The plain one: each member has its default.</summary>
    public static ControlNode ControlNode { get; } = new() { Id = "", Name = "" };
    /// <summary>The plain one: each member has its default.</summary>
    public static InstanceNode InstanceNode { get; } = new() { Id = "", Name = "", Of = "" };
    /// <summary>The plain one: each member has its default.</summary>
    public static RepeatNode RepeatNode { get; } = new() { Id = "", Name = "" };
    /// <summary>The plain one: each member has its default.</summary>
    public static Material Material { get; } = new("", "");
    /// <summary>The plain one: each member has its default.</summary>
    public static Layer Layer { get; } = new("", "");
    /// <summary>The plain one: each member has its default.</summary>
    public static Sound Sound { get; } = new("", "", "", 0);
    /// <summary>The plain one: each member has its default.</summary>
    public static Channel Channel { get; } = new(0);
    /// <summary>The plain one: each member has its default.</summary>
    public static KeyTransform KeyTransform { get; } = new();

    /// <summary>All of them, by type.</summary>
    public static IReadOnlyDictionary<Type, object> All { get; } =
        new object[] { Key, Extrapolation, GroupNode, MeshNode, CameraNode, SunNode, LampNode, JointNode, ControlNode, InstanceNode, RepeatNode, Material,
            Layer, Sound, Channel, KeyTransform }.ToDictionary(p => p.GetType());

    /// <summary>These say something even when they are what they would be by default.</summary>
    public static IReadOnlySet<string> AlwaysWritten { get; } = new HashSet<string> { "frame", "value", "id", "name", "shape", "kind" };
}
