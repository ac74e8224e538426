using System.Security.Cryptography;
using Bradymotus.Core;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Render;
using Microsoft.Extensions.Caching.Hybrid;
using Microsoft.Extensions.Logging;

namespace Bradymotus.Server.Api;

/// <summary>
/// Small pictures of shots, and of materials as shots of a sample. Each is made once, however many ask for it at a time, one after the other, and kept
/// in the data folder by what the shot is: one that looks the same, after an undo or as a copy, has it already. One that takes too long is left out.
/// </summary>
public sealed partial class Thumbnails(HybridCache cache, DataFolder folder, TimeProvider clock, ILogger<Thumbnails> log) : IDisposable
{
    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(10);

    /// <summary>How pictures are made: another number where they come out otherwise than before.</summary>
    private const int Version = 1;

    /// <summary>So many are kept, the ones that were asked for last.</summary>
    private const int MostKept = 1000;

    // Each uses every processor.
    private readonly SemaphoreSlim _gate = new(1);

    /// <summary>A picture of a shot as a PNG file, or nothing where it could not be made in time.</summary>
    public Task<byte[]> OfAsync(string id, int revision, Shot shot, CancellationToken cancel)
    {
        var size = new PictureSize(384, Math.Clamp((int)(384 / shot.Size.Aspect), 1, 1024));
        return KeptOrMadeAsync($"{id}/{revision}", shot, "", stop => Make(shot, (shot.Range.First + shot.Range.Last) / 2, size, Quality.Preview, 4, stop), cancel);
    }

    /// <summary>A picture of the first frame of a sample, square and with little grain.</summary>
    /// <param name="name">What nothing else is called.</param>
    public Task<byte[]> OfSampleAsync(string name, Shot sample, CancellationToken cancel) =>
        KeptOrMadeAsync(name, sample, ".sample", stop => Make(sample, 0, new(80, 80), Quality.Final, 24, stop), cancel);

    private async Task<byte[]> KeptOrMadeAsync(string key, Shot shot, string kind, Func<CancellationToken, byte[]> make, CancellationToken cancel) => await cache.GetOrCreateAsync(
        key, async stop =>
        {
            var file = Path.Combine(folder.Thumbnails, $"{Convert.ToHexStringLower(SHA256.HashData(ShotJson.WriteBytes(shot)))}.{Version}{kind}.png");
            if (await KeptAsync(file, stop) is { } kept)
            {
                return kept;
            }
            await _gate.WaitAsync(stop);
            try
            {
                var made = await Task.Run(() => make(stop), stop);
                if (made.Length > 0)
                {
                    await KeepAsync(file, made, stop);
                }
                return made;
            }
            finally
            {
                _gate.Release();
            }
        }, cancellationToken: cancel);

    private static async Task<byte[]?> KeptAsync(string file, CancellationToken cancel)
    {
        try
        {
            var kept = await File.ReadAllBytesAsync(file, cancel);
            File.SetLastWriteTimeUtc(file, DateTime.UtcNow);
            return kept;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    /// <summary>Keeps one, and takes out those that nobody has asked for longest. That it cannot be kept, as on a full disk, is no reason not to show it.</summary>
    private async Task KeepAsync(string file, byte[] made, CancellationToken cancel)
    {
        var part = $"{file}.{Guid.NewGuid():n}.part";
        try
        {
            await File.WriteAllBytesAsync(part, made, cancel);
            File.Move(part, file, overwrite: true);
            var all = new DirectoryInfo(folder.Thumbnails).GetFiles("*.png");
            foreach (var old in all.OrderByDescending(f => f.LastWriteTimeUtc).Skip(MostKept))
            {
                old.Delete();
            }
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            LogNotKept(log, e);
        }
    }

    [LoggerMessage(LogLevel.Warning, "A small picture could not be kept.")]
    private static partial void LogNotKept(ILogger log, Exception e);

    public void Dispose() => _gate.Dispose();

    private byte[] Make(Shot shot, int frame, PictureSize size, Quality quality, int samples, CancellationToken cancel)
    {
        using var limit = new CancellationTokenSource(Longest, clock);
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel, limit.Token);
        try
        {
            return new FrameRenderer(shot, assets: folder.Assets.ForShots).Render(frame, size, quality, samples: samples, cancel: stop.Token).ToPng();
        }
        catch (Exception e) when (e is Refusal || (e is OperationCanceledException && !cancel.IsCancellationRequested))
        {
            // A camera that cannot see, or a scene that is too large for a small picture.
            return [];
        }
    }
}
