using System.Collections.Immutable;
using Bradymotus.Core;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;
using SharpGLTF.Schema2;
using Material = Bradymotus.Core.Scene.Material;

namespace Bradymotus.Formats.Gltf;

/// <summary>
/// Materials of a glTF file as ours, with their pictures: what the core says of them, and the extensions for coat, sheen, glass, index of refraction,
/// brightness of emission, and placing of textures.
/// </summary>
/// <param name="assets">Pictures are added.</param>
/// <param name="skipped">What could not be brought in is added.</param>
/// <param name="pointers">What the animation moves of them.</param>
internal sealed class GltfMaterials(List<Asset> assets, List<string> skipped, GltfPointers pointers)
{
    private readonly Dictionary<int, string> _known = [];
    private readonly Dictionary<int, PictureSource?> _pictures = [];

    /// <summary>All that have been asked for.</summary>
    internal List<Material> All { get; } = [];

    /// <summary>How many pictures have come.</summary>
    internal int Pictures => _pictures.Values.OfType<PictureSource>().Select(p => p.Asset).Distinct().Count();

    /// <summary>The id of a material.</summary>
    internal string Of(SharpGLTF.Schema2.Material gltf)
    {
        if (_known.TryGetValue(gltf.LogicalIndex, out var known))
        {
            return known;
        }
        var id = $"material-{gltf.LogicalIndex}";
        var name = NodeNames.Clean(gltf.Name, $"Material {gltf.LogicalIndex}");
        var channels = new Dictionary<string, Channel>();
        void Set(string path, double value, double usual)
        {
            if (value != usual && double.IsFinite(value))
            {
                channels[path] = new Channel(Math.Clamp(value, -CurveRules.MostValue, CurveRules.MostValue));
            }
        }
        void SetColour(string path, float r, float g, float b, double usual)
        {
            Set(path + ".r", r, usual);
            Set(path + ".g", g, usual);
            Set(path + ".b", b, usual);
        }
        double Factor(string channel, string factor, double otherwise) =>
            gltf.FindChannel(channel) is { } found && found.Parameters.FirstOrDefault(p => p.Name == factor)?.Value is float value ? value : otherwise;
        var maps = new List<SurfaceMap>();
        bool Map(MapSlot slot, string channel, PicturePart part = PicturePart.All, double strength = 1)
        {
            if (gltf.FindChannel(channel) is not { Texture: { } texture } found || PictureOf(texture, name) is not { } picture)
            {
                return false;
            }
            static PictureWrap Wrap(TextureWrapMode mode) => mode switch
            {
                TextureWrapMode.CLAMP_TO_EDGE => PictureWrap.Clamp,
                TextureWrapMode.MIRRORED_REPEAT => PictureWrap.Mirror,
                _ => PictureWrap.Repeat,
            };
            var sampler = texture.Sampler;
            var map = new SurfaceMap(slot, picture with { Part = part, WrapU = Wrap(sampler?.WrapS ?? TextureWrapMode.REPEAT), WrapV = Wrap(sampler?.WrapT ?? TextureWrapMode.REPEAT) });
            maps.Add(map);
            if (found.TextureTransform is { } t)
            {
                Set(map.Prefix + "scale.x", t.Scale.X, 1);
                Set(map.Prefix + "scale.y", t.Scale.Y, 1);
                Set(map.Prefix + "offset.x", t.Offset.X, 0);
                Set(map.Prefix + "offset.y", t.Offset.Y, 0);
                Set(map.Prefix + "rotate", t.Rotation * (180 / Math.PI), 0);
            }
            var at = channel switch
            {
                "BaseColor" => "pbrMetallicRoughness/baseColorTexture",
                "MetallicRoughness" => "pbrMetallicRoughness/metallicRoughnessTexture",
                "Normal" => "normalTexture",
                _ => "emissiveTexture",
            };
            var place = $"/materials/{gltf.LogicalIndex}/{at}/extensions/KHR_texture_transform";
            pointers.Key(channels, $"{place}/offset", (map.Prefix + "offset.x", 1), (map.Prefix + "offset.y", 1));
            pointers.Key(channels, $"{place}/scale", (map.Prefix + "scale.x", 1), (map.Prefix + "scale.y", 1));
            pointers.Key(channels, $"{place}/rotation", (map.Prefix + "rotate", 180 / Math.PI));
            Set(map.Prefix + "strength", strength, 1);
            if ((found.TextureTransform?.TextureCoordinateOverride ?? found.TextureCoordinate) != 0)
            {
                skipped.Add($"A texture of the material {name} lies by the first texture coordinates, not by its own: only these are held.");
            }
            return true;
        }

        if (gltf.FindChannel("BaseColor") is { } color)
        {
            SetColour("look.color", color.Color.X, color.Color.Y, color.Color.Z, 0.8);
            Map(MapSlot.Color, "BaseColor");
            if (gltf.Alpha != AlphaMode.OPAQUE)
            {
                Set("look.opacity", Math.Clamp(color.Color.W, 0, 1), 1);
                if (Map(MapSlot.Opacity, "BaseColor", PicturePart.Alpha) && gltf.Alpha == AlphaMode.MASK)
                {
                    skipped.Add($"The cut-out edges of the material {name} are soft: where they are cut is not held.");
                }
            }
        }
        Set("look.roughness", Factor("MetallicRoughness", "RoughnessFactor", 1), 0.6);
        Set("look.metallic", Factor("MetallicRoughness", "MetallicFactor", 1), 0);
        Map(MapSlot.Roughness, "MetallicRoughness", PicturePart.Green);
        Map(MapSlot.Metallic, "MetallicRoughness", PicturePart.Blue);
        Map(MapSlot.Normal, "Normal", strength: Factor("Normal", "NormalScale", 1));
        if (gltf.FindChannel("Emissive") is { } emissive)
        {
            var (r, g, b) = (emissive.Color.X, emissive.Color.Y, emissive.Color.Z);
            var most = Math.Max(r, Math.Max(g, b));
            if (most > 0)
            {
                Set("look.emission", most * Factor("Emissive", "EmissiveStrength", 1), 0);
                SetColour("look.emissionColor", r / most, g / most, b / most, double.NaN);
                Map(MapSlot.Emission, "Emissive");
            }
        }
        Set("look.ior", gltf.IndexOfRefraction is >= 1 and < 100 and var ior ? ior : 1.5, 1.5);
        if (Factor("Transmission", "TransmissionFactor", 0) is > 0 and var glass)
        {
            Set("look.glass", glass, 0);
            Set("look.thin", Factor("VolumeThickness", "ThicknessFactor", 0) > 0 ? 0 : 1, 0);
        }
        Set("look.coat", Factor("ClearCoat", "ClearCoatFactor", 0), 0);
        if (channels.ContainsKey("look.coat"))
        {
            Set("look.coatRoughness", Factor("ClearCoatRoughness", "RoughnessFactor", 0), 0.1);
        }
        if (gltf.FindChannel("SheenColor") is { } sheen && sheen.Color is var s && Math.Max(s.X, Math.Max(s.Y, s.Z)) is > 0 and var sheenMost)
        {
            Set("look.sheen", sheenMost, 0);
            SetColour("look.sheenColor", s.X / sheenMost, s.Y / sheenMost, s.Z / sheenMost, 1);
            Set("look.sheenRoughness", Factor("SheenRoughness", "RoughnessFactor", 0), 0.5);
        }
        var own = $"/materials/{gltf.LogicalIndex}";
        pointers.Key(channels, $"{own}/pbrMetallicRoughness/baseColorFactor", ("look.color.r", 1), ("look.color.g", 1), ("look.color.b", 1),
            (gltf.Alpha == AlphaMode.OPAQUE ? null : "look.opacity", 1));
        pointers.Key(channels, $"{own}/pbrMetallicRoughness/roughnessFactor", ("look.roughness", 1));
        pointers.Key(channels, $"{own}/pbrMetallicRoughness/metallicFactor", ("look.metallic", 1));
        if (pointers.Has($"{own}/emissiveFactor"))
        {
            // The colour goes from dark to bright: its strength is that of the file.
            channels["look.emission"] = new Channel(Factor("Emissive", "EmissiveStrength", 1));
            pointers.Key(channels, $"{own}/emissiveFactor", ("look.emissionColor.r", 1), ("look.emissionColor.g", 1), ("look.emissionColor.b", 1));
        }
        var bright = gltf.FindChannel("Emissive") is { } e && !pointers.Has($"{own}/emissiveFactor") ? Math.Max(e.Color.X, Math.Max(e.Color.Y, e.Color.Z)) : 1;
        pointers.Key(channels, $"{own}/extensions/KHR_materials_emissive_strength/emissiveStrength", ("look.emission", bright));
        pointers.Key(channels, $"{own}/extensions/KHR_materials_transmission/transmissionFactor", ("look.glass", 1));
        pointers.Key(channels, $"{own}/extensions/KHR_materials_clearcoat/clearcoatFactor", ("look.coat", 1));
        pointers.Key(channels, $"{own}/extensions/KHR_materials_ior/ior", ("look.ior", 1));
        var left = gltf.Channels.Where(c => c.Texture is not null && c.Key is not ("BaseColor" or "MetallicRoughness" or "Normal" or "Emissive")).Select(c => c.Key).ToList();
        if (left.Count > 0)
        {
            skipped.Add($"Of the material {name} the textures for {string.Join(", ", left)} were left out: they are the same all over here.");
        }
        All.Add(new Material(id, name, channels.ToImmutableSortedDictionary(StringComparer.Ordinal)) { Maps = [.. maps] });
        return _known[gltf.LogicalIndex] = id;
    }

    /// <summary>The picture of a texture; null, and said, where it cannot be read.</summary>
    private PictureSource? PictureOf(Texture texture, string material)
    {
        if ((texture.PrimaryImage ?? texture.FallbackImage) is not { } image)
        {
            skipped.Add($"A texture of the material {material} has no picture that can be read: PNG, JPEG and WebP can.");
            return null;
        }
        if (_pictures.TryGetValue(image.LogicalIndex, out var known))
        {
            return known;
        }
        var name = image.Name is { Length: > 0 } own ? own : $"{material} {image.LogicalIndex}";
        PictureSource? picture = null;
        try
        {
            var bytes = image.Content.Content.ToArray();
            if (bytes.AsSpan().SequenceEqual(GltfReader.NoPicture))
            {
                skipped.Add($"The picture {name} of the material {material} is not beside the file: bring both in together.");
            }
            else
            {
                (picture, var asset) = PictureFile.Read(bytes, name);
                if (assets.TrueForAll(a => a.Name != asset.Name))
                {
                    assets.Add(asset);
                }
            }
        }
        catch (Exception e) when (e is not (OutOfMemoryException or OperationCanceledException))
        {
            skipped.Add(e is Refusal ? $"Left out: {e.Message}" : $"The picture {name} of the material {material} was left out, since it is damaged: {e.Message.ReplaceLineEndings(" ")}");
        }
        return _pictures[image.LogicalIndex] = picture;
    }
}
