using System.Text;
using Bradymotus.Core;
using Bradymotus.Core.Geometry;

namespace Bradymotus.Formats.Meshes;

/// <summary>
/// Wavefront OBJ with its MTL: vertices, normals, texture coordinates, faces of any number of corners, objects and groups, materials. Corners that
/// share all three indices become one vertex; faces are taken apart as fans.
/// </summary>
internal sealed class ObjReader
{
    private readonly SourceFiles _files;
    private readonly MeshScene _scene;
    private readonly List<float> _positions = [], _normals = [], _texCoords = [];
    private readonly Dictionary<string, string> _materials = [];
    private readonly Dictionary<(int, int, int), int> _vertices = [];
    private readonly List<(int Position, int TexCoord, int Normal)> _corners = [];
    // For each material, in order of their first use: the corners of its triangles.
    private readonly List<(string Material, List<int> Indices)> _parts = [];
    private string? _name;
    private string _material = "";
    private int _wrong;

    private ObjReader(SourceFiles files, ImportOptions options) => (_files, _scene) = (files, new(files.Name, options));

    internal static Imported Read(SourceFiles files, ImportOptions options, CancellationToken cancel)
    {
        var reader = new ObjReader(files, options);
        reader.Read(files.Read(), cancel);
        return reader._scene.ToImported();
    }

    private void Read(ReadOnlySpan<byte> text, CancellationToken cancel)
    {
        var lines = new Lines(text);
        Span<int> face = stackalloc int[256];
        while (lines.Next())
        {
            if ((lines.Number & 0xffff) == 0)
            {
                cancel.ThrowIfCancellationRequested();
            }
            var word = lines.Word();
            if (word.SequenceEqual("v"u8))
            {
                Add(_positions, lines.Float(), lines.Float(), lines.Float());
            }
            else if (word.SequenceEqual("vn"u8))
            {
                Add(_normals, lines.Float(), lines.Float(), lines.Float());
            }
            else if (word.SequenceEqual("vt"u8))
            {
                // Upwards there, downwards here.
                _texCoords.Add(lines.Float());
                _texCoords.Add(1 - lines.Float());
            }
            else if (word.SequenceEqual("f"u8))
            {
                AddFace(ref lines, face);
            }
            else if (word.SequenceEqual("o"u8) || word.SequenceEqual("g"u8))
            {
                Finish();
                _name = lines.Line;
            }
            else if (word.SequenceEqual("usemtl"u8))
            {
                _material = lines.Line;
            }
            else if (word.SequenceEqual("mtllib"u8))
            {
                ReadMaterials(lines.Line);
            }
            else if (word.SequenceEqual("l"u8) || word.SequenceEqual("p"u8) || word.SequenceEqual("curv"u8) || word.SequenceEqual("surf"u8))
            {
                _scene.Missed.Add("Lines, points and curved surfaces were left out: only faces can be drawn.");
            }
        }
        Finish();
        if (_wrong > 0)
        {
            _scene.Missed.Add($"{_wrong} faces were left out: they refer to vertices that are not there.");
        }
    }

    private static void Add(List<float> to, float x, float y, float z)
    {
        to.Add(x);
        to.Add(y);
        to.Add(z);
    }

    private void AddFace(scoped ref Lines lines, scoped Span<int> face)
    {
        var count = 0;
        for (var word = lines.Word(); !word.IsEmpty && count < face.Length; word = lines.Word())
        {
            // From 1; below 0 it counts back from the newest.
            static int Place(int index, int count) => index > 0 ? index - 1 : index < 0 ? count + index : -1;
            var position = Place(Lines.Whole(word, out word), _positions.Count / 3);
            var (texCoord, normal) = (-1, -1);
            if (!word.IsEmpty && word[0] == '/')
            {
                texCoord = Place(Lines.Whole(word[1..], out word), _texCoords.Count / 2);
                if (!word.IsEmpty && word[0] == '/')
                {
                    normal = Place(Lines.Whole(word[1..], out word), _normals.Count / 3);
                }
            }
            if ((uint)position >= _positions.Count / 3)
            {
                _wrong++;
                return;
            }
            var corner = (position, (uint)texCoord < _texCoords.Count / 2 ? texCoord : -1, (uint)normal < _normals.Count / 3 ? normal : -1);
            if (!_vertices.TryGetValue(corner, out var vertex))
            {
                _vertices.Add(corner, vertex = _corners.Count);
                _corners.Add(corner);
            }
            face[count++] = vertex;
        }
        if (count < 3)
        {
            return;
        }
        var part = _parts.FindIndex(p => p.Material == _material);
        if (part < 0)
        {
            part = _parts.Count;
            _parts.Add((_material, []));
        }
        var indices = _parts[part].Indices;
        for (var i = 1; i + 1 < count; i++)
        {
            indices.Add(face[0]);
            indices.Add(face[i]);
            indices.Add(face[i + 1]);
        }
    }

    /// <summary>Makes a mesh of what has come since the last one.</summary>
    private void Finish()
    {
        if (_parts.Count > 0)
        {
            var positions = new float[3 * _corners.Count];
            var normals = new float[3 * _corners.Count];
            var texCoords = _corners.Exists(c => c.TexCoord >= 0) ? new float[2 * _corners.Count] : null;
            for (var v = 0; v < _corners.Count; v++)
            {
                var (position, texCoord, normal) = _corners[v];
                for (var i = 0; i < 3; i++)
                {
                    positions[3 * v + i] = _positions[3 * position + i];
                    normals[3 * v + i] = normal >= 0 ? _normals[3 * normal + i] : 0;
                }
                if (texCoord >= 0)
                {
                    (texCoords![2 * v], texCoords[2 * v + 1]) = (_texCoords[2 * texCoord], _texCoords[2 * texCoord + 1]);
                }
            }
            int[] indices = [.. _parts.SelectMany(p => p.Indices)];
            var smooth = Normals.Smooth(positions, indices);
            for (var v = 0; v < normals.Length; v += 3)
            {
                var length = MathF.Sqrt(normals[v] * normals[v] + normals[v + 1] * normals[v + 1] + normals[v + 2] * normals[v + 2]);
                for (var i = 0; i < 3; i++)
                {
                    normals[v + i] = length > 0 && float.IsFinite(length) ? normals[v + i] / length : smooth[v + i];
                }
            }
            var first = 0;
            var parts = new int[_parts.Count];
            for (var p = 0; p < parts.Length; p++)
            {
                parts[p] = first;
                first += _parts[p].Indices.Count / 3;
            }
            _scene.Add(_name, new Mesh(positions, normals, indices) { TexCoords = texCoords, Parts = parts }, [.. _parts.Select(p => _materials.GetValueOrDefault(p.Material, ""))]);
        }
        _parts.Clear();
        _corners.Clear();
        _vertices.Clear();
    }

    private void ReadMaterials(string file)
    {
        byte[]? text;
        try
        {
            text = _files.ReadBeside(file);
        }
        catch (Refusal e)
        {
            _scene.Missed.Add(e.Message);
            return;
        }
        if (text is null)
        {
            _scene.Missed.Add($"The materials were left out: “{file}” is not beside the file. Bring both in together.");
            return;
        }
        var lines = new Lines(text);
        string? name = null;
        var channels = new Dictionary<string, double>();
        void End()
        {
            if (name is not null && !_materials.ContainsKey(name))
            {
                _materials.Add(name, _scene.AddMaterial(name, channels.Select(c => (c.Key, c.Value))));
            }
            channels.Clear();
        }
        while (lines.Next())
        {
            var word = Encoding.ASCII.GetString(lines.Word());
            static double Part(float value) => Math.Clamp(value, 0, 1);
            switch (word)
            {
                case "newmtl":
                    End();
                    name = lines.Line;
                    break;
                case "Kd":
                    (channels["look.color.r"], channels["look.color.g"], channels["look.color.b"]) = (Part(lines.Float()), Part(lines.Float()), Part(lines.Float()));
                    break;
                case "Ke":
                    channels["look.emission"] = Math.Max(0, Math.Max(lines.Float(), Math.Max(lines.Float(), lines.Float())));
                    break;
                case "d":
                    channels["look.opacity"] = Part(lines.Float());
                    break;
                case "Tr":
                    channels["look.opacity"] = 1 - Part(lines.Float());
                    break;
                case "Ns":
                    // The exponent of Phong's highlight as roughness: α² = 2 / (n + 2), Walter and others 2007.
                    channels.TryAdd("look.roughness", Math.Pow(2 / (Math.Max(0, (double)lines.Float()) + 2), 0.25));
                    break;
                case "Pr":
                    channels["look.roughness"] = Part(lines.Float());
                    break;
                case "Pm":
                    channels["look.metallic"] = Part(lines.Float());
                    break;
                case ['m', 'a', 'p', ..]:
                    _scene.Missed.Add($"The textures of the material {name} were left out: there are none yet.");
                    break;
            }
        }
        End();
    }
}
