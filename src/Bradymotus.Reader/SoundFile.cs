using Bradymotus.Core;
using Bradymotus.Core.Scene;
using FFMpegCore;

namespace Bradymotus.Reader;

/// <summary>Sounds that are brought in. What is kept is FLAC, two channels of 48,000 samples a second, which every browser plays and which loses nothing.</summary>
public static class SoundFile
{
    /// <summary>Arguments for ffmpeg: no lists and no addresses, since a sound is one file, and nothing else is opened for it.</summary>
    public const string Safe = "-protocol_whitelist file -format_whitelist wav,w64,aiff,flac,mp3,ogg,mov,matroska";

    /// <summary>Samples a second of what is kept.</summary>
    public const int Rate = 48_000;

    /// <summary>Takes a sound over.</summary>
    /// <exception cref="Refusal">It is no sound that can be read, has no length, is too long, or ffmpeg is missing.</exception>
    internal static Task<MediaResult> ReadAsync(string given, string name, string folder, Action<double> report) =>
        ForeignMedia.TurnAsync(given, name, "sound", ".flac", Safe, async (about, made, name) =>
        {
            if (about.PrimaryAudioStream is null)
            {
                throw new Refusal($"{name} holds no sound: choose a WAV, FLAC, MP3 or OGG file.");
            }
            if (about.Duration.TotalSeconds > Sound.MostSeconds)
            {
                throw new Refusal($"{name} is {about.Duration.TotalMinutes:0} minutes long; at most {Sound.MostSeconds / 60:0} are taken. Cut out what you need.");
            }
            // One channel is heard on both sides as loud as it is.
            var sides = about.PrimaryAudioStream.Channels == 1 ? "-af pan=stereo|c0=c0|c1=c0" : "-ac 2";
            // What a file says of its length may be wrong, so that no more is read than is taken.
            await FFMpegArguments
                .FromFileInput(given, verifyExists: true, o => o.WithCustomArgument(Safe))
                .OutputToFile(made, overwrite: true, o => o
                    .DisableChannel(FFMpegCore.Enums.Channel.Video)
                    .WithCustomArgument(FormattableString.Invariant($"-t {Sound.MostSeconds + 1} -map 0:a:0 {sides} -ar {Rate} -sample_fmt s16 -c:a flac -map_metadata -1 -fflags +bitexact -flags +bitexact")))
                .NotifyOnProgress(percent => report(Math.Clamp(percent / 100, 0, 1)), about.Duration)
                .ProcessAsynchronously();
            var seconds = (await FFProbe.AnalyseAsync(made)).Duration.TotalSeconds;
            if (!(seconds >= 0.001))
            {
                throw new Refusal($"{name} has no length: there is nothing in it to hear.");
            }
            if (seconds > Sound.MostSeconds)
            {
                throw new Refusal($"{name} is longer than the {Sound.MostSeconds / 60:0} minutes that are taken. Cut out what you need.");
            }
            var asset = await ForeignMedia.KeepAsync(made, folder);
            return new MediaResult(asset, ForeignMedia.Clean(name), Seconds: seconds);
        });
}
