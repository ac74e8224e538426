using System.Globalization;
using System.Runtime.InteropServices;
using System.Text.Json.Nodes;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Shaping;
using SharpGLTF.Schema2;
using SharpGLTF.Transforms;
using Mesh = Bradymotus.Core.Geometry.Mesh;

namespace Bradymotus.Formats.Gltf;

/// <content>Meshes, with their parts, targets and materials.</content>
public sealed partial class GltfWriter
{
    private void FillMesh(MeshNode mesh, MeshState shape, SharpGLTF.Schema2.Node own)
    {
        var morph = mesh.Deformers.OfType<MorphDeformer>().FirstOrDefault();
        var areBent = mesh.Deformers.Any(d => d is not (MorphDeformer or SkinDeformer));
        if (areBent)
        {
            // Its own mesh, to which the bent shapes are added once they are known.
            return;
        }
        own.Mesh = MeshOf(mesh, shape.Rest, morph);
        if (morph is null || shape.Rest.Targets.Length == 0)
        {
            return;
        }
        var channels = Shot.SetChannels(mesh.Id);
        var paths = morph.Channels.Take(shape.Rest.Targets.Length).Select(c => morph.ChannelPath(c.Path)).ToArray();
        var values = paths.Select(p => _state.Value(new(mesh.Id, p))).ToArray();
        own.SetMorphWeights(SparseWeight8.Create([.. values.Select(v => (float)v)]));
        var curves = paths.Select(p => channels?.GetValueOrDefault(p)?.Curve).ToArray();
        if (curves.All(c => c is null))
        {
            return;
        }
        var count = paths.Length;
        static float[] Floats(double[] v, double by) => [.. v.Select(x => (float)(x * by))];
        var rate = Shot.Rate.FramesPerSecond;
        if (!Keep(Track.Of(curves, values, Shot.Range.First, Shot.Range.Last, Seconds), (kind, keys) =>
        {
            if (kind == TrackKind.Cubic)
            {
                TheAnimation.CreateMorphChannel(own, keys.ToDictionary(k => Seconds(k.Frame), k => (Floats(k.In, rate), Floats(k.Value, 1), Floats(k.Out, rate))), count);
            }
            else
            {
                TheAnimation.CreateMorphChannel(own, keys.ToDictionary(k => Seconds(k.Frame), k => Floats(k.Value, 1)), count, kind == TrackKind.Linear);
            }
        }))
        {
            var evaluators = curves.Select(c => c?.Compile()).ToArray();
            TheAnimation.CreateMorphChannel(own, _frames.DistinctBy(Seconds).ToDictionary(Seconds, f => evaluators.Select((e, i) => (float)(e?.Evaluate(f) ?? values[i])).ToArray()), count, true);
            _changed.Add($"The morph weights of {mesh.Name} are sampled every {StepText}.");
        }
    }

    private string StepText => _options.Step == 1 ? "frame" : $"{_options.Step.ToString(CultureInfo.InvariantCulture)} frames";

    private SharpGLTF.Schema2.Mesh MeshOf(MeshNode node, Mesh mesh, MorphDeformer? morph)
    {
        var key = (mesh, string.Join('|', Enumerable.Range(0, mesh.Parts.Length).Select(p => node.MaterialOf(p) ?? "")) + (morph is null ? "" : "+" + string.Join('|', morph.Targets)));
        if (!_meshes.TryGetValue(key, out var known))
        {
            _meshes.Add(key, known = WriteMesh(node, mesh, mesh.Targets, morph?.Targets.Take(mesh.Targets.Length).ToArray() ?? [], mesh.Weights));
        }
        return known;
    }

    private SharpGLTF.Schema2.Mesh WriteMesh(MeshNode node, Mesh mesh, MorphTarget[] targets, string[] names, SkinWeights? skin)
    {
        var gltf = _model.CreateMesh(node.Name);
        var ranges = Ranges(mesh);
        var carries = skin is not null && node.Deformers.Any(d => d is SkinDeformer) ? MeshFile.Sets(skin, mesh.VertexCount).ToList() : [];
        var moved = targets.Select(t => (Positions: MeshFile.All(t.Vertices, t.Positions, mesh.VertexCount), Normals: MeshFile.All(t.Vertices, t.Normals, mesh.VertexCount))).ToList();
        for (var part = 0; part < mesh.Parts.Length; part++)
        {
            var (from, to) = (3 * mesh.Parts[part], part + 1 < mesh.Parts.Length ? 3 * mesh.Parts[part + 1] : mesh.Indices.Length);
            if (to <= from)
            {
                continue;
            }
            var range = ranges[part];
            Accessor Of(Array data, DimensionType dimensions, EncodingType encoding = EncodingType.FLOAT) => Vertices(data, dimensions, range, mesh.VertexCount, encoding);
            var primitive = gltf.CreatePrimitive();
            primitive.SetVertexAccessor("POSITION", Of(mesh.Positions, DimensionType.VEC3));
            primitive.SetVertexAccessor("NORMAL", Of(mesh.Normals, DimensionType.VEC3));
            if (mesh.TexCoords is { } uv)
            {
                primitive.SetVertexAccessor("TEXCOORD_0", Of(uv, DimensionType.VEC2));
            }
            if (mesh.Colors is { } colors)
            {
                primitive.SetVertexAccessor("COLOR_0", Of(colors, DimensionType.VEC4));
            }
            foreach (var (i, (joints, weights)) in carries.Index())
            {
                primitive.SetVertexAccessor($"JOINTS_{i}", Of(joints, DimensionType.VEC4, EncodingType.UNSIGNED_SHORT));
                primitive.SetVertexAccessor($"WEIGHTS_{i}", Of(weights, DimensionType.VEC4));
            }
            for (var t = 0; t < moved.Count; t++)
            {
                primitive.SetMorphTargetAccessors(t, new Dictionary<string, Accessor>
                {
                    ["POSITION"] = Of(moved[t].Positions, DimensionType.VEC3),
                    ["NORMAL"] = Of(moved[t].Normals, DimensionType.VEC3)
                });
            }
            int[] own = [.. mesh.Indices.AsSpan(from, to - from)];
            for (var i = 0; i < own.Length; i++)
            {
                own[i] -= range.First;
            }
            var indices = _model.CreateAccessor();
            indices.SetIndexData(_model.UseBufferView(MemoryMarshal.AsBytes(own.AsSpan()).ToArray(), 0, null, 0, BufferMode.ELEMENT_ARRAY_BUFFER), 0, own.Length, IndexEncodingType.UNSIGNED_INT);
            primitive.SetIndexAccessor(indices);
            if (node.MaterialOf(part) is { } material)
            {
                primitive.Material = MaterialOf(Shot.Material(material));
            }
        }
        if (names.Length > 0)
        {
            gltf.Extras = new JsonObject { ["targetNames"] = new JsonArray([.. names.Select(t => (JsonNode)t)]) };
        }
        return gltf;
    }

    /// <summary>
    /// The vertices of each part: its own, where parts have them one after the other, as they mostly have; else all. So a mesh of several
    /// parts has as many vertices in the file as here.
    /// </summary>
    private static (int First, int Count)[] Ranges(Mesh mesh)
    {
        var ranges = new (int First, int Count)[mesh.Parts.Length];
        var last = -1;
        for (var part = 0; part < ranges.Length; part++)
        {
            var from = 3 * mesh.Parts[part];
            var own = mesh.Indices.AsSpan(from, (part + 1 < ranges.Length ? 3 * mesh.Parts[part + 1] : mesh.Indices.Length) - from);
            var (low, high) = (int.MaxValue, last);
            foreach (var i in own)
            {
                (low, high) = (Math.Min(low, i), Math.Max(high, i));
            }
            if (own.Length > 0 && low <= last)
            {
                Array.Fill(ranges, (0, mesh.VertexCount));
                return ranges;
            }
            // What no triangle uses belongs to the part before it.
            ranges[part].First = part == 0 ? 0 : own.Length > 0 ? low : last + 1;
            last = high;
        }
        for (var part = 0; part < ranges.Length; part++)
        {
            ranges[part].Count = (part + 1 < ranges.Length ? ranges[part + 1].First : mesh.VertexCount) - ranges[part].First;
        }
        return ranges;
    }

    /// <summary>The numbers of some vertices; the same are written once.</summary>
    /// <param name="all">How many vertices the numbers are of.</param>
    private Accessor Vertices(Array data, DimensionType dimensions, (int First, int Count) range, int all, EncodingType encoding)
    {
        if (!_accessors.TryGetValue((data, range.First), out var known))
        {
            var each = System.Buffer.ByteLength(data) / all;
            var bytes = new byte[each * range.Count];
            System.Buffer.BlockCopy(data, each * range.First, bytes, 0, bytes.Length);
            known = _model.CreateAccessor();
            known.SetVertexData(_model.UseBufferView(bytes, 0, null, 0, BufferMode.ARRAY_BUFFER), 0, range.Count, new SharpGLTF.Memory.AttributeFormat(dimensions, encoding, false));
            _accessors.Add((data, range.First), known);
        }
        return known;
    }
}
