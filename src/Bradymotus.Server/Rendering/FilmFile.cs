using System.Globalization;
using Bradymotus.Core;
using Bradymotus.Core.Scene;
using Bradymotus.Formats;
using FFMpegCore;
using FFMpegCore.Enums;

namespace Bradymotus.Server.Rendering;

/// <summary>Films that are brought in for reference. Every frame of what is kept stands by itself, so that any is shown at once.</summary>
internal static class FilmFile
{
    // No lists and no addresses: a film is one file, and nothing else is opened for it.
    private const string Safe = "-protocol_whitelist file -format_whitelist mov,matroska,avi,mpegts,mpeg,ogg,gif";

    /// <summary>Takes a film over: at most 1280 wide, without sound.</summary>
    /// <exception cref="Refusal">It is no film that can be read, is too long, or ffmpeg is missing.</exception>
    internal static Task<(FilmSource Source, Asset Asset)> ReadAsync(byte[] bytes, string name, CancellationToken cancel) =>
        ForeignMedia.TurnAsync(bytes, name, "film", ".mp4", Safe, async (about, given, made, name) =>
        {
            var film = about.PrimaryVideoStream ?? throw new Refusal($"{name} holds no moving picture.");
            if (about.Duration.TotalSeconds > FilmSource.MostSeconds)
            {
                throw new Refusal($"{name} is {about.Duration.TotalMinutes:0} minutes long; at most {FilmSource.MostSeconds / 60} are taken. Cut out what you need.");
            }
            var rate = film.AvgFrameRate is > 0 and < 1000 ? film.AvgFrameRate : 24;
            await FFMpegArguments
                .FromFileInput(given, verifyExists: true, o => o.WithCustomArgument(Safe))
                .OutputToFile(made, overwrite: true, o => o
                    .WithVideoCodec(VideoCodec.LibX264)
                    .WithConstantRateFactor(20)
                    .DisableChannel(FFMpegCore.Enums.Channel.Audio)
                    .WithCustomArgument($"-g 1 -r {rate.ToString("R", CultureInfo.InvariantCulture)} -vf \"scale='min(1280,iw)':-2,format=yuv420p\" -movflags +faststart -map_metadata -1 -fflags +bitexact"))
                .CancellableThrough(cancel)
                .ProcessAsynchronously();
            var asset = Asset.Of(await File.ReadAllBytesAsync(made, cancel));
            var kept = (await FFProbe.AnalyseAsync(made, new FFOptions(), cancel)).PrimaryVideoStream!;
            return (new FilmSource(asset.Name, ForeignMedia.Clean(name), kept.Width, kept.Height, rate, about.Duration.TotalSeconds), asset);
        }, cancel);
}
