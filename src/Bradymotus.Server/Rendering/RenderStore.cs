using System.Text;
using Bradymotus.Core;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Core.Time;
using Bradymotus.Render.Pictures;
using Bradymotus.Server.Store;
using Microsoft.EntityFrameworkCore;

namespace Bradymotus.Server.Rendering;

/// <summary>What is known of a sequence, without its shot and without a line for each of its frames.</summary>
/// <param name="Row">Its row; the shot is not in it.</param>
/// <param name="Steps">The frames that it shall have.</param>
/// <param name="Done">So many of them are done.</param>
/// <param name="Ranges">Which: every frame that it shall have between two of these is done. Rising.</param>
/// <param name="Milliseconds">How long a frame took, on the average of those that are done.</param>
public sealed record RenderSummary(RenderRow Row, FrameSteps Steps, int Done, IReadOnlyList<FrameRange> Ranges, double Milliseconds);

/// <summary>
/// Sequences in the database, which is the truth: which frames there are, which are done. A state is changed from what it is there, in one step.
/// </summary>
public sealed class RenderStore(IDbContextFactory<StoreContext> contexts, DataFolder folder, TimeProvider clock) : IDisposable
{
    // One reads at a time, so that a larger number was read later.
    private readonly SemaphoreSlim _reading = new(1);
    private long _version;

    public void Dispose() => _reading.Dispose();

    /// <summary>Puts a sequence in, all of its frames waiting.</summary>
    public async Task AddAsync(RenderRow row, FrameSteps steps, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        await using var all = await db.Database.BeginTransactionAsync(cancel);
        db.Renders.Add(row);
        await db.SaveChangesAsync(cancel);
        // Thousands of rows that differ in a number: the database counts them itself.
        var waiting = RenderState.Queued.ToString();
        await db.Database.ExecuteSqlAsync(
            $"""
             WITH RECURSIVE Due(Frame) AS (SELECT {steps.Range.First} UNION ALL SELECT Frame + {steps.Step} FROM Due WHERE Frame + {steps.Step} <= {steps.Range.Last})
             INSERT INTO RenderFrames (RenderId, Frame, State, Begun, Milliseconds) SELECT {row.Id}, Frame, {waiting}, 0, 0 FROM Due
             """, cancel);
        await all.CommitAsync(cancel);
    }

    /// <summary>The newest of a shot, or of all; none that is in the trash.</summary>
    /// <returns>What is known, and a number that is larger than all before, of earlier runs of the server too.</returns>
    public Task<(List<RenderSummary> Rows, long Version)> ListAsync(string? shotId, CancellationToken cancel) =>
        ReadAsync(renders => renders.Where(r => r.Deleted == null && (shotId == null || r.ShotId == shotId)).OrderByDescending(r => r.Created).Take(200), cancel);

    /// <exception cref="NotFoundException">There is none of this id.</exception>
    public async Task<(RenderSummary Row, long Version)> FindAsync(string id, CancellationToken cancel)
    {
        var (rows, version) = await ReadAsync(renders => renders.Where(r => r.Id == id), cancel);
        return (rows.SingleOrDefault() ?? throw new NotFoundException("render", id), version);
    }

    /// <summary>A sequence with its shot.</summary>
    /// <exception cref="NotFoundException">There is none of this id.</exception>
    public async Task<RenderRow> GetAsync(string id, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await db.Renders.AsNoTracking().SingleOrDefaultAsync(r => r.Id == id, cancel) ?? throw new NotFoundException("render", id);
    }

    /// <summary>The frames that are done, rising.</summary>
    public async Task<IReadOnlyList<int>> DoneAsync(string id, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await DoneAsync(db, id, cancel);
    }

    /// <summary>The frames that are left, rising, and how often each was begun; see <see cref="RenderFrameRow.Begun"/>.</summary>
    public async Task<IReadOnlyList<(int Frame, int Begun)>> LeftAsync(string id, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await db.RenderFrames.Where(f => f.RenderId == id && f.State != RenderState.Done).OrderBy(f => f.Frame).Select(f => ValueTuple.Create(f.Frame, f.Begun)).ToListAsync(cancel);
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

    /// <summary>Sets a state where the render is in one of some others, in one step. Whether it was.</summary>
    /// <exception cref="NotFoundException">There is no such render.</exception>
    public async Task<bool> SetStateAsync(string id, RenderState to, string? message, CancellationToken cancel, params RenderState[] from)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var changed = await db.Renders.Where(r => r.Id == id && from.Contains(r.State))
            .ExecuteUpdateAsync(s => s.SetProperty(r => r.State, to).SetProperty(r => r.Message, message), cancel);
        return changed > 0 || (await db.Renders.AnyAsync(r => r.Id == id, cancel) ? false : throw new NotFoundException("render", id));
    }

    /// <summary>How often a frame was begun, and neither finished nor stopped.</summary>
    public async Task SetBegunAsync(string id, int frame, int begun, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        await db.RenderFrames.Where(f => f.RenderId == id && f.Frame == frame).ExecuteUpdateAsync(s => s.SetProperty(f => f.Begun, begun), cancel);
    }

    /// <summary>No frame counts as begun.</summary>
    public async Task ForgetBegunAsync(string id, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        await db.RenderFrames.Where(f => f.RenderId == id).ExecuteUpdateAsync(s => s.SetProperty(f => f.Begun, 0), cancel);
    }

    /// <summary>In which run of the machine its frames are begun.</summary>
    public async Task SetBootAsync(string id, string boot, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        await db.Renders.Where(r => r.Id == id).ExecuteUpdateAsync(s => s.SetProperty(r => r.Boot, boot), cancel);
    }

    /// <summary>A frame is done; whatever becomes of the rest, it counts.</summary>
    public async Task SetDoneAsync(string id, int frame, double milliseconds)
    {
        await using var db = await contexts.CreateDbContextAsync();
        await db.RenderFrames.Where(f => f.RenderId == id && f.Frame == frame)
            .ExecuteUpdateAsync(s => s.SetProperty(f => f.State, RenderState.Done).SetProperty(f => f.Milliseconds, milliseconds).SetProperty(f => f.Begun, 0));
    }

    public async Task SetKeptAsync(string id, bool kept, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        await db.Renders.Where(r => r.Id == id).ExecuteUpdateAsync(s => s.SetProperty(r => r.Kept, kept), cancel);
    }

    public async Task SetDeletedAsync(string id, bool deleted, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var when = deleted ? clock.GetUtcNow().UtcDateTime : (DateTime?)null;
        await db.Renders.Where(r => r.Id == id).ExecuteUpdateAsync(s => s.SetProperty(r => r.Deleted, when), cancel);
    }

    public async Task<bool> IsKeptAsync(string id, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await db.Renders.AnyAsync(r => r.Id == id && r.Kept, cancel);
    }

    /// <summary>What was not finished, the oldest first.</summary>
    public async Task<List<string>> UnfinishedAsync(CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await db.Renders.Where(r => r.Deleted == null).Where(r => r.State == RenderState.Queued || r.State == RenderState.Running)
            .OrderBy(r => r.Created).Select(r => r.Id).ToListAsync(cancel);
    }

    /// <summary>A frame that is said to be done, and whose picture is gone, is to be rendered again: at once where its sequence is not finished, else when somebody says so.</summary>
    public async Task LookForPicturesAsync(CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        foreach (var row in await db.Renders.Where(r => r.Deleted == null).Select(r => new { r.Id, r.FileName }).ToListAsync(cancel))
        {
            var names = new FileNamePattern(row.FileName);
            var gone = (await DoneAsync(db, row.Id, cancel)).Where(f => !File.Exists(Path.Combine(folder.Render(row.Id), names.Name(f)))).ToList();
            foreach (var some in gone.Chunk(500))
            {
                await db.RenderFrames.Where(f => f.RenderId == row.Id && some.Contains(f.Frame)).ExecuteUpdateAsync(s => s.SetProperty(f => f.State, RenderState.Queued), cancel);
            }
            if (gone.Count > 0)
            {
                await SetStateAsync(row.Id, RenderState.Failed,
                    $"{(gone.Count == 1 ? "A picture is" : $"{gone.Count} pictures are")} not in the folder any more: resume to render what is missing.", cancel, RenderState.Done);
            }
        }
    }

    /// <summary>Shots of older orders, which lie in their rows, become assets.</summary>
    public async Task MoveShotsAsync(CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        foreach (var id in await db.Renders.Where(r => r.ShotAsset == null).Select(r => r.Id).ToListAsync(cancel))
        {
            var json = await db.Renders.Where(r => r.Id == id).Select(r => r.ShotJson).SingleAsync(cancel);
            var asset = Formats.Asset.Of(Encoding.UTF8.GetBytes(json));
            folder.Assets.Put(asset);
            await db.Renders.Where(r => r.Id == id).ExecuteUpdateAsync(s => s.SetProperty(r => r.ShotAsset, asset.Name).SetProperty(r => r.ShotJson, ""), cancel);
        }
    }

    /// <summary>The shot of a render as it was when it was ordered.</summary>
    /// <exception cref="Refusal">It is not there.</exception>
    public Shot ShotOf(RenderRow row) => ShotJson.ReadShot(row.ShotAsset is null ? row.ShotJson
        : folder.Assets.Read(row.ShotAsset) is { } bytes ? Encoding.UTF8.GetString(bytes)
        : throw new Refusal($"The state of the shot that made this sequence is not in the data folder any more (assets/{row.ShotAsset}.json): order it anew."));

    /// <summary>Keeps the shot of a render: once, however many are ordered of it.</summary>
    /// <returns>The name of its asset.</returns>
    public string PutShot(Shot shot)
    {
        var asset = Formats.Asset.Of(ShotJson.WriteBytes(shot));
        folder.Assets.Put(asset);
        return asset.Name;
    }

    private static async Task<IReadOnlyList<int>> DoneAsync(StoreContext db, string id, CancellationToken cancel) =>
        await db.RenderFrames.Where(f => f.RenderId == id && f.State == RenderState.Done).OrderBy(f => f.Frame).Select(f => f.Frame).ToListAsync(cancel);

    private async Task<(List<RenderSummary> Rows, long Version)> ReadAsync(Func<IQueryable<RenderRow>, IQueryable<RenderRow>> which, CancellationToken cancel)
    {
        await _reading.WaitAsync(cancel);
        try
        {
            await using var db = await contexts.CreateDbContextAsync(cancel);
            _version = Math.Max(_version + 1, clock.GetUtcNow().ToUnixTimeMilliseconds());
            var rows = await WithoutShots(which(db.Renders)).ToListAsync(cancel);
            var ids = rows.ConvertAll(r => r.Id);
            var sums = await db.RenderFrames.Where(f => ids.Contains(f.RenderId) && f.State == RenderState.Done).GroupBy(f => f.RenderId)
                .Select(g => new { Id = g.Key, Count = g.Count(), Milliseconds = g.Average(f => f.Milliseconds) }).ToDictionaryAsync(s => s.Id, cancel);
            var summaries = new List<RenderSummary>(rows.Count);
            foreach (var row in rows)
            {
                var steps = FrameSteps.Parse(row.Frames);
                var sum = sums.GetValueOrDefault(row.Id);
                if (sum is null || sum.Count == steps.Count)
                {
                    summaries.Add(new(row, steps, sum?.Count ?? 0, sum is null ? [] : [steps.Range], sum?.Milliseconds ?? 0));
                    continue;
                }
                // Another may be done since they were counted: what is said comes from one list.
                var done = await DoneAsync(db, row.Id, cancel);
                summaries.Add(new(row, steps, done.Count, RangesOf(done, steps.Step), sum.Milliseconds));
            }
            return (summaries, _version);
        }
        finally
        {
            _reading.Release();
        }
    }

    /// <summary>Rising frames as ranges without a gap but that of the step.</summary>
    private static List<FrameRange> RangesOf(IReadOnlyList<int> frames, int step)
    {
        var ranges = new List<FrameRange>();
        foreach (var frame in frames)
        {
            if (ranges.Count > 0 && (long)ranges[^1].Last + step == frame)
            {
                ranges[^1] = ranges[^1] with { Last = frame };
            }
            else
            {
                ranges.Add(new(frame, frame));
            }
        }
        return ranges;
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
    }).AsNoTracking();
}
