using System.Collections.Concurrent;
using Bradymotus.Core;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Microsoft.EntityFrameworkCore;

namespace Bradymotus.Server.Store;

/// <summary>
/// The shots and their histories. A shot is a snapshot and the journal after it; an entry is acknowledged when it is on the disk.
/// </summary>
public sealed class ShotLibrary(IDbContextFactory<StoreContext> contexts, TimeProvider clock)
{
    /// <summary>A snapshot is taken after so many entries.</summary>
    private const int SnapshotEvery = 200;

    /// <summary>So many entries at the least are at hand for undo when a shot is opened.</summary>
    private const int UndoDepth = 1000;

    private readonly ConcurrentDictionary<string, Open> _open = new();

    /// <summary>The shots, last changed first.</summary>
    public async Task<List<ShotRow>> ListAsync(bool deleted, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await db.Shots.Where(s => s.Deleted != null == deleted).OrderByDescending(s => s.Changed).AsNoTracking().ToListAsync(cancel);
    }

    /// <summary>Puts a new shot into the library.</summary>
    /// <exception cref="Refusal">The shot breaks a rule.</exception>
    public async Task<ShotRow> AddAsync(Shot shot, CancellationToken cancel)
    {
        ShotRules.Validate(shot);
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var now = clock.GetUtcNow().UtcDateTime;
        var row = new ShotRow { Id = Guid.NewGuid().ToString("N"), Name = shot.Name, Created = now, Changed = now };
        db.Shots.Add(row);
        db.Snapshots.Add(new() { ShotId = row.Id, Revision = 0, Json = ShotJson.Write(shot) });
        await db.SaveChangesAsync(cancel);
        return row;
    }

    /// <summary>The current state.</summary>
    /// <exception cref="NotFoundException">There is no such shot.</exception>
    public Task<(Shot Shot, int Revision)> CurrentAsync(string id, CancellationToken cancel) =>
        WithAsync(id, (_, history) => Task.FromResult((history.Current, history.Revision)), cancel);

    /// <summary>A state to start from and the journal after it, deep enough for undo.</summary>
    /// <exception cref="NotFoundException">There is no such shot.</exception>
    public Task<Document> OpenAsync(string id, CancellationToken cancel) => WithAsync(id, async (db, history) =>
    {
        var from = await db.Snapshots.Where(s => s.ShotId == id && s.Revision <= Math.Max(0, history.Revision - UndoDepth))
            .OrderByDescending(s => s.Revision).AsNoTracking().FirstAsync(cancel);
        return new Document(id, from.Revision, from.Json, await EntriesAsync(db, id, from.Revision, cancel), history.Revision);
    }, cancel);

    /// <summary>The lines of the journal after a revision.</summary>
    public Task<List<JournalRow>> JournalAsync(string id, int after, CancellationToken cancel) =>
        WithAsync(id, (db, _) => EntriesAsync(db, id, after, cancel), cancel);

    /// <summary>Appends to the journal. All entries are taken, or none.</summary>
    /// <param name="revision">The revision that the sender knew as the newest.</param>
    /// <exception cref="StaleException">There is a newer one; with what was missed.</exception>
    /// <exception cref="Refusal">An entry cannot be applied.</exception>
    public Task<int> AppendAsync(string id, int revision, IReadOnlyList<JournalEntry> entries, CancellationToken cancel) => WithAsync(id, async (db, history) =>
    {
        if (revision != history.Revision)
        {
            throw new StaleException(history.Revision, await EntriesAsync(db, id, Math.Min(revision, history.Revision), cancel));
        }
        // Applied to the side first: the open history changes only when everything is on the disk.
        var trial = history.Fork();
        var now = clock.GetUtcNow().UtcDateTime;
        var row = await db.Shots.SingleAsync(s => s.Id == id, cancel);
        foreach (var entry in entries)
        {
            var step = trial.Append(entry);
            db.Journal.Add(new() { ShotId = id, Revision = step.Revision, Json = ShotJson.Write(entry), Label = Short(step.Label, entry), Time = now });
            if (step.Revision % SnapshotEvery == 0)
            {
                db.Snapshots.Add(new() { ShotId = id, Revision = step.Revision, Json = ShotJson.Write(step.Shot) });
            }
        }
        (row.Revision, row.Changed, row.Name) = (trial.Revision, now, trial.Current.Name);
        await db.SaveChangesAsync(cancel);
        _open[id].History = trial;
        return trial.Revision;
    }, cancel);

    /// <summary>A second shot like this one, without its history.</summary>
    public async Task<ShotRow> DuplicateAsync(string id, CancellationToken cancel)
    {
        var (shot, _) = await CurrentAsync(id, cancel);
        var taken = (await ListAsync(deleted: false, cancel)).Select(s => s.Name).ToHashSet();
        return await AddAsync(shot with { Name = Names.Free(shot.Name, taken.Contains) }, cancel);
    }

    /// <summary>Puts a shot away, or brings it back. Nothing is erased.</summary>
    public async Task SetDeletedAsync(string id, bool deleted, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var row = await db.Shots.SingleOrDefaultAsync(s => s.Id == id, cancel) ?? throw new NotFoundException("shot", id);
        row.Deleted = deleted ? clock.GetUtcNow().UtcDateTime : null;
        await db.SaveChangesAsync(cancel);
    }

    private static Task<List<JournalRow>> EntriesAsync(StoreContext db, string id, int after, CancellationToken cancel) =>
        db.Journal.Where(j => j.ShotId == id && j.Revision > after).OrderBy(j => j.Revision).AsNoTracking().ToListAsync(cancel);

    private static string Short(string label, JournalEntry entry)
    {
        var text = entry is RestoreEntry restore ? $"Back to state {restore.Revision}" : label;
        return text.Length <= 300 ? text : text[..299] + "…";
    }

    private async Task<T> WithAsync<T>(string id, Func<StoreContext, History, Task<T>> use, CancellationToken cancel)
    {
        var open = _open.GetOrAdd(id, _ => new Open());
        await open.Gate.WaitAsync(cancel);
        try
        {
            await using var db = await contexts.CreateDbContextAsync(cancel);
            open.History ??= await LoadAsync(db, id, int.MaxValue, cancel);
            return await use(db, open.History);
        }
        catch (NotFoundException)
        {
            _open.TryRemove(id, out _);
            throw;
        }
        finally
        {
            open.Gate.Release();
        }
    }

    private async Task<History> LoadAsync(StoreContext db, string id, int upTo, CancellationToken cancel)
    {
        var from = await db.Snapshots.Where(s => s.ShotId == id && s.Revision <= upTo)
            .OrderByDescending(s => s.Revision).AsNoTracking().FirstOrDefaultAsync(cancel) ?? throw new NotFoundException("shot", id);
        var history = new History(ShotJson.ReadShot(from.Json), from.Revision, revision => Earlier(id, revision));
        foreach (var row in await EntriesAsync(db, id, from.Revision, cancel))
        {
            if (row.Revision > upTo)
            {
                break;
            }
            history.Append(ShotJson.Read<JournalEntry>(row.Json, "journal entry"));
        }
        return history;
    }

    private Shot Earlier(string id, int revision)
    {
        using var db = contexts.CreateDbContext();
        return LoadAsync(db, id, revision, CancellationToken.None).GetAwaiter().GetResult().Current;
    }

    private sealed class Open
    {
        public SemaphoreSlim Gate { get; } = new(1);

        public History? History { get; set; }
    }
}

/// <summary>What a window needs to open a shot.</summary>
public sealed record Document(string Id, int BaseRevision, string BaseJson, IReadOnlyList<JournalRow> Entries, int Revision);

/// <summary>The sender did not know the newest entries.</summary>
public sealed class StaleException(int revision, IReadOnlyList<JournalRow> missed) : Exception("The shot has been changed elsewhere.")
{
    public int Revision { get; } = revision;

    public IReadOnlyList<JournalRow> Missed { get; } = missed;
}

/// <summary>What is asked for is not there.</summary>
public sealed class NotFoundException(string what, string id) : Exception($"There is no {what} “{id}”: it may have been removed.");
