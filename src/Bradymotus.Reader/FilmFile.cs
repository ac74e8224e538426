using System.Globalization;
using Bradymotus.Core;
using Bradymotus.Core.Scene;
using Bradymotus.Formats;
using FFMpegCore;
using FFMpegCore.Enums;

namespace Bradymotus.Reader;

/// <summary>Films that are brought in for reference. Every frame of what is kept stands by itself, so that any is shown at once.</summary>
internal static class FilmFile
{
    // No lists and no addresses: a film is one file, and nothing else is opened for it.
    private const string Safe = "-protocol_whitelist file -format_whitelist mov,matroska,avi,mpegts,mpeg,ogg,gif";

    /// <summary>The widest and the highest picture that is decoded, in pixels.</summary>
    private const int MostSide = 8192;

    /// <summary>The most pictures a second that are kept.</summary>
    private const int MostRate = 120;

    /// <summary>Takes a film over: at most 1280 wide, without sound.</summary>
    /// <exception cref="Refusal">It is no film that can be read, has too large pictures, is too long, or ffmpeg is missing.</exception>
    internal static Task<MediaResult> ReadAsync(string given, string name, string folder, Action<double> report) =>
        ForeignMedia.TurnAsync(given, name, "film", ".mp4", Safe, async (about, made, name) =>
        {
            var film = about.PrimaryVideoStream ?? throw new Refusal($"{name} holds no moving picture.");
            if (film.Width > MostSide || film.Height > MostSide)
            {
                throw new Refusal($"{name} has pictures of {film.Width} × {film.Height} pixels; at most {MostSide} × {MostSide} are taken. Make it smaller.");
            }
            if (about.Duration.TotalSeconds > ClipSource.MostSeconds)
            {
                throw new Refusal($"{name} is {about.Duration.TotalMinutes:0} minutes long; at most {ClipSource.MostSeconds / 60} are taken. Cut out what you need.");
            }
            var rate = film.AvgFrameRate is > 0 and <= MostRate ? film.AvgFrameRate : film.AvgFrameRate is > MostRate and < 1000 ? MostRate : 24;
            // What a file says of its length may be wrong, so that no more is read, and no more written, than is taken.
            var bounds = FormattableString.Invariant($"-t {ClipSource.MostSeconds + 1} -fs {SourceFiles.MostBytes}");
            await FFMpegArguments
                .FromFileInput(given, verifyExists: true, o => o.WithCustomArgument(Safe))
                .OutputToFile(made, overwrite: true, o => o
                    .WithVideoCodec(VideoCodec.LibX264)
                    .WithConstantRateFactor(20)
                    .DisableChannel(FFMpegCore.Enums.Channel.Audio)
                    .WithCustomArgument($"{bounds} -g 1 -r {rate.ToString("R", CultureInfo.InvariantCulture)} -vf \"scale='min(1280,iw)':-2,format=yuv420p\" -movflags +faststart -map_metadata -1 -fflags +bitexact"))
                .NotifyOnProgress(percent => report(Math.Clamp(percent / 100, 0, 1)), about.Duration)
                .ProcessAsynchronously();
            var kept = await FFProbe.AnalyseAsync(made);
            // What was cut at the bound of bytes ends earlier than what it was made of.
            if (kept.Duration.TotalSeconds > ClipSource.MostSeconds || new FileInfo(made).Length > SourceFiles.MostBytes - (1 << 20))
            {
                throw new Refusal($"{name} is longer than the {ClipSource.MostSeconds / 60} minutes, or would take more than the {SourceFiles.MostBytes >> 20} MB, that are taken. Cut out what you need.");
            }
            var asset = await ForeignMedia.KeepAsync(made, folder);
            var (width, height) = (kept.PrimaryVideoStream!.Width, kept.PrimaryVideoStream.Height);
            return new MediaResult(asset, ForeignMedia.Clean(name), width, height, rate, kept.Duration.TotalSeconds);
        });
}
