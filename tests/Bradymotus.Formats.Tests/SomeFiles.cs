using System.Numerics;
using System.Runtime.InteropServices;
using System.Text;
using System.Text.Json.Nodes;
using Bradymotus.Core.Geometry;
using SharpGLTF.Schema2;
using Mesh = Bradymotus.Core.Geometry.Mesh;

namespace Bradymotus.Formats.Tests;

internal static class SomeFiles
{
    private static byte[]? _gull;

    /// <summary>A mesh thrown by dice, with everything that a mesh can have or without it.</summary>
    internal static Mesh Mesh(Random dice)
    {
        var n = dice.Next(3, 60);
        float[] Numbers(int count) => [.. Enumerable.Range(0, count).Select(_ => (float)(dice.NextDouble() - 0.5))];
        float[] Normals()
        {
            var normals = new float[3 * n];
            for (var v = 0; v < n; v++)
            {
                Vector3.UnitX.CopyTo(normals, 3 * v);
            }
            return normals;
        }
        var triangles = dice.Next(2, 40);
        var influences = 4 * dice.Next(3);
        var moved = Numbers(3 * n);
        if (dice.Next(2) == 0)
        {
            Array.Clear(moved, 3, moved.Length - 3);
        }
        return new(Numbers(3 * n), Normals(), [.. Enumerable.Range(0, 3 * triangles).Select(_ => dice.Next(n))])
        {
            TexCoords = dice.Next(2) == 0 ? Numbers(2 * n) : null,
            Colors = dice.Next(2) == 0 ? [.. Enumerable.Range(0, 4 * n).Select(_ => dice.NextSingle())] : null,
            Parts = dice.Next(2) == 0 ? [0] : [0, dice.Next(1, triangles)],
            Targets = dice.Next(2) == 0 ? [] : [MorphTarget.Of(moved, new float[3 * n]), MorphTarget.Of(Numbers(3 * n), Numbers(3 * n))],
            Weights = influences == 0 ? null : new(influences, [.. Enumerable.Range(0, influences * n).Select(i => (ushort)(i / influences % 3 + i % influences))], [.. Enumerable.Repeat(1f / influences, influences * n)]),
        };
    }

    /// <summary>Three joints in a row, a skin with two targets, a wing that beats.</summary>
    internal static byte[] Gull()
    {
        if (_gull is not null)
        {
            return _gull;
        }
        var model = ModelRoot.CreateModel();
        var scene = model.UseScene("Gull");
        var body = scene.CreateNode("Body");
        var wing = body.CreateNode("Wing");
        var tip = wing.CreateNode("Tip");
        wing.LocalTransform = tip.LocalTransform = Matrix4x4.CreateTranslation(0, 1, 0);
        var mesh = model.CreateMesh("Skin");
        var primitive = mesh.CreatePrimitive();
        float[] positions = [0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0, 0, 2, 0, 1, 2, 0];
        void Set(string name, Array data, DimensionType dimensions, EncodingType encoding) => primitive.SetVertexAccessor(name, Accessor(data, dimensions, encoding));
        Accessor Accessor(Array data, DimensionType dimensions, EncodingType encoding)
        {
            var bytes = new byte[System.Buffer.ByteLength(data)];
            System.Buffer.BlockCopy(data, 0, bytes, 0, bytes.Length);
            var accessor = model.CreateAccessor();
            accessor.SetVertexData(model.UseBufferView(bytes, 0, null, 0, BufferMode.ARRAY_BUFFER), 0, 6, new SharpGLTF.Memory.AttributeFormat(dimensions, encoding, false));
            return accessor;
        }
        Set("POSITION", positions, DimensionType.VEC3, EncodingType.FLOAT);
        Set("JOINTS_0", new ushort[] { 0, 0, 0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 1, 2, 0, 0, 1, 2, 0, 0 }, DimensionType.VEC4, EncodingType.UNSIGNED_SHORT);
        Set("WEIGHTS_0", Enumerable.Range(0, 24).Select(i => i % 4 < 2 ? 0.5f : 0).ToArray(), DimensionType.VEC4, EncodingType.FLOAT);
        for (var t = 0; t < 2; t++)
        {
            primitive.SetMorphTargetAccessors(t, new Dictionary<string, Accessor> { ["POSITION"] = Accessor(positions.Select(p => p * (t + 1) / 4).ToArray(), DimensionType.VEC3, EncodingType.FLOAT) });
        }
        var indices = model.CreateAccessor();
        indices.SetIndexData(model.UseBufferView(MemoryMarshal.AsBytes(new[] { 0, 1, 2, 2, 1, 3, 2, 3, 4, 4, 3, 5 }.AsSpan()).ToArray(), 0, null, 0, BufferMode.ELEMENT_ARRAY_BUFFER), 0, 12, IndexEncodingType.UNSIGNED_INT);
        primitive.SetIndexAccessor(indices);
        mesh.Extras = new JsonObject { ["targetNames"] = new JsonArray("call", "glide") };
        var skin = model.CreateSkin("Joints");
        skin.BindJoints(body, wing, tip);
        var skinned = scene.CreateNode("Skin");
        (skinned.Mesh, skinned.Skin) = (mesh, skin);
        var beat = model.CreateAnimation("beat");
        Quaternion Turn(double degrees) => Quaternion.CreateFromAxisAngle(Vector3.UnitZ, (float)(degrees * Math.PI / 180));
        beat.CreateRotationChannel(wing, new Dictionary<float, Quaternion> { [0] = Turn(-30), [1] = Turn(40), [2] = Turn(-30) });
        return _gull = [.. model.WriteGLB()];
    }

    /// <summary>A triangle on each of some nodes, as text that tests spoil.</summary>
    internal static JsonObject Triangles(int nodes = 1, float[]? positions = null, ushort[]? indices = null)
    {
        positions ??= [0, 0, 0, 1, 0, 0, 0, 1, 0];
        indices ??= [0, 1, 2];
        byte[] bytes = [.. MemoryMarshal.AsBytes(positions.AsSpan()), .. MemoryMarshal.AsBytes(indices.AsSpan())];
        var json = (JsonObject)JsonNode.Parse($$"""
            {
              "asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": []}], "nodes": [],
              "meshes": [{"name": "triangle", "primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}],
              "accessors": [
                {"bufferView": 0, "componentType": 5126, "count": {{positions.Length / 3}}, "type": "VEC3", "min": [0, 0, 0], "max": [1, 1, 0]},
                {"bufferView": 1, "componentType": 5123, "count": {{indices.Length}}, "type": "SCALAR"}
              ],
              "bufferViews": [
                {"buffer": 0, "byteLength": {{4 * positions.Length}}},
                {"buffer": 0, "byteOffset": {{4 * positions.Length}}, "byteLength": {{2 * indices.Length}}}
              ],
              "buffers": [{"byteLength": {{bytes.Length}}, "uri": "data:application/octet-stream;base64,{{Convert.ToBase64String(bytes)}}"}]
            }
            """)!;
        for (var i = 0; i < nodes; i++)
        {
            ((JsonArray)json["nodes"]!).Add(new JsonObject { ["name"] = $"n{i}", ["mesh"] = 0 });
            ((JsonArray)json["scenes"]![0]!["nodes"]!).Add(i);
        }
        return json;
    }

    /// <summary>As a binary file that consists of text alone.</summary>
    internal static byte[] Text(JsonObject json)
    {
        var text = Encoding.UTF8.GetBytes(json.ToJsonString());
        var padded = (text.Length + 3) / 4 * 4;
        var glb = new byte[20 + padded];
        Array.Fill(glb, (byte)' ');
        MemoryMarshal.Cast<byte, uint>(glb.AsSpan(0, 20))[0] = 0x46546C67;
        MemoryMarshal.Cast<byte, uint>(glb.AsSpan(0, 20))[1] = 2;
        MemoryMarshal.Cast<byte, uint>(glb.AsSpan(0, 20))[2] = (uint)glb.Length;
        MemoryMarshal.Cast<byte, uint>(glb.AsSpan(0, 20))[3] = (uint)padded;
        MemoryMarshal.Cast<byte, uint>(glb.AsSpan(0, 20))[4] = 0x4E4F534A;
        text.CopyTo(glb, 20);
        return glb;
    }
}
