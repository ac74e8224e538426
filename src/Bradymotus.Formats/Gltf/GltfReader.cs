using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json.Nodes;
using Bradymotus.Core;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Shaping;
using Bradymotus.Core.Time;
using SharpGLTF.Schema2;
using Camera = SharpGLTF.Schema2.Camera;
using Node = Bradymotus.Core.Scene.Node;
using Projection = Bradymotus.Core.Scene.Projection;

namespace Bradymotus.Formats.Gltf;

/// <summary>Reads glTF 2.0, as one file (GLB) or as text with files beside it. Frame = seconds × frame rate.</summary>
/// <remarks>Longer than most: one walk over a document, whose parts share what has been read and left out.</remarks>
internal sealed class GltfReader
{
    private readonly ModelRoot _model;
    private readonly ImportOptions _options;
    private readonly FrameRate _rate;
    private readonly GltfTime? _made;
    private readonly GltfBudget _budget;
    private readonly List<string> _skipped = [];
    private readonly List<Asset> _assets = [];
    private readonly List<Node> _nodes = [];
    private readonly GltfMaterials _materials;
    private readonly GltfPointers _pointers;
    private readonly Dictionary<int, (AssetShape Shape, GltfMeshes Mesh)?> _meshes = [];
    private readonly Dictionary<(int Node, PropertyPath Path), AnimationChannel> _animated = [];
    private readonly NodeNames _names = new();
    private readonly HashSet<int> _seen = [];
    private int _renamed;

    private GltfReader(string file, ModelRoot model, ImportOptions options)
    {
        (_model, _options, _budget) = (model, options, new(file, GltfBudget.Foreign));
        var scene = model.DefaultScene ?? (model.LogicalScenes.Count > 0 ? model.LogicalScenes[0] : null);
        _made = GltfTime.Read(scene?.Extras);
        _rate = options.Rate ?? _made?.Rate ?? options.Usual;
        if (_made is { } made && made.Rate != _rate)
        {
            _skipped.Add($"The file was made at {made.Rate} frames a second, and the shot has {_rate}: keys stand at the same seconds, so some may lie between frames.");
        }
        _pointers = new(_rate);
        _materials = new(_assets, _skipped, _pointers);
    }

    internal static Imported Read(SourceFiles files, ImportOptions options, CancellationToken cancel)
    {
        var bytes = files.Read();
        var context = ReadContext.Create(name => name == files.Name ? bytes
            : files.ReadBeside(Uri.UnescapeDataString(name)) ?? (IsPicture(name) ? NoPicture : throw new Refusal($"{files.Name} refers to “{name}”, which is not beside it: bring both in together.")));
        context.Validation = SharpGLTF.Validation.ValidationMode.Skip;
        // Pictures are looked at where they are used; one that is none does not keep the rest out.
        context.ImageDecoder = _ => true;
        context.JsonPreprocessor = WithRequired;
        var model = context.ReadSchema2(files.Name);
        if (model.Asset.Version.Major != 2)
        {
            throw new Refusal($"{files.Name} cannot be read as glTF 2.0: it is of version {model.Asset.Version}. Export it again as version 2.0.");
        }
        var name = Path.GetFileNameWithoutExtension(files.Name);
        return new GltfReader(files.Name, model, options).Import(name.Length > 0 ? char.ToUpperInvariant(name[0]) + name[1..] : name, cancel);
    }

    /// <summary>The library takes extensions for pictures only where a file requires them; one with a fallback need not.</summary>
    private static string WithRequired(string json)
    {
        string[] pictures = ["EXT_texture_webp", "KHR_texture_basisu", "MSFT_texture_dds"];
        if (!Array.Exists(pictures, p => json.Contains(p, StringComparison.Ordinal)) || JsonNode.Parse(json) is not JsonObject root)
        {
            return json;
        }
        static IEnumerable<string> Names(JsonNode? list) => (list as JsonArray ?? []).OfType<JsonValue>().Select(v => v.TryGetValue(out string? name) ? name : "");
        var required = Names(root["extensionsRequired"]).ToList();
        root["extensionsRequired"] = new JsonArray([.. required.Union(Names(root["extensionsUsed"]).Where(pictures.Contains)).Select(n => (JsonNode)JsonValue.Create(n))]);
        return root.ToJsonString();
    }

    private static bool IsPicture(string name) => Path.GetExtension(name).ToUpperInvariant() is ".PNG" or ".JPG" or ".JPEG" or ".WEBP" or ".KTX2" or ".DDS";

    /// <summary>A picture of one pixel, in the place of one that is not there: a missing one keeps nothing else out.</summary>
    internal static readonly byte[] NoPicture = Convert.FromBase64String("iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNkYPhfDwAChwGA60e6kgAAAABJRU5ErkJggg==");

    private Imported Import(string name, CancellationToken cancel)
    {
        foreach (var extension in _model.IncompatibleExtensions)
        {
            _skipped.Add($"What the extension {extension} says was left out: it is not known here.");
        }
        // The times of keys that lie in no buffer are all zeros, and as many as their count says.
        foreach (var times in _model.LogicalAccessors.Where(a => a is { SourceBufferView: null, Dimensions: DimensionType.SCALAR, Encoding: EncodingType.FLOAT }))
        {
            _budget.Take(sizeof(float) * (long)times.Count);
        }
        var scene = _model.DefaultScene ?? (_model.LogicalScenes.Count > 0 ? _model.LogicalScenes[0] : null);
        var roots = scene?.VisualChildren.ToList() ?? [.. _model.LogicalNodes.Where(n => n.VisualParent is null)];
        if (_model.LogicalScenes.Count > 1)
        {
            _skipped.Add($"Of {_model.LogicalScenes.Count} scenes only the one that is shown first was taken.");
        }
        var animation = ChooseAnimation();
        var open = new Stack<(SharpGLTF.Schema2.Node Node, string? Parent)>(roots.AsEnumerable().Reverse().Select(n => (n, (string?)null)));
        while (open.TryPop(out var next))
        {
            cancel.ThrowIfCancellationRequested();
            if (_nodes.Count >= ShotRules.MostNodes)
            {
                throw new Refusal($"The file has more than {ShotRules.MostNodes} nodes, the most that a shot can hold: split it.");
            }
            if (!_seen.Add(next.Node.LogicalIndex))
            {
                throw new Refusal($"The node {next.Node.Name ?? IdOf(next.Node)} hangs below itself, or below two others: each needs one parent.");
            }
            AddNode(next.Node, next.Parent);
            foreach (var child in next.Node.VisualChildren.Reverse())
            {
                open.Push((child, IdOf(next.Node)));
            }
        }
        HangOnJoints();
        foreach (var pointer in _pointers.Left)
        {
            _skipped.Add($"A track of the animation was left out: nothing here is moved by {pointer}.");
        }
        if (_renamed > 0)
        {
            _skipped.Add($"{_renamed} nodes got other names: siblings need different ones, and a name cannot be empty or hold a slash.");
        }
        // A clip has the range of its own, or that which the file says; what stands still has two seconds.
        var last = animation?.Duration is > 0 and var seconds ? (int)Math.Min(FrameRange.MostFrames / 2, Math.Ceiling(_rate.Frame(seconds) - 1e-4)) : 47;
        if (_made is { Frames: { } frames } told && told.Rate == _rate)
        {
            last = Math.Max(animation is null ? 0 : last, frames - 1);
        }
        var shot = Shot.Empty(NodeNames.Clean(name, "Imported")) with
        {
            Rate = _rate,
            Range = new(0, last),
            Nodes = [.. _nodes],
            Materials = [.. _materials.All],
        };
        ShotRules.Validate(shot);
        return new(shot, _assets, new(Imported(shot, animation, _materials.Pictures), [.. _skipped.Distinct()]));
    }

    private static List<string> Imported(Shot shot, Animation? animation, int pictures)
    {
        var imported = new List<string>();
        void Add(int count, string what, string many)
        {
            if (count > 0)
            {
                imported.Add($"{count.ToString(CultureInfo.InvariantCulture)} {(count == 1 ? what : many)}");
            }
        }
        var meshes = shot.Nodes.OfType<MeshNode>().ToList();
        Add(shot.Nodes.Length, "node", "nodes");
        Add(meshes.Count, "mesh", "meshes");
        Add(meshes.Sum(m => m.Shape is AssetShape a ? a.Triangles : 0), "triangle", "triangles");
        Add(shot.Materials.Length, "material", "materials");
        Add(pictures, "picture", "pictures");
        Add(shot.Nodes.OfType<JointNode>().Count(), "joint", "joints");
        Add(meshes.Sum(m => m.Deformers.OfType<MorphDeformer>().Sum(d => d.Targets.Length)), "morph target", "morph targets");
        Add(shot.Nodes.OfType<CameraNode>().Count(), "camera", "cameras");
        Add(shot.Nodes.Count(n => n is SunNode or LampNode), "light", "lights");
        var curves = shot.AllSetChannels().Where(c => c.Channel.Curve is not null).ToList();
        if (animation is not null)
        {
            imported.Add($"{curves.Count} curves with {curves.Sum(c => c.Channel.Curve!.Keys.Length)} keys{(animation.Name is { Length: > 0 } name ? $" of the animation “{name}”" : "")}");
        }
        return imported;
    }

    private Animation? ChooseAnimation()
    {
        var all = _model.LogicalAnimations;
        if (all.Count == 0)
        {
            return null;
        }
        var chosen = _options.Animation is { } wanted
            ? all.FirstOrDefault(a => a.Name == wanted) ?? throw new Refusal($"There is no animation “{wanted}” in the file: choose one of {string.Join(", ", all.Select(a => a.Name))}.")
            : all[0];
        if (all.Count > 1)
        {
            _skipped.Add($"Of {all.Count} animations one was taken; the others are {string.Join(", ", all.Where(a => a != chosen).Select(a => a.Name ?? "(no name)"))}.");
        }
        foreach (var channel in chosen.Channels)
        {
            if (channel.TargetNode is { } node && channel.TargetNodePath != PropertyPath.pointer)
            {
                _animated[(node.LogicalIndex, channel.TargetNodePath)] = channel;
            }
            else
            {
                _pointers.Add(channel);
            }
        }
        return chosen;
    }

    private static string IdOf(SharpGLTF.Schema2.Node node) => $"node-{node.LogicalIndex}";

    private void AddNode(SharpGLTF.Schema2.Node gltf, string? parent)
    {
        var (id, name) = (IdOf(gltf), Name(gltf.Name, $"Node {gltf.LogicalIndex}", parent));
        var place = PlaceOf(gltf, out var order, out var offset);
        var (camera, light) = (gltf.Camera, gltf.PunctualLight);
        Node node;
        if (gltf.Mesh is { } mesh && MeshOf(mesh) is { } read)
        {
            node = MeshNode(gltf, read, place) with { Id = id, Name = name };
        }
        else if (camera is not null)
        {
            node = CameraNode(camera, place);
            camera = null;
        }
        else if (light is not null)
        {
            node = LightNode(light, place);
            light = null;
        }
        else
        {
            node = gltf.IsSkinJoint ? new JointNode { Id = id, Name = name } : new GroupNode { Id = id, Name = name };
        }
        _nodes.Add(node with
        {
            Id = id,
            Name = name,
            Parent = parent,
            RotationOrder = order,
            Offset = offset,
            Channels = place.Count > 0
            ? place.ToImmutableSortedDictionary(StringComparer.Ordinal) : null
        });
        // A node of ours is one thing: what else stands there hangs below it.
        if (camera is not null)
        {
            AddBelow(c => CameraNode(camera, c), "camera");
        }
        if (light is not null)
        {
            AddBelow(c => LightNode(light, c), "light");
        }
        void AddBelow(Func<Dictionary<string, Channel>, Node> make, string what)
        {
            var channels = new Dictionary<string, Channel>();
            var below = make(channels);
            _nodes.Add(below with { Id = $"{id}-{what}", Name = Name($"{gltf.Name} {what}", what, id), Parent = id, Channels = channels.ToImmutableSortedDictionary(StringComparer.Ordinal) });
        }
    }

    /// <summary>The channels of where a node stands, keyed where it is animated.</summary>
    private Dictionary<string, Channel> PlaceOf(SharpGLTF.Schema2.Node gltf, out RotationOrder order, out Affine? offset)
    {
        var channels = new Dictionary<string, Channel>();
        (order, offset) = (RotationOrder.Xyz, null);
        AnimationChannel? Track(PropertyPath path) => _animated.GetValueOrDefault((gltf.LogicalIndex, path));
        var (moves, turns, scales) = (Track(PropertyPath.translation), Track(PropertyPath.rotation), Track(PropertyPath.scale));
        var local = gltf.LocalTransform;
        if (local.IsMatrix && moves is null && turns is null && scales is null)
        {
            var m = local.Matrix;
            var map = new Affine(new(m.M11, m.M12, m.M13), new(m.M21, m.M22, m.M23), new(m.M31, m.M32, m.M33), new(m.M41, m.M42, m.M43));
            if (!map.IsWithin(CurveRules.MostValue))
            {
                _skipped.Add($"Where {gltf.Name ?? $"node {gltf.LogicalIndex}"} stands was left out: its matrix holds numbers that are none.");
                return channels;
            }
            if (!TryTakeApart(map, channels))
            {
                offset = map;
            }
            return channels;
        }
        local = local.IsMatrix ? local.GetDecomposed() : local;
        Triple("transform.translate", moves?.GetTranslationSampler(), local.Translation, 0);
        Triple("transform.scale", scales?.GetScaleSampler(), local.Scale, 1);
        var q = local.Rotation;
        if (turns?.GetRotationSampler() is { } sampler && GltfCurves.ReadRotations(sampler, _rate) is { } curves)
        {
            order = RotationOrder.Quaternion;
            double[] statics = [q.X, q.Y, q.Z, q.W];
            for (var i = 0; i < 4; i++)
            {
                channels.Add($"transform.quaternion.{"xyzw"[i]}", new Channel(statics[i], curves[i]));
            }
        }
        else
        {
            var angles = Euler.From(new Quaternion(q.X, q.Y, q.Z, q.W).ToAffine(), RotationOrder.Xyz, Double3.Zero);
            Set(channels, "transform.rotate", angles, 0);
        }
        return channels;

        void Triple(string path, IAnimationSampler<System.Numerics.Vector3>? sampler, System.Numerics.Vector3 value, double usual)
        {
            var curves = sampler is null ? null : GltfCurves.Read(sampler, _rate, 3, (v, into) => (into[0], into[1], into[2]) = (v.X, v.Y, v.Z));
            if (curves is null)
            {
                Set(channels, path, new Double3(value.X, value.Y, value.Z), usual);
                return;
            }
            for (var i = 0; i < 3; i++)
            {
                channels.Add($"{path}.{"xyz"[i]}", new Channel(value[i], curves[i]));
            }
        }
    }

    /// <summary>Puts a map into channels where it is a place, a rotation and a scale; false where it is sheared or flat.</summary>
    private static bool TryTakeApart(in Affine map, Dictionary<string, Channel> channels)
    {
        var scale = new Double3(map.X.Length, map.Y.Length, map.Z.Length * (map.Determinant < 0 ? -1 : 1));
        if (scale.X == 0 || scale.Y == 0 || scale.Z == 0)
        {
            return false;
        }
        var rotation = new Affine(map.X * (1 / scale.X), map.Y * (1 / scale.Y), map.Z * (1 / scale.Z), Double3.Zero);
        var angles = Euler.From(rotation, RotationOrder.Xyz, Double3.Zero);
        var again = Affine.Rotation(angles, RotationOrder.Xyz).Scaled(scale);
        if ((again.X - map.X).Length + (again.Y - map.Y).Length + (again.Z - map.Z).Length > 1e-6 * (map with { Origin = Double3.Zero }).Largest)
        {
            return false;
        }
        Set(channels, "transform.translate", map.Origin, 0);
        Set(channels, "transform.rotate", angles, 0);
        Set(channels, "transform.scale", scale, 1);
        return true;
    }

    private static void Set(Dictionary<string, Channel> channels, string path, Double3 value, double usual)
    {
        Set(channels, path + ".x", value.X, usual);
        Set(channels, path + ".y", value.Y, usual);
        Set(channels, path + ".z", value.Z, usual);
    }

    private static void Set(Dictionary<string, Channel> channels, string path, double value, double usual)
    {
        if (value != usual && double.IsFinite(value))
        {
            channels[path] = new Channel(Math.Clamp(value, -CurveRules.MostValue, CurveRules.MostValue));
        }
    }

    private (AssetShape Shape, GltfMeshes Mesh)? MeshOf(SharpGLTF.Schema2.Mesh gltf)
    {
        if (_meshes.TryGetValue(gltf.LogicalIndex, out var known))
        {
            return known;
        }
        (AssetShape, GltfMeshes)? read = null;
        try
        {
            var mesh = GltfMeshes.Read(gltf, isOurs: false, _budget, _skipped);
            if (mesh.Mesh.VertexCount > 0)
            {
                var asset = Asset.Of(MeshFile.Write(mesh.Mesh));
                if (_assets.All(a => a.Name != asset.Name))
                {
                    _assets.Add(asset);
                }
                read = (new AssetShape(asset.Name, mesh.Mesh.VertexCount, mesh.Mesh.TriangleCount), mesh);
            }
        }
        catch (Exception e) when (e is not (OutOfMemoryException or OperationCanceledException))
        {
            // One mesh that is damaged does not keep the others out.
            _skipped.Add(e is Refusal ? $"Left out: {e.Message}" : $"The mesh “{gltf.Name}” was left out, since it is damaged: {e.Message.ReplaceLineEndings(" ")}");
        }
        return _meshes[gltf.LogicalIndex] = read;
    }

    private MeshNode MeshNode(SharpGLTF.Schema2.Node gltf, (AssetShape Shape, GltfMeshes Mesh) read, Dictionary<string, Channel> channels)
    {
        var materials = read.Mesh.Materials.Select(m => m is null ? "" : _materials.Of(m)).ToList();
        var deformers = new List<Deformer>();
        var targets = read.Mesh.Mesh.Targets.Length;
        if (targets > 0)
        {
            var morph = new MorphDeformer { Id = "morph", Targets = [.. GltfMeshes.TargetNames(gltf.Mesh, targets)] };
            deformers.Add(morph);
            var rest = gltf.MorphWeights;
            var track = _animated.GetValueOrDefault((gltf.LogicalIndex, PropertyPath.weights))?.GetMorphSampler();
            var curves = track is null ? null : GltfCurves.Read(track, _rate, targets, (from, into) => from.Take(targets).Select(f => (double)f).ToArray().CopyTo(into, 0));
            for (var t = 0; t < targets; t++)
            {
                var weight = t < rest.Count ? rest[t] : 0;
                if (weight != 0 || curves is not null)
                {
                    channels[morph.ChannelPath(morph.Channels[t].Path)] = new Channel(weight, curves?[t]);
                }
            }
        }
        if (gltf.Skin is not null)
        {
            deformers.Add(new SkinDeformer { Id = "skin" });
        }
        var areSame = materials.Distinct().Count() <= 1;
        return new()
        {
            Id = "",
            Name = "",
            Shape = read.Shape,
            Material = areSame && materials.Count > 0 && materials[0].Length > 0 ? materials[0] : null,
            PartMaterials = areSame ? [] : [.. materials],
            Deformers = [.. deformers],
        };
    }

    /// <summary>Fills in the joints of skins, once all nodes are there.</summary>
    private void HangOnJoints()
    {
        var ids = _nodes.Select(n => n.Id).ToHashSet();
        for (var i = 0; i < _nodes.Count; i++)
        {
            if (_nodes[i] is not MeshNode mesh || mesh.Deformers.All(d => d is not SkinDeformer))
            {
                continue;
            }
            var skin = _model.LogicalNodes[int.Parse(mesh.Id["node-".Length..], CultureInfo.InvariantCulture)].Skin;
            var joints = skin.Joints.Select(IdOf).ToImmutableArray();
            if (joints.Any(j => !ids.Contains(j)))
            {
                _skipped.Add($"The skin of {mesh.Name} was left out: it hangs on joints that are not in the scene.");
                _nodes[i] = mesh with { Deformers = mesh.Deformers.RemoveAll(d => d is SkinDeformer) };
                continue;
            }
            var binds = skin.InverseBindMatrices.Select(m => new Affine(new(m.M11, m.M12, m.M13), new(m.M21, m.M22, m.M23), new(m.M31, m.M32, m.M33), new(m.M41, m.M42, m.M43))).ToImmutableArray();
            _nodes[i] = mesh with { Deformers = [.. mesh.Deformers.Select(d => d is SkinDeformer s ? s with { Joints = joints, Binds = binds.Length == joints.Length ? binds : [] } : d)] };
        }
    }

    private CameraNode CameraNode(Camera camera, Dictionary<string, Channel> channels)
    {
        if (camera.Settings is CameraOrthographic parallel)
        {
            Set(channels, "camera.height", 2 * Math.Abs(parallel.YMag), 4);
            _pointers.Key(channels, $"/cameras/{camera.LogicalIndex}/orthographic/ymag", ("camera.height", 2));
            // The picture says how wide it is.
            _pointers.Key(channels, $"/cameras/{camera.LogicalIndex}/orthographic/xmag", (null, 1));
            return new() { Id = "", Name = "", Projection = Projection.Orthographic };
        }
        if (camera.Settings is CameraPerspective perspective)
        {
            Set(channels, "camera.fov", perspective.VerticalFOV * (180 / Math.PI), 40);
            _pointers.Key(channels, $"/cameras/{camera.LogicalIndex}/perspective/yfov", ("camera.fov", 180 / Math.PI));
        }
        return new() { Id = "", Name = "" };
    }

    /// <summary>Candela are taken as light in watts per steradian, lux as watts per square metre: what glTF leaves to the exposure is left to it here too.</summary>
    private Node LightNode(PunctualLight light, Dictionary<string, Channel> channels)
    {
        var color = light.Color;
        Set(channels, "light.color.r", color.X, 1);
        Set(channels, "light.color.g", color.Y, 1);
        Set(channels, "light.color.b", color.Z, 1);
        var pointer = $"/extensions/KHR_lights_punctual/lights/{light.LogicalIndex}";
        _pointers.Key(channels, $"{pointer}/color", ("light.color.r", 1), ("light.color.g", 1), ("light.color.b", 1));
        void KeyStrength(double factor) => _pointers.Key(channels, $"{pointer}/intensity", ("light.strength", factor));
        if (light.LightType == PunctualLightType.Directional)
        {
            Set(channels, "light.strength", light.Intensity, 3);
            KeyStrength(1);
            return new SunNode { Id = "", Name = "" };
        }
        if (light.LightType == PunctualLightType.Spot)
        {
            Set(channels, "light.strength", light.Intensity * 4 * Math.PI, 100);
            Set(channels, "light.cone", light.OuterConeAngle * (360 / Math.PI), 60);
            _pointers.Key(channels, $"{pointer}/spot/outerConeAngle", ("light.cone", 360 / Math.PI));
            KeyStrength(4 * Math.PI);
            Set(channels, "light.softness", light.OuterConeAngle > 0 ? 1 - Math.Clamp(light.InnerConeAngle / light.OuterConeAngle, 0, 1) : 0, 0.3);
            return new LampNode { Id = "", Name = "", Form = LampForm.Spot };
        }
        Set(channels, "light.strength", light.Intensity * 4 * Math.PI, 100);
        KeyStrength(4 * Math.PI);
        return new LampNode { Id = "", Name = "" };
    }

    private string Name(string? name, string otherwise, string? parent)
    {
        var taken = _names.Take(name, otherwise, parent);
        _renamed += taken == name ? 0 : 1;
        return taken;
    }
}
