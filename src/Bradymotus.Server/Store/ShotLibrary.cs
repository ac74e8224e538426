using System.Collections.Concurrent;
using Bradymotus.Core;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Formats;
using Microsoft.EntityFrameworkCore;

namespace Bradymotus.Server.Store;

/// <summary>
/// The shots and their histories. A shot is a snapshot and the journal after it; an entry is acknowledged when it is on the disk.
/// </summary>
/// <remarks>
/// A history may start from a snapshot only if no line after it goes back further: then every state that is asked for is
/// in it, and each is made once. <see cref="JournalRow.Needs"/> says how far back a line goes. Longer than most: what is open in memory and what is
/// on the disk are only ever touched together, under the lock of the shot.
/// </remarks>
public sealed class ShotLibrary(IDbContextFactory<StoreContext> contexts, DataFolder folder, TimeProvider clock)
{
    /// <summary>A snapshot is taken after so many entries.</summary>
    private const int SnapshotEvery = 200;

    /// <summary>So many entries at the least are at hand for undo when a shot is opened, where that takes no more than <see cref="MostReplayed"/>.</summary>
    private const int UndoDepth = 1000;

    private const int MostReplayed = 3000;

    /// <summary>So many shots are kept ready.</summary>
    private const int MostOpen = 12;

    private static readonly TimeSpan LongestChange = TimeSpan.FromSeconds(5);

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
        RequireAssets(shot);
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
        WithAsync(id, (_, open) => Task.FromResult((open.History!.Current, open.History.Revision)), cancel);

    /// <summary>The current state, of a shot that is not in the trash.</summary>
    /// <exception cref="NotFoundException">There is no such shot.</exception>
    /// <exception cref="Refusal">It is in the trash.</exception>
    public Task<(Shot Shot, int Revision)> InUseAsync(string id, CancellationToken cancel) => WithAsync(id, async (db, open) =>
    {
        RefuseTrashed(await db.Shots.AsNoTracking().SingleAsync(s => s.Id == id, cancel));
        return (open.History!.Current, open.History.Revision);
    }, cancel);

    /// <summary>A state to start from and the journal after it, deep enough for undo.</summary>
    /// <exception cref="NotFoundException">There is no such shot.</exception>
    public Task<Document> OpenAsync(string id, CancellationToken cancel) => WithAsync(id, async (db, open) =>
    {
        var head = open.History!.Revision;
        var start = await StartAsync(db, id, head - UndoDepth, head, cancel);
        if (head - start > MostReplayed)
        {
            start = await StartAsync(db, id, head, head, cancel);
        }
        var snapshot = await db.Snapshots.AsNoTracking().SingleAsync(s => s.ShotId == id && s.Revision == start, cancel);
        return new Document(id, start, snapshot.Json, await EntriesAsync(db, id, start, cancel), head, open.Notice);
    }, cancel);

    /// <summary>The lines of the journal after a revision.</summary>
    public Task<List<JournalRow>> JournalAsync(string id, int after, CancellationToken cancel) =>
        WithAsync(id, (db, _) => EntriesAsync(db, id, after, cancel), cancel);

    /// <summary>Appends to the journal. All entries are taken, or none; one that is there already, by its id, is not taken again.</summary>
    /// <param name="revision">The revision that the sender knew as the newest.</param>
    /// <exception cref="StaleException">There are lines that the sender did not know and has not sent; with what was missed.</exception>
    /// <exception cref="Refusal">An entry cannot be applied, or takes too long, or the shot is in the trash.</exception>
    public Task<int> AppendAsync(string id, int revision, IReadOnlyList<JournalEntry> entries, CancellationToken cancel) => WithAsync(id, async (db, open) =>
    {
        var ids = entries.Select(e => e.Id).OfType<string>().ToHashSet();
        CheckIds(entries, ids);
        var row = await db.Shots.SingleAsync(s => s.Id == id, cancel);
        RefuseTrashed(row);
        var history = open.History!;
        if (revision != history.Revision)
        {
            var missed = await EntriesAsync(db, id, Math.Clamp(revision, 0, history.Revision), cancel);
            if (revision > history.Revision || missed.Any(m => m.EntryId is null || !ids.Contains(m.EntryId)))
            {
                throw new StaleException(history.Revision, missed);
            }
        }
        var known = ids.Count == 0 ? [] : (await db.Journal.Where(j => j.ShotId == id && ids.Contains(j.EntryId!)).Select(j => j.EntryId).ToListAsync(cancel)).ToHashSet();
        var fresh = entries.Where(e => e.Id is null || !known.Contains(e.Id)).ToList();
        if (fresh.Count > 0)
        {
            await StoreAsync(db, row, open, fresh, cancel);
        }
        return open.History!.Revision;
    }, cancel);

    /// <summary>A second shot like this one, without its history.</summary>
    public async Task<ShotRow> DuplicateAsync(string id, CancellationToken cancel)
    {
        var (shot, _) = await CurrentAsync(id, cancel);
        var taken = (await ListAsync(deleted: false, cancel)).Select(s => s.Name).ToHashSet();
        return await AddAsync(shot with { Name = Names.Free(shot.Name, taken.Contains) }, cancel);
    }

    /// <summary>Puts a shot into the trash, or takes it back. Nothing is erased.</summary>
    public async Task SetDeletedAsync(string id, bool deleted, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var row = await db.Shots.SingleOrDefaultAsync(s => s.Id == id, cancel) ?? throw new NotFoundException("shot", id);
        row.Deleted = deleted ? clock.GetUtcNow().UtcDateTime : null;
        await db.SaveChangesAsync(cancel);
    }

    /// <summary>Erases the shots in the trash, with their histories. What was rendered of them stays.</summary>
    public async Task EmptyTrashAsync(CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        foreach (var id in await db.Shots.Where(s => s.Deleted != null).Select(s => s.Id).ToListAsync(cancel))
        {
            await using var all = await db.Database.BeginTransactionAsync(cancel);
            // It may have been taken back meanwhile. What cannot be opened can be erased.
            if (await db.Shots.Where(s => s.Id == id && s.Deleted != null).ExecuteDeleteAsync(cancel) == 0)
            {
                continue;
            }
            await db.Snapshots.Where(s => s.ShotId == id).ExecuteDeleteAsync(CancellationToken.None);
            await db.Journal.Where(j => j.ShotId == id).ExecuteDeleteAsync(CancellationToken.None);
            await all.CommitAsync(CancellationToken.None);
            if (_open.TryGetValue(id, out var open))
            {
                await open.Gate.WaitAsync(CancellationToken.None);
                Close(id, open);
                open.Gate.Release();
            }
        }
    }

    private async Task StoreAsync(StoreContext db, ShotRow row, Open open, List<JournalEntry> entries, CancellationToken cancel)
    {
        if (entries.Min(NeedsOf) is >= 0 and var earliest && earliest < open.History!.Start)
        {
            open.History = await LoadAsync(db, row.Id, earliest, cancel);
        }
        var history = open.History!;
        var before = history.Revision;
        var now = clock.GetUtcNow().UtcDateTime;
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(LongestChange);
        try
        {
            foreach (var entry in entries)
            {
                var step = history.Append(entry, cancel: limit.Token);
                db.Journal.Add(new()
                {
                    ShotId = row.Id,
                    Revision = step.Revision,
                    EntryId = entry.Id,
                    Json = ShotJson.Write(entry),
                    Label = Short(step.Label, entry),
                    Time = now,
                    Needs = NeedsOf(entry),
                });
                // A way far back would have to be gone again at every start.
                if (step.Revision % SnapshotEvery == 0 || (entry is RestoreEntry { Revision: var to } && to < step.Revision - SnapshotEvery))
                {
                    db.Snapshots.Add(new() { ShotId = row.Id, Revision = step.Revision, Json = ShotJson.Write(history.Current) });
                }
            }
            RequireAssets(history.Current);
            (row.Revision, row.Changed, row.Name) = (history.Revision, now, history.Current.Name);
            await db.SaveChangesAsync(cancel);
            open.Notice = null;
        }
        catch (OperationCanceledException e) when (!cancel.IsCancellationRequested)
        {
            history.Truncate(before);
            throw new Refusal($"This change takes longer than {LongestChange.TotalSeconds:0} seconds: make it in several smaller ones.", e);
        }
        catch (DbUpdateException e) when (e.InnerException is Microsoft.Data.Sqlite.SqliteException { SqliteErrorCode: 19 })
        {
            // Somebody else has written to this journal: what is on the disk is true.
            db.ChangeTracker.Clear();
            open.History = await LoadAsync(db, row.Id, int.MaxValue, cancel);
            throw new StaleException(open.History.Revision, await EntriesAsync(db, row.Id, Math.Min(before, open.History.Revision), cancel));
        }
        catch
        {
            history.Truncate(before);
            throw;
        }
    }

    /// <summary>What a shot refers to has to be here before it.</summary>
    private void RequireAssets(Shot shot)
    {
        foreach (var mesh in shot.Nodes.OfType<MeshNode>())
        {
            if (mesh.Shape is AssetShape { Asset: var asset } && !folder.Assets.Has(asset))
            {
                throw new Refusal($"The mesh of “{mesh.Name}” is not here: import the shot as a .shot.zip, which holds it, or import the file that it came from.");
            }
        }
        if (shot.Sounds.FirstOrDefault(s => !folder.Assets.Has(s.Asset)) is { } sound)
        {
            throw new Refusal($"The sound “{sound.Name}” is not here: import the shot as a .shot.zip, which holds it, or add the sound again.");
        }
        if (ShotZip.PicturesOf(shot).FirstOrDefault(p => !folder.Assets.Has(p.Asset)) is { } picture)
        {
            throw new Refusal($"The picture “{picture.Name}” is not here: import the shot as a .shot.zip, which holds it, or choose the picture again.");
        }
    }

    /// <summary>The earliest state that a line is made from; null for the one before it.</summary>
    private static int? NeedsOf(JournalEntry entry) => entry switch
    {
        RestoreEntry restore => restore.Revision,
        LeaveOutEntry leaveOut => leaveOut.Revision - 1,
        _ => null,
    };

    private static void CheckIds(IReadOnlyList<JournalEntry> entries, HashSet<string> ids)
    {
        if (ids.Count < entries.Count(e => e.Id is not null))
        {
            throw new Refusal("Two of the lines that were sent have the same id: give each line one of its own.");
        }
        if (ids.FirstOrDefault(i => i.Length is 0 or > 64) is { } odd)
        {
            throw new Refusal($"The id of a line is {odd.Length} characters long: give it a UUID, or none.");
        }
    }

    private static void RefuseTrashed(ShotRow row)
    {
        if (row.Deleted is not null)
        {
            throw new Refusal($"The shot “{row.Name}” is in the trash: restore it from the library first.");
        }
    }

    private static Task<List<JournalRow>> EntriesAsync(StoreContext db, string id, int after, CancellationToken cancel) =>
        db.Journal.Where(j => j.ShotId == id && j.Revision > after).OrderBy(j => j.Revision).AsNoTracking().ToListAsync(cancel);

    /// <summary>
    /// The newest snapshot at or before a revision from which everything up to the head can be made: no line after it goes back
    /// before it, and all lines after it can be read.
    /// </summary>
    private static async Task<int> StartAsync(StoreContext db, string id, int at, int head, CancellationToken cancel)
    {
        var readable = await db.Journal.Where(j => j.ShotId == id && j.Unreadable).MaxAsync(j => (int?)j.Revision, cancel) ?? 0;
        var most = Math.Max(Math.Max(0, at), readable);
        var snapshots = await db.Snapshots.Where(s => s.ShotId == id && s.Revision <= head).OrderByDescending(s => s.Revision).Select(s => s.Revision).ToListAsync(cancel);
        for (var i = snapshots.FindIndex(s => s <= most); i >= 0 && i < snapshots.Count; i++)
        {
            var start = snapshots[i];
            var needed = await db.Journal.Where(j => j.ShotId == id && j.Revision > start && j.Needs != null).MinAsync(j => j.Needs, cancel) ?? start;
            if (needed >= start)
            {
                return start;
            }
        }
        return snapshots.Count > 0 ? snapshots[^1] : throw new NotFoundException("shot", id);
    }

    private static string Short(string label, JournalEntry entry)
    {
        var text = entry is RestoreEntry restore ? $"Back to state {restore.Revision}" : label;
        return text.Length <= 300 ? text : text[..299] + "…";
    }

    private async Task<T> WithAsync<T>(string id, Func<StoreContext, Open, Task<T>> use, CancellationToken cancel)
    {
        Open open;
        while (true)
        {
            open = _open.GetOrAdd(id, _ => new Open());
            await open.Gate.WaitAsync(cancel);
            if (!open.IsClosed)
            {
                break;
            }
            // It was closed while this waited for it: there is another by now.
            open.Gate.Release();
        }
        try
        {
            await using var db = await contexts.CreateDbContextAsync(cancel);
            open.History ??= await OpenedAsync(db, id, open, cancel);
            open.Used = clock.GetTimestamp();
            return await use(db, open);
        }
        catch (NotFoundException)
        {
            Close(id, open);
            throw;
        }
        finally
        {
            open.Gate.Release();
            CloseIdle();
        }
    }

    /// <summary>Shots that nobody has asked for lately are read again when somebody does.</summary>
    private void CloseIdle()
    {
        while (_open.Count > MostOpen)
        {
            var (id, idle) = _open.MinBy(o => o.Value.Used);
            if (idle is null || !idle.Gate.Wait(0))
            {
                return;
            }
            Close(id, idle);
            idle.Gate.Release();
        }
    }

    /// <summary>Called by who holds the gate: whoever waits there looks for another.</summary>
    private void Close(string id, Open open)
    {
        (open.History, open.IsClosed) = (null, true);
        _open.TryRemove(KeyValuePair.Create(id, open));
    }

    /// <summary>The history at its newest state. Lines that cannot be read, and what was built on them, are marked and counted for nothing.</summary>
    private static async Task<History> OpenedAsync(StoreContext db, string id, Open open, CancellationToken cancel)
    {
        var head = await db.Shots.Where(s => s.Id == id).Select(s => (int?)s.Revision).SingleOrDefaultAsync(cancel) ?? throw new NotFoundException("shot", id);
        var marked = await db.Journal.CountAsync(j => j.ShotId == id && j.Unreadable, cancel);
        var history = await LoadAsync(db, id, head, cancel);
        var broken = await db.Journal.CountAsync(j => j.ShotId == id && j.Unreadable, cancel);
        var isNewest = await db.Journal.AnyAsync(j => j.ShotId == id && j.Revision == history.Revision && j.Unreadable, cancel);
        open.Notice = broken > 0 && (isNewest || broken > marked)
            ? $"The newest {(broken == 1 ? "change" : $"{broken} changes")} of this shot cannot be read; it is shown as it was before, and what cannot be read is kept in the database."
            : null;
        return history;
    }

    /// <summary>A history that holds a revision and everything after it.</summary>
    private static async Task<History> LoadAsync(StoreContext db, string id, int from, CancellationToken cancel)
    {
        var head = await db.Shots.Where(s => s.Id == id).Select(s => s.Revision).SingleAsync(cancel);
        for (var at = Math.Min(from, head); ; at--)
        {
            var start = await StartAsync(db, id, at, head, cancel);
            var snapshot = await db.Snapshots.AsNoTracking().SingleAsync(s => s.ShotId == id && s.Revision == start, cancel);
            try
            {
                return await ReplayedAsync(db, id, new History(ShotJson.ReadShot(snapshot.Json), start), cancel);
            }
            catch (Refusal) when (start > 0)
            {
                // A snapshot that cannot be read: the one before it and the journal say the same.
                at = start;
            }
        }
    }

    private static async Task<History> ReplayedAsync(StoreContext db, string id, History history, CancellationToken cancel)
    {
        var rows = await EntriesAsync(db, id, history.Revision, cancel);
        for (var i = 0; i < rows.Count; i++)
        {
            try
            {
                history.Append(ShotJson.Read<JournalEntry>(rows[i].Json, "journal entry"), cancel: cancel);
            }
            catch (Refusal)
            {
                // What came after was made on a state that is not known.
                var (first, last) = (rows[i].Revision, rows[^1].Revision);
                while (history.Revision < last)
                {
                    history.AppendUnreadable();
                }
                await db.Journal.Where(j => j.ShotId == id && j.Revision >= first).ExecuteUpdateAsync(u => u.SetProperty(j => j.Unreadable, true), cancel);
                db.Snapshots.Add(new() { ShotId = id, Revision = last, Json = ShotJson.Write(history.Current) });
                await db.SaveChangesAsync(cancel);
                return new History(history.Current, last);
            }
        }
        return history;
    }

    private sealed class Open
    {
        public SemaphoreSlim Gate { get; } = new(1);

        public History? History { get; set; }

        /// <summary>It is not to be used any more: what is in the database may have gone on since.</summary>
        public bool IsClosed { get; set; }

        public long Used { get; set; }

        /// <summary>What who opens the shot should read.</summary>
        public string? Notice { get; set; }
    }
}

/// <summary>What a window needs to open a shot.</summary>
/// <param name="Notice">Something that a person should read; null for nothing.</param>
public sealed record Document(string Id, int BaseRevision, string BaseJson, IReadOnlyList<JournalRow> Entries, int Revision, string? Notice);

/// <summary>The sender did not know the newest entries.</summary>
public sealed class StaleException(int revision, IReadOnlyList<JournalRow> missed) : Exception("The shot has been changed elsewhere.")
{
    public int Revision { get; } = revision;

    public IReadOnlyList<JournalRow> Missed { get; } = missed;
}

/// <summary>What is asked for is not there.</summary>
public sealed class NotFoundException(string what, string id) : Exception($"There is no {what} “{id}”: it may have been removed.");
