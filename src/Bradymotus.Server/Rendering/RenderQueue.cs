using System.Collections.Concurrent;
using System.Diagnostics;
using Bradymotus.Core;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Core.Time;
using Bradymotus.Render;
using Bradymotus.Render.Pictures;
using Bradymotus.Server.Store;
using Hangfire;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;

namespace Bradymotus.Server.Rendering;

/// <summary>What shall be rendered.</summary>
public sealed record RenderOrder(string ShotId, string Frames, int Width, int Height, string Quality, string? Camera = null, string? FileName = null);

/// <summary>
/// Rendered sequences. The rows of the database are the truth: which frames there are, which are done. A restart goes on where they say.
/// </summary>
public sealed partial class RenderQueue(
    IDbContextFactory<StoreContext> contexts, ShotLibrary library, DataFolder folder, TimeProvider clock,
    IBackgroundJobClient jobs, Live.Announcer announcer, ILogger<RenderQueue> log)
{
    /// <summary>The most frames of one order.</summary>
    private const int MostFrames = 20_000;

    /// <summary>A frame that was begun so often and never finished has ended the program.</summary>
    private const int MostBegun = 2;

    private static readonly TimeSpan KeptWhenDeleted = TimeSpan.FromDays(1);

    private readonly ConcurrentDictionary<string, CancellationTokenSource> _running = new();

    /// <summary>Checks an order and puts it into the queue.</summary>
    /// <exception cref="Refusal">Size, frames, name, quality or camera cannot be used; nothing has been queued.</exception>
    public async Task<RenderRow> OrderAsync(RenderOrder order, CancellationToken cancel)
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
            ShotJson = ShotJson.Write(shot),
            Frames = steps.ToString(),
            Width = size.Width,
            Height = size.Height,
            Quality = quality,
            Camera = order.Camera,
            FileName = name.Text,
            FramesPerSecond = shot.Rate.FramesPerSecond,
            Created = clock.GetUtcNow().UtcDateTime,
        };
        foreach (var frame in steps.Frames())
        {
            row.FrameRows.Add(new() { RenderId = row.Id, Frame = frame });
        }
        await using var db = await contexts.CreateDbContextAsync(cancel);
        db.Renders.Add(row);
        await db.SaveChangesAsync(cancel);
        Enqueue(row.Id);
        await announcer.RenderAsync(row);
        return row;
    }

    /// <summary>At start: everything that was not finished goes on, and what was put away long ago is removed.</summary>
    public async Task ResumeUnfinishedAsync(CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        await RemoveDeletedAsync(db, cancel);
        var unfinished = await db.Renders.Where(r => r.Deleted == null).Where(r => r.State == RenderState.Queued || r.State == RenderState.Running)
            .OrderBy(r => r.Created).Select(r => r.Id).ToListAsync(cancel);
        foreach (var id in unfinished)
        {
            Enqueue(id);
        }
    }

    /// <summary>Stops a render after at most a row of pixels. What is done stays.</summary>
    public async Task CancelAsync(string id, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var row = await FindAsync(db, id, cancel);
        if (row.State is RenderState.Queued or RenderState.Running)
        {
            row.State = RenderState.Cancelled;
            await db.SaveChangesAsync(cancel);
            if (_running.TryGetValue(id, out var running))
            {
                await running.CancelAsync();
            }
            await announcer.RenderAsync(row);
        }
    }

    /// <summary>Goes on with a render that was cancelled or failed.</summary>
    public async Task ResumeAsync(string id, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var row = await FindAsync(db, id, cancel);
        if (row.State is RenderState.Cancelled or RenderState.Failed)
        {
            (row.State, row.Message) = (RenderState.Queued, null);
            foreach (var frame in row.FrameRows)
            {
                frame.Begun = 0;
            }
            await db.SaveChangesAsync(cancel);
            Enqueue(id);
            await announcer.RenderAsync(row);
        }
    }

    public async Task<RenderRow> SetKeptAsync(string id, bool kept, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var row = await FindAsync(db, id, cancel);
        row.Kept = kept;
        await db.SaveChangesAsync(cancel);
        return row;
    }

    /// <summary>Puts a sequence away, or brings it back. What is still rendering stops. Its pictures are removed at a start a day later.</summary>
    public async Task<RenderRow> SetDeletedAsync(string id, bool deleted, CancellationToken cancel)
    {
        if (deleted)
        {
            await CancelAsync(id, cancel);
        }
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var row = await FindAsync(db, id, cancel);
        row.Deleted = deleted ? clock.GetUtcNow().UtcDateTime : null;
        await db.SaveChangesAsync(cancel);
        await (deleted ? announcer.RenderRemovedAsync(id) : announcer.RenderAsync(row));
        return row;
    }

    private async Task RemoveDeletedAsync(StoreContext db, CancellationToken cancel)
    {
        var before = clock.GetUtcNow().UtcDateTime - KeptWhenDeleted;
        foreach (var row in await db.Renders.Where(r => r.Deleted != null && r.Deleted < before).ToListAsync(cancel))
        {
            if (Directory.Exists(folder.Render(row.Id)))
            {
                Directory.Delete(folder.Render(row.Id), recursive: true);
            }
            await db.RenderFrames.Where(f => f.RenderId == row.Id).ExecuteDeleteAsync(cancel);
            db.Renders.Remove(row);
            await db.SaveChangesAsync(cancel);
        }
    }

    /// <summary>The newest first.</summary>
    public async Task<List<RenderRow>> ListAsync(string? shotId, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await db.Renders.Where(r => r.Deleted == null && (shotId == null || r.ShotId == shotId)).Include(r => r.FrameRows)
            .OrderByDescending(r => r.Created).Take(200).AsNoTracking().AsSplitQuery().ToListAsync(cancel);
    }

    public async Task<RenderRow> GetAsync(string id, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await FindAsync(db, id, cancel);
    }

    /// <summary>The file of a finished frame.</summary>
    /// <exception cref="NotFoundException">It is not there (yet).</exception>
    public async Task<string> FileAsync(string id, int frame, CancellationToken cancel)
    {
        var row = await GetAsync(id, cancel);
        var path = Path.Combine(folder.Render(id), new FileNamePattern(row.FileName).Name(frame));
        return File.Exists(path) ? path : throw new NotFoundException("rendered frame", $"{id}/{frame}");
    }

    /// <summary>Renders what is left of a sequence. Called by the queue.</summary>
    [AutomaticRetry(Attempts = 0)]
    public async Task RunAsync(string id, CancellationToken shutdown)
    {
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(shutdown);
        if (!_running.TryAdd(id, stop))
        {
            return;
        }
        try
        {
            await RenderAsync(id, stop.Token);
        }
        catch (OperationCanceledException)
        {
            LogStopped(id);
        }
        catch (Exception e) when (e is Refusal or IOException or UnauthorizedAccessException or DbUpdateException)
        {
            await FailAsync(id, e.Message);
        }
        catch (Exception e)
        {
            // Not foreseen: it must not look as if it were still going on.
            await FailAsync(id, $"Something went wrong while rendering ({e.GetType().Name}); the log of the server says what.");
            throw;
        }
        finally
        {
            _running.TryRemove(id, out _);
        }
    }

    private async Task RenderAsync(string id, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var row = await FindAsync(db, id, cancel);
        if (row.State is not (RenderState.Queued or RenderState.Running))
        {
            return;
        }
        row.State = RenderState.Running;
        Directory.CreateDirectory(folder.Render(id));
        var renderer = new FrameRenderer(ShotJson.ReadShot(row.ShotJson), row.Camera, folder.Assets.ForShots);
        var names = new FileNamePattern(row.FileName);
        var quality = Enum.Parse<Quality>(row.Quality, ignoreCase: true);
        var announced = Stopwatch.StartNew();
        var left = row.FrameRows.OrderBy(f => f.Frame).Where(f => f.State != RenderState.Done).ToList();
        for (var i = 0; i < left.Count; i++)
        {
            var frame = left[i];
            cancel.ThrowIfCancellationRequested();
            if (i == 0)
            {
                Begin(frame);
                await db.SaveChangesAsync(cancel);
                await announcer.RenderAsync(row);
            }
            var watch = Stopwatch.StartNew();
            try
            {
                var picture = renderer.Render(frame.Frame, new(row.Width, row.Height), quality, cancel: cancel);
                picture.WritePng(Path.Combine(folder.Render(id), names.Name(frame.Frame)));
            }
            catch
            {
                // Stopped, or failed with a sentence: it did not end the program.
                frame.Begun--;
                await db.SaveChangesAsync(CancellationToken.None);
                throw;
            }
            (frame.State, frame.Milliseconds, frame.Begun) = (RenderState.Done, watch.Elapsed.TotalMilliseconds, 0);
            if (i + 1 < left.Count)
            {
                Begin(left[i + 1]);
            }
            await db.SaveChangesAsync(cancel);
            // The whole list of frames goes out each time: a long, quick sequence need not do so for every picture.
            if (announced.ElapsedMilliseconds >= 200)
            {
                announced.Restart();
                await announcer.RenderAsync(row);
            }
        }
        row.State = RenderState.Done;
        await db.SaveChangesAsync(cancel);
        await announcer.RenderAsync(row);
    }

    private static void Begin(RenderFrameRow frame)
    {
        if (frame.Begun >= MostBegun)
        {
            throw new Refusal($"Frame {frame.Frame} has ended the program {frame.Begun} times and is not tried again: look at the scene on that frame, then resume.");
        }
        frame.Begun++;
    }

    private async Task FailAsync(string id, string message)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var row = await FindAsync(db, id, CancellationToken.None);
        (row.State, row.Message) = (RenderState.Failed, message);
        await db.SaveChangesAsync();
        await announcer.RenderAsync(row);
    }

    private void Enqueue(string id) => jobs.Enqueue<RenderQueue>(q => q.RunAsync(id, CancellationToken.None));

    private static async Task<RenderRow> FindAsync(StoreContext db, string id, CancellationToken cancel) =>
        await db.Renders.Include(r => r.FrameRows).SingleOrDefaultAsync(r => r.Id == id, cancel) ?? throw new NotFoundException("render", id);

    private static string ParseQuality(string? text) => Enum.TryParse<Quality>(text, ignoreCase: true, out var quality) && Enum.IsDefined(quality) && !int.TryParse(text, out _)
        ? quality.ToString()
        : throw new Refusal($"The quality “{text}” is not known: use draft, preview or final.");

    [LoggerMessage(LogLevel.Information, "Render {Id} stopped; its finished frames are kept.")]
    private partial void LogStopped(string id);
}
