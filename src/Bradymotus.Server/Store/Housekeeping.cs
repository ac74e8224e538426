using System.Text.RegularExpressions;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;

namespace Bradymotus.Server.Store;

/// <summary>How much room things take, in bytes.</summary>
/// <param name="Database">Shots, their histories, saved poses and motions.</param>
/// <param name="Assets">Meshes, pictures, films and sounds.</param>
/// <param name="Renders">Rendered sequences.</param>
/// <param name="Free">What is free on the disk.</param>
/// <param name="TrashCount">So many shots are in the trash.</param>
/// <param name="Trash">What these take of the database.</param>
public sealed record Room(long Database, long Assets, long Renders, long Free, int TrashCount, long Trash);

/// <summary>
/// At start and once a day: removes what nobody can come to any more. What a state of any shot refers to stays, however old, those in the trash too;
/// nothing that was rendered goes but what was put into the trash a day ago.
/// </summary>
public sealed partial class Housekeeping(IDbContextFactory<StoreContext> contexts, DataFolder folder, TimeProvider clock, ILogger<Housekeeping> log) : BackgroundService
{
    private static readonly TimeSpan KeptWhenDeleted = TimeSpan.FromDays(1);

    /// <summary>What was sent may be referred to by a window that has been without the server since.</summary>
    private static readonly TimeSpan KeptUnreferenced = TimeSpan.FromDays(14);

    /// <summary>Besides the newest, only so far apart states are kept whole: the rest is made from them.</summary>
    private const int SnapshotsApart = 2000, NewestSnapshots = 10;

    /// <summary>The database is written anew where so many bytes of it, and so large a part, hold nothing.</summary>
    private const long WorthShrinking = 32 << 20;
    private const double PartWorthShrinking = 0.25;

    /// <summary>How much room things take now.</summary>
    public async Task<Room> MeasureAsync(CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var trash = await db.Shots.Where(s => s.Deleted != null).Select(s => s.Id).ToListAsync(cancel);
        var snapshots = await db.Snapshots.Where(s => trash.Contains(s.ShotId)).SumAsync(s => (long)s.Json.Length, cancel);
        var lines = await db.Journal.Where(j => trash.Contains(j.ShotId)).SumAsync(j => (long)j.Json.Length, cancel);
        var database = new[] { "", "-wal" }.Select(e => new FileInfo(folder.Database + e)).Where(f => f.Exists).Sum(f => f.Length);
        return new(database, Size("assets"), Size("renders"), new DriveInfo(folder.Root).AvailableFreeSpace, trash.Count, snapshots + lines);
    }

    /// <summary>Removes now what would be removed once a day.</summary>
    public async Task SweepAsync(CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        await RemoveRendersAsync(db, cancel);
        await ThinSnapshotsAsync(db, cancel);
        await RemoveAssetsAsync(db, cancel);
        await ShrinkAsync(db, cancel);
    }

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(TimeSpan.FromDays(1), clock);
        do
        {
            try
            {
                await SweepAsync(stoppingToken);
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException or DbUpdateException or Microsoft.Data.Sqlite.SqliteException)
            {
                // What cannot be cleared away today may be tomorrow.
                LogNotCleared(e);
            }
        }
        while (await timer.WaitForNextTickAsync(stoppingToken));
    }

    private async Task RemoveRendersAsync(StoreContext db, CancellationToken cancel)
    {
        var before = clock.GetUtcNow().UtcDateTime - KeptWhenDeleted;
        foreach (var id in await db.Renders.Where(r => r.Deleted != null && r.Deleted < before && !r.Kept).Select(r => r.Id).ToListAsync(cancel))
        {
            if (Directory.Exists(folder.Render(id)))
            {
                Directory.Delete(folder.Render(id), recursive: true);
            }
            await db.RenderFrames.Where(f => f.RenderId == id).ExecuteDeleteAsync(cancel);
            await db.Renders.Where(r => r.Id == id).ExecuteDeleteAsync(cancel);
        }
    }

    private static async Task ThinSnapshotsAsync(StoreContext db, CancellationToken cancel)
    {
        // Where a line cannot be read, what is after it can be made from its own snapshot alone.
        var shots = await db.Snapshots.Where(s => !db.Journal.Any(j => j.ShotId == s.ShotId && j.Unreadable)).GroupBy(s => s.ShotId)
            .Where(g => g.Count() > NewestSnapshots).Select(g => g.Key).ToListAsync(cancel);
        foreach (var shot in shots)
        {
            var revisions = await db.Snapshots.Where(s => s.ShotId == shot).OrderBy(s => s.Revision).Select(s => s.Revision).ToListAsync(cancel);
            var last = revisions[0];
            var dropped = new List<int>();
            foreach (var revision in revisions.Take(revisions.Count - NewestSnapshots).Skip(1))
            {
                if (revision - last < SnapshotsApart)
                {
                    dropped.Add(revision);
                }
                else
                {
                    last = revision;
                }
            }
            foreach (var some in dropped.Chunk(500))
            {
                await db.Snapshots.Where(s => s.ShotId == shot && some.Contains(s.Revision)).ExecuteDeleteAsync(cancel);
            }
        }
    }

    private async Task RemoveAssetsAsync(StoreContext db, CancellationToken cancel)
    {
        var before = clock.GetUtcNow().UtcDateTime - KeptUnreferenced;
        var left = folder.Assets.OlderThan(before).ToHashSet();
        if (left.Count == 0)
        {
            return;
        }
        void Keep(string? text)
        {
            foreach (var match in AssetName().EnumerateMatches(text ?? ""))
            {
                left.Remove(text!.Substring(match.Index, match.Length));
            }
        }
        async Task KeepAllAsync(IQueryable<string> texts)
        {
            await foreach (var text in texts.AsAsyncEnumerable().WithCancellation(cancel))
            {
                Keep(text);
            }
        }
        await KeepAllAsync(db.Snapshots.AsNoTracking().Select(s => s.Json));
        await KeepAllAsync(db.Journal.AsNoTracking().Select(j => j.Json));
        await KeepAllAsync(db.Saved.AsNoTracking().Select(s => s.Json));
        await KeepAllAsync(db.Renders.AsNoTracking().Select(r => r.ShotJson));
        foreach (var shot in await db.Renders.Select(r => r.ShotAsset).Distinct().ToListAsync(cancel))
        {
            Keep(shot);
            // What was rendered is a shot of its own, which refers to others.
            Keep(shot is null || folder.Assets.PathOf(shot) is not { } path ? null : await File.ReadAllTextAsync(path, cancel));
        }
        foreach (var name in left)
        {
            folder.Assets.Remove(name, before);
        }
    }

    private static async Task ShrinkAsync(StoreContext db, CancellationToken cancel)
    {
        var size = await NumberAsync(db, "PRAGMA page_size", cancel);
        var (all, free) = (size * await NumberAsync(db, "PRAGMA page_count", cancel), size * await NumberAsync(db, "PRAGMA freelist_count", cancel));
        if (free >= WorthShrinking && free >= PartWorthShrinking * all)
        {
            await db.Database.ExecuteSqlRawAsync("VACUUM", cancel);
            await db.Database.ExecuteSqlRawAsync("PRAGMA wal_checkpoint(TRUNCATE)", cancel);
        }
    }

    private static async Task<long> NumberAsync(StoreContext db, string pragma, CancellationToken cancel)
    {
        await db.Database.OpenConnectionAsync(cancel);
        await using var command = db.Database.GetDbConnection().CreateCommand();
#pragma warning disable CA2100 // One of the three above.
        command.CommandText = pragma;
#pragma warning restore CA2100
        return (long)(await command.ExecuteScalarAsync(cancel))!;
    }

    private long Size(string name) =>
        new DirectoryInfo(Path.Combine(folder.Root, name))
            .EnumerateFiles("*", new EnumerationOptions { RecurseSubdirectories = true, AttributesToSkip = FileAttributes.ReparsePoint }).Sum(f => f.Length);

    [GeneratedRegex("(?<![0-9a-f])[0-9a-f]{64}(?![0-9a-f])")]
    private static partial Regex AssetName();

    [LoggerMessage(LogLevel.Warning, "What nobody needs any more could not be cleared away; it is tried again tomorrow.")]
    private partial void LogNotCleared(Exception e);
}
