using System.Numerics;
using System.Text;
using System.Text.Json.Nodes;
using Bradymotus.Core;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Core.Time;
using Bradymotus.Formats.Gltf;
using SharpGLTF.Schema2;
using SkiaSharp;

namespace Bradymotus.Formats.Tests;

/// <summary>Materials with pictures, in and out.</summary>
public sealed class MaterialFileTests
{
    private static byte[] Picture(int side, SKColor color, SKEncodedImageFormat format = SKEncodedImageFormat.Png)
    {
        using var bitmap = new SKBitmap(new SKImageInfo(side, side, SKColorType.Rgba8888, SKAlphaType.Unpremul));
        bitmap.Erase(color);
        using var data = bitmap.Encode(format, 90);
        return data.ToArray();
    }

    /// <summary>A triangle with texture coordinates and a material that has everything.</summary>
    private static JsonObject Painted()
    {
        var json = SomeFiles.Triangles();
        json["extensionsUsed"] = JsonNode.Parse("""["KHR_texture_transform","KHR_materials_clearcoat","KHR_materials_sheen","KHR_materials_transmission","KHR_materials_ior","KHR_materials_emissive_strength","EXT_texture_webp"]""");
        json["images"] = JsonNode.Parse("""[{"uri":"hull.png","name":"hull"},{"uri":"worn.jpg"},{"uri":"glow.webp","mimeType":"image/webp"}]""");
        json["samplers"] = JsonNode.Parse("""[{"wrapS":33071,"wrapT":33648}]""");
        json["textures"] = JsonNode.Parse("""[{"source":0,"sampler":0},{"source":1},{"extensions":{"EXT_texture_webp":{"source":2}}}]""");
        json["materials"] = JsonNode.Parse("""
            [{"name":"Hull","alphaMode":"BLEND","emissiveFactor":[0,0.5,0.25],"emissiveTexture":{"index":2},
              "normalTexture":{"index":1,"scale":0.6},
              "pbrMetallicRoughness":{"baseColorFactor":[1,0.5,0.25,0.9],"roughnessFactor":0.8,"metallicFactor":1,"metallicRoughnessTexture":{"index":1},
                "baseColorTexture":{"index":0,"extensions":{"KHR_texture_transform":{"offset":[0.1,0.2],"scale":[2,3],"rotation":0.5}}}},
              "extensions":{"KHR_materials_clearcoat":{"clearcoatFactor":0.7,"clearcoatRoughnessFactor":0.2},"KHR_materials_sheen":{"sheenColorFactor":[0.5,0,0],"sheenRoughnessFactor":0.3},
                "KHR_materials_transmission":{"transmissionFactor":0.4},"KHR_materials_ior":{"ior":1.33},"KHR_materials_emissive_strength":{"emissiveStrength":4}}}]
            """);
        json["meshes"]![0]!["primitives"]![0]!["material"] = 0;
        return json;
    }

    private static Dictionary<string, byte[]> Files() => new()
    {
        ["a.gltf"] = Encoding.UTF8.GetBytes(Painted().ToJsonString()),
        ["hull.png"] = Picture(4, new(200, 100, 50, 128)),
        ["worn.jpg"] = Picture(8, new(10, 128, 240), SKEncodedImageFormat.Jpeg),
        ["glow.webp"] = Picture(2, new(255, 255, 0), SKEncodedImageFormat.Webp),
    };

    private static Imported Import(Dictionary<string, byte[]> files, string main = "a.gltf") => Importer.Read(new FilesInMemory(main, files), new(FrameRate.Default));

    [Fact]
    public void Materials_of_glTF_come_with_their_pictures_and_everything_that_is_held()
    {
        var imported = Import(Files());
        Assert.Contains("3 pictures", imported.Report.Imported);
        Assert.Empty(imported.Report.Skipped);
        var material = Assert.Single(imported.Shot.Materials);
        double Of(string path) => imported.Shot.Channel(new(material.Id, path)).Value;
        Assert.Equal(
            [(MapSlot.Color, PicturePart.All), (MapSlot.Opacity, PicturePart.Alpha), (MapSlot.Roughness, PicturePart.Green), (MapSlot.Metallic, PicturePart.Blue), (MapSlot.Normal, PicturePart.All), (MapSlot.Emission, PicturePart.All)],
            material.Maps.Select(m => (m.Slot, ((PictureSource)m.Source).Part)));
        var color = (PictureSource)material.Maps[0].Source;
        Assert.Equal(("hull", 4, 4, PictureWrap.Clamp, PictureWrap.Mirror), (color.Name, color.Width, color.Height, color.WrapU, color.WrapV));
        (string Path, double Value)[] expected =
        [
            ("look.color.g", 0.5), ("look.opacity", 0.9), ("look.roughness", 0.8), ("look.metallic", 1), ("look.emission", 2), ("look.emissionColor.r", 0), ("look.emissionColor.g", 1), ("look.emissionColor.b", 0.5),
            ("look.coat", 0.7), ("look.coatRoughness", 0.2), ("look.sheen", 0.5), ("look.sheenColor.r", 1), ("look.sheenColor.g", 0), ("look.sheenRoughness", 0.3), ("look.glass", 0.4), ("look.thin", 1), ("look.ior", 1.33),
            ("map.color.offset.x", 0.1), ("map.color.scale.y", 3), ("map.color.rotate", 0.5 * 180 / Math.PI), ("map.normal.strength", 0.6), ("map.emission.scale.x", 1),
        ];
        Assert.All(expected, e => Assert.Equal(e.Value, Of(e.Path), 1e-6));
        // The bytes of each picture are those of the file.
        Assert.All(Files().Where(f => f.Key != "a.gltf"), f => Assert.Contains(imported.Assets, a => a.Bytes.AsSpan().SequenceEqual(f.Value)));
    }

    [Fact]
    public void What_is_written_is_what_has_been_read()
    {
        var imported = Import(Files());
        var written = GltfWriter.Write(imported.Shot, imported.ToAssets());
        Assert.DoesNotContain(written.Changed, c => c.Contains("Hull", StringComparison.Ordinal));
        var again = Import(new() { ["b.glb"] = written.Bytes }, "b.glb");
        Assert.Empty(again.Report.Skipped);
        var (a, b) = (imported.Shot.Materials[0], again.Shot.Materials[0]);
        Assert.Equal(a.Maps.Select(m => (m.Slot, ((PictureSource)m.Source).Asset, ((PictureSource)m.Source).Part)), b.Maps.Select(m => (m.Slot, ((PictureSource)m.Source).Asset, ((PictureSource)m.Source).Part)));
        Assert.All(ChannelCatalog.For(a), c => Assert.Equal(imported.Shot.Channel(new(a.Id, c.Path)).Value, again.Shot.Channel(new(b.Id, c.Path)).Value, 1e-5));
    }

    /// <summary>Another implementation of KHR_texture_transform: that of the library that reads the files.</summary>
    [Theory]
    [InlineData(0.1, -0.4, 1, 1, 0)]
    [InlineData(0.3, 0.2, 2, 2, 0.7)]
    [InlineData(-1, 0.5, 3, 0.5, 0)]
    [InlineData(0.25, 0, 2, 3, -1.2)]
    public void A_texture_is_placed_as_the_extension_says(double ox, double oy, double sx, double sy, double turn)
    {
        var model = ModelRoot.CreateModel();
        var material = model.CreateMaterial("m");
        material.InitializePBRMetallicRoughness();
        var channel = material.FindChannel("BaseColor")!.Value;
        channel.SetTexture(0, model.UseTexture(model.UseImage(new(Picture(2, SKColors.White))), null));
        channel.SetTransform(new((float)ox, (float)oy), new((float)sx, (float)sy), (float)turn);
        var matrix = channel.TextureTransform.Matrix;
        foreach (var uv in new Vector2[] { new(0, 0), new(1, 0), new(0.3f, 0.8f) })
        {
            var (s, c) = Math.SinCos(turn);
            var (x, y) = (uv.X * sx, uv.Y * sy);
            var ours = new Vector2((float)(c * x + s * y + ox), (float)(-s * x + c * y + oy));
            Assert.True((Vector2.Transform(uv, matrix) - ours).Length() < 1e-5, $"{Vector2.Transform(uv, matrix)} and {ours}");
        }
    }

    [Fact]
    public void Two_pictures_for_roughness_and_metal_become_one_and_what_glTF_cannot_hold_is_said()
    {
        var (rough, metal) = (PictureFile.Read(Picture(4, new(51, 51, 51)), "rough.png"), PictureFile.Read(Picture(8, new(204, 0, 0)), "metal.png"));
        var material = new Core.Scene.Material("m", "Worn")
        {
            Maps =
            [
                new(MapSlot.Roughness, rough.Source), new(MapSlot.Metallic, metal.Source with { Part = PicturePart.Red }),
                new(MapSlot.Color, new WoodPattern()), new(MapSlot.Bump, new NoisePattern(), MapProjection.Solid),
            ],
        };
        var shot = Shot.Empty("S") with { Nodes = [new MeshNode { Id = "b", Name = "B", Shape = new Core.Geometry.BoxShape(), Material = "m" }], Materials = [material] };
        ShotRules.Validate(shot);
        var assets = new Core.Geometry.ShotAssets();
        assets.Put(rough.Asset.Name, rough.Asset.Bytes);
        assets.Put(metal.Asset.Name, metal.Asset.Bytes);
        var written = GltfWriter.Write(shot, assets);
        Assert.Contains(written.Changed, c => c.Contains("color map", StringComparison.Ordinal));
        Assert.Contains(written.Changed, c => c.Contains("bump map", StringComparison.Ordinal));
        var image = Assert.Single(ModelRoot.ParseGLB(written.Bytes).LogicalImages);
        using var bitmap = SKBitmap.Decode(image.Content.Content.ToArray());
        Assert.Equal((8, (byte)51, (byte)204), (bitmap.Width, bitmap.GetPixel(3, 3).Green, bitmap.GetPixel(3, 3).Blue));
    }

    [Fact]
    public void Damaged_missing_and_wrong_pictures_keep_nothing_else_out()
    {
        var files = Files();
        files["hull.png"] = [1, 2, 3];
        files.Remove("worn.jpg");
        files["glow.webp"] = files["glow.webp"][..12];
        var imported = Import(files);
        Assert.Single(imported.Shot.Nodes.OfType<MeshNode>());
        Assert.Empty(imported.Shot.Materials[0].Maps);
        Assert.Equal(3, imported.Report.Skipped.Count(m => m.Contains("Hull", StringComparison.Ordinal) || m.Contains("hull", StringComparison.Ordinal)));
        Assert.DoesNotContain(imported.Assets, a => Asset.EndingOf(a.Bytes) != ".glb");
    }

    [Fact]
    public void A_shot_travels_with_its_pictures_and_not_without()
    {
        var imported = Import(Files());
        var path = Path.Combine(Path.GetTempPath(), $"bradymotus-{Guid.NewGuid():N}");
        try
        {
            var folder = new AssetFolder(path);
            foreach (var asset in imported.Assets)
            {
                folder.Put(asset);
            }
            Assert.Equal([".glb", ".jpg", ".png", ".webp"], Directory.GetFiles(path).Select(f => Path.GetExtension(f)).Order());
            var zip = new MemoryStream();
            ShotZip.Write(zip, imported.Shot, "hull", folder);
            var back = Importer.Read(new FilesInMemory("hull.shot.zip", new Dictionary<string, byte[]> { ["hull.shot.zip"] = zip.ToArray() }), new(FrameRate.Default));
            Assert.Equal(ShotJson.Write(imported.Shot), ShotJson.Write(back.Shot));
            Assert.Equal(imported.Assets.Select(a => a.Name).Order(), back.Assets.Select(a => a.Name).Order());
            var picture = ShotZip.PicturesOf(imported.Shot).First();
            Assert.NotNull(folder.ForShots.Bytes(picture.Asset));
            File.Delete(Directory.GetFiles(path, picture.Asset + ".*")[0]);
            Assert.Contains("is not there", Assert.Throws<Refusal>(() => ShotZip.Write(new MemoryStream(), imported.Shot, "hull", new AssetFolder(path))).Message, StringComparison.Ordinal);
        }
        finally
        {
            Directory.Delete(path, true);
        }
    }

    [Fact]
    public void An_OBJ_brings_its_pictures_and_a_PLY_the_colours_of_its_vertices()
    {
        var files = new Dictionary<string, byte[]>
        {
            ["a.obj"] = "mtllib a.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 0 1\nusemtl deck\nf 1/1 2/2 3/3\n"u8.ToArray(),
            ["a.mtl"] = "newmtl deck\nmap_Kd -s 2 3 1 -o 0.1 0.2 -clamp on planks of oak.png\nbump -bm 0.3 worn.jpg\nmap_Ns shine.png\nKe 0 2 1\n"u8.ToArray(),
            ["planks of oak.png"] = Picture(4, SKColors.Red),
        };
        var imported = Import(files, "a.obj");
        var material = Assert.Single(imported.Shot.Materials);
        var map = Assert.Single(material.Maps);
        Assert.Equal(("planks of oak.png", PictureWrap.Clamp), (((PictureSource)map.Source).Name, ((PictureSource)map.Source).WrapU));
        double Of(string path) => imported.Shot.Channel(new(material.Id, path)).Value;
        Assert.Equal((2.0, 3.0, 0.1, -2.2), (Of("map.color.scale.x"), Of("map.color.scale.y"), Of("map.color.offset.x"), Of("map.color.offset.y")));
        Assert.Equal((2.0, 0.0, 1.0, 0.5), (Of("look.emission"), Of("look.emissionColor.r"), Of("look.emissionColor.g"), Of("look.emissionColor.b")));
        Assert.Contains(imported.Report.Skipped, m => m.Contains("worn.jpg", StringComparison.Ordinal));
        Assert.Contains(imported.Report.Skipped, m => m.Contains("map_Ns", StringComparison.Ordinal));

        var ply = "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nproperty uchar red\nproperty uchar green\nproperty uchar blue\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0 255 188 0\n1 0 0 255 188 0\n0 1 0 255 188 0\n3 0 1 2\n"u8.ToArray();
        var coloured = Import(new() { ["b.ply"] = ply }, "b.ply");
        var colors = MeshFile.Read(Assert.Single(coloured.Assets).Bytes).Colors!;
        // IEC 61966-2-1.
        Assert.Equal([1, 0.5029, 0, 1], colors[..4].Select(c => Math.Round(c, 4)));
    }

    [Fact]
    public void The_shelf_keeps_to_the_rules()
    {
        ShotRules.Validate(Shot.Empty("Shelf") with { Materials = MaterialShelf.All });
        Assert.All(MaterialShelf.All, m => Assert.Equal(m.Name, ShotJson.Read<Core.Scene.Material>(ShotJson.Write(m), "material").Name));
    }
}
