using System.Collections.Concurrent;
using System.Diagnostics;
using System.Text;
using Bradymotus.Core;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Core.Time;
using Bradymotus.Render;
using Bradymotus.Render.Pictures;
using Bradymotus.Server.Api;
using Bradymotus.Server.Store;
using Hangfire;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Query;
using Microsoft.Extensions.Logging;

namespace Bradymotus.Server.Rendering;

/// <summary>What shall be rendered.</summary>
public sealed record RenderOrder(string ShotId, string Frames, int Width, int Height, string Quality, string? Camera = null, string? FileName = null);

/// <summary>
/// Rendered sequences. The rows of the database are the truth: which frames there are, which are done. A restart goes on where they say.
/// A state is changed in the database, from what it is there, and what is told of it is read from there afterwards.
/// </summary>
public sealed partial class RenderQueue(
    IDbContextFactory<StoreContext> contexts, ShotLibrary library, DataFolder folder, TimeProvider clock,
    IBackgroundJobClient jobs, Live.Announcer announcer, ILogger<RenderQueue> log) : IDisposable
{
    /// <summary>The most frames of one order.</summary>
    private const int MostFrames = 20_000;

    /// <summary>A frame that was begun so often in one run of the machine, and neither finished nor was stopped, has ended the program.</summary>
    private const int MostBegun = 3;

    private static readonly TimeSpan KeptWhenDeleted = TimeSpan.FromDays(1);

    private readonly ConcurrentDictionary<string, CancellationTokenSource> _running = new();

    // One reads at a time, so that a larger number was read later.
    private readonly SemaphoreSlim _reading = new(1);
    private long _version;

    public void Dispose() => _reading.Dispose();

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
            ShotAsset = PutShot(shot),
            Frames = steps.ToString(),
            Width = size.Width,
            Height = size.Height,
            Quality = quality,
            Camera = order.Camera,
            FileName = name.Text,
            FramesPerSecond = shot.Rate.FramesPerSecond,
            Created = clock.GetUtcNow().UtcDateTime,
        };
        await using var db = await contexts.CreateDbContextAsync(cancel);
        // Thousands of rows that are new one by one: none of them has to be looked for changes.
        db.ChangeTracker.AutoDetectChangesEnabled = false;
        db.Renders.Add(row);
        db.RenderFrames.AddRange(steps.Frames().Select(f => new RenderFrameRow { RenderId = row.Id, Frame = f }));
        await db.SaveChangesAsync(cancel);
        Enqueue(row.Id);
        return await AnnounceAsync(row.Id);
    }

    /// <summary>At start: everything that was not finished goes on, and what was put away long ago is removed.</summary>
    public async Task ResumeUnfinishedAsync(CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        await RemoveDeletedAsync(db, cancel);
        await MoveShotsAsync(db, cancel);
        await LookForPicturesAsync(db, cancel);
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
        if (await SetStateAsync(db, id, RenderState.Cancelled, null, cancel, RenderState.Queued, RenderState.Running))
        {
            if (_running.TryGetValue(id, out var running))
            {
                await StopAsync(running);
            }
            await AnnounceAsync(id);
        }
    }

    /// <summary>Goes on with a render that was cancelled or failed.</summary>
    public async Task ResumeAsync(string id, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        if (await SetStateAsync(db, id, RenderState.Queued, null, cancel, RenderState.Cancelled, RenderState.Failed))
        {
            // Whoever asked may have gone away meanwhile: what is said to be waiting has to come into the queue.
            await db.RenderFrames.Where(f => f.RenderId == id).ExecuteUpdateAsync(s => s.SetProperty(f => f.Begun, 0), CancellationToken.None);
            Enqueue(id);
            await AnnounceAsync(id);
        }
    }

    public async Task<RenderView> SetKeptAsync(string id, bool kept, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        await db.Renders.Where(r => r.Id == id).ExecuteUpdateAsync(s => s.SetProperty(r => r.Kept, kept), cancel);
        return await AnnounceAsync(id);
    }

    /// <summary>Puts a sequence away, or brings it back. What is still rendering stops. Its pictures are removed at a start a day later.</summary>
    /// <exception cref="Refusal">It is marked to be kept.</exception>
    public async Task<RenderView> SetDeletedAsync(string id, bool deleted, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        if (deleted)
        {
            if (await db.Renders.AnyAsync(r => r.Id == id && r.Kept, cancel))
            {
                throw new Refusal("This sequence is kept: take that mark away first, and it can be removed.");
            }
            await CancelAsync(id, cancel);
        }
        var when = deleted ? clock.GetUtcNow().UtcDateTime : (DateTime?)null;
        await db.Renders.Where(r => r.Id == id).ExecuteUpdateAsync(s => s.SetProperty(r => r.Deleted, when), cancel);
        return await AnnounceAsync(id);
    }

    private async Task RemoveDeletedAsync(StoreContext db, CancellationToken cancel)
    {
        var before = clock.GetUtcNow().UtcDateTime - KeptWhenDeleted;
        foreach (var row in await db.Renders.Where(r => r.Deleted != null && r.Deleted < before && !r.Kept).ToListAsync(cancel))
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

    /// <summary>The shot of a render as it was when it was ordered.</summary>
    /// <exception cref="Refusal">It is not there.</exception>
    public Shot ShotOf(RenderRow row) => ShotJson.ReadShot(row.ShotAsset is null ? row.ShotJson
        : folder.Assets.Read(row.ShotAsset) is { } bytes ? Encoding.UTF8.GetString(bytes)
        : throw new Refusal($"The state of the shot that made this sequence is not in the data folder any more (assets/{row.ShotAsset}.json): order it anew."));

    private string PutShot(Shot shot)
    {
        var asset = Formats.Asset.Of(ShotJson.WriteBytes(shot));
        folder.Assets.Put(asset);
        return asset.Name;
    }

    /// <summary>Shots of older orders, which lie in their rows, become assets.</summary>
    private async Task MoveShotsAsync(StoreContext db, CancellationToken cancel)
    {
        foreach (var id in await db.Renders.Where(r => r.ShotAsset == null).Select(r => r.Id).ToListAsync(cancel))
        {
            var json = await db.Renders.Where(r => r.Id == id).Select(r => r.ShotJson).SingleAsync(cancel);
            var asset = Formats.Asset.Of(Encoding.UTF8.GetBytes(json));
            folder.Assets.Put(asset);
            await db.Renders.Where(r => r.Id == id).ExecuteUpdateAsync(s => s.SetProperty(r => r.ShotAsset, asset.Name).SetProperty(r => r.ShotJson, ""), cancel);
        }
    }

    /// <summary>A frame that is said to be done, and whose picture is gone, is to be rendered again: at once where its sequence is not finished, else when somebody says so.</summary>
    private async Task LookForPicturesAsync(StoreContext db, CancellationToken cancel)
    {
        foreach (var row in await db.Renders.Where(r => r.Deleted == null).Select(r => new { r.Id, r.FileName, r.State }).ToListAsync(cancel))
        {
            var names = new FileNamePattern(row.FileName);
            var done = await db.RenderFrames.Where(f => f.RenderId == row.Id && f.State == RenderState.Done).Select(f => f.Frame).ToListAsync(cancel);
            var gone = done.Where(f => !File.Exists(Path.Combine(folder.Render(row.Id), names.Name(f)))).ToList();
            foreach (var some in gone.Chunk(500))
            {
                await db.RenderFrames.Where(f => f.RenderId == row.Id && some.Contains(f.Frame)).ExecuteUpdateAsync(s => s.SetProperty(f => f.State, RenderState.Queued), cancel);
            }
            if (gone.Count > 0)
            {
                await SetStateAsync(db, row.Id, RenderState.Failed, $"{(gone.Count == 1 ? "A picture is" : $"{gone.Count} pictures are")} not in the folder any more: resume to render what is missing.", cancel, RenderState.Done);
            }
        }
    }

    /// <summary>The newest first.</summary>
    public async Task<List<RenderView>> ListAsync(string? shotId, CancellationToken cancel)
    {
        var (rows, version) = await ReadAsync(renders => renders.Where(r => r.Deleted == null && (shotId == null || r.ShotId == shotId)).OrderByDescending(r => r.Created).Take(200), cancel);
        return [.. rows.Select(r => RenderView.Of(r, version))];
    }

    /// <summary>How far a render is.</summary>
    public async Task<RenderView> ViewAsync(string id, CancellationToken cancel)
    {
        var (rows, version) = await ReadAsync(renders => renders.Where(r => r.Id == id), cancel);
        return RenderView.Of(rows.SingleOrDefault() ?? throw new NotFoundException("render", id), version);
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
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var name = await db.Renders.Where(r => r.Id == id).Select(r => r.FileName).SingleOrDefaultAsync(cancel) ?? throw new NotFoundException("render", id);
        var path = Path.Combine(folder.Render(id), new FileNamePattern(name).Name(frame));
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
        if (!await SetStateAsync(db, id, RenderState.Running, null, cancel, RenderState.Queued, RenderState.Running))
        {
            return;
        }
        var row = await db.Renders.AsNoTracking().SingleAsync(r => r.Id == id, cancel);
        Directory.CreateDirectory(folder.Render(id));
        var renderer = new FrameRenderer(ShotOf(row), row.Camera, folder.Assets.ForShots);
        var names = new FileNamePattern(row.FileName);
        var quality = Enum.Parse<Quality>(row.Quality, ignoreCase: true);
        var frames = db.RenderFrames.Where(f => f.RenderId == id);
        if (row.Boot != Boot)
        {
            // What ended before the machine was started anew may have ended with it.
            await frames.ExecuteUpdateAsync(s => s.SetProperty(f => f.Begun, 0), cancel);
            await db.Renders.Where(r => r.Id == id).ExecuteUpdateAsync(s => s.SetProperty(r => r.Boot, Boot), cancel);
        }
        // The whole list of frames goes out each time: a long, quick sequence need not do so for every picture.
        var pause = Math.Max(200, await frames.CountAsync(cancel) / 5);
        var announced = Stopwatch.StartNew();
        var left = await frames.Where(f => f.State != RenderState.Done).OrderBy(f => f.Frame).Select(f => new { f.Frame, f.Begun }).ToListAsync(cancel);
        for (var i = 0; i < left.Count; i++)
        {
            var (frame, begun) = (left[i].Frame, left[i].Begun);
            if (begun >= MostBegun)
            {
                throw new Refusal($"Frame {frame} has ended the program {begun} times and is not tried again: look at the scene on that frame, then resume.");
            }
            await SetFrameAsync(db, id, frame, s => s.SetProperty(f => f.Begun, begun + 1), cancel);
            if (i == 0)
            {
                await AnnounceAsync(id);
            }
            var watch = Stopwatch.StartNew();
            try
            {
                cancel.ThrowIfCancellationRequested();
                var picture = renderer.Render(frame, new(row.Width, row.Height), quality, cancel: cancel);
                picture.WritePng(Path.Combine(folder.Render(id), names.Name(frame)));
            }
            catch
            {
                // Stopped, or failed with a sentence: it did not end the program.
                await SetFrameAsync(db, id, frame, s => s.SetProperty(f => f.Begun, begun), CancellationToken.None);
                throw;
            }
            // A picture that is done counts, also where it was the last before a stop.
            await SetFrameAsync(db, id, frame, s => s.SetProperty(f => f.State, RenderState.Done).SetProperty(f => f.Milliseconds, watch.Elapsed.TotalMilliseconds).SetProperty(f => f.Begun, 0), CancellationToken.None);
            if (announced.ElapsedMilliseconds >= pause)
            {
                await AnnounceAsync(id);
                announced.Restart();
            }
        }
        // Stopped after its last picture it is done as well.
        await SetStateAsync(db, id, RenderState.Done, null, CancellationToken.None, RenderState.Running, RenderState.Cancelled);
        await AnnounceAsync(id);
    }

    private static Task<int> SetFrameAsync(StoreContext db, string id, int frame, Action<UpdateSettersBuilder<RenderFrameRow>> set, CancellationToken cancel) =>
        db.RenderFrames.Where(f => f.RenderId == id && f.Frame == frame).ExecuteUpdateAsync(set, cancel);

    /// <summary>This run of the machine, as the system names it; this run of the server where it does not.</summary>
    private static string Boot { get; } = ReadBoot();

    private static string ReadBoot()
    {
        try
        {
            return File.ReadAllText("/proc/sys/kernel/random/boot_id").Trim();
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return Guid.NewGuid().ToString();
        }
    }

    private async Task FailAsync(string id, string message)
    {
        await using var db = await contexts.CreateDbContextAsync();
        await SetStateAsync(db, id, RenderState.Failed, message, CancellationToken.None, RenderState.Queued, RenderState.Running);
        await AnnounceAsync(id);
    }

    /// <summary>Sets a state where the render is in one of some others, in one step. Whether it was.</summary>
    /// <exception cref="NotFoundException">There is no such render.</exception>
    private static async Task<bool> SetStateAsync(StoreContext db, string id, RenderState to, string? message, CancellationToken cancel, params RenderState[] from)
    {
        var changed = await db.Renders.Where(r => r.Id == id && from.Contains(r.State))
            .ExecuteUpdateAsync(s => s.SetProperty(r => r.State, to).SetProperty(r => r.Message, message), cancel);
        return changed > 0 || (await db.Renders.AnyAsync(r => r.Id == id, cancel) ? false : throw new NotFoundException("render", id));
    }

    private static async Task StopAsync(CancellationTokenSource running)
    {
        try
        {
            await running.CancelAsync();
        }
        catch (ObjectDisposedException)
        {
            // It has just come to its end.
        }
    }

    /// <summary>Tells every window how far a render is. What has been done is told, also where whoever asked for it has gone away.</summary>
    private async Task<RenderView> AnnounceAsync(string id)
    {
        var view = await ViewAsync(id, CancellationToken.None);
        await announcer.RenderAsync(view);
        return view;
    }

    /// <summary>Rows to be told of, and a number that is larger than all before, of earlier runs of the server too.</summary>
    private async Task<(List<RenderRow> Rows, long Version)> ReadAsync(Func<IQueryable<RenderRow>, IQueryable<RenderRow>> which, CancellationToken cancel)
    {
        await _reading.WaitAsync(cancel);
        try
        {
            await using var db = await contexts.CreateDbContextAsync(cancel);
            _version = Math.Max(_version + 1, clock.GetUtcNow().ToUnixTimeMilliseconds());
            return (await WithoutShots(which(db.Renders)).ToListAsync(cancel), _version);
        }
        finally
        {
            _reading.Release();
        }
    }

    /// <summary>The shots that rows keep, which are large, stay in the database.</summary>
    private static IQueryable<RenderRow> WithoutShots(IQueryable<RenderRow> rows) => rows.Select(r => new RenderRow
    {
        Id = r.Id,
        ShotId = r.ShotId,
        ShotName = r.ShotName,
        ShotRevision = r.ShotRevision,
        Frames = r.Frames,
        Width = r.Width,
        Height = r.Height,
        Quality = r.Quality,
        Camera = r.Camera,
        FileName = r.FileName,
        FramesPerSecond = r.FramesPerSecond,
        Created = r.Created,
        State = r.State,
        Message = r.Message,
        Kept = r.Kept,
        Deleted = r.Deleted,
        FrameRows = r.FrameRows.ToList(),
    }).AsNoTracking().AsSplitQuery();

    private void Enqueue(string id) => jobs.Enqueue<RenderQueue>(q => q.RunAsync(id, CancellationToken.None));

    private static async Task<RenderRow> FindAsync(StoreContext db, string id, CancellationToken cancel) =>
        await db.Renders.Include(r => r.FrameRows).AsSplitQuery().SingleOrDefaultAsync(r => r.Id == id, cancel) ?? throw new NotFoundException("render", id);

    private static string ParseQuality(string? text) => Enum.TryParse<Quality>(text, ignoreCase: true, out var quality) && Enum.IsDefined(quality) && !int.TryParse(text, out _)
        ? quality.ToString()
        : throw new Refusal($"The quality “{text}” is not known: use draft, preview or final.");

    [LoggerMessage(LogLevel.Information, "Render {Id} stopped; its finished frames are kept.")]
    private partial void LogStopped(string id);
}
