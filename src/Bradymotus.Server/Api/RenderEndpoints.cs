using Bradymotus.Render.Pictures;
using Bradymotus.Server.Rendering;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.Caching.Hybrid;

namespace Bradymotus.Server.Api;

/// <summary>Ordering, watching and fetching rendered sequences.</summary>
internal static class RenderEndpoints
{
    internal static void MapRenders(this IEndpointRouteBuilder app)
    {
        var renders = app.MapGroup("/api/renders").WithTags("Renders");

        renders.MapGet("/", async (RenderNews news, CancellationToken cancel, string? shot = null) =>
            await news.ListAsync(shot, cancel)).WithName("ListRenders");

        renders.MapPost("/", async (RenderOrder order, RenderOrders orders, CancellationToken cancel) =>
            await orders.OrderAsync(order, cancel)).WithName("OrderRender");

        renders.MapGet("/{id}", async (string id, RenderNews news, CancellationToken cancel) =>
            await news.ViewAsync(id, cancel)).WithName("GetRender");

        renders.MapPost("/{id}/cancel", async (string id, RenderOrders orders, CancellationToken cancel) =>
        {
            await orders.CancelAsync(id, cancel);
            return TypedResults.NoContent();
        }).WithName("CancelRender");

        renders.MapPost("/{id}/resume", async (string id, RenderOrders orders, CancellationToken cancel) =>
        {
            await orders.ResumeAsync(id, cancel);
            return TypedResults.NoContent();
        }).WithName("ResumeRender");

        renders.MapDelete("/{id}", async (string id, RenderOrders orders, CancellationToken cancel) =>
            await orders.SetDeletedAsync(id, deleted: true, cancel)).WithName("DeleteRender");

        renders.MapPost("/{id}/undelete", async (string id, RenderOrders orders, CancellationToken cancel) =>
            await orders.SetDeletedAsync(id, deleted: false, cancel)).WithName("UndeleteRender");

        renders.MapPut("/{id}/kept", async (string id, KeepRequest request, RenderOrders orders, CancellationToken cancel) =>
            await orders.SetKeptAsync(id, request.Kept, cancel)).WithName("KeepRender");

        renders.MapGet("/{id}/folder", async (string id, RenderStore store, DataFolder folder, CancellationToken cancel) =>
        {
            await store.GetAsync(id, cancel);
            return new FolderView(folder.Render(id));
        }).WithName("RenderFolder");

        renders.MapGet("/{id}/frames/{frame:int}", async (string id, int frame, RenderStore store, HttpResponse response, CancellationToken cancel) =>
        {
            var path = await store.FileAsync(id, frame, cancel);
            // A finished frame never changes.
            response.Headers.CacheControl = "private, max-age=31536000, immutable";
            return TypedResults.PhysicalFile(path, "image/png");
        }).WithName("RenderedFrame");

        // For a list of many: a picture of 1080 rows would be read for each line of it.
        renders.MapGet("/{id}/frames/{frame:int}/small", async (string id, int frame, RenderStore store, HybridCache cache, HttpResponse response, CancellationToken cancel) =>
        {
            var path = await store.FileAsync(id, frame, cancel);
            var small = await cache.GetOrCreateAsync($"{id}/{frame}/small", stop => ValueTask.FromResult(Picture.SmallPng(path, 160)), cancellationToken: cancel);
            response.Headers.CacheControl = "private, max-age=31536000, immutable";
            return TypedResults.Bytes(small, "image/png");
        }).WithName("SmallFrame");

        renders.MapGet("/{id}/sound", async Task<Results<FileStreamHttpResult, NoContent>> (string id, FilmEncoder film, CancellationToken cancel) =>
            await film.SoundAsync(id, cancel) is { } sound ? TypedResults.Stream(sound, "audio/wav") : TypedResults.NoContent()).WithName("RenderedSound");

        renders.MapPost("/{id}/film", async (string id, FilmRequest request, FilmEncoder film, CancellationToken cancel) =>
        {
            var format = FilmFormat.Of("." + request.Format);
            var (_, held) = await film.MakeAsync(id, request.Times, format, cancel);
            return new FilmView($"/api/renders/{id}/film{format.Ending}", held);
        }).WithName("MakeFilm");

        renders.MapGet("/{id}/film", (string id, RenderStore store, FilmEncoder film, CancellationToken cancel) => FilmAsync(id, FilmFormat.Mp4.Ending, store, film, cancel)).WithName("FetchMp4");

        renders.MapGet("/{id}/film{ending}", FilmAsync).WithName("FetchFilm");

        static async Task<PhysicalFileHttpResult> FilmAsync(string id, string ending, RenderStore store, FilmEncoder film, CancellationToken cancel)
        {
            var row = await store.GetAsync(id, cancel);
            var format = FilmFormat.All.FirstOrDefault(f => f.Ending == ending) ?? throw new Store.NotFoundException("film", id + ending);
            var path = film.PathOf(id, format);
            if (!File.Exists(path))
            {
                throw new Store.NotFoundException("film", id);
            }
            var name = row.FileName.Replace("#", "", StringComparison.Ordinal).Replace(".png", "", StringComparison.OrdinalIgnoreCase).Trim('_', '-', '.', ' ');
            return TypedResults.PhysicalFile(path, format.MediaType, (name.Length > 0 ? name : "film") + format.Ending);
        }
    }
}

/// <summary>Where a film can be fetched.</summary>
/// <param name="Held">So many frames are shown by the picture before, since their own is missing.</param>
public sealed record FilmView(string Url, int Held);

/// <summary>Where a sequence lies on the disk.</summary>
public sealed record FolderView(string Path);
