using Bradymotus.Core;
using Bradymotus.Core.Scene;
using Bradymotus.Render;
using Microsoft.Extensions.Caching.Hybrid;

namespace Bradymotus.Server.Api;

/// <summary>
/// Small pictures of shots, kept in memory for a while. Each is made once, however many ask for it at a time, one after the
/// other; one that takes too long is left out.
/// </summary>
public sealed class Thumbnails(HybridCache cache, DataFolder folder, TimeProvider clock) : IDisposable
{
    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(10);

    // Each uses every processor.
    private readonly SemaphoreSlim _gate = new(1);

    /// <summary>A PNG file, or nothing where it could not be made in time.</summary>
    public async Task<byte[]> OfAsync(string id, int revision, Shot shot, CancellationToken cancel) => await cache.GetOrCreateAsync(
        $"{id}/{revision}", async stop =>
        {
            await _gate.WaitAsync(stop);
            try
            {
                return await Task.Run(() => Make(shot, stop), stop);
            }
            finally
            {
                _gate.Release();
            }
        }, cancellationToken: cancel);

    public void Dispose() => _gate.Dispose();

    private byte[] Make(Shot shot, CancellationToken cancel)
    {
        using var limit = new CancellationTokenSource(Longest, clock);
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel, limit.Token);
        try
        {
            var height = Math.Clamp((int)(384 / shot.Size.Aspect), 1, 1024);
            var frame = (shot.Range.First + shot.Range.Last) / 2;
            return new FrameRenderer(shot, assets: folder.Assets.ForShots).Render(frame, new(384, height), Quality.Preview, samples: 4, cancel: stop.Token).ToPng();
        }
        catch (Exception e) when (e is Refusal || (e is OperationCanceledException && !cancel.IsCancellationRequested))
        {
            // A camera that cannot see, or a scene that is too large for a small picture.
            return [];
        }
    }
}
