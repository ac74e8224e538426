using Bradymotus.Core;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Time;
using Bradymotus.Render;
using Bradymotus.Render.Pictures;
using Bradymotus.Server.Api;
using Bradymotus.Server.Store;
using Hangfire;

namespace Bradymotus.Server.Rendering;

/// <summary>What shall be rendered.</summary>
/// <param name="ShotId">Whose newest state is rendered; later edits change nothing of it.</param>
/// <param name="Frames"><c>A</c>, <c>A-B</c> or <c>A-B/STEP</c>, at most 20,000 frames.</param>
/// <param name="Width">In pixels, 1 to <see cref="PictureSize.MostPixels"/>.</param>
/// <param name="Height">In pixels, as the width.</param>
/// <param name="Quality"><c>draft</c>, <c>preview</c> or <c>final</c>.</param>
/// <param name="Camera">Its name or id; null is the shot's own.</param>
/// <param name="FileName">How the pictures are called, a run of # for the number of the frame; null is <c>shot_####.png</c>.</param>
public sealed record RenderOrder(string ShotId, string Frames, int Width, int Height, string Quality, string? Camera = null, string? FileName = null);

/// <summary>Takes orders of sequences, and what is said of them afterwards.</summary>
public sealed class RenderOrders(ShotLibrary library, RenderStore store, RenderWorker worker, RenderNews news, TimeProvider clock, IBackgroundJobClient jobs)
{
    /// <summary>The most frames of one order.</summary>
    private const int MostFrames = 20_000;

    /// <summary>Checks an order and puts it into the queue.</summary>
    /// <exception cref="Refusal">Size, frames, name, quality or camera cannot be used; nothing has been queued.</exception>
    public async Task<RenderView> OrderAsync(RenderOrder order, CancellationToken cancel)
    {
        var steps = FrameSteps.Parse(order.Frames);
        if (steps.Count > MostFrames)
        {
            throw new Refusal($"The order has {steps.Count} frames; at most {MostFrames} are taken at once: render them in parts.");
        }
        var size = new PictureSize(order.Width, order.Height);
        size.Validate();
        var name = new FileNamePattern(order.FileName ?? "shot_####.png");
        var quality = ParseQuality(order.Quality);
        var (shot, revision) = await library.InUseAsync(order.ShotId, cancel);
        _ = shot.RenderCamera(order.Camera) ?? throw new Refusal($"The shot “{shot.Name}” has no camera: add one and point it at the scene.");
        var row = new RenderRow
        {
            Id = Guid.NewGuid().ToString("N"),
            ShotId = order.ShotId,
            ShotName = shot.Name,
            ShotRevision = revision,
            ShotAsset = store.PutShot(shot),
            Frames = steps.ToString(),
            Width = size.Width,
            Height = size.Height,
            Quality = quality,
            Camera = order.Camera,
            FileName = name.Text,
            FramesPerSecond = shot.Rate.FramesPerSecond,
            Created = clock.GetUtcNow().UtcDateTime,
        };
        await store.AddAsync(row, steps, cancel);
        Enqueue(row.Id);
        return await news.TellAsync(row.Id);
    }

    /// <summary>At start: everything that was not finished goes on.</summary>
    public async Task ResumeUnfinishedAsync(CancellationToken cancel)
    {
        await store.MoveShotsAsync(cancel);
        await store.LookForPicturesAsync(cancel);
        foreach (var id in await store.UnfinishedAsync(cancel))
        {
            Enqueue(id);
        }
    }

    /// <summary>Stops a render after at most a row of pixels. What is done stays.</summary>
    public async Task CancelAsync(string id, CancellationToken cancel)
    {
        if (await store.SetStateAsync(id, RenderState.Cancelled, null, cancel, RenderState.Queued, RenderState.Running))
        {
            await worker.StopAsync(id);
            await news.TellAsync(id);
        }
    }

    /// <summary>Goes on with a render that was cancelled or failed.</summary>
    public async Task ResumeAsync(string id, CancellationToken cancel)
    {
        if (await store.SetStateAsync(id, RenderState.Queued, null, cancel, RenderState.Cancelled, RenderState.Failed))
        {
            // Whoever asked may have gone away meanwhile: what is said to be waiting has to come into the queue.
            await store.ForgetBegunAsync(id, CancellationToken.None);
            Enqueue(id);
            await news.TellAsync(id);
        }
    }

    /// <summary>Marks a sequence to be kept, or not.</summary>
    public async Task<RenderView> SetKeptAsync(string id, bool kept, CancellationToken cancel)
    {
        await store.SetKeptAsync(id, kept, cancel);
        return await news.TellAsync(id);
    }

    /// <summary>Puts a sequence into the trash, or takes it back. What is still rendering stops. Its pictures are removed a day later.</summary>
    /// <exception cref="Refusal">It is marked to be kept.</exception>
    public async Task<RenderView> SetDeletedAsync(string id, bool deleted, CancellationToken cancel)
    {
        if (deleted)
        {
            if (await store.IsKeptAsync(id, cancel))
            {
                throw new Refusal("This sequence is kept: take that mark away first, and it can be removed.");
            }
            await CancelAsync(id, cancel);
        }
        await store.SetDeletedAsync(id, deleted, cancel);
        return await news.TellAsync(id);
    }

    private void Enqueue(string id) => jobs.Enqueue<RenderWorker>(w => w.RunAsync(id, CancellationToken.None));

    private static string ParseQuality(string? text) => Enum.TryParse<Quality>(text, ignoreCase: true, out var quality) && Enum.IsDefined(quality) && !int.TryParse(text, out _)
        ? quality.ToString()
        : throw new Refusal($"The quality “{text}” is not known: use draft, preview or final.");
}
