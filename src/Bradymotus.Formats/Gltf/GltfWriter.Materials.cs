using System.Numerics;
using Bradymotus.Core.Scene;
using SharpGLTF.Memory;
using SharpGLTF.Schema2;

namespace Bradymotus.Formats.Gltf;

/// <content>Materials, with their pictures.</content>
public sealed partial class GltfWriter
{
    private readonly Dictionary<string, Image> _images = [];

    private SharpGLTF.Schema2.Material MaterialOf(Core.Scene.Material material)
    {
        if (_materials.TryGetValue(material.Id, out var known))
        {
            return known;
        }
        float Now(string path) => (float)_state.Value(new(material.Id, path));
        static float Part(float value) => Math.Clamp(value, 0, 1);
        var own = _model.CreateMaterial(material.Name);
        var sheen = Part(Now("look.sheen"));
        var (coat, glass) = (Part(Now("look.coat")), Part(Now("look.glass")));
        var isSolid = glass > 0 && Now("look.thin") < 0.5f;
        own.InitializePBRMetallicRoughness([.. new (bool Is, string Name)[] { (coat > 0, "ClearCoat"), (sheen > 0, "Sheen"), (glass > 0, "Transmission"),
            (isSolid, "Volume") }.Where(e => e.Is).Select(e => e.Name)]);
        void Set(string channel, string factor, float value) => own.FindChannel(channel)!.Value.SetFactor(factor, value);
        var (r, g, b, opacity) = (Part(Now("look.color.r")), Part(Now("look.color.g")), Part(Now("look.color.b")), Part(Now("look.opacity")));
        var color = own.FindChannel("BaseColor")!.Value;
        color.Color = new(r, g, b, opacity);
        Set("MetallicRoughness", "RoughnessFactor", Part(Now("look.roughness")));
        Set("MetallicRoughness", "MetallicFactor", Part(Now("look.metallic")));
        if (Now("look.emission") is > 0 and var emission)
        {
            var emissive = own.FindChannel("Emissive")!.Value;
            // Colours go up to 1; what is brighter is a factor of its own.
            var most = Math.Max(1, emission);
            emissive.Color = new Vector4(Part(Now("look.emissionColor.r")), Part(Now("look.emissionColor.g")), Part(Now("look.emissionColor.b")), 0) * (emission / most) + Vector4.UnitW;
            if (most > 1)
            {
                emissive.SetFactor("EmissiveStrength", most);
            }
        }
        if (coat > 0)
        {
            Set("ClearCoat", "ClearCoatFactor", coat);
            Set("ClearCoatRoughness", "RoughnessFactor", Part(Now("look.coatRoughness")));
        }
        if (sheen > 0)
        {
            var channel = own.FindChannel("SheenColor")!.Value;
            channel.Color = new(sheen * Part(Now("look.sheenColor.r")), sheen * Part(Now("look.sheenColor.g")), sheen * Part(Now("look.sheenColor.b")), 1);
            Set("SheenRoughness", "RoughnessFactor", Part(Now("look.sheenRoughness")));
        }
        if (glass > 0)
        {
            Set("Transmission", "TransmissionFactor", glass);
        }
        if (isSolid)
        {
            Set("VolumeThickness", "ThicknessFactor", 1);
        }
        if (Math.Clamp(Now("look.ior"), 1, 3) is not 1.5f and var ior)
        {
            own.IndexOfRefraction = ior;
        }
        var isOpacityMapped = LayMaps(material, own, Now);
        own.Alpha = opacity < 1 || isOpacityMapped ? AlphaMode.BLEND : AlphaMode.OPAQUE;
        own.DoubleSided = true;
        if (Part(Now("look.subsurface")) > 0)
        {
            _changed.Add($"The light within the material {material.Name} was left out: glTF has none.");
        }
        void Animate(string pointer, Func<float[]> value, params string[] paths) => Point(material.Id, material.Name, material.Channels, $"/materials/{own.LogicalIndex}/{pointer}", value, paths);
        Animate("pbrMetallicRoughness/baseColorFactor", () => [Part(Now("look.color.r")), Part(Now("look.color.g")), Part(Now("look.color.b")), Part(Now("look.opacity"))],
            "look.color.", "look.opacity");
        Animate("pbrMetallicRoughness/roughnessFactor", () => [Part(Now("look.roughness"))], "look.roughness");
        Animate("pbrMetallicRoughness/metallicFactor", () => [Part(Now("look.metallic"))], "look.metallic");
        if (material.Channels?.Any(c => c.Key.StartsWith("look.opacity", StringComparison.Ordinal) && c.Value.Curve is not null) == true)
        {
            own.Alpha = AlphaMode.BLEND;
        }
        var isGlowKeyed = material.Channels?.GetValueOrDefault("look.emission")?.Curve is not null;
        // Colours go up to 1: as strong as it ever is, by its brightest key, and a part of that at each time.
        var brightest = isGlowKeyed ? (float)Math.Max(1, _frames.Max(f => material.Channels!["look.emission"].Evaluate(f))) : Math.Max(1, Now("look.emission"));
        float[] Glow()
        {
            var part = Part(Now("look.emission") / brightest);
            return [part * Part(Now("look.emissionColor.r")), part * Part(Now("look.emissionColor.g")), part * Part(Now("look.emissionColor.b"))];
        }
        if (isGlowKeyed)
        {
            var emissive = own.FindChannel("Emissive")!.Value;
            emissive.Color = Glow() is var glow ? new(glow[0], glow[1], glow[2], 1) : default;
            emissive.SetFactor("EmissiveStrength", brightest);
        }
        Animate("emissiveFactor", Glow, "look.emission", "look.emissionColor.", "look.color.");
        if (material.Channels?.Any(c => c.Value.Curve is not null && !_pointed.Contains((material.Id, c.Key))) == true)
        {
            _changed.Add($"Something of the material {material.Name} stands still, as on frame {Shot.Range.First}: glTF has no keys for it.");
        }
        return _materials[material.Id] = own;
    }

    /// <summary>The pictures that lie by the texture coordinates of a shape; whether one of them says the opacity.</summary>
    private bool LayMaps(Core.Scene.Material material, SharpGLTF.Schema2.Material own, Func<string, float> now)
    {
        SurfaceMap? Map(MapSlot slot)
        {
            var map = material.Maps.FirstOrDefault(m => m.Slot == slot);
            if (map is null)
            {
                return null;
            }
            var why = slot == MapSlot.Bump ? "glTF has normal maps alone"
                : map.Source is not PictureSource ? "glTF has pictures alone"
                : map.Projection != MapProjection.Coordinates ? "glTF lays pictures by the coordinates of a shape alone"
                : slot != MapSlot.Normal && now(map.Prefix + "strength") < 1 ? "glTF has it whole or not at all"
                : null;
            if (why is not null)
            {
                _changed.Add($"The {map.Slot.ToString().ToLowerInvariant()} map of the material {material.Name} was left out: {why}.");
            }
            return why is null ? map : null;
        }
        void Lay(SurfaceMap map, string channel, byte[] bytes, string name)
        {
            static TextureWrapMode Wrap(PictureWrap wrap) => wrap switch
            {
                PictureWrap.Clamp => TextureWrapMode.CLAMP_TO_EDGE,
                PictureWrap.Mirror => TextureWrapMode.MIRRORED_REPEAT,
                _ => TextureWrapMode.REPEAT,
            };
            var picture = (PictureSource)map.Source;
            var key = Asset.Of(bytes).Name;
            if (!_images.TryGetValue(key, out var image))
            {
                _images.Add(key, image = _model.UseImage(new MemoryImage(bytes)));
                image.Name = name;
            }
            var sampler = _model.UseTextureSampler(Wrap(picture.WrapU), Wrap(picture.WrapV), TextureMipMapFilter.LINEAR_MIPMAP_LINEAR, TextureInterpolationFilter.LINEAR);
            var found = own.FindChannel(channel)!.Value;
            found.SetTexture(0, _model.UseTexture(image, sampler));
            float Of(string path) => now(map.Prefix + path);
            var (offset, scale, turn) = (new Vector2(Of("offset.x"), Of("offset.y")), new Vector2(Of("scale.x"), Of("scale.y")), Of("rotate") * (MathF.PI / 180));
            if (offset != Vector2.Zero || scale != Vector2.One || turn != 0)
            {
                found.SetTransform(offset, scale, turn);
            }
        }
        byte[]? BytesOf(SurfaceMap? map)
        {
            if (map is null || _assets.Bytes(((PictureSource)map.Source).Asset) is { } bytes)
            {
                return map is null ? null : _assets.Bytes(((PictureSource)map.Source).Asset);
            }
            _changed.Add($"The picture {((PictureSource)map.Source).Name} of the material {material.Name} was left out: it is not beside the shot.");
            return null;
        }
        static PictureSource Picture(SurfaceMap map) => (PictureSource)map.Source;
        var (color, opacity, rough, metal) = (Map(MapSlot.Color), Map(MapSlot.Opacity), Map(MapSlot.Roughness), Map(MapSlot.Metallic));
        if (color is not null && BytesOf(color) is { } colors)
        {
            Lay(color, "BaseColor", colors, Picture(color).Name);
        }
        var isOpacity = opacity is not null && Picture(opacity).Part == PicturePart.Alpha && (color is null || Picture(color).Asset == Picture(opacity).Asset);
        if (opacity is not null && !isOpacity)
        {
            _changed.Add($"The opacity map of the material {material.Name} was left out: glTF has it in the alpha of the colour map alone.");
        }
        else if (opacity is not null && color is null && BytesOf(opacity) is { } alphas)
        {
            _changed.Add($"The opacity map of the material {material.Name} brings its colours along: glTF has both in one picture.");
            Lay(opacity, "BaseColor", alphas, Picture(opacity).Name);
        }
        if ((rough ?? metal) is { } either)
        {
            var (a, b) = (BytesOf(rough), BytesOf(metal));
            var areOne = rough is not null && metal is not null && Picture(rough) with { Part = PicturePart.All } == Picture(metal) with { Part = PicturePart.All }
                && Picture(rough).Part == PicturePart.Green && Picture(metal).Part == PicturePart.Blue;
            if (areOne && a is not null)
            {
                Lay(either, "MetallicRoughness", a, Picture(either).Name);
            }
            else if (a is not null || b is not null)
            {
                Lay(either, "MetallicRoughness", PictureFile.Packed(a is null ? null : (a, Picture(rough!).Part), b is null ? null : (b, Picture(metal!).Part)),
                    $"{material.Name} roughness and metal");
            }
        }
        if (Map(MapSlot.Normal) is { } normal && BytesOf(normal) is { } normals)
        {
            Lay(normal, "Normal", normals, Picture(normal).Name);
            own.FindChannel("Normal")!.Value.SetFactor("NormalScale", now(normal.Prefix + "strength"));
        }
        if (Map(MapSlot.Emission) is { } glow && BytesOf(glow) is { } glows && now("look.emission") > 0)
        {
            Lay(glow, "Emissive", glows, Picture(glow).Name);
        }
        _ = Map(MapSlot.Bump);
        return isOpacity;
    }
}
