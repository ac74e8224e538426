using System.Collections.Immutable;
using System.Text.Json;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Server.Store;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Routing;

namespace Bradymotus.Server.Api;

/// <summary>The shelf of materials.</summary>
internal static class MaterialEndpoints
{
    internal static void MapMaterials(this IEndpointRouteBuilder app)
    {
        var materials = app.MapGroup("/api/materials").WithTags("Materials");

        materials.MapGet("", () => MaterialShelf.All.Select(m => new ShelfView(m.Id, m.Name, Json.Element(ShotJson.Write(m)))).ToArray()).WithName("MaterialShelf");

        materials.MapGet("/{name}/picture", async Task<Results<FileContentHttpResult, NoContent>> (string name, HttpResponse response, Thumbnails thumbnails, CancellationToken cancel) =>
        {
            var material = MaterialShelf.All.FirstOrDefault(m => m.Id == name) ?? throw new NotFoundException("material", name);
            var picture = await thumbnails.OfSampleAsync($"materials/{name}", SampleOf(material), cancel);
            if (picture.Length == 0)
            {
                return TypedResults.NoContent();
            }
            response.Headers.CacheControl = "private, max-age=3600";
            return TypedResults.Bytes(picture, "image/png");
        }).WithName("MaterialPicture");
    }

    /// <summary>A ball of the material on a floor, under a soft sky and one lamp.</summary>
    private static Shot SampleOf(Material material)
    {
        static ImmutableSortedDictionary<string, Channel> Channels(params (string Path, double Value)[] values) =>
            values.ToImmutableSortedDictionary(v => v.Path, v => new Channel(v.Value), StringComparer.Ordinal);
        return Shot.Empty("Sample") with
        {
            Nodes =
            [
                new MeshNode { Id = "ball", Name = "Ball", Shape = new SphereShape(0.5, 64, 32), Material = material.Id,
                    Channels = Channels(("transform.translate.y", 0.5), ("transform.rotate.x", 20), ("transform.rotate.y", -25)) },
                new MeshNode { Id = "floor", Name = "Floor", Shape = new PlaneShape(6, 6), Material = "ground" },
                new LampNode { Id = "lamp", Name = "Lamp", Form = LampForm.Rectangle,
                    Channels = Channels(("transform.translate.x", -1.4), ("transform.translate.y", 2), ("transform.translate.z", 1.6), ("transform.rotate.x", -42),
                    ("transform.rotate.y", -40), ("light.strength", 40)) },
                new CameraNode { Id = "camera", Name = "Camera", Channels = Channels(("camera.fov", 26), ("transform.translate.y", 1.05),
                    ("transform.translate.z", 2.5), ("transform.rotate.x", -12.5)) },
            ],
            Materials = [material, new("ground", "Ground", Channels(("look.color.r", 0.3), ("look.color.g", 0.32), ("look.color.b", 0.35),
                ("look.roughness", 0.8), ("map.color.scale.x", 8), ("map.color.scale.y", 8))) { Maps = [new(MapSlot.Color, new ChecksPattern())] }],
            World = Channels(("sky.strength", 0.7)),
        };
    }
}

/// <summary>A material of the shelf.</summary>
/// <param name="Material">As in a shot file.</param>
public sealed record ShelfView(string Id, string Name, JsonElement Material);
