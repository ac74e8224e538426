using Bradymotus.Reader;
using Bradymotus.Server.Foreign;
using Bradymotus.Server.Live;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Routing;

namespace Bradymotus.Server.Api;

/// <summary>Pictures, films and sounds for shots. What each has come to is stored before a shot can refer to it.</summary>
internal static class MediaEndpoints
{
    internal static void MapMedia(this IEndpointRouteBuilder app)
    {
        // For a map or the sky.
        app.MapPost("/api/pictures", async (string name, HttpRequest request, DataFolder folder, ForeignReaders readers, CancellationToken cancel, bool sky = false) =>
        {
            var picture = await TakeAsync(request, "picture", sent => new ReadPicture(name, sent.File, sky, sent.Made), null, folder, readers, cancel);
            return new PictureView(picture.Asset, picture.Name, picture.Width, picture.Height);
        }).Accepts<byte[]>("application/octet-stream").WithTags("Materials").WithName("AddPicture");

        // For reference. It takes its time, as a sound does: how much is done is told under the name of the job.
        app.MapPost("/api/films", async (string name, HttpRequest request, DataFolder folder, ForeignReaders readers, Announcer announcer, CancellationToken cancel, string? job = null) =>
        {
            var film = await TakeAsync(request, "film", sent => new ReadFilm(name, sent.File, sent.Made), announcer.Of(job), folder, readers, cancel);
            return new ReferenceFilmView(film.Asset, film.Name, film.Width, film.Height, film.FramesPerSecond, film.Seconds);
        }).Accepts<byte[]>("application/octet-stream").WithTags("Materials").WithName("AddFilm");

        app.MapPost("/api/sounds", async (string name, HttpRequest request, DataFolder folder, ForeignReaders readers, Announcer announcer, CancellationToken cancel, string? job = null) =>
        {
            var sound = await TakeAsync(request, "sound", sent => new ReadSound(name, sent.File, sent.Made), announcer.Of(job), folder, readers, cancel);
            return new SoundView(sound.Asset, sound.Name, sound.Seconds);
        }).Accepts<byte[]>("application/octet-stream").WithTags("Sounds").WithName("AddSound");
    }

    /// <summary>Has what is sent read, and keeps the asset that comes of it.</summary>
    private static async Task<MediaResult> TakeAsync(
        HttpRequest request, string what, Func<Upload, ReadRequest> read, Action<double>? report, DataFolder folder, ForeignReaders readers, CancellationToken cancel)
    {
        using var sent = await Upload.BodyAsync(request, what, folder, cancel);
        var made = await readers.ReadAsync<MediaResult>(read(sent), sent.Bytes, report, cancel);
        await sent.KeepAsync(folder.Assets, cancel);
        return made;
    }
}

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
