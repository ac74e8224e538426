using Bradymotus.Core;
using Bradymotus.Render.Pictures;
using Bradymotus.Server.Store;
using FFMpegCore;
using FFMpegCore.Enums;
using FFMpegCore.Exceptions;

namespace Bradymotus.Server.Rendering;

/// <summary>A sequence of pictures as an H.264 film, by the ffmpeg of the system.</summary>
public sealed class Film(RenderQueue renders, DataFolder folder, Live.Announcer announcer)
{
    /// <summary>Makes the film of all finished frames.</summary>
    /// <param name="times">How often the sequence plays, one after the other.</param>
    /// <returns>The path of the file.</returns>
    /// <exception cref="Refusal">No frame is done, or ffmpeg is missing or fails.</exception>
    public async Task<string> MakeAsync(string renderId, int times, CancellationToken cancel)
    {
        if (times is < 1 or > 100)
        {
            throw new Refusal($"A film cannot repeat {times} times: choose 1 to 100.");
        }
        var row = await renders.GetAsync(renderId, cancel);
        var names = new FileNamePattern(row.FileName);
        var files = row.FrameRows.Where(f => f.State == RenderState.Done).OrderBy(f => f.Frame)
            .Select(f => Path.Combine(folder.Render(renderId), names.Name(f.Frame))).ToList();
        if (files.Count == 0)
        {
            throw new Refusal("There is no finished frame to make a film of: wait for the first one.");
        }
        var path = Path.Combine(folder.Render(renderId), "film.mp4");
        var shot = Core.Serialization.ShotJson.ReadShot(row.ShotJson);
        string? sound = null;
        try
        {
            if (SoundMix.IsAny(shot))
            {
                sound = PartOf(path);
                await SoundMix.WriteAsync(sound, shot, [.. Enumerable.Repeat(DoneOf(row), times).SelectMany(f => f)], row.FramesPerSecond, folder.Assets.Read, cancel);
            }
            await EncodeAsync(files, row.FramesPerSecond, times, path, part => _ = announcer.FilmAsync(renderId, part), cancel, sound);
        }
        finally
        {
            if (sound is not null)
            {
                File.Delete(sound);
            }
        }
        return path;
    }

    private static string PartOf(string path) => $"{path}.{Guid.NewGuid():N}.part.wav";

    private static IEnumerable<int> DoneOf(RenderRow row) => row.FrameRows.Where(f => f.State == RenderState.Done).OrderBy(f => f.Frame).Select(f => f.Frame);

    /// <summary>What is heard under the finished pictures of a sequence, as a WAV that is gone once it is closed; null where that is nothing.</summary>
    /// <exception cref="Refusal">The bytes of a sound are not there.</exception>
    public async Task<Stream?> SoundAsync(string renderId, CancellationToken cancel)
    {
        var row = await renders.GetAsync(renderId, cancel);
        var shot = Core.Serialization.ShotJson.ReadShot(row.ShotJson);
        if (!SoundMix.IsAny(shot) || !DoneOf(row).Any())
        {
            return null;
        }
        var path = PartOf(Path.Combine(folder.Render(renderId), "sound"));
        try
        {
            await SoundMix.WriteAsync(path, shot, [.. DoneOf(row)], row.FramesPerSecond, folder.Assets.Read, cancel);
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

    /// <summary>Encodes pictures in this order.</summary>
    /// <param name="sound">A WAV as long as the film; null for a silent one.</param>
    /// <param name="report">Is told now and then how much is made, from 0 to 1.</param>
    /// <exception cref="Refusal">ffmpeg is missing or fails.</exception>
    public static async Task EncodeAsync(IReadOnlyList<string> pictures, double framesPerSecond, int times, string path, Action<double> report, CancellationToken cancel, string? sound = null)
    {
        // A list by name, since the numbers of the frames may have gaps.
        // Names of their own, since several may be made at once; what is left of them after a kill is cleared away at the next start.
        var mark = $"{path}.{Guid.NewGuid():N}.part";
        var (list, part) = (mark + ".txt", mark + ".mp4");
        var rate = framesPerSecond.ToString("R", System.Globalization.CultureInfo.InvariantCulture);
        var lines = Enumerable.Repeat(pictures, times).SelectMany(p => p)
            .Select(p => $"file '{p.Replace("'", "'\\''", StringComparison.Ordinal)}'\nduration {(1 / framesPerSecond).ToString("R", System.Globalization.CultureInfo.InvariantCulture)}");
        try
        {
            await File.WriteAllTextAsync(list, string.Join('\n', lines) + "\n", cancel);
            var input = FFMpegArguments.FromFileInput(list, verifyExists: true, o => o.WithCustomArgument("-f concat -safe 0"));
            if (sound is not null)
            {
                input.AddFileInput(sound);
            }
            await input
                .OutputToFile(part, overwrite: true, o => o
                    .WithVideoCodec(VideoCodec.LibX264)
                    .WithConstantRateFactor(17)
                    // Even sides, and the colours of the pictures written down as what they are.
                    .WithCustomArgument($"-vf \"setpts=N/({rate}*TB),{(HasHoles(pictures[0]) ? "format=rgba,premultiply=inplace=1," : "")}pad=ceil(iw/2)*2:ceil(ih/2)*2,scale=out_color_matrix=bt709:out_range=tv,format=yuv420p\" -r {rate} -colorspace bt709 -color_primaries bt709 -color_trc iec61966-2-1 -movflags +faststart{(sound is null ? "" : " -map 0:v:0 -map 1:a:0 -c:a aac -b:a 192k")}"))
                .NotifyOnProgress(percent => report(Math.Clamp(percent / 100, 0, 1)), TimeSpan.FromSeconds(pictures.Count * times / framesPerSecond))
                .CancellableThrough(cancel)
                .ProcessAsynchronously();
            File.Move(part, path, overwrite: true);
        }
        catch (Exception e) when (e is System.ComponentModel.Win32Exception or Instances.Exceptions.InstanceFileNotFoundException || e.Message.Contains("No such file", StringComparison.Ordinal) && !IsInstalled())
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
