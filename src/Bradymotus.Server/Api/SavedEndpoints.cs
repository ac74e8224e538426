using Bradymotus.Core.Editing;
using Bradymotus.Core.Serialization;
using Bradymotus.Formats;
using Bradymotus.Server.Foreign;
using Bradymotus.Server.Store;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Routing;

namespace Bradymotus.Server.Api;

/// <summary>The shelf of saved poses and motions.</summary>
internal static class SavedEndpoints
{
    internal static void MapSaved(this IEndpointRouteBuilder app)
    {
        var saved = app.MapGroup("/api/saved").WithTags("Saved poses and motions");

        saved.MapGet("", async (SavedShelf shelf, CancellationToken cancel) => (await shelf.ListAsync(cancel)).Select(SavedView.Of).ToList()).WithName("ListSaved");

        saved.MapPost("", async (HttpRequest request, SavedShelf shelf, CancellationToken cancel) =>
            SavedView.Of(await shelf.AddAsync(ShotJson.ReadSaved(await ShotEndpoints.TextAsync(request, cancel)), cancel)))
            .Accepts<object>("application/json").WithName("AddSaved");

        // As a file that can be put onto another shelf.
        saved.MapGet("/{id}", async (string id, SavedShelf shelf, CancellationToken cancel) =>
        {
            var one = await shelf.GetAsync(id, cancel);
            return TypedResults.File(ShotJson.WriteBytes(one, indented: true), "application/json", $"{ShotEndpoints.FileName(one.Name)}.{(one is SavedPose ? "pose" : "motion")}.json");
        }).WithName("Saved");

        saved.MapPut("/{id}/name", async (string id, NameRequest request, SavedShelf shelf, CancellationToken cancel) =>
            SavedView.Of(await shelf.RenameAsync(id, request.Name?.Trim() ?? "", cancel))).WithName("RenameSaved");

        saved.MapPut("/{id}/picture", async (string id, HttpRequest request, SavedShelf shelf, DataFolder folder, CancellationToken cancel, int count = 1) =>
        {
            using var sent = await Upload.BodyAsync(request, "picture", folder, cancel);
            return SavedView.Of(await shelf.SetPictureAsync(id, sent, count, cancel));
        })
            .Accepts<byte[]>("application/octet-stream").WithName("SetSavedPicture");

        saved.MapGet("/{id}/picture", async Task<IResult> (string id, HttpResponse response, SavedShelf shelf, CancellationToken cancel) =>
        {
            if (await shelf.PictureAsync(id, cancel) is not { } bytes)
            {
                return TypedResults.NoContent();
            }
            response.Headers.CacheControl = "private, max-age=3600";
            return TypedResults.Bytes(bytes, Asset.EndingOf(bytes) switch { ".jpg" => "image/jpeg", ".webp" => "image/webp", _ => "image/png" });
        }).WithName("SavedPicture");

        saved.MapDelete("/{id}", async (string id, SavedShelf shelf, CancellationToken cancel) =>
        {
            await shelf.SetDeletedAsync(id, deleted: true, cancel);
            return TypedResults.NoContent();
        }).WithName("DeleteSaved");

        saved.MapPost("/{id}/undelete", async (string id, SavedShelf shelf, CancellationToken cancel) =>
            SavedView.Of(await shelf.SetDeletedAsync(id, deleted: false, cancel))).WithName("UndeleteSaved");
    }
}

/// <summary>A saved pose or motion, without what is in it.</summary>
/// <param name="Kind">pose or motion.</param>
/// <param name="Objects">The first names of the objects that it was taken from.</param>
/// <param name="Pictures">How many lie beside each other in its picture; 0 where it has none.</param>
public sealed record SavedView(string Id, string Name, string Kind, string[] Objects, int ObjectCount, int Channels, int Pictures, DateTime Created)
{
    internal static SavedView Of(SavedRow row) => new(row.Id, row.Name, row.Kind, row.Objects.Split('\n', StringSplitOptions.RemoveEmptyEntries),
        row.ObjectCount, row.Channels, row.Pictures, row.Created);
}
