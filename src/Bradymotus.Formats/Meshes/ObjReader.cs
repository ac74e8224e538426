using System.Runtime.InteropServices;
using System.Text;
using Bradymotus.Core;
using Bradymotus.Core.Scene;

namespace Bradymotus.Formats.Meshes;

/// <summary>
/// Wavefront OBJ with its MTL: vertices, normals, texture coordinates, faces of any number of corners, objects and groups, materials. Corners that
/// share all three indices become one vertex; smoothing groups are those of the file, and faces stay within their outlines.
/// </summary>
internal sealed class ObjReader
{
    private readonly SourceFiles _files;
    private readonly MeshScene _scene;
    private readonly List<float> _positions = [], _normals = [], _texCoords = [];
    private readonly Dictionary<string, string> _materials = [];
    private readonly Dictionary<(int, int, int), int> _vertices = [];
    private readonly List<(int Position, int TexCoord, int Normal)> _corners = [];
    // The materials in order of their first use.
    private readonly List<string> _parts = [];
    private readonly List<int> _face = [];
    private PolygonMesh _mesh = new();
    private string? _name;
    private string _material = "";
    private int _smoothing = PolygonMesh.ByAngle;
    private int _wrong, _unclear;

    private ObjReader(SourceFiles files, ImportOptions options) => (_files, _scene) = (files, new(files.Name, options));

    internal static Imported Read(SourceFiles files, ImportOptions options, CancellationToken cancel)
    {
        var reader = new ObjReader(files, options);
        reader.Read(files.Read(), cancel);
        return reader._scene.ToImported();
    }

    private void Read(ReadOnlySpan<byte> text, CancellationToken cancel)
    {
        var lines = new Lines(Joined(text));
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
                AddFace(ref lines);
            }
            else if (word.SequenceEqual("o"u8) || word.SequenceEqual("g"u8))
            {
                Finish();
                _name = lines.Line;
            }
            else if (word.SequenceEqual("s"u8))
            {
                // A group, or off, which is 0 as well.
                _smoothing = Math.Max(PolygonMesh.Flat, Lines.Whole(lines.Word(), out _));
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
                _scene.Skipped.Add("Lines, points and curved surfaces were left out: only faces can be drawn.");
            }
        }
        Finish();
        if (_wrong > 0)
        {
            _scene.Skipped.Add($"{_wrong} {(_wrong == 1 ? "face was" : "faces were")} left out: they refer to vertices that are not there.");
        }
        if (_unclear > 0)
        {
            _scene.Skipped.Add($"{_unclear} {(_unclear == 1 ? "face crosses itself or has" : "faces cross themselves or have")} too many corners, and may be filled otherwise than meant: divide them where they were made.");
        }
    }

    /// <summary>A backslash at the end of a line goes on with the next one.</summary>
    private static ReadOnlySpan<byte> Joined(ReadOnlySpan<byte> text)
    {
        if (text.IndexOf("\\\n"u8) < 0 && text.IndexOf("\\\r\n"u8) < 0)
        {
            return text;
        }
        var joined = text.ToArray();
        for (var i = 0; i + 1 < joined.Length; i++)
        {
            if (joined[i] == '\\' && (joined[i + 1] == '\n' || (joined[i + 1] == '\r' && i + 2 < joined.Length && joined[i + 2] == '\n')))
            {
                joined.AsSpan(i, joined[i + 1] == '\n' ? 2 : 3).Fill((byte)' ');
            }
        }
        return joined;
    }

    private static void Add(List<float> to, float x, float y, float z)
    {
        to.Add(x);
        to.Add(y);
        to.Add(z);
    }

    private void AddFace(scoped ref Lines lines)
    {
        _face.Clear();
        for (var word = lines.Word(); !word.IsEmpty; word = lines.Word())
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
            _face.Add(vertex);
        }
        if (_face.Count < 3)
        {
            return;
        }
        var part = _parts.IndexOf(_material);
        if (part < 0)
        {
            part = _parts.Count;
            _parts.Add(_material);
        }
        _mesh.Add(CollectionsMarshal.AsSpan(_face), _smoothing, part);
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
            var placeOf = _corners.ConvertAll(c => c.Position);
            var mesh = _mesh.Make(positions, normals, texCoords, null, CollectionsMarshal.AsSpan(placeOf), _parts.Count, out var unclear);
            _unclear += unclear;
            _scene.Add(_name, mesh, [.. _parts.Select(p => _materials.GetValueOrDefault(p, ""))]);
        }
        _mesh = new();
        _parts.Clear();
        _corners.Clear();
        _vertices.Clear();
    }

    /// <summary>A texture of a material: options, then the name of the file.</summary>
    private void AddMap(string word, string text, List<SurfaceMap> maps, Dictionary<string, double> channels)
    {
        var slot = word switch
        {
            "map_Kd" => MapSlot.Color,
            "map_Ke" => MapSlot.Emission,
            "map_d" => MapSlot.Opacity,
            "map_Pr" => MapSlot.Roughness,
            "map_Pm" => MapSlot.Metallic,
            "norm" => MapSlot.Normal,
            _ => MapSlot.Bump,
        };
        var (scale, offset) = (new[] { 1.0, 1 }, new[] { 0.0, 0 });
        var wrap = PictureWrap.Repeat;
        var words = text.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        var at = 0;
        static bool IsNumber(string s) => double.TryParse(s, System.Globalization.NumberStyles.Float, System.Globalization.CultureInfo.InvariantCulture, out _);
        while (at < words.Length - 1 && words[at].StartsWith('-'))
        {
            var option = words[at++];
            var first = at;
            // Every option but these takes numbers, and the file comes after them.
            at += option is "-clamp" or "-cc" or "-blendu" or "-blendv" or "-imfchan" or "-type" ? 1 : 0;
            for (var n = 0; at < words.Length - 1 && IsNumber(words[at]) && option is "-s" or "-o" or "-t" or "-mm" or "-bm" or "-boost" or "-texres"; n++, at++)
            {
                if (n < 2 && option is "-s" or "-o")
                {
                    (option == "-s" ? scale : offset)[Math.Min(n, 1)] = double.Parse(words[at], System.Globalization.CultureInfo.InvariantCulture);
                }
            }
            wrap = option == "-clamp" && first < words.Length && words[first] == "on" ? PictureWrap.Clamp : wrap;
        }
        if (maps.Exists(m => m.Slot == slot) || _scene.PictureBeside(_files, string.Join(' ', words[Math.Min(at, words.Length)..])) is not { } picture)
        {
            return;
        }
        var map = new SurfaceMap(slot, picture with { WrapU = wrap, WrapV = wrap });
        maps.Add(map);
        void Set(string path, double value, double usual)
        {
            if (value != usual && double.IsFinite(value) && Math.Abs(value) < 1e6)
            {
                channels[map.Prefix + path] = value;
            }
        }
        Set("scale.x", scale[0], 1);
        Set("scale.y", scale[1], 1);
        Set("offset.x", offset[0], 0);
        // There v goes upwards from the lower edge, here downwards from the upper: what is s·v + o there is 1 − (s·(1 − v) + o) here.
        Set("offset.y", 1 - scale[1] - offset[1], 0);
        if (slot == MapSlot.Color && !channels.ContainsKey("look.color.r"))
        {
            (channels["look.color.r"], channels["look.color.g"], channels["look.color.b"]) = (1, 1, 1);
        }
        if (slot == MapSlot.Emission && !channels.ContainsKey("look.emission"))
        {
            (channels["look.emission"], channels["look.emissionColor.r"], channels["look.emissionColor.g"], channels["look.emissionColor.b"]) = (1, 1, 1, 1);
        }
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
            _scene.Skipped.Add(e.Message);
            return;
        }
        if (text is null)
        {
            _scene.Skipped.Add($"The materials were left out: “{file}” is not beside the file. Bring both in together.");
            return;
        }
        var lines = new Lines(text);
        string? name = null;
        var channels = new Dictionary<string, double>();
        var maps = new List<SurfaceMap>();
        void End()
        {
            if (name is not null && !_materials.ContainsKey(name))
            {
                _materials.Add(name, _scene.AddMaterial(name, channels.Select(c => (c.Key, c.Value)), maps));
            }
            channels.Clear();
            maps.Clear();
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
                    var (r, g, b) = (Math.Max(0, (double)lines.Float()), Math.Max(0, (double)lines.Float()), Math.Max(0, (double)lines.Float()));
                    if (Math.Max(r, Math.Max(g, b)) is > 0 and < 1e6 and var most)
                    {
                        channels["look.emission"] = most;
                        (channels["look.emissionColor.r"], channels["look.emissionColor.g"], channels["look.emissionColor.b"]) = (r / most, g / most, b / most);
                    }
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
                case "map_Kd" or "map_Ke" or "map_d" or "map_Pr" or "map_Pm" or "norm" or "bump" or "map_bump" or "map_Bump":
                    AddMap(word, lines.Line, maps, channels);
                    break;
                case ['m', 'a', 'p', ..]:
                    _scene.Skipped.Add($"The texture {word} of the material {name} was left out: there is none of the kind.");
                    break;
            }
        }
        End();
    }
}
