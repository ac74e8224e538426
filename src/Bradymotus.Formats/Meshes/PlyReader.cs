using System.Buffers.Binary;
using System.Runtime.InteropServices;
using System.Text;
using Bradymotus.Core;
using Bradymotus.Core.Geometry;

namespace Bradymotus.Formats.Meshes;

/// <summary>PLY, as text or binary of either order of bytes: vertices with normals and texture coordinates where they have some, and faces of any number of corners.</summary>
internal static class PlyReader
{
    private sealed record Property(string Name, string Type, string? CountType);

    private sealed record Element(string Name, int Count, List<Property> Properties);

    internal static Imported Read(SourceFiles files, ImportOptions options, CancellationToken cancel)
    {
        var bytes = files.Read();
        var lines = new Lines(bytes);
        Refusal Damaged(string why) => new($"{files.Name} cannot be read as PLY: {why}.");
        var elements = new List<Element>();
        var format = "";
        if (!lines.Next() || !lines.Word().SequenceEqual("ply"u8))
        {
            throw Damaged("it does not begin with “ply”");
        }
        while (true)
        {
            if (!lines.Next() || lines.Number > 1000)
            {
                throw Damaged("its header has no end");
            }
            string Word(ref Lines from) => Encoding.ASCII.GetString(from.Word());
            var word = Word(ref lines);
            if (word == "end_header")
            {
                break;
            }
            if (word == "format")
            {
                format = Word(ref lines);
            }
            else if (word == "element")
            {
                var name = Word(ref lines);
                elements.Add(int.TryParse(Word(ref lines), out var count) && count >= 0 ? new(name, count, []) : throw Damaged($"it does not say how many of “{name}” there are"));
            }
            else if (word == "property" && elements.Count > 0)
            {
                var type = Word(ref lines);
                var countType = type == "list" ? Word(ref lines) : null;
                type = countType is null ? type : Word(ref lines);
                if (Size(type) == 0 || (countType is not null && Size(countType) == 0))
                {
                    throw Damaged($"it has numbers of the kind “{type}”, which is not known");
                }
                elements[^1].Properties.Add(new(Word(ref lines), type, countType));
            }
        }
        if (format is not ("ascii" or "binary_little_endian" or "binary_big_endian"))
        {
            throw Damaged($"it is written as “{format}”, which is not known");
        }
        var source = new Numbers(lines.Rest, format, files.Name);
        var scene = new MeshScene(files.Name, options);
        float[] positions = [], normals = [], texCoords = [];
        float[]? colors = null;
        var mesh = new PolygonMesh();
        var face = new List<int>();
        var (hasNormals, hasTexCoords, wrong) = (false, false, 0);
        foreach (var element in elements)
        {
            cancel.ThrowIfCancellationRequested();
            // A file that promises more than it has is cut off; nothing is made ready for it.
            if (element.Count > source.Left)
            {
                throw Damaged($"it promises {element.Count} of “{element.Name}” and ends before");
            }
            if (element.Name == "vertex")
            {
                if (element.Count > Shape.MostVertices)
                {
                    throw new Refusal($"{files.Name} has {element.Count} vertices, more than the {Shape.MostVertices} that a shape can have: split it.");
                }
                (positions, normals, texCoords) = (new float[3 * element.Count], new float[3 * element.Count], new float[2 * element.Count]);
                hasNormals = element.Properties.Exists(p => p.Name == "nx");
                if (element.Properties.Exists(p => p.Name == "red"))
                {
                    colors = new float[4 * element.Count];
                    Array.Fill(colors, 1);
                }
                hasTexCoords = element.Properties.Exists(p => p.Name is "u" or "s" or "texture_u");
            }
            for (var i = 0; i < element.Count; i++)
            {
                foreach (var property in element.Properties)
                {
                    if (property.CountType is not null)
                    {
                        var count = (int)source.Next(property.CountType);
                        if (count < 0 || count > source.Left)
                        {
                            throw Damaged($"a list of {count} numbers goes beyond its end");
                        }
                        var isFace = element.Name == "face" && property.Name is "vertex_indices" or "vertex_index";
                        face.Clear();
                        for (var k = 0; k < count; k++)
                        {
                            var value = source.Next(property.Type);
                            if (isFace)
                            {
                                face.Add(value is >= 0 and < int.MaxValue ? (int)value : -1);
                            }
                        }
                        if (face.Count >= 3)
                        {
                            if (face.TrueForAll(v => (uint)v < positions.Length / 3))
                            {
                                mesh.Add(CollectionsMarshal.AsSpan(face), PolygonMesh.ByAngle, 0);
                            }
                            else
                            {
                                wrong++;
                            }
                        }
                        continue;
                    }
                    var number = (float)source.Next(property.Type);
                    if (element.Name != "vertex")
                    {
                        continue;
                    }
                    switch (property.Name)
                    {
                        case "x" or "y" or "z":
                            positions[3 * i + property.Name[0] - 'x'] = number;
                            break;
                        case "nx" or "ny" or "nz":
                            normals[3 * i + property.Name[1] - 'x'] = number;
                            break;
                        case "u" or "s" or "texture_u":
                            texCoords[2 * i] = number;
                            break;
                        case "v" or "t" or "texture_v":
                            texCoords[2 * i + 1] = 1 - number;
                            break;
                        case "red" or "green" or "blue" or "alpha" when colors is not null:
                            // Bytes are sRGB as in pictures; numbers of other types are linear, from 0 to 1.
                            var place = property.Name[0] switch { 'r' => 0, 'g' => 1, 'b' => 2, _ => 3 };
                            var isByte = Size(property.Type) == 1;
                            var part = Math.Clamp(isByte ? number / 255 : number, 0, 1);
                            colors[4 * i + place] = !float.IsFinite(part) ? 1 : !isByte || place == 3 ? part : part <= 0.04045f ? part / 12.92f : MathF.Pow((part + 0.055f) / 1.055f, 2.4f);
                            break;
                    }
                }
            }
        }
        if (wrong > 0)
        {
            scene.Skipped.Add($"{wrong} {(wrong == 1 ? "face was" : "faces were")} left out: they refer to vertices that are not there.");
        }
        if (!hasNormals || !Array.TrueForAll(normals, float.IsFinite))
        {
            Array.Clear(normals);
        }
        var places = new int[positions.Length / 3];
        for (var v = 0; v < places.Length; v++)
        {
            places[v] = v;
        }
        var made = mesh.Make(positions, normals, hasTexCoords ? texCoords : null, colors, places, 1, out var unclear);
        if (unclear > 0)
        {
            scene.Skipped.Add($"{unclear} {(unclear == 1 ? "face crosses itself or has" : "faces cross themselves or have")} too many corners, and may be filled otherwise than meant: divide them where they were made.");
        }
        scene.Add(Path.GetFileNameWithoutExtension(files.Name), made, []);
        return scene.ToImported();
    }

    private static int Size(string type) => type switch
    {
        "char" or "uchar" or "int8" or "uint8" => 1,
        "short" or "ushort" or "int16" or "uint16" => 2,
        "int" or "uint" or "int32" or "uint32" or "float" or "float32" => 4,
        "double" or "float64" => 8,
        _ => 0,
    };

    /// <summary>The numbers after the header.</summary>
    private ref struct Numbers(ReadOnlySpan<byte> data, string format, string file)
    {
        private readonly bool _isText = format == "ascii";
        private readonly bool _isBig = format == "binary_big_endian";
        private ReadOnlySpan<byte> _data = data;

        /// <summary>At most so many numbers are left.</summary>
        public readonly int Left => _data.Length;

        public double Next(string type)
        {
            if (_isText)
            {
                var start = 0;
                while (start < _data.Length && _data[start] <= ' ')
                {
                    start++;
                }
                var end = start;
                while (end < _data.Length && _data[end] > ' ')
                {
                    end++;
                }
                if (end == start)
                {
                    throw CutOff();
                }
                var word = _data[start..end];
                _data = _data[end..];
                return Lines.Float(word);
            }
            var size = Size(type);
            if (_data.Length < size)
            {
                throw CutOff();
            }
            var d = _data[..size];
            _data = _data[size..];
            return type switch
            {
                "char" or "int8" => (sbyte)d[0],
                "uchar" or "uint8" => d[0],
                "short" or "int16" => _isBig ? BinaryPrimitives.ReadInt16BigEndian(d) : BinaryPrimitives.ReadInt16LittleEndian(d),
                "ushort" or "uint16" => _isBig ? BinaryPrimitives.ReadUInt16BigEndian(d) : BinaryPrimitives.ReadUInt16LittleEndian(d),
                "int" or "int32" => _isBig ? BinaryPrimitives.ReadInt32BigEndian(d) : BinaryPrimitives.ReadInt32LittleEndian(d),
                "uint" or "uint32" => _isBig ? BinaryPrimitives.ReadUInt32BigEndian(d) : BinaryPrimitives.ReadUInt32LittleEndian(d),
                "float" or "float32" => _isBig ? BinaryPrimitives.ReadSingleBigEndian(d) : BinaryPrimitives.ReadSingleLittleEndian(d),
                _ => _isBig ? BinaryPrimitives.ReadDoubleBigEndian(d) : BinaryPrimitives.ReadDoubleLittleEndian(d),
            };
        }

        private readonly Refusal CutOff() => new($"{file} ends in the middle: it seems to have been cut off. Get the whole file.");
    }
}
