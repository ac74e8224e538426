using Bradymotus.Core;
using Bradymotus.Core.Time;
using Bradymotus.Render.Pictures;
using Bradymotus.Server.Store;
using FFMpegCore;
using FFMpegCore.Exceptions;

namespace Bradymotus.Server.Rendering;

/// <summary>A sequence of pictures as a film, by the ffmpeg of the system.</summary>
public sealed class FilmEncoder(RenderStore renders, DataFolder folder, Live.Announcer announcer)
{
    /// <summary>Makes the film of a sequence, as long as its range at its rate.</summary>
    /// <param name="times">How often the sequence plays, one after the other.</param>
    /// <returns>The path of the file, and how many frames are shown by the picture before, since their own is missing.</returns>
    /// <exception cref="Refusal">No frame is done, or ffmpeg is missing or fails.</exception>
    public async Task<(string Path, int Held)> MakeAsync(string renderId, int times, FilmFormat format, CancellationToken cancel)
    {
        if (times is < 1 or > 100)
        {
            throw new Refusal($"A film cannot repeat {times} times: choose 1 to 100.");
        }
        var row = await renders.GetAsync(renderId, cancel);
        var frames = await FramesOfAsync(row, cancel);
        var path = PathOf(renderId, format);
        var shot = renders.ShotOf(row);
        string? sound = null;
        try
        {
            if (format.Sound is not null && SoundMix.IsAny(shot))
            {
                sound = PartOf(path);
                await SoundMix.WriteAsync(sound, shot, frames.Times(times).Frames, row.FramesPerSecond, folder.Assets.Read, isBare: true, cancel);
            }
            await EncodeAsync(frames.Times(times).Pictures, row.FramesPerSecond, path, format, part => _ = announcer.FilmAsync(renderId, part), cancel, sound);
        }
        finally
        {
            if (sound is not null)
            {
                File.Delete(sound);
            }
        }
        return (path, frames.Held);
    }

    /// <summary>Where the film of a sequence lies once it is made.</summary>
    public string PathOf(string renderId, FilmFormat format) => Path.Combine(folder.Render(renderId), "film" + format.Ending);

    private static string PartOf(string path) => $"{path}.{Guid.NewGuid():N}.part.pcm";

    private async Task<FilmFrames> FramesOfAsync(RenderRow row, CancellationToken cancel)
    {
        var names = new FileNamePattern(row.FileName);
        var steps = FrameSteps.Parse(row.Frames);
        var done = (await renders.DoneAsync(row.Id, cancel)).ToHashSet();
        return FilmFrames.Of([.. steps.Frames()], steps.Range.Last, f => done.Contains(f) ? Path.Combine(folder.Render(row.Id), names.Name(f)) : null);
    }

    /// <summary>What is heard under the finished pictures of a sequence, each as long as in a film of them, as a WAV that is gone once it is closed; null where that is nothing.</summary>
    /// <exception cref="Refusal">The bytes of a sound are not there.</exception>
    public async Task<Stream?> SoundAsync(string renderId, CancellationToken cancel)
    {
        var row = await renders.GetAsync(renderId, cancel);
        var shot = renders.ShotOf(row);
        if (!SoundMix.IsAny(shot) || (await renders.DoneAsync(renderId, cancel)).Count == 0)
        {
            return null;
        }
        var path = PartOf(Path.Combine(folder.Render(renderId), "sound"));
        try
        {
            await SoundMix.WriteAsync(path, shot, (await FramesOfAsync(row, cancel)).Frames, row.FramesPerSecond, folder.Assets.Read, isBare: false, cancel);
            return new FileStream(path, FileMode.Open, FileAccess.Read, FileShare.Read | FileShare.Delete, 1 << 16, FileOptions.Asynchronous | FileOptions.DeleteOnClose);
        }
        catch
        {
            File.Delete(path);
            throw;
        }
    }

    /// <summary>Whether a PNG has an opacity: films have none, and what is not there is black in them.</summary>
    private static bool HasHoles(string png)
    {
        using var file = File.OpenRead(png);
        Span<byte> head = stackalloc byte[26];
        return file.ReadAtLeast(head, head.Length, throwOnEndOfStream: false) == head.Length && head[25] is 4 or 6;
    }

    /// <summary>Encodes pictures in this order, a frame each.</summary>
    /// <param name="sound">Bare samples as long as the film, as <see cref="SoundMix"/> writes them; null for a silent one.</param>
    /// <param name="report">Is told now and then how much is made, from 0 to 1.</param>
    /// <exception cref="Refusal">ffmpeg is missing or fails.</exception>
    public static async Task EncodeAsync(IReadOnlyList<string> pictures, double framesPerSecond, string path, FilmFormat format, Action<double> report, CancellationToken cancel, string? sound = null)
    {
        // A list by name, since a picture may be shown for several frames.
        // Names of their own, since several may be made at once; what is left of them after a kill is cleared away at the next start.
        var mark = $"{path}.{Guid.NewGuid():N}.part";
        var (list, part) = (mark + ".txt", mark + format.Ending);
        var rate = framesPerSecond.ToString("R", System.Globalization.CultureInfo.InvariantCulture);
        var lines = pictures.Select(p => $"file '{p.Replace("'", "'\\''", StringComparison.Ordinal)}'\nduration {(1 / framesPerSecond).ToString("R", System.Globalization.CultureInfo.InvariantCulture)}");
        var isOpaque = format.Ending is ".mp4" or ".webm";
        try
        {
            await File.WriteAllTextAsync(list, string.Join('\n', lines) + "\n", cancel);
            var input = FFMpegArguments.FromFileInput(list, verifyExists: true, o => o.WithCustomArgument("-f concat -safe 0"));
            if (sound is not null)
            {
                input.AddFileInput(sound, verifyExists: true, o => o.WithCustomArgument(SoundMix.Bare));
            }
            await input
                .OutputToFile(part, overwrite: true, o => o
                    .WithCustomArgument($"-vf \"setpts=N/({rate}*TB),{(isOpaque && HasHoles(pictures[0]) ? "format=rgba,premultiply=inplace=1," : "")}{format.Filter}\" -r {rate} {format.Options}{(sound is null ? "" : $" -map 0:v:0 -map 1:a:0 {format.Sound}")}"))
                .NotifyOnProgress(percent => report(Math.Clamp(percent / 100, 0, 1)), TimeSpan.FromSeconds(pictures.Count / framesPerSecond))
                .CancellableThrough(cancel)
                .ProcessAsynchronously();
            File.Move(part, path, overwrite: true);
        }
        catch (Exception e) when (e is System.ComponentModel.Win32Exception or Instances.Exceptions.InstanceFileNotFoundException
            || e.Message.Contains("No such file", StringComparison.Ordinal) && !IsInstalled())
        {
            throw new Refusal("Films are made by ffmpeg, which is not installed: run “apt-get install ffmpeg” and try again. The pictures are all there.", e);
        }
        catch (FFMpegException e)
        {
            throw new Refusal($"ffmpeg could not make the film: {e.FFMpegErrorOutput.Split('\n', StringSplitOptions.RemoveEmptyEntries).LastOrDefault() ?? e.Message}", e);
        }
        finally
        {
            File.Delete(list);
            File.Delete(part);
        }
    }

    private static bool IsInstalled() => (Environment.GetEnvironmentVariable("PATH") ?? "").Split(':')
        .Any(p => p.Length > 0 && File.Exists(Path.Combine(p, "ffmpeg")));
}
