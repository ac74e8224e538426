using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using Bradymotus.Core.Shaping;

namespace Bradymotus.Core.Scene;

/// <summary>Which channels each kind of owner has. A new feature adds its channels here and is at once keyable and listed.</summary>
public static class ChannelCatalog
{
    // Shapes of one kind share their specs, and so share a list where nothing bends them. Deformers are few and seldom change: meshes that share them share the list of their channels.
    private static readonly ConditionalWeakTable<ChannelSpec[], ChannelList[]> Shaped = [];
    private static readonly ConditionalWeakTable<Deformer[], ConditionalWeakTable<ChannelSpec[], ChannelList[]>> Bent = [];

    private static readonly ImmutableArray<ChannelSpec> Transform =
    [
        .. Triple("transform.translate", "Position", ChannelFamily.Position, "m", 0),
        .. Triple("transform.rotate", "Rotation", ChannelFamily.Rotation, "°", 0, 0.5),
        .. Triple("transform.scale", "Scale", ChannelFamily.Scale, "×", 1),
        .. Triple("transform.pivot", "Pivot", ChannelFamily.Shape, "m", 0),
        new("visible", "Visible", ChannelFamily.Look, "", 1, 0, 1, 1, Stepped: true),
        new("visible.stage", "In the stage", ChannelFamily.Look, "", 1, 0, 1, 1, Stepped: true),
        new("visible.renders", "In renders", ChannelFamily.Look, "", 1, 0, 1, 1, Stepped: true),
    ];

    private static readonly ImmutableArray<ChannelSpec> Quaternion =
    [
        .. Triple("transform.quaternion", "Quaternion", ChannelFamily.Rotation, "", 0),
        new("transform.quaternion.w", "Quaternion W", ChannelFamily.Rotation, "", 1),
    ];

    private static readonly ImmutableArray<ChannelSpec> Camera =
    [
        new("camera.fov", "Field of view", ChannelFamily.Look, "°", 40, 1, 170, 0.1),
        new("camera.focal", "Focal length", ChannelFamily.Look, "mm", 35, 0.1, 10_000, 0.1),
        new("camera.sensor", "Sensor height", ChannelFamily.Look, "mm", 24, 0.1, 1000, 0.1),
        new("camera.height", "Orthographic height", ChannelFamily.Look, "m", 4, 0.001),
        new("camera.near", "Near", ChannelFamily.Look, "m", 0.01, 0.0001),
        new("camera.far", "Far", ChannelFamily.Look, "m", 10_000, 0.0001, Step: 1),
        new("camera.focus", "Focus distance", ChannelFamily.Look, "m", 5, 0.001),
        new("camera.fstop", "f-number", ChannelFamily.Look, "", 0, 0),
    ];

    private static readonly ImmutableArray<ChannelSpec> Control = [new("control.size", "Size", ChannelFamily.Shape, "m", 0.5, 0.001, 1e6)];

    private static readonly ImmutableArray<ChannelSpec> Repeat =
    [
        new("repeat.count", "Copies", ChannelFamily.Shape, "", 5, 1, RepeatNode.MostCopies, 0.1, Whole: true),
        new("repeat.shift", "Time shift", ChannelFamily.Shape, "frames", 0, Step: 0.1),
        new("repeat.translate.x", "Step X", ChannelFamily.Shape, "m", 1),
        new("repeat.translate.y", "Step Y", ChannelFamily.Shape, "m", 0),
        new("repeat.translate.z", "Step Z", ChannelFamily.Shape, "m", 0),
        .. Triple("repeat.rotate", "Step rotation", ChannelFamily.Shape, "°", 0, 0.5),
        .. Triple("repeat.scale", "Step scale", ChannelFamily.Shape, "×", 1),
    ];

    private static ChannelSpec Kelvin => new("light.kelvin", "Temperature", ChannelFamily.Look, "K", 0, 0, 25_000, 10);

    private static readonly ImmutableArray<ChannelSpec> Sun =
    [
        new("light.strength", "Intensity", ChannelFamily.Look, "", 3, 0),
        .. Colour("light.color", "Colour", 1, 1, 1),
        Kelvin,
        new("light.angle", "Angle", ChannelFamily.Look, "°", 1, 0, 60, 0.1),
    ];

    private static readonly ImmutableArray<ChannelSpec> Lamp =
    [
        new("light.strength", "Intensity", ChannelFamily.Look, "W", 100, 0, Step: 1),
        .. Colour("light.color", "Colour", 1, 1, 1),
        Kelvin,
        new("light.radius", "Radius", ChannelFamily.Look, "m", 0.1, 0.001),
        new("light.cone", "Cone", ChannelFamily.Look, "°", 60, 1, 180, 0.5),
        new("light.softness", "Edge softness", ChannelFamily.Look, "", 0.3, 0, 1),
        new("light.width", "Width", ChannelFamily.Look, "m", 1, 0.001),
        new("light.height", "Height", ChannelFamily.Look, "m", 1, 0.001),
    ];

    private static readonly ImmutableArray<ChannelSpec> OfMaterial =
    [
        .. Colour("look.color", "Colour", 0.8, 0.8, 0.8),
        new("look.roughness", "Roughness", ChannelFamily.Look, "", 0.6, 0, 1),
        new("look.metallic", "Metallic", ChannelFamily.Look, "", 0, 0, 1),
        new("look.emission", "Emission", ChannelFamily.Look, "", 0, 0),
        .. Colour("look.emissionColor", "Emission colour", 0.8, 0.8, 0.8).Select(c => c with { Like = $"look.color{c.Path[^2..]}" }),
        new("look.opacity", "Opacity", ChannelFamily.Look, "", 1, 0, 1),
        new("look.ior", "Index of refraction", ChannelFamily.Look, "", 1.5, 1, 3),
        new("look.glass", "Glass", ChannelFamily.Look, "", 0, 0, 1),
        new("look.thin", "Thin walls", ChannelFamily.Look, "", 0, 0, 1, 1, Stepped: true),
        new("look.coat", "Coat", ChannelFamily.Look, "", 0, 0, 1),
        new("look.coatRoughness", "Coat roughness", ChannelFamily.Look, "", 0.1, 0, 1),
        new("look.sheen", "Sheen", ChannelFamily.Look, "", 0, 0, 1),
        .. Colour("look.sheenColor", "Sheen colour", 1, 1, 1),
        new("look.sheenRoughness", "Sheen roughness", ChannelFamily.Look, "", 0.5, 0, 1),
        new("look.subsurface", "Subsurface", ChannelFamily.Look, "", 0, 0, 1),
        new("look.subsurfaceRadius", "Scattering radius", ChannelFamily.Look, "m", 0.05, 0.0001, Step: 0.001),
    ];

    private static readonly ChannelList[] PlainList = Both([]), CameraList = Both(Camera), SunList = Both(Sun), LampList = Both(Lamp), ControlList = Both(Control), RepeatList = Both(Repeat);

    private static readonly ChannelList MaterialList = new(OfMaterial);

    private static readonly ConditionalWeakTable<SurfaceMap[], ChannelList> Mapped = [];

    /// <summary>The channels of <see cref="Shot.World"/>.</summary>
    public static ChannelList World { get; } = new(
    [
        new("sky.strength", "Sky intensity", ChannelFamily.Look, "", 1, 0),
        new("sky.physical", "Daylight", ChannelFamily.Look, "", 0, 0, 1, 1, Stepped: true),
        new("sky.turbidity", "Haze", ChannelFamily.Look, "", 3, 2, 10),
        .. Colour("sky.top", "Sky top", 0.25, 0.45, 0.8),
        .. Colour("sky.horizon", "Horizon", 0.75, 0.82, 0.9),
        .. Colour("sky.ground", "Ground", 0.2, 0.2, 0.2),
        new("sky.turn", "Sky rotation", ChannelFamily.Look, "°", 0, Step: 0.5),
        .. Colour("background", "Background", 0.05, 0.05, 0.05),
        new("exposure", "Exposure", ChannelFamily.Look, "stops", 0, -10, 10),
    ]);

    /// <summary>The channels of a layer.</summary>
    public static ChannelList Layer { get; } = new([new(Scene.Layer.Weight, "Weight", ChannelFamily.Look, "", 1, 0, 1)]);

    /// <summary>The channels of a sound.</summary>
    public static ChannelList Sound { get; } = new([new(Scene.Sound.Level, "Level", ChannelFamily.Look, "", 1, 0, 4)]);

    /// <summary>The channels of a node, in the order in which they are shown.</summary>
    public static ChannelList For(Node node) => (node switch
    {
        CameraNode => CameraList,
        SunNode => SunList,
        LampNode => LampList,
        ControlNode => ControlList,
        RepeatNode => RepeatList,
        MeshNode mesh => OfMesh(mesh),
        _ => PlainList,
    })[node.RotationOrder == Numerics.RotationOrder.Quaternion ? 1 : 0];

    /// <summary>The channels of a material.</summary>
    public static ChannelList For(Material material) => material.Maps.IsEmpty
        ? MaterialList
        : Mapped.GetValue(ImmutableCollectionsMarshal.AsArray(material.Maps)!, maps => new([.. OfMaterial, .. maps.SelectMany(m => m.Channels)]));

    /// <summary>What a channel of a node is until somebody sets it: what its list says, or for a number of a shape the shape's own.</summary>
    /// <param name="node">The node; null for what is none.</param>
    /// <param name="list">Its channels.</param>
    /// <param name="index">Which of them.</param>
    internal static double Standard(Node? node, ChannelList list, int index) =>
        node is MeshNode mesh && index - list.PlaceChannels is >= 0 and var i && i < list.ShapeChannels ? mesh.Shape.Numbers[i] : list[index].Default;

    private static ChannelList[] OfMesh(MeshNode mesh)
    {
        var specs = ImmutableCollectionsMarshal.AsArray(mesh.Shape.Channels)!;
        return mesh.Deformers.IsEmpty
            ? Shaped.GetValue(specs, s => Both(OfShape(s)))
            : Bent.GetOrCreateValue(ImmutableCollectionsMarshal.AsArray(mesh.Deformers)!).GetValue(specs, s => Both([.. OfShape(s), .. mesh.Deformers.SelectMany(DeformerChannels)]));
    }

    private static ImmutableArray<ChannelSpec> OfShape(ChannelSpec[] specs) => [.. specs.Select(s => s with { Path = $"{ChannelList.ShapePrefix}{s.Path}" })];

    /// <summary>The channels of a place in the world and others after them: with a rotation as angles, and as a quaternion.</summary>
    private static ChannelList[] Both(ImmutableArray<ChannelSpec> own) =>
    [
        new([.. Transform, .. own]),
        new([.. Transform[..3], .. Quaternion, .. Transform[6..], .. own]),
    ];

    private static IEnumerable<ChannelSpec> DeformerChannels(Deformer deformer) =>
        deformer.Channels.Select(c => c with { Path = deformer.ChannelPath(c.Path) });

    private static ImmutableArray<ChannelSpec> Triple(string path, string label, ChannelFamily family, string unit, double usual, double step = 0.01) =>
        [.. "xyz".Select(a => new ChannelSpec($"{path}.{a}", $"{label} {char.ToUpperInvariant(a)}", family, unit, usual, Step: step))];

    private static ImmutableArray<ChannelSpec> Colour(string path, string label, double r, double g, double b) =>
    [
        new($"{path}.r", $"{label} R", ChannelFamily.Look, "", r, 0, 1),
        new($"{path}.g", $"{label} G", ChannelFamily.Look, "", g, 0, 1),
        new($"{path}.b", $"{label} B", ChannelFamily.Look, "", b, 0, 1),
    ];
}
