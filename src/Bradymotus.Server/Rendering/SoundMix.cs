using System.Buffers.Binary;
using System.Globalization;
using System.Runtime.InteropServices;
using Bradymotus.Core;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;
using Bradymotus.Reader;
using FFMpegCore;

namespace Bradymotus.Server.Rendering;

/// <summary>What is heard under a row of frames, for a film of them.</summary>
public static class SoundMix
{
    private const int Rate = SoundFile.Rate;

    /// <summary>How ffmpeg is told of samples without a head.</summary>
    public static string Bare { get; } = FormattableString.Invariant($"-f s16le -ar {Rate} -ac 2");

    /// <summary>Whether anything of a shot's sounds is to be heard at all.</summary>
    public static bool IsAny(Shot shot) => shot.Sounds.Any(s => !s.Muted);

    /// <summary>
    /// Writes the sounds of a shot as a WAV of two channels. Each frame of the film sounds as the shot does from its frame on, for as long as a frame of the film lasts.
    /// </summary>
    /// <param name="frames">The frames of the film, in order; they may have gaps and come back.</param>
    /// <param name="framesPerSecond">Of the film.</param>
    /// <param name="read">The bytes of an asset; null where it is not there.</param>
    /// <param name="isBare">Only the samples, as <see cref="Bare"/> says, which have no bound; a WAV counts its bytes in 32 bits.</param>
    /// <exception cref="Refusal">The bytes of a sound are not there.</exception>
    public static async Task WriteAsync(string path, Shot shot, IReadOnlyList<int> frames, double framesPerSecond, Func<string, byte[]?> read, bool isBare, CancellationToken cancel)
    {
        var sounds = new List<(Sound Sound, string File)>();
        try
        {
            foreach (var sound in shot.Sounds.Where(s => !s.Muted))
            {
                var flac = $"{path}.{sounds.Count}.flac";
                var raw = $"{path}.{sounds.Count}.raw";
                sounds.Add((sound, raw));
                await File.WriteAllBytesAsync(flac, read(sound.Asset) ?? throw new Refusal($"The sound “{sound.Name}” is not here: add it again."), cancel);
                try
                {
                    await FFMpegArguments
                        .FromFileInput(flac, verifyExists: true, o => o.WithCustomArgument(SoundFile.Safe))
                        .OutputToFile(raw, overwrite: true, o => o.WithCustomArgument($"-f s16le -ac 2 -ar {Rate.ToString(CultureInfo.InvariantCulture)}"))
                        .CancellableThrough(cancel)
                        .ProcessAsynchronously();
                }
                finally
                {
                    File.Delete(flac);
                }
            }
            await Task.Run(() => Mix(path, shot, sounds, frames, framesPerSecond, isBare, cancel), cancel);
        }
        finally
        {
            foreach (var (_, file) in sounds)
            {
                File.Delete(file);
            }
        }
    }

    private static void Mix(string path, Shot shot, List<(Sound Sound, string File)> sounds, IReadOnlyList<int> frames, double framesPerSecond, bool isBare, CancellationToken cancel)
    {
        var compiled = new CompiledShot(shot);
        var files = sounds.ConvertAll(s => File.OpenRead(s.File));
        try
        {
            using var wave = File.Create(path);
            if (!isBare)
            {
                WriteHead(wave, SamplesBefore(frames.Count, framesPerSecond));
            }
            var levels = new double[2];
            long done = 0;
            for (var f = 0; f < frames.Count; f++)
            {
                cancel.ThrowIfCancellationRequested();
                var next = SamplesBefore(f + 1, framesPerSecond);
                var sum = new double[2 * (next - done)];
                for (var s = 0; s < sounds.Count; s++)
                {
                    // From this frame to the one that the next picture shows when nothing is left out.
                    compiled.Sample(new(sounds[s].Sound.Id, Sound.Level), frames[f], shot.Rate.FramesPerSecond / framesPerSecond, levels);
                    var first = (long)Math.Round((frames[f] - sounds[s].Sound.Start) * (double)Rate / shot.Rate.FramesPerSecond);
                    Add(files[s], first, Math.Clamp(levels[0], 0, 4), Math.Clamp(levels[1], 0, 4), sum);
                }
                var samples = new short[sum.Length];
                for (var i = 0; i < sum.Length; i++)
                {
                    samples[i] = (short)Math.Clamp(Math.Round(sum[i]), short.MinValue, short.MaxValue);
                }
                wave.Write(MemoryMarshal.AsBytes(samples.AsSpan()));
                done = next;
            }
        }
        finally
        {
            files.ForEach(f => f.Dispose());
        }
    }

    private static long SamplesBefore(int frame, double framesPerSecond) => (long)Math.Round(frame * (double)Rate / framesPerSecond);

    /// <summary>Adds a stretch of a sound, from one loudness to another; nothing before its beginning and after its end.</summary>
    private static void Add(FileStream file, long first, double from, double to, double[] sum)
    {
        var count = sum.Length / 2;
        var (skip, length) = (Math.Max(0, -first), file.Length / 4);
        var take = (int)Math.Clamp(Math.Min(count, length - first) - skip, 0, count);
        if (take == 0)
        {
            return;
        }
        var samples = new short[2 * take];
        file.Position = 4 * (first + skip);
        file.ReadExactly(MemoryMarshal.AsBytes(samples.AsSpan()));
        for (var i = 0; i < take; i++)
        {
            var at = (int)skip + i;
            var level = from + (to - from) * at / count;
            sum[2 * at] += level * samples[2 * i];
            sum[2 * at + 1] += level * samples[2 * i + 1];
        }
    }

    // RIFF WAVE of 16 bits, two channels (Microsoft and IBM, 1991).
    private static void WriteHead(Stream to, long count)
    {
        if (4 * count > uint.MaxValue - 36)
        {
            throw new Refusal("This sequence is too long to be heard here: a WAV holds six hours. A film of it has its sound.");
        }
        Span<byte> head = stackalloc byte[44];
        var bytes = (uint)(4 * count);
        "RIFF"u8.CopyTo(head);
        BinaryPrimitives.WriteUInt32LittleEndian(head[4..], 36 + bytes);
        "WAVEfmt "u8.CopyTo(head[8..]);
        BinaryPrimitives.WriteUInt32LittleEndian(head[16..], 16);
        BinaryPrimitives.WriteUInt16LittleEndian(head[20..], 1);
        BinaryPrimitives.WriteUInt16LittleEndian(head[22..], 2);
        BinaryPrimitives.WriteUInt32LittleEndian(head[24..], Rate);
        BinaryPrimitives.WriteUInt32LittleEndian(head[28..], 4 * Rate);
        BinaryPrimitives.WriteUInt16LittleEndian(head[32..], 4);
        BinaryPrimitives.WriteUInt16LittleEndian(head[34..], 16);
        "data"u8.CopyTo(head[36..]);
        BinaryPrimitives.WriteUInt32LittleEndian(head[40..], bytes);
        to.Write(head);
    }
}
