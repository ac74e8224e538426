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
            using var sent = await Upload.BodyAsync(request, "picture", folder, cancel);
            var picture = await readers.ReadAsync<MediaResult>(new ReadPicture(name, sent.File, sky, sent.Made), sent.Bytes, null, cancel);
            await sent.KeepAsync(folder.Assets, cancel);
            return new PictureView(picture.Asset, picture.Name, picture.Width, picture.Height);
        }).Accepts<byte[]>("application/octet-stream").WithTags("Materials").WithName("AddPicture");

        // For reference. It takes its time: how much is done is told under the name of the job.
        app.MapPost("/api/films", async (string name, HttpRequest request, DataFolder folder, ForeignReaders readers, Announcer announcer, CancellationToken cancel, string? job = null) =>
        {
            using var sent = await Upload.BodyAsync(request, "film", folder, cancel);
            var film = await readers.ReadAsync<MediaResult>(new ReadFilm(name, sent.File, sent.Made), sent.Bytes, announcer.Of(job), cancel);
            await sent.KeepAsync(folder.Assets, cancel);
            return new ReferenceFilmView(film.Asset, film.Name, film.Width, film.Height, film.FramesPerSecond, film.Seconds);
        }).Accepts<byte[]>("application/octet-stream").WithTags("Materials").WithName("AddFilm");

        app.MapPost("/api/sounds", async (string name, HttpRequest request, DataFolder folder, ForeignReaders readers, Announcer announcer, CancellationToken cancel, string? job = null) =>
        {
            using var sent = await Upload.BodyAsync(request, "sound", folder, cancel);
            var sound = await readers.ReadAsync<MediaResult>(new ReadSound(name, sent.File, sent.Made), sent.Bytes, announcer.Of(job), cancel);
            await sent.KeepAsync(folder.Assets, cancel);
            return new SoundView(sound.Asset, sound.Name, sound.Seconds);
        }).Accepts<byte[]>("application/octet-stream").WithTags("Sounds").WithName("AddSound");
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
