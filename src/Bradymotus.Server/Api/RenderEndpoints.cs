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

        renders.MapGet("/", async (RenderQueue queue, CancellationToken cancel, string? shot = null) =>
            await queue.ListAsync(shot, cancel)).WithName("ListRenders");

        renders.MapPost("/", async (RenderOrder order, RenderQueue queue, CancellationToken cancel) =>
            await queue.OrderAsync(order, cancel)).WithName("OrderRender");

        renders.MapGet("/{id}", async (string id, RenderQueue queue, CancellationToken cancel) =>
            await queue.ViewAsync(id, cancel)).WithName("GetRender");

        renders.MapPost("/{id}/cancel", async (string id, RenderQueue queue, CancellationToken cancel) =>
        {
            await queue.CancelAsync(id, cancel);
            return TypedResults.NoContent();
        }).WithName("CancelRender");

        renders.MapPost("/{id}/resume", async (string id, RenderQueue queue, CancellationToken cancel) =>
        {
            await queue.ResumeAsync(id, cancel);
            return TypedResults.NoContent();
        }).WithName("ResumeRender");

        renders.MapDelete("/{id}", async (string id, RenderQueue queue, CancellationToken cancel) =>
            await queue.SetDeletedAsync(id, deleted: true, cancel)).WithName("DeleteRender");

        renders.MapPost("/{id}/undelete", async (string id, RenderQueue queue, CancellationToken cancel) =>
            await queue.SetDeletedAsync(id, deleted: false, cancel)).WithName("UndeleteRender");

        renders.MapPut("/{id}/kept", async (string id, KeepRequest request, RenderQueue queue, CancellationToken cancel) =>
            await queue.SetKeptAsync(id, request.Kept, cancel)).WithName("KeepRender");

        renders.MapGet("/{id}/folder", async (string id, RenderQueue queue, DataFolder folder, CancellationToken cancel) =>
        {
            await queue.GetAsync(id, cancel);
            return new FolderView(folder.Render(id));
        }).WithName("RenderFolder");

        renders.MapGet("/{id}/frames/{frame:int}", async (string id, int frame, RenderQueue queue, HttpResponse response, CancellationToken cancel) =>
        {
            var path = await queue.FileAsync(id, frame, cancel);
            // A finished frame never changes.
            response.Headers.CacheControl = "private, max-age=31536000, immutable";
            return TypedResults.PhysicalFile(path, "image/png");
        }).WithName("RenderedFrame");

        // For a list of many: a picture of 1080 rows would be read for each line of it.
        renders.MapGet("/{id}/frames/{frame:int}/small", async (string id, int frame, RenderQueue queue, HybridCache cache, HttpResponse response, CancellationToken cancel) =>
        {
            var path = await queue.FileAsync(id, frame, cancel);
            var small = await cache.GetOrCreateAsync($"{id}/{frame}/small", stop => ValueTask.FromResult(Picture.SmallPng(path, 160)), cancellationToken: cancel);
            response.Headers.CacheControl = "private, max-age=31536000, immutable";
            return TypedResults.Bytes(small, "image/png");
        }).WithName("SmallFrame");

        renders.MapGet("/{id}/sound", async Task<Results<FileStreamHttpResult, NoContent>> (string id, Film film, CancellationToken cancel) =>
            await film.SoundAsync(id, cancel) is { } sound ? TypedResults.Stream(sound, "audio/wav") : TypedResults.NoContent()).WithName("RenderedSound");

        renders.MapPost("/{id}/film", async (string id, FilmRequest request, Film film, CancellationToken cancel) =>
        {
            var format = FilmFormat.Of("." + request.Format);
            var (_, held) = await film.MakeAsync(id, request.Times, format, cancel);
            return new FilmView($"/api/renders/{id}/film{format.Ending}", held);
        }).WithName("MakeFilm");

        renders.MapGet("/{id}/film", (string id, RenderQueue queue, Film film, CancellationToken cancel) => FilmAsync(id, FilmFormat.Mp4.Ending, queue, film, cancel)).WithName("FetchMp4");

        renders.MapGet("/{id}/film{ending}", FilmAsync).WithName("FetchFilm");

        static async Task<PhysicalFileHttpResult> FilmAsync(string id, string ending, RenderQueue queue, Film film, CancellationToken cancel)
        {
            var row = await queue.GetAsync(id, cancel);
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
