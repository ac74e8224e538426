using System.Globalization;
using System.Numerics;
using System.Text.Json.Nodes;
using Bradymotus.Core;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Shaping;
using SharpGLTF.Schema2;
using SharpGLTF.Transforms;
using CameraNode = Bradymotus.Core.Scene.CameraNode;
using Mesh = Bradymotus.Core.Geometry.Mesh;
using Node = Bradymotus.Core.Scene.Node;
using Projection = Bradymotus.Core.Scene.Projection;
using Quaternion = Bradymotus.Core.Numerics.Quaternion;

namespace Bradymotus.Formats.Gltf;

/// <summary>What is exported, and how.</summary>
/// <param name="Nodes">The ids of the nodes, with all that hangs below them; null is the whole shot.</param>
/// <param name="Step">Where keys cannot stay keys: a sample every so many frames.</param>
public sealed record ExportOptions(IReadOnlyList<string>? Nodes = null, double Step = 1);

/// <summary>A file that has been made, and what it could not hold.</summary>
/// <param name="Kept">What stands in it.</param>
/// <param name="Changed">What is there in another form, or is not there, a sentence each.</param>
public sealed record Exported(byte[] Bytes, IReadOnlyList<string> Kept, IReadOnlyList<string> Changed);

/// <summary>
/// Writes a shot as one file of glTF 2.0. Keys stay keys where glTF can hold them (<see cref="Track"/>); the rest is sampled. What stands still is
/// written once.
/// </summary>
/// <remarks>Longer than most: one walk over a shot, whose parts share the document that is written; materials and layers of surfaces have files of their own.</remarks>
public sealed partial class GltfWriter
{
    // Bent shapes are written as morph targets, one a sample: more would be larger than anything reads.
    private const long MostMorphBytes = 512L << 20;

    private readonly ModelRoot _model = ModelRoot.CreateModel();
    private readonly CompiledShot _compiled;
    private readonly FrameState _state;
    private readonly ShotAssets _assets;
    private readonly ExportOptions _options;
    private readonly List<double> _frames = [];
    private readonly List<string> _changed = [];
    private readonly Dictionary<string, SharpGLTF.Schema2.Node> _nodes = [];
    private readonly Dictionary<string, SharpGLTF.Schema2.Material> _materials = [];
    private readonly Dictionary<(Mesh, string), SharpGLTF.Schema2.Mesh> _meshes = [];
    private readonly Dictionary<(Array, int), Accessor> _accessors = [];
    private readonly List<Sampled> _sampled = [];
    private readonly List<(string Pointer, string Of, Func<float[]> Now, List<float[]> Values)> _pointers = [];
    private readonly HashSet<(string Owner, string Path)> _pointed = [];
    private Animation? _animation;
    private int _keptTracks, _keptKeys;

    private GltfWriter(Shot shot, ShotAssets assets, ExportOptions options)
    {
        (_options, _assets) = (options, assets);
        // The format has one curve for each number.
        shot = Layers.Baked(MuteChannels.WithoutMuted(shot));
        _compiled = new(shot);
        _state = new(_compiled, assets);
        for (var i = 0; ; i++)
        {
            var frame = shot.Range.First + i * options.Step;
            if (frame >= shot.Range.Last)
            {
                break;
            }
            _frames.Add(frame);
        }
        _frames.Add(shot.Range.Last);
    }

    private Shot Shot => _compiled.Shot;

    /// <exception cref="Refusal">A node is not there, the step is no positive number, or there is nothing to export.</exception>
    public static Exported Write(Shot shot, ShotAssets assets, ExportOptions? options = null, CancellationToken cancel = default)
    {
        options ??= new();
        if (!(options.Step > 0) || (shot.Range.Last - shot.Range.First) / options.Step > 100_000)
        {
            throw new Refusal($"The step {options.Step.ToString(CultureInfo.InvariantCulture)} cannot be used: it must be above 0, and give at most 100000 samples.");
        }
        if (shot.Nodes.IsEmpty)
        {
            throw new Refusal($"The shot “{shot.Name}” has no objects: add some before it is exported.");
        }
        var (whole, made) = MakeReal.Everywhere(shot, shot.Range.First, cancel);
        var writer = new GltfWriter(whole, assets, options);
        if (shot.Range.First != 0)
        {
            writer._changed.Add($"Frame {shot.Range.First}, where the shot begins, is at 0 seconds in the file.");
        }
        if (made > 0)
        {
            writer._changed.Add($"{made} {(made == 1 ? "instance or repeat is" : "instances and repeats are")} written out object by object, their meshes shared.");
        }
        return writer.Run(cancel);
    }

    private Exported Run(CancellationToken cancel)
    {
        var wanted = _options.Nodes is null ? Shot.Nodes.Select(n => n.Id).ToHashSet() : Shot.Descendants(_options.Nodes.Select(id => Shot.Node(id).Id));
        // Joints of what is exported come along, with all that they hang below.
        foreach (var joint in Shot.Nodes.OfType<MeshNode>().Where(m => wanted.Contains(m.Id)).SelectMany(m => m.Deformers.OfType<SkinDeformer>()).SelectMany(s => s.Joints).ToList())
        {
            for (var node = Shot.FindNode(joint); node is not null && wanted.Add(node.Id); node = Shot.FindNode(node.Parent))
            {
            }
        }
        var scene = _model.UseScene(Shot.Name);
        scene.Extras = new GltfTime(Shot.Rate, Shot.Range.First, Shot.Range.Last).ToExtras();
        _state.Evaluate(Shot.Range.First);
        for (var i = 0; i < _compiled.NodeCount; i++)
        {
            var node = _compiled.NodeAt(i);
            if (!wanted.Contains(node.Id))
            {
                continue;
            }
            cancel.ThrowIfCancellationRequested();
            var isBelow = node.Parent is not null && _nodes.ContainsKey(node.Parent);
            var own = isBelow ? _nodes[node.Parent!].CreateNode(node.Name) : scene.CreateNode(node.Name);
            _nodes.Add(node.Id, own);
            Put(i, node, own, isBelow);
            Fill(i, node, own);
        }
        SampleBends(cancel);
        var skins = new Dictionary<int, int>();
        foreach (var mesh in Shot.Nodes.OfType<MeshNode>().Where(m => _nodes.ContainsKey(m.Id)))
        {
            if (mesh.Deformers.OfType<SkinDeformer>().FirstOrDefault() is { } skin && _nodes[mesh.Id].Mesh is not null && _state.Mesh(_compiled.IndexOfNode(mesh.Id))!.Rest.Weights is not null)
            {
                var own = _model.CreateSkin(mesh.Name);
                own.BindJoints([.. skin.Joints.Select((j, k) => (_nodes[j], skin.Binds.IsEmpty ? Matrix4x4.Identity : ToMatrix(skin.Binds[k])))]);
                skins.Add(_nodes[mesh.Id].LogicalIndex, own.LogicalIndex);
            }
        }
        WriteSamples(cancel);
        ReportWhatIsLeftOut(wanted);
        _model.Asset.Generator = "Bradymotus";
        var bytes = _model.WriteGLB(new WriteSettings { Validation = SharpGLTF.Validation.ValidationMode.Skip, MergeBuffers = true });
        var kept = new List<string> { $"{_nodes.Count} nodes", $"{_meshes.Count} meshes", $"{_materials.Count} materials" };
        if (_keptTracks > 0)
        {
            kept.Add($"{_keptTracks} tracks with {_keptKeys} keys as they are");
        }
        return new(WithSkins(bytes, skins), kept, [.. _changed.Distinct()]);
    }

    /// <summary>
    /// The library takes a skin only for a node that stands still at the origin; glTF lets it stand anywhere. So it is said in the text of the
    /// finished file (glTF 2.0, section 4.4: a header of 12 bytes, then chunks of length, type and content, the text first).
    /// </summary>
    private static byte[] WithSkins(ArraySegment<byte> glb, Dictionary<int, int> skins)
    {
        if (skins.Count == 0)
        {
            return [.. glb];
        }
        static int Whole(ReadOnlySpan<byte> at) => System.Buffers.Binary.BinaryPrimitives.ReadInt32LittleEndian(at);
        var length = Whole(glb.AsSpan(12));
        var root = JsonNode.Parse(glb.AsSpan(20, length))!;
        foreach (var (node, skin) in skins)
        {
            root["nodes"]![node]!["skin"] = skin;
        }
        var text = System.Text.Encoding.UTF8.GetBytes(root.ToJsonString());
        var rest = glb.AsSpan(20 + length);
        var padded = (text.Length + 3) / 4 * 4;
        var bytes = new byte[20 + padded + rest.Length];
        glb.AsSpan(0, 20).CopyTo(bytes);
        System.Buffers.Binary.BinaryPrimitives.WriteInt32LittleEndian(bytes.AsSpan(8), bytes.Length);
        System.Buffers.Binary.BinaryPrimitives.WriteInt32LittleEndian(bytes.AsSpan(12), padded);
        text.CopyTo(bytes, 20);
        bytes.AsSpan(20 + text.Length, padded - text.Length).Fill((byte)' ');
        rest.CopyTo(bytes.AsSpan(20 + padded));
        return bytes;
    }

    /// <summary>Where a node stands: once where it stands still, by its keys where glTF can hold them, else to be sampled.</summary>
    private void Put(int index, Node node, SharpGLTF.Schema2.Node own, bool isBelow)
    {
        var channels = Shot.SetChannels(node.Id);
        Curve? CurveOf(string path) => channels?.GetValueOrDefault(path)?.Curve is { Keys.Length: > 1 } curve ? curve : null;
        static string[] Three(string path) => [path + ".x", path + ".y", path + ".z"];
        bool IsMoving(string[] paths) => Array.Exists(paths, p => CurveOf(p) is not null);
        double Now(string path) => _state.Value(new(node.Id, path));
        var isQuaternion = node.RotationOrder == RotationOrder.Quaternion;
        var (move, size, pivot) = (Three("transform.translate"), Three("transform.scale"), Three("transform.pivot"));
        string[] turn = isQuaternion ? [.. "xyzw".Select(c => $"transform.quaternion.{c}")] : Three("transform.rotate");
        // A selection whose parent stays behind stands where it stood in the world.
        var isLifted = !isBelow && node.Parent is not null;
        var first = isLifted ? _state.World[index] : _state.Local(index);
        var areMoving = new[] { IsMoving(move), IsMoving(turn), IsMoving(size) };
        if (!isLifted && !areMoving.Contains(true) && !IsMoving(pivot))
        {
            own.LocalTransform = IsSheared(first) ? new AffineTransform(ToMatrix(first)) : ToTransform(first);
            return;
        }
        own.LocalTransform = ToTransform(first);
        var sampled = new Sampled(node, own, index, isLifted);
        if (isLifted || node.Offset is not null || IsMoving(pivot) || !Array.TrueForAll(pivot, p => Now(p) == 0))
        {
            (sampled.Moves, sampled.Turns, sampled.Scales) = (true, true, true);
        }
        else
        {
            Track? TrackOf(string[] paths) => Track.Of([.. paths.Select(CurveOf)], [.. paths.Select(Now)], Shot.Range.First, Shot.Range.Last, Seconds);
            sampled.Moves = areMoving[0] && !Keep(TrackOf(move), (f, k) => Triples(f, k, own, isScale: false));
            sampled.Scales = areMoving[2] && !Keep(TrackOf(size), (f, k) => Triples(f, k, own, isScale: true));
            // Angles are no quaternions in between, and linear ones go the way that glTF means only where all four are keyed together.
            var turns = isQuaternion ? TrackOf(turn) : null;
            var areTogether = turns is not null && Array.TrueForAll(turn, p => CurveOf(p)?.Keys.Length == turns.Keys.Count);
            sampled.Turns = areMoving[1] && !Keep(areTogether ? turns : null, (f, k) => Turns(f, k, own));
        }
        if (sampled.Moves || sampled.Turns || sampled.Scales)
        {
            _sampled.Add(sampled);
        }
    }

    private bool Keep(Track? track, Action<TrackKind, IReadOnlyList<TrackKey>> write)
    {
        if (track is null)
        {
            return false;
        }
        write(track.Kind, track.Keys);
        _keptTracks++;
        _keptKeys += track.Keys.Count;
        return true;
    }

    private Animation TheAnimation => _animation ??= _model.CreateAnimation(Shot.Name);

    private float Seconds(double frame) => (float)Shot.Rate.Seconds(frame - Shot.Range.First);

    /// <summary>Slopes go over by the second.</summary>
    private Vector3 Slope(double[] perFrame) => Vector(perFrame) * (float)Shot.Rate.FramesPerSecond;

    private static Vector3 Vector(double[] v) => new((float)v[0], (float)v[1], (float)v[2]);

    private void Triples(TrackKind kind, IReadOnlyList<TrackKey> keys, SharpGLTF.Schema2.Node own, bool isScale)
    {
        if (kind == TrackKind.Cubic)
        {
            var smooth = keys.ToDictionary(k => Seconds(k.Frame), k => (Slope(k.In), Vector(k.Value), Slope(k.Out)));
            if (isScale)
            {
                TheAnimation.CreateScaleChannel(own, smooth);
            }
            else
            {
                TheAnimation.CreateTranslationChannel(own, smooth);
            }
            return;
        }
        var straight = keys.ToDictionary(k => Seconds(k.Frame), k => Vector(k.Value));
        if (isScale)
        {
            TheAnimation.CreateScaleChannel(own, straight, kind == TrackKind.Linear);
        }
        else
        {
            TheAnimation.CreateTranslationChannel(own, straight, kind == TrackKind.Linear);
        }
    }

    private void Turns(TrackKind kind, IReadOnlyList<TrackKey> keys, SharpGLTF.Schema2.Node own)
    {
        var rate = Shot.Rate.FramesPerSecond;
        static System.Numerics.Quaternion Of(double[] q, double by) => new((float)(q[0] * by), (float)(q[1] * by), (float)(q[2] * by), (float)(q[3] * by));
        if (kind == TrackKind.Cubic)
        {
            // glTF wants quaternions of length 1 at its keys; a track goes the same way when it is longer by a factor all along.
            var length = keys.Max(k => Math.Sqrt(k.Value.Sum(v => v * v)));
            TheAnimation.CreateRotationChannel(own, keys.ToDictionary(k => Seconds(k.Frame), k => (Of(k.In, rate / length), Of(k.Value, 1 / length), Of(k.Out, rate / length))));
        }
        else
        {
            TheAnimation.CreateRotationChannel(own, keys.ToDictionary(k => Seconds(k.Frame), k => System.Numerics.Quaternion.Normalize(Of(k.Value, 1))), kind == TrackKind.Linear);
        }
    }

    /// <summary>What a node is: its mesh, its camera, its light.</summary>
    private void Fill(int index, Node node, SharpGLTF.Schema2.Node own)
    {
        double Now(string path) => _state.Value(new(node.Id, path));
        switch (node)
        {
            case MeshNode mesh when _state.Mesh(index) is { } shape && shape.Rest.Indices.Length > 0:
                FillMesh(mesh, shape, own);
                break;
            case CameraNode { Projection: Projection.Orthographic } camera:
                var height = (float)Math.Max(0.001, Now("camera.height")) / 2;
                own.Camera = _model.CreateCamera(camera.Name);
                own.Camera.SetOrthographicMode(height * (float)Shot.Size.Aspect, height, 0.01f, 10_000);
                Point(node.Id, node.Name, node.Channels, $"/cameras/{own.Camera.LogicalIndex}/orthographic/ymag", () => [(float)Math.Max(0.001, Now("camera.height")) / 2], "camera.height");
                Point(node.Id, node.Name, node.Channels, $"/cameras/{own.Camera.LogicalIndex}/orthographic/xmag", () =>
                    [(float)(Math.Max(0.001, Now("camera.height")) / 2 * Shot.Size.Aspect)], "camera.height");
                break;
            case CameraNode camera:
                own.Camera = _model.CreateCamera(camera.Name);
                var lens = Lens.Of(camera, Now);
                own.Camera.SetPerspectiveMode((float)Shot.Size.Aspect, (float)(lens.Angle * Math.PI / 180), (float)lens.Near, (float)lens.Far);
                Point(node.Id, node.Name, node.Channels, $"/cameras/{own.Camera.LogicalIndex}/perspective/yfov", () =>
                    [(float)(Lens.Of(camera, Now).Angle * Math.PI / 180)], "camera.fov", "camera.focal", "camera.sensor");
                break;
            case SunNode or LampNode:
                var isSun = node is SunNode;
                var form = (node as LampNode)?.Form ?? LampForm.Point;
                var light = _model.CreatePunctualLight(node.Name, isSun ? PunctualLightType.Directional : form == LampForm.Point ? PunctualLightType.Point : PunctualLightType.Spot);
                if (form == LampForm.Spot)
                {
                    var half = Math.Clamp(Now("light.cone"), 1, 180) * Math.PI / 360;
                    light.SetSpotCone((float)Math.Min(half * (1 - Math.Clamp(Now("light.softness"), 0, 1)), half - 1e-4), (float)half);
                }
                else if (form != LampForm.Point)
                {
                    light.SetSpotCone(0, (float)(Math.PI / 2));
                    _changed.Add($"The panel {node.Name} is a spot in the file: glTF has no panels of light.");
                }
                static float Part(double value) => (float)Math.Clamp(value, 0, 1);
                (Vector3 Color, float Intensity) Shine()
                {
                    var glow = Core.Numerics.BlackBody.Linear(Now("light.kelvin"));
                    var most = Math.Max(glow.X, Math.Max(glow.Y, glow.Z));
                    // Watts all round are watts per steradian times 4π.
                    return (new(Part(Now("light.color.r") * glow.X / most), Part(Now("light.color.g") * glow.Y / most), Part(Now("light.color.b") * glow.Z / most)),
                        (float)Math.Max(0, Now("light.strength") * most / (isSun ? 1 : form is LampForm.Rectangle or LampForm.Disc ? Math.PI : 4 * Math.PI)));
                }
                light.SetColor(Shine().Color, Shine().Intensity, float.PositiveInfinity);
                own.PunctualLight = light;
                var pointer = $"/extensions/KHR_lights_punctual/lights/{light.LogicalIndex}";
                Point(node.Id, node.Name, node.Channels, $"{pointer}/color", () => Shine().Color is var c ? [c.X, c.Y, c.Z] : [], "light.color.", "light.kelvin");
                Point(node.Id, node.Name, node.Channels, $"{pointer}/intensity", () => [Shine().Intensity], "light.strength", "light.kelvin");
                if (form == LampForm.Spot)
                {
                    Point(node.Id, node.Name, node.Channels, $"{pointer}/spot/outerConeAngle", () => [(float)(Math.Clamp(Now("light.cone"), 1, 180) * Math.PI / 360)], "light.cone");
                }
                break;
        }
    }

    private void ReportWhatIsLeftOut(HashSet<string> wanted)
    {
        foreach (var node in Shot.Nodes.Where(n => wanted.Contains(n.Id)))
        {
            var list = ChannelCatalog.For(node);
            if (node.Channels?.GetValueOrDefault("visible") is { } visible && (visible.Curve is not null || visible.Value < 0.5))
            {
                _changed.Add($"{node.Name} is always seen: that it is hidden is not in the file.");
            }
            foreach (var (path, channel) in node.Channels ?? System.Collections.Immutable.ImmutableSortedDictionary<string, Channel>.Empty)
            {
                if (channel.Curve is not null && !_pointed.Contains((node.Id, path)) && (path.StartsWith("camera.", StringComparison.Ordinal) || path.StartsWith("light.", StringComparison.Ordinal)))
                {
                    _changed.Add($"{list.Find(path)?.Label} of {node.Name} stands still, as on frame {Shot.Range.First}.");
                }
            }
        }
        if (_options.Nodes is null)
        {
            _changed.Add("The sky is not in the file: glTF has none.");
        }
        if (Shot.Range.First < 0)
        {
            _changed.Add($"Frame {Shot.Range.First} is at 0 seconds: glTF has no time before.");
        }
    }

    private static Matrix4x4 ToMatrix(in Affine a) => new(
        (float)a.X.X, (float)a.X.Y, (float)a.X.Z, 0,
        (float)a.Y.X, (float)a.Y.Y, (float)a.Y.Z, 0,
        (float)a.Z.X, (float)a.Z.Y, (float)a.Z.Z, 0,
        (float)a.Origin.X, (float)a.Origin.Y, (float)a.Origin.Z, 1);

    private static AffineTransform ToTransform(in Affine local)
    {
        var (place, rotation, scale) = TakeApart(local);
        return new(scale, rotation, place);
    }

    private static bool IsSheared(in Affine a)
    {
        var size = a.X.Length * a.Y.Length + a.Y.Length * a.Z.Length + a.Z.Length * a.X.Length;
        return Math.Abs(Double3.Dot(a.X, a.Y)) + Math.Abs(Double3.Dot(a.Y, a.Z)) + Math.Abs(Double3.Dot(a.Z, a.X)) > 1e-7 * size;
    }

    /// <summary>Position, rotation and scale of a map; shear is left out.</summary>
    /// <param name="near">The rotation before it, whose sign is kept.</param>
    private static (Vector3 Place, System.Numerics.Quaternion Turn, Vector3 Scale) TakeApart(in Affine map, System.Numerics.Quaternion? near = null)
    {
        var sign = map.Determinant < 0 ? -1 : 1;
        var scale = new Double3(sign * map.X.Length, map.Y.Length, map.Z.Length);
        var x = (map.X * (scale.X != 0 ? 1 / scale.X : 0)).Normalized();
        x = x == Double3.Zero ? Double3.UnitX : x;
        var z = Double3.Cross(x, map.Y.Normalized()).Normalized();
        z = z == Double3.Zero ? Double3.Cross(x, Math.Abs(x.Y) < 0.9 ? Double3.UnitY : Double3.UnitZ).Normalized() : z;
        var q = Quaternion.From(new Affine(x, Double3.Cross(z, x), z, Double3.Zero), near is { } n ? new(n.X, n.Y, n.Z, n.W) : Quaternion.Identity);
        return (new((float)map.Origin.X, (float)map.Origin.Y, (float)map.Origin.Z), new((float)q.X, (float)q.Y, (float)q.Z, (float)q.W), new((float)scale.X, (float)scale.Y, (float)scale.Z));
    }
}
