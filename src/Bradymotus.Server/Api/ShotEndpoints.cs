using System.Text;
using Bradymotus.Core;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Serialization;
using Bradymotus.Formats;
using Bradymotus.Server.Live;
using Bradymotus.Server.Store;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Routing;

namespace Bradymotus.Server.Api;

/// <summary>The library of shots and their journals.</summary>
internal static class ShotEndpoints
{
    // A shot is text; beyond this something is wrong with it.
    private const int MostBytes = 64 << 20;

    // So many keys are moved by nobody's hand.
    internal const int MostEditBytes = 8 << 20;

    internal static void MapShots(this IEndpointRouteBuilder app)
    {
        var shots = app.MapGroup("/api/shots").WithTags("Shots");

        shots.MapGet("/", async (ShotLibrary library, CancellationToken cancel, bool deleted = false) =>
            (await library.ListAsync(deleted, cancel)).Select(ShotView.Of).ToList()).WithName("ListShots");

        shots.MapPost("/", async (NameRequest request, ShotLibrary library, CancellationToken cancel) =>
            ShotView.Of(await library.AddAsync(StarterShot.Make(request.Name?.Trim() ?? ""), cancel))).WithName("NewShot");

        shots.MapPost("/import", async (HttpRequest request, ShotLibrary library, CancellationToken cancel) =>
            ShotView.Of(await library.AddAsync(ShotJson.ReadShot(await TextAsync(request, cancel)), cancel)))
            .Accepts<object>("application/json").WithName("ImportShot");

        shots.MapGet("/{id}", async (string id, ShotLibrary library, CancellationToken cancel) =>
            DocumentView.Of(await library.OpenAsync(id, cancel))).WithName("OpenShot");

        shots.MapGet("/{id}/opening", async (string id, ShotLibrary library, DataFolder folder, CancellationToken cancel) =>
        {
            var (shot, revision) = await library.CurrentAsync(id, cancel);
            return OpeningView.Of(shot, revision, folder.Assets.ForShots);
        }).WithName("Opening");

        shots.MapGet("/{id}/journal", async (string id, ShotLibrary library, CancellationToken cancel, int after = 0) =>
            (await library.JournalAsync(id, after, cancel)).Select(EntryView.Of).ToList()).WithName("Journal");

        shots.MapPost("/{id}/journal", async Task<Results<Ok<Appended>, Conflict<Missed>>> (
            string id, AppendRequest request, ShotLibrary library, Announcer announcer, CancellationToken cancel) =>
        {
            var entries = request.Entries.Select(e => ShotJson.ReadEntry(e.GetRawText())).ToList();
            try
            {
                var revision = await library.AppendAsync(id, request.Revision, entries, cancel);
                await announcer.JournalAsync(id, revision);
                return TypedResults.Ok(new Appended(revision));
            }
            catch (StaleException e)
            {
                return TypedResults.Conflict(new Missed(e.Revision, [.. e.Missed.Select(EntryView.Of)]));
            }
        }).WithName("Append");

        shots.MapPut("/{id}/name", async (string id, NameRequest request, ShotLibrary library, Announcer announcer, CancellationToken cancel) =>
        {
            // An edit may come in between; a name can be given all the same.
            for (var attempt = 0; ; attempt++)
            {
                var (_, revision) = await library.CurrentAsync(id, cancel);
                try
                {
                    var after = await library.AppendAsync(id, revision, [new EditEntry(new SetShot(Name: request.Name))], cancel);
                    await announcer.JournalAsync(id, after);
                    return new Appended(after);
                }
                catch (StaleException) when (attempt < 20)
                {
                }
            }
        }).WithName("RenameShot");

        shots.MapPost("/{id}/duplicate", async (string id, ShotLibrary library, CancellationToken cancel) =>
            ShotView.Of(await library.DuplicateAsync(id, cancel))).WithName("DuplicateShot");

        shots.MapDelete("/{id}", async (string id, ShotLibrary library, CancellationToken cancel) =>
        {
            await library.SetDeletedAsync(id, deleted: true, cancel);
            return TypedResults.NoContent();
        }).WithName("DeleteShot");

        shots.MapPost("/{id}/undelete", async (string id, ShotLibrary library, CancellationToken cancel) =>
        {
            await library.SetDeletedAsync(id, deleted: false, cancel);
            return TypedResults.NoContent();
        }).WithName("UndeleteShot");

        shots.MapDelete("/trash", async (ShotLibrary library, Housekeeping housekeeping, CancellationToken cancel) =>
        {
            await library.EmptyTrashAsync(cancel);
            await housekeeping.SweepAsync(cancel);
            return TypedResults.NoContent();
        }).WithName("EmptyTrash");

        app.MapGet("/api/room", (Housekeeping housekeeping, CancellationToken cancel) => housekeeping.MeasureAsync(cancel)).WithTags("Shots").WithName("Room");

        shots.MapGet("/{id}/file", async Task<IResult> (string id, ShotLibrary library, DataFolder folder, CancellationToken cancel) =>
        {
            var (shot, _) = await library.CurrentAsync(id, cancel);
            if (!ShotZip.AssetsOf(shot).Any())
            {
                return TypedResults.File(ShotJson.WriteBytes(shot, indented: true), "application/json", FileName(shot.Name) + ".shot.json");
            }
            var zip = new MemoryStream();
            ShotZip.Write(zip, shot, FileName(shot.Name), folder.Assets);
            zip.Position = 0;
            return TypedResults.File(zip, "application/zip", FileName(shot.Name) + ".shot.zip");
        }).WithName("ExportShot");

        shots.MapGet("/{id}/thumbnail", async Task<IResult> (string id, ShotLibrary library, Thumbnails thumbnails, CancellationToken cancel) =>
        {
            var (shot, revision) = await library.CurrentAsync(id, cancel);
            return shot.RenderCamera() is not null && await thumbnails.OfAsync(id, revision, shot, cancel) is { Length: > 0 } png
                ? TypedResults.Bytes(png, "image/png")
                : TypedResults.NoContent();
        }).WithName("Thumbnail");
    }

    internal static async Task<string> TextAsync(HttpRequest request, CancellationToken cancel)
    {
        using var buffer = new MemoryStream();
        var chunk = new byte[81920];
        for (int read; (read = await request.Body.ReadAsync(chunk, cancel)) > 0;)
        {
            if (buffer.Length + read > MostBytes)
            {
                throw new Refusal($"The file is larger than {MostBytes >> 20} MB, more than a shot can be: check that it is the right one.");
            }
            buffer.Write(chunk, 0, read);
        }
        return Encoding.UTF8.GetString(buffer.GetBuffer(), 0, (int)buffer.Length).TrimStart('\uFEFF');
    }

    internal static string FileName(string name) =>
        string.Concat(name.Select(c => char.IsLetterOrDigit(c) || c is '-' or '_' ? c : '-')).Trim('-') is { Length: > 0 } clean ? clean : "shot";
}
