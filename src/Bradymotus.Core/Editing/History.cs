using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>A step of a history.</summary>
/// <param name="Revision">Counts every line of the journal from 1; 0 is the start.</param>
/// <param name="Content">The revision whose state this is: its own, or the one it went back to.</param>
/// <param name="Parent">The content before this one; −1 at the start.</param>
/// <param name="Label">For people.</param>
/// <param name="Entry">The line of the journal; null at the start, and for a line that could not be read.</param>
/// <param name="IsForeign">Made in another window while this one was open.</param>
public sealed record HistoryStep(int Revision, int Content, int Parent, string Label, JournalEntry? Entry, bool IsForeign = false);

/// <summary>
/// Every state that a shot has had. Nothing is thrown away: undo goes back along the parents, redo to the newest child,
/// and a new change after an undo starts a branch beside the old one.
/// </summary>
/// <remarks>
/// The newest states are at hand, and one of every so many older ones; a state between two of them is made again from the
/// one before it when it is asked for. So a long history of a large shot holds little more than its edits.
/// </remarks>
public sealed class History
{
    /// <summary>So many of the newest states stay at hand.</summary>
    private const int Newest = 32;

    /// <summary>Of the older states, one of so many stays at hand.</summary>
    private const int Every = 64;

    private readonly List<HistoryStep> _steps = [];
    private readonly Dictionary<int, int> _newestChild = [];
    private readonly Dictionary<int, Shot> _states = [];
    private int _lastKept;

    /// <param name="start">The state to start from.</param>
    /// <param name="revision">Its revision.</param>
    public History(Shot start, int revision = 0)
    {
        _steps.Add(new(revision, revision, -1, "Start", null));
        _states[revision] = start;
        _lastKept = revision;
        Current = start;
    }

    public HistoryStep Head => _steps[^1];

    /// <summary>The newest state.</summary>
    public Shot Current { get; private set; }

    public int Revision => Head.Revision;

    /// <summary>The revision of the state that it starts from.</summary>
    public int Start => _steps[0].Revision;

    /// <summary>All steps that are at hand, oldest first.</summary>
    public IReadOnlyList<HistoryStep> Steps => _steps;

    /// <summary>What undo would append, with what it takes back; null where there is nothing of this window's to take back.</summary>
    public (JournalEntry Entry, string Label)? Undo
    {
        get
        {
            var skipped = false;
            foreach (var step in Active(Head.Content, []))
            {
                if (step.Entry is LeaveOutEntry)
                {
                    continue;
                }
                if (!step.IsForeign)
                {
                    return (skipped || step.Revision != Head.Content ? new LeaveOutEntry(step.Revision) : new RestoreEntry(step.Parent), step.Label);
                }
                skipped = true;
            }
            return null;
        }
    }

    /// <summary>What redo would append, with what it brings back; null where there is nothing to bring back.</summary>
    public (JournalEntry Entry, string Label)? Redo
    {
        get
        {
            foreach (var step in Active(Head.Content, []))
            {
                if (step.Entry is LeaveOutEntry { Revision: var target } && !step.IsForeign && Find(target)?.Entry is not LeaveOutEntry)
                {
                    return (new LeaveOutEntry(step.Revision), Find(target)?.Label ?? step.Label);
                }
                if (step.Entry is not LeaveOutEntry && !step.IsForeign)
                {
                    break;
                }
            }
            return _newestChild.TryGetValue(Head.Content, out var child) ? (new RestoreEntry(child), Find(child)?.Label ?? "") : null;
        }
    }

    /// <summary>Applies a line of the journal.</summary>
    /// <param name="entry">The line.</param>
    /// <param name="isForeign">Made in another window.</param>
    /// <param name="cancel">For changes of many parts.</param>
    /// <returns>The new head.</returns>
    /// <exception cref="Refusal">The change cannot be made; nothing has happened.</exception>
    /// <exception cref="OperationCanceledException">Cancelled; nothing has happened.</exception>
    public HistoryStep Append(JournalEntry entry, bool isForeign = false, CancellationToken cancel = default)
    {
        var revision = Revision + 1;
        switch (entry)
        {
            case EditEntry { Edit: { } edit }:
                var label = edit.Describe(Current);
                Add(new(revision, revision, Head.Content, label, entry, isForeign), edit.Apply(Current, cancel));
                break;
            case LeaveOutEntry leaveOut:
                Add(new(revision, revision, Head.Content, $"Undo {Find(leaveOut.Revision)?.Label}", entry, isForeign), Without(leaveOut.Revision));
                break;
            case RestoreEntry restore:
                Restore(revision, restore, isForeign);
                break;
            default:
                throw new Refusal("The journal entry is empty: send an edit, a restore or a line to leave out.");
        }
        return Head;
    }

    /// <summary>Notes a line that cannot be read: the state stays as it is.</summary>
    public void AppendUnreadable() => Add(new(Revision + 1, Revision + 1, Head.Content, "(cannot be read)", null), Current);

    /// <summary>The state at a revision.</summary>
    /// <exception cref="Refusal">It is not in this history.</exception>
    public Shot StateAt(int revision)
    {
        var step = Find(revision) ?? throw new Refusal($"There is no state {revision} in this history.");
        // From the newest state at hand, forward again.
        var path = new Stack<HistoryStep>();
        for (step = Find(step.Content)!; !_states.ContainsKey(step.Revision); step = Find(step.Parent)!)
        {
            path.Push(step);
        }
        var shot = _states[step.Revision];
        while (path.TryPop(out var next))
        {
            shot = next.Entry switch
            {
                EditEntry { Edit: var edit } => edit.Apply(shot),
                LeaveOutEntry leaveOut => Without(leaveOut.Revision, next.Parent),
                _ => shot,
            };
        }
        return shot;
    }

    /// <summary>Forgets everything after a revision, as when it could not be stored.</summary>
    public void Truncate(int revision)
    {
        var keep = revision - Start + 1;
        if (keep < 1 || keep >= _steps.Count)
        {
            return;
        }
        var current = StateAt(revision);
        _steps.RemoveRange(keep, _steps.Count - keep);
        foreach (var later in _states.Keys.Where(r => r > revision).ToList())
        {
            _states.Remove(later);
        }
        Current = current;
        _states[Head.Content] = current;
        _lastKept = Math.Min(_lastKept, revision);
        _newestChild.Clear();
        for (var i = 1; i < _steps.Count; i++)
        {
            Link(_steps[i - 1].Content, _steps[i]);
        }
    }

    /// <summary>
    /// Lines of others belong before this window's newest ones: they are put in, and this window's again after them.
    /// A line of this window that is among them has arrived already and is not made twice.
    /// </summary>
    /// <param name="confirmed">The newest revision that is surely stored.</param>
    /// <param name="missed">What has been stored after it.</param>
    /// <returns>This window's lines that are still to be sent, and how many no longer fit and were left out.</returns>
    /// <exception cref="Refusal">A line of others cannot be applied here: the history has to be opened again.</exception>
    public (IReadOnlyList<JournalEntry> Pending, int Dropped) Merge(int confirmed, IReadOnlyList<JournalEntry> missed)
    {
        var old = _steps.Where(s => s.Revision > confirmed).ToList();
        var all = _steps.ToDictionary(s => s.Revision);
        var ours = old.Where(s => s.Entry?.Id is not null).ToDictionary(s => s.Entry!.Id!, s => s.Revision);
        // Where the lines of this window stand now.
        var moved = new Dictionary<int, int>();
        Truncate(confirmed);
        var areForeign = false;
        foreach (var entry in missed)
        {
            var isOurs = entry.Id is not null && ours.ContainsKey(entry.Id);
            var step = Append(entry, !isOurs);
            areForeign |= !isOurs;
            if (isOurs)
            {
                moved[ours[entry.Id!]] = step.Revision;
            }
        }
        var pending = new List<JournalEntry>();
        var dropped = 0;
        foreach (var step in old)
        {
            if (moved.ContainsKey(step.Revision))
            {
                continue;
            }
            try
            {
                var entry = areForeign ? Moved(step, all, confirmed, moved) : step.Entry;
                if (entry is not null)
                {
                    moved[step.Revision] = Append(entry).Revision;
                    pending.Add(entry);
                    continue;
                }
            }
            catch (Refusal)
            {
                // It no longer fits: counted below.
            }
            dropped++;
        }
        return (pending, dropped);
    }

    /// <summary>The step that made a state; revisions follow each other, so its place is known.</summary>
    public HistoryStep? Find(int revision)
    {
        var i = revision - _steps[0].Revision;
        return i >= 0 && i < _steps.Count ? _steps[i] : null;
    }

    private void Add(HistoryStep step, Shot state)
    {
        Link(Head.Content, step);
        _steps.Add(step);
        Current = state;
        if (step.Content == step.Revision)
        {
            _states[step.Revision] = state;
        }
        var old = step.Revision - Newest;
        if (old <= Start || !_states.ContainsKey(old))
        {
            return;
        }
        if (old - _lastKept >= Every)
        {
            _lastKept = old;
        }
        else
        {
            _states.Remove(old);
        }
    }

    private void Link(int from, HistoryStep step)
    {
        if (step.Content == step.Revision)
        {
            _newestChild[from] = step.Revision;
        }
        else if (Find(from) is { } left && left.Parent == step.Content)
        {
            // Undo, then redo, must come back the same way, whichever branch was newest.
            _newestChild[step.Content] = from;
        }
    }

    private void Restore(int revision, RestoreEntry entry, bool isForeign)
    {
        var target = entry.Revision;
        var step = Find(target) ?? throw new Refusal($"There is no state {target} to go back to: choose one from the history.");
        var content = Find(step.Content)!;
        Add(new(revision, content.Revision, content.Parent, content.Label, entry, isForeign), StateAt(target));
    }

    /// <summary>The steps that lead to a state, newest first, without those that are left out.</summary>
    private List<HistoryStep> Active(int content, HashSet<int> leftOut)
    {
        var active = new List<HistoryStep>();
        for (var step = Find(content); step is { Parent: >= 0 }; step = Find(step.Parent))
        {
            if (leftOut.Contains(step.Revision))
            {
                continue;
            }
            if (step.Entry is LeaveOutEntry leaveOut)
            {
                leftOut.Add(leaveOut.Revision);
            }
            active.Add(step);
        }
        return active;
    }

    /// <summary>A state as it would be had a line never been, with all others that lead to it.</summary>
    private Shot Without(int revision, int? content = null)
    {
        var from = content ?? Head.Content;
        if (!Active(from, []).Any(s => s.Revision == revision))
        {
            throw new Refusal($"The change {revision} is not part of this state, so it cannot be taken back: choose a state from the history.");
        }
        var active = Active(from, [revision]);
        // Everything is made again from the first line that is not as it was: this one, the one that it had left out, or one that is left out after it.
        var first = revision;
        while (Find(first)?.Entry is LeaveOutEntry brought)
        {
            first = brought.Revision;
        }
        for (var before = -1; before != first;)
        {
            before = first;
            first = active.Where(s => s.Revision > first).Select(s => s.Entry).OfType<LeaveOutEntry>().Select(l => l.Revision).Append(first).Min();
        }
        return Replayed(active.Where(s => s.Revision >= first), Find(first)!.Parent);
    }

    private Shot Replayed(IEnumerable<HistoryStep> newestFirst, int from)
    {
        var path = new Stack<HistoryStep>(newestFirst.Where(s => s.Entry is not LeaveOutEntry));
        var shot = StateAt(from);
        while (path.TryPop(out var next))
        {
            try
            {
                shot = next.Entry switch
                {
                    EditEntry { Edit: var edit } => edit.Apply(shot),
                    _ => shot,
                };
            }
            catch (Refusal refusal)
            {
                throw new Refusal($"This cannot be taken back by itself, since “{next.Label}” builds on it: {refusal.Message}", refusal);
            }
        }
        return shot;
    }

    /// <summary>A line of this window, made when it did not know of others' lines, as it has to read after them.</summary>
    /// <returns>Null where it has no meaning any more.</returns>
    private static JournalEntry? Moved(HistoryStep step, Dictionary<int, HistoryStep> all, int confirmed, Dictionary<int, int> moved)
    {
        int? Place(int revision) => revision <= confirmed ? revision : moved.TryGetValue(revision, out var now) ? now : null;
        switch (step.Entry)
        {
            case LeaveOutEntry leaveOut:
                return Place(leaveOut.Revision) is { } target ? leaveOut with { Revision = target } : null;
            case RestoreEntry restore when all.TryGetValue(restore.Revision, out var to):
                var from = all[all[step.Revision - 1].Content];
                if (from.Parent == to.Content)
                {
                    // Undo: the state before would take back what others have done too.
                    return Place(from.Revision) is { } undone ? new LeaveOutEntry(undone) { Id = restore.Id } : null;
                }
                var redone = all[to.Content];
                if (redone.Parent == from.Revision)
                {
                    // Redo: what took it back is left out in turn, or, where that was a plain way back, it is done again.
                    var undo = all.Values.Where(s => s.Revision < step.Revision && s.Revision > confirmed && s.Entry is RestoreEntry && s.Content == from.Revision)
                        .OrderByDescending(s => s.Revision).FirstOrDefault();
                    return undo is not null && moved.TryGetValue(undo.Revision, out var at) ? new LeaveOutEntry(at) { Id = restore.Id }
                        : redone.Entry is EditEntry again ? again with { Id = restore.Id } : null;
                }
                return Place(restore.Revision) is { } place ? restore with { Revision = place } : null;
            default:
                return step.Entry;
        }
    }
}
