namespace Bradymotus.Core.Editing;

/// <summary>Puts lines of other windows before the ones of this window that are not stored yet. Works on a copy, so that what fails half way has done nothing.</summary>
/// <param name="from">The history of this window; not changed.</param>
/// <param name="to">A copy of it, which becomes the merged one.</param>
/// <param name="confirmed">The newest revision that is surely stored.</param>
internal sealed class HistoryMerge(History from, History to, int confirmed)
{
    private readonly List<HistoryStep> _ours = [.. from.Steps.Where(s => s.Revision > confirmed)];
    private readonly HashSet<int> _arrived = [];

    /// <summary>Where the lines of this window stand now.</summary>
    private readonly Dictionary<int, int> _moved = [];
    private readonly List<JournalEntry> _pending = [];
    private bool _areForeign;

    internal History To => to;

    internal IReadOnlyList<JournalEntry> Pending => _pending;

    internal int Dropped { get; private set; }

    internal void TakeIn(IReadOnlyList<JournalEntry> missed)
    {
        var ours = _ours.Where(s => s.Entry?.Id is not null && !s.IsForeign).ToDictionary(s => s.Entry!.Id!, s => s.Revision);
        to.Truncate(confirmed);
        foreach (var entry in missed)
        {
            var isOurs = ours.TryGetValue(entry.Id ?? "", out var was);
            var step = to.Append(entry, !isOurs);
            _areForeign |= !isOurs;
            if (isOurs)
            {
                _arrived.Add(was);
                _moved[was] = step.Revision;
            }
        }
    }

    internal void PutAgain()
    {
        foreach (var step in _ours.Where(s => !_arrived.Contains(s.Revision)))
        {
            if (step.Entry is EditEntry || !_areForeign)
            {
                if (Put(step.Entry!) is { } now)
                {
                    _moved[step.Revision] = now;
                }
            }
            else if (step.Entry is not null)
            {
                PutDifference(step, step.Entry.Id);
            }
        }
    }

    /// <summary>
    /// What a line made of the state that it found: edits that it took away are left out, edits that it brought back are brought
    /// back. What others have done in between stays.
    /// </summary>
    private void PutDifference(HistoryStep step, string? id)
    {
        var before = from.ActiveEdits(from.Find(step.Revision - 1)!.Content);
        var after = from.ActiveEdits(step.Content);
        var lines = 0;
        // More than one line may come of one: each needs an id of its own, the same whenever this is done.
        void Send(Func<string?, JournalEntry> line, HistoryStep about)
        {
            lines++;
            if (Put(line(lines == 1 || id is null ? id : $"{id}.{lines}")) is { } now && to.Find(now)!.Entry is EditEntry)
            {
                _moved[about.Revision] = now;
            }
        }
        // The newest first, as undo would: what builds on another goes before it.
        foreach (var lost in before.ExceptBy(after.Select(s => s.Revision), s => s.Revision).Reverse())
        {
            if (PlaceOf(lost.Revision) is { } place && to.IsActive(place))
            {
                Send(i => new LeaveOutEntry(place) { Id = i }, lost);
            }
        }
        foreach (var gained in after.ExceptBy(before.Select(s => s.Revision), s => s.Revision))
        {
            if (PlaceOf(gained.Revision) is { } place && !to.IsActive(place))
            {
                // On another branch than the newest state there is nothing that leaves it out: it is done again.
                Send(i => to.LeftOutBy(place) is { } undo ? new LeaveOutEntry(undo.Revision) { Id = i } : gained.Entry! with { Id = i }, gained);
            }
        }
    }

    private int? PlaceOf(int revision) => _moved.TryGetValue(revision, out var now) ? now : revision <= confirmed ? revision : null;

    /// <returns>Its revision; null where it no longer fits.</returns>
    private int? Put(JournalEntry entry)
    {
        try
        {
            var revision = to.Append(entry).Revision;
            _pending.Add(entry);
            return revision;
        }
        catch (Refusal)
        {
            Dropped++;
            return null;
        }
    }
}
