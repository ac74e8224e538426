using Bradymotus.Server.Rendering;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Routing;

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

        renders.MapGet("/{id}/sound", async Task<Results<FileStreamHttpResult, NoContent>> (string id, Film film, CancellationToken cancel) =>
            await film.SoundAsync(id, cancel) is { } sound ? TypedResults.Stream(sound, "audio/wav") : TypedResults.NoContent()).WithName("RenderedSound");

        renders.MapPost("/{id}/film", async (string id, FilmRequest request, Film film, CancellationToken cancel) =>
        {
            await film.MakeAsync(id, request.Times, cancel);
            return new FilmView($"/api/renders/{id}/film");
        }).WithName("MakeFilm");

        renders.MapGet("/{id}/film", async (string id, RenderQueue queue, DataFolder folder, CancellationToken cancel) =>
        {
            var row = await queue.GetAsync(id, cancel);
            var path = Path.Combine(folder.Render(id), "film.mp4");
            if (!File.Exists(path))
            {
                throw new Store.NotFoundException("film", id);
            }
            var name = row.FileName.Replace("#", "", StringComparison.Ordinal).Replace(".png", "", StringComparison.OrdinalIgnoreCase).Trim('_', '-', '.', ' ');
            return TypedResults.PhysicalFile(path, "video/mp4", (name.Length > 0 ? name : "film") + ".mp4");
        }).WithName("FetchFilm");
    }
}

/// <summary>Where a film can be fetched.</summary>
public sealed record FilmView(string Url);

/// <summary>Where a sequence lies on the disk.</summary>
public sealed record FolderView(string Path);
