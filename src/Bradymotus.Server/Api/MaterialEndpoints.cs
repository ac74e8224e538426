using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Text.Json;
using Bradymotus.Core;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Formats;
using Bradymotus.Render;
using Bradymotus.Server.Rendering;
using Bradymotus.Server.Store;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.Routing;

namespace Bradymotus.Server.Api;

/// <summary>The shelf of materials, and pictures for maps.</summary>
internal static class MaterialEndpoints
{
    // They never change while the program runs.
    private static readonly ConcurrentDictionary<string, Lazy<byte[]>> Pictures = new();

    internal static void MapMaterials(this IEndpointRouteBuilder app)
    {
        var materials = app.MapGroup("/api/materials").WithTags("Materials");

        materials.MapGet("", () => MaterialShelf.All.Select(m => new ShelfView(m.Id, m.Name, Json.Element(ShotJson.Write(m)))).ToArray()).WithName("MaterialShelf");

        materials.MapGet("/{name}/picture", async (string name, HttpResponse response) =>
        {
            var material = MaterialShelf.All.FirstOrDefault(m => m.Id == name) ?? throw new NotFoundException("material", name);
            var picture = await Task.Run(() => Pictures.GetOrAdd(name, _ => new(() => PictureOf(material))).Value);
            response.Headers.CacheControl = "private, max-age=3600";
            return TypedResults.Bytes(picture, "image/png");
        }).WithName("MaterialPicture");

        // A picture for a map or the sky: what it has come to is stored before a shot can refer to it.
        app.MapPost("/api/pictures", async (string name, HttpRequest request, DataFolder folder, CancellationToken cancel, bool sky = false) =>
        {
            var bytes = await BodyAsync(request, "picture", cancel);
            var (picture, asset) = await Task.Run(() => PictureFile.Read(bytes, name, sky), cancel);
            folder.Assets.Put(asset);
            return new PictureView(picture.Asset, picture.Name, picture.Width, picture.Height);
        }).Accepts<byte[]>("application/octet-stream").WithTags("Materials").WithName("AddPicture");

        // A film for reference.
        app.MapPost("/api/films", async (string name, HttpRequest request, DataFolder folder, CancellationToken cancel) =>
        {
            var (film, asset) = await FilmFile.ReadAsync(await BodyAsync(request, "film", cancel), name, cancel);
            folder.Assets.Put(asset);
            return new ReferenceFilmView(film.Asset, film.Name, film.Width, film.Height, film.FramesPerSecond, film.Seconds);
        }).Accepts<byte[]>("application/octet-stream").WithTags("Materials").WithName("AddFilm");

        // A sound for a shot: what it has come to is stored before a shot can refer to it.
        app.MapPost("/api/sounds", async (string name, HttpRequest request, DataFolder folder, CancellationToken cancel) =>
        {
            var (sound, asset) = await SoundFile.ReadAsync(await BodyAsync(request, "sound", cancel), name, cancel);
            folder.Assets.Put(asset);
            return new SoundView(sound.Asset, sound.Name, sound.Seconds);
        }).Accepts<byte[]>("application/octet-stream").WithTags("Sounds").WithName("AddSound");
    }

    internal static async Task<byte[]> BodyAsync(HttpRequest request, string what, CancellationToken cancel)
    {
        if (request.HttpContext.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } limit)
        {
            limit.MaxRequestBodySize = SourceFiles.MostBytes;
        }
        using var buffer = new MemoryStream();
        await request.Body.CopyToAsync(buffer, cancel);
        return buffer.Length > 0 ? buffer.ToArray() : throw new Refusal($"No {what} was sent: send its bytes as the body.");
    }

    /// <summary>A ball of the material on a floor, under a soft sky and one lamp.</summary>
    private static byte[] PictureOf(Material material)
    {
        static ImmutableSortedDictionary<string, Channel> Channels(params (string Path, double Value)[] values) =>
            values.ToImmutableSortedDictionary(v => v.Path, v => new Channel(v.Value), StringComparer.Ordinal);
        var shot = Shot.Empty("Sample") with
        {
            Nodes =
            [
                new MeshNode { Id = "ball", Name = "Ball", Shape = new SphereShape(0.5, 64, 32), Material = material.Id, Channels = Channels(("transform.translate.y", 0.5), ("transform.rotate.x", 20), ("transform.rotate.y", -25)) },
                new MeshNode { Id = "floor", Name = "Floor", Shape = new PlaneShape(6, 6), Material = "ground" },
                new LampNode { Id = "lamp", Name = "Lamp", Form = LampForm.Rectangle, Channels = Channels(("transform.translate.x", -1.4), ("transform.translate.y", 2), ("transform.translate.z", 1.6), ("transform.rotate.x", -42), ("transform.rotate.y", -40), ("light.strength", 40)) },
                new CameraNode { Id = "camera", Name = "Camera", Channels = Channels(("camera.fov", 26), ("transform.translate.y", 1.05), ("transform.translate.z", 2.5), ("transform.rotate.x", -12.5)) },
            ],
            Materials = [material, new("ground", "Ground", Channels(("look.color.r", 0.3), ("look.color.g", 0.32), ("look.color.b", 0.35), ("look.roughness", 0.8), ("map.color.scale.x", 8), ("map.color.scale.y", 8))) { Maps = [new(MapSlot.Color, new ChecksPattern())] }],
            World = Channels(("sky.strength", 0.7)),
        };
        return new FrameRenderer(shot).Render(0, new(80, 80), Quality.Final, samples: 24).ToPng();
    }
}

/// <summary>A material of the shelf.</summary>
/// <param name="Material">As in a shot file.</param>
public sealed record ShelfView(string Id, string Name, JsonElement Material);

/// <summary>A picture that maps can refer to now.</summary>
/// <param name="Asset">The name of its asset.</param>
public sealed record PictureView(string Asset, string Name, int Width, int Height);

/// <summary>A film that maps can refer to now.</summary>
/// <param name="Asset">The name of its asset.</param>
/// <param name="FramesPerSecond">Its own rate.</param>
/// <param name="Seconds">How long it is.</param>
public sealed record ReferenceFilmView(string Asset, string Name, int Width, int Height, double FramesPerSecond, double Seconds);

/// <summary>A sound that shots can refer to now.</summary>
/// <param name="Asset">The name of its asset: FLAC, two channels of 48,000 samples a second.</param>
/// <param name="Seconds">How long it is.</param>
public sealed record SoundView(string Asset, string Name, double Seconds);
