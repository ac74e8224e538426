using System.Globalization;
using System.Numerics;
using Bradymotus.Core;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Shaping;
using Mesh = Bradymotus.Core.Geometry.Mesh;
using Node = Bradymotus.Core.Scene.Node;

namespace Bradymotus.Formats.Gltf;

/// <content>What cannot stay keys: shapes that deformers bend, and places, sampled.</content>
public sealed partial class GltfWriter
{
    /// <summary>
    /// Shapes that deformers bend: as they are on the first frame, and where they change, a morph target for each sample that the weights go
    /// through one after the other.
    /// </summary>
    private void SampleBends(CancellationToken cancel)
    {
        var bent = Shot.Nodes.OfType<MeshNode>()
            .Where(m => _nodes.ContainsKey(m.Id) && (m.Deformers.Any(d => d is not (MorphDeformer or SkinDeformer)) || _state.Mesh(_compiled.IndexOfNode(m.Id))!.IsRebuilt))
            .Select(m => (Node: m, Shape: _state.Mesh(_compiled.IndexOfNode(m.Id))!, Versions: new List<int>(), Targets: new List<(float[] Positions, float[] Normals)>()))
            .Where(b => b.Shape.Rest.Indices.Length > 0).ToList();
        if (bent.Count == 0)
        {
            return;
        }
        var bytes = 0L;
        var first = new Dictionary<string, int[]>();
        foreach (var frame in _frames)
        {
            cancel.ThrowIfCancellationRequested();
            _state.Evaluate(frame);
            foreach (var (node, shape, versions, targets) in bent)
            {
                if (targets.Count > 0 && !shape.Indices.AsSpan().SequenceEqual(first[node.Id]))
                {
                    // A morph target has as many vertices as the mesh: other triangles cannot be mixed in.
                    _changed.Add($"{node.Name} gets other triangles on frame {frame.ToString(CultureInfo.InvariantCulture)}; in the file it keeps those of the first frame.");
                    versions.Add(versions[^1]);
                    continue;
                }
                if (versions.Count == 0 || versions[^1] != shape.Version)
                {
                    first.TryAdd(node.Id, shape.Indices);
                    // Where a shape does not change, the last is kept.
                    targets.Add(((float[])shape.Positions.Clone(), (float[])shape.Normals.Clone()));
                    bytes += 24L * shape.Rest.VertexCount;
                    if (bytes > MostMorphBytes)
                    {
                        throw new Refusal($"The bent shapes of the shot would take more than {MostMorphBytes >> 20} MB: export fewer objects, or with a larger step.");
                    }
                }
                versions.Add(shape.Version);
            }
        }
        _state.Evaluate(Shot.Range.First);
        foreach (var (node, shape, versions, targets) in bent)
        {
            var rest = new Mesh(targets[0].Positions, targets[0].Normals, first[node.Id]) { TexCoords = shape.Rest.TexCoords, Colors = shape.Rest.Colors, Parts = shape.Rest.Parts };
            static float[] Less(float[] a, float[] b) => [.. a.Zip(b, (x, y) => x - y)];
            var moved = targets.Skip(1).Select(t => MorphTarget.Of(Less(t.Positions, rest.Positions), Less(t.Normals, rest.Normals))).ToArray();
            var own = _nodes[node.Id];
            own.Mesh = WriteMesh(node, rest, moved, [.. Enumerable.Range(1, moved.Length).Select(i => $"Sample {i}")], null);
            _meshes.Add((rest, ""), own.Mesh);
            if (moved.Length == 0)
            {
                _changed.Add($"The deformers of {node.Name} are in its shape now.");
                continue;
            }
            var keys = new Dictionary<float, float[]>();
            var shown = -1;
            for (var f = 0; f < _frames.Count; f++)
            {
                shown += f == 0 || versions[f] != versions[f - 1] ? 1 : 0;
                var weights = new float[moved.Length];
                if (shown > 0)
                {
                    weights[shown - 1] = 1;
                }
                keys[Seconds(_frames[f])] = weights;
            }
            TheAnimation.CreateMorphChannel(own, keys, moved.Length, true);
            _changed.Add($"The deformers of {node.Name} are morph targets now, sampled every {StepText}.");
        }
    }

    private void WriteSamples(CancellationToken cancel)
    {
        foreach (var frame in _sampled.Count > 0 || _pointers.Count > 0 ? _frames : [])
        {
            cancel.ThrowIfCancellationRequested();
            _state.Evaluate(frame);
            foreach (var pointer in _pointers)
            {
                pointer.Values.Add(pointer.Now());
            }
            foreach (var sampled in _sampled)
            {
                var local = sampled.IsLifted ? _state.World[sampled.Index] : _state.Local(sampled.Index);
                var (place, turn, scale) = TakeApart(local, sampled.Turn.Count > 0 ? sampled.Turn[^1] : null);
                sampled.Place.Add(place);
                sampled.Turn.Add(turn);
                sampled.Scale.Add(scale);
                sampled.IsSheared |= IsSheared(local);
            }
        }
        foreach (var sampled in _sampled)
        {
            Dictionary<float, T> Keys<T>(List<T> values) => _frames.Select((f, i) => (Seconds(f), values[i])).DistinctBy(k => k.Item1).ToDictionary(k => k.Item1, k => k.Item2);
            static bool Changes<T>(List<T> values) => values.Distinct().Skip(1).Any();
            if (sampled.Moves && Changes(sampled.Place))
            {
                TheAnimation.CreateTranslationChannel(sampled.Own, Keys(sampled.Place), true);
            }
            if (sampled.Turns && Changes(sampled.Turn))
            {
                TheAnimation.CreateRotationChannel(sampled.Own, Keys(sampled.Turn), true);
            }
            if (sampled.Scales && Changes(sampled.Scale))
            {
                TheAnimation.CreateScaleChannel(sampled.Own, Keys(sampled.Scale), true);
            }
            _changed.Add($"The motion of {sampled.Node.Name} is sampled every {StepText}: glTF has no such keys.");
            if (sampled.IsSheared)
            {
                _changed.Add($"{sampled.Node.Name} is sheared by its parent's scale; glTF leaves that out where something moves.");
            }
        }
        foreach (var (pointer, of, _, values) in _pointers)
        {
            if (!values.Exists(v => !v.AsSpan().SequenceEqual(values[0])))
            {
                continue;
            }
            Dictionary<float, T> Keys<T>(Func<float[], T> make) => _frames.Select((f, i) => (Seconds(f), make(values[i]))).DistinctBy(k => k.Item1).ToDictionary(k => k.Item1, k => k.Item2);
            switch (values[0].Length)
            {
                case 1:
                    TheAnimation.DangerousCreatePointerChannel(pointer, Keys(v => v[0]), true, false);
                    break;
                case 3:
                    TheAnimation.DangerousCreatePointerChannel(pointer, Keys(v => new Vector3(v)), true, false);
                    break;
                default:
                    TheAnimation.DangerousCreatePointerChannel(pointer, Keys(v => new Vector4(v)), true, false);
                    break;
            }
            _changed.Add($"{of} is sampled every {StepText}, by KHR_animation_pointer, which not every program reads.");
        }
        _state.Evaluate(Shot.Range.First);
    }

    /// <summary>Notes a number of the file that is to be sampled, where one of the channels that it comes from has keys.</summary>
    /// <param name="owner">The node or material.</param>
    /// <param name="pointer">Its name, as KHR_animation_pointer has it.</param>
    /// <param name="now">What it is on the evaluated frame.</param>
    /// <param name="paths">The channels that it comes from; one that ends in a point stands for all that begin so.</param>
    private void Point(string owner, string name, System.Collections.Immutable.ImmutableSortedDictionary<string, Channel>? channels, string pointer, Func<float[]> now, params string[] paths)
    {
        var keyed = channels?.Where(c => c.Value.Curve is not null && paths.Any(p => p.EndsWith('.') ? c.Key.StartsWith(p, StringComparison.Ordinal) : c.Key == p)).Select(c => c.Key).ToList() ?? [];
        if (keyed.Count > 0)
        {
            _pointers.Add((pointer, $"{Shot.ChannelsOf(owner).First(c => c.Path == keyed[0]).Label} of {name}", now, []));
            _pointed.UnionWith(keyed.Select(k => (owner, k)));
        }
    }

    /// <summary>A node that is sampled, and where it stood.</summary>
    private sealed class Sampled(Node node, SharpGLTF.Schema2.Node own, int index, bool isLifted)
    {
        internal Node Node => node;

        internal SharpGLTF.Schema2.Node Own => own;

        internal int Index => index;

        /// <summary>Its parent stays behind, so that its place in the world is written.</summary>
        internal bool IsLifted => isLifted;

        internal bool Moves { get; set; }

        internal bool Turns { get; set; }

        internal bool Scales { get; set; }

        internal bool IsSheared { get; set; }

        internal List<Vector3> Place { get; } = [];

        internal List<System.Numerics.Quaternion> Turn { get; } = [];

        internal List<Vector3> Scale { get; } = [];
    }
}
