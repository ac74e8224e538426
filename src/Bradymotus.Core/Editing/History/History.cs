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
/// Longer than most: every way through a history has to agree on which lines count.
/// The newest states are at hand, and one of every so many older ones; a state between two of them is made again from the
/// one before it when it is asked for. So a long history of a large shot holds little more than its edits.
/// <para>
/// A state is the start with its <em>active</em> edits done in order: those on the way to it that no active line leaves out.
/// So a state is made in one pass forwards, however many lines were left out and brought back.
/// </para>
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

    /// <summary>A copy, to try something that may fail half way.</summary>
    private History(History from)
    {
        _steps = [.. from._steps];
        _newestChild = new(from._newestChild);
        _states = new(from._states);
        _lastKept = from._lastKept;
        Current = from.Current;
    }

    /// <summary>The newest step.</summary>
    public HistoryStep Head => _steps[^1];

    /// <summary>The newest state.</summary>
    public Shot Current { get; private set; }

    /// <summary>The revision of the newest step.</summary>
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
                Add(new(revision, revision, Head.Content, $"Undo {Find(leaveOut.Revision)?.Label}", entry, isForeign), Without(leaveOut.Revision, cancel));
                break;
            case RestoreEntry restore:
                Restore(revision, restore, isForeign, cancel);
                break;
            default:
                throw new Refusal("The journal entry is empty: send an edit, a restore or a line to leave out.");
        }
        return Head;
    }

    /// <summary>Notes a line that cannot be read: the state stays as it is.</summary>
    public void AppendUnreadable() => Add(new(Revision + 1, Revision + 1, Head.Content, "(cannot be read)", null), Current);

    /// <summary>The state at a revision. Takes a time that grows with the number of edits that lead to it.</summary>
    /// <param name="revision">Its revision.</param>
    /// <param name="cancel">For states of many changes.</param>
    /// <exception cref="Refusal">It is not in this history.</exception>
    /// <exception cref="OperationCanceledException">Cancelled.</exception>
    public Shot StateAt(int revision, CancellationToken cancel = default)
    {
        var step = Find(revision) ?? throw new Refusal($"There is no state {revision} in this history.");
        return Made(step.Content, null, cancel);
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
    /// A line of this window that is among them has arrived already and is not made twice. What this window took back or
    /// brought back is so afterwards, and nothing else: a way back to an older state becomes the difference that it made.
    /// </summary>
    /// <param name="confirmed">The newest revision that is surely stored.</param>
    /// <param name="missed">What has been stored after it.</param>
    /// <returns>The history as it is then (this one stays as it was), this window's lines that are still to be sent, and how many no longer fit and were left out.</returns>
    /// <exception cref="Refusal">A line of others cannot be applied here: the history has to be opened again.</exception>
    public (History Merged, IReadOnlyList<JournalEntry> Pending, int Dropped) Merge(int confirmed, IReadOnlyList<JournalEntry> missed)
    {
        var merge = new HistoryMerge(this, new History(this), confirmed);
        merge.TakeIn(missed);
        merge.PutAgain();
        return (merge.To, merge.Pending, merge.Dropped);
    }

    /// <summary>
    /// Takes up lines again that were made after a revision and have not been seen stored since: they are put in there, and what
    /// the history has after it is merged as others' work.
    /// </summary>
    /// <param name="after">The revision that they were made after.</param>
    /// <param name="entries">The lines, in order.</param>
    /// <returns>As <see cref="Merge"/>.</returns>
    public (History Merged, IReadOnlyList<JournalEntry> Pending, int Dropped) Resume(int after, IReadOnlyList<JournalEntry> entries)
    {
        var from = Math.Max(after, Start);
        var before = new History(this);
        before.Truncate(from);
        var lost = 0;
        foreach (var entry in entries)
        {
            try
            {
                // The numbers that a line speaks of are right only as long as all lines before it are there.
                if ((from != after || lost > 0) && entry is not EditEntry)
                {
                    lost++;
                    continue;
                }
                before.Append(entry);
            }
            catch (Refusal)
            {
                lost++;
            }
        }
        var (merged, pending, dropped) = before.Merge(from, [.. Steps.Where(s => s.Revision > from).Select(s => s.Entry).OfType<JournalEntry>()]);
        return (merged, pending, dropped + lost);
    }

    /// <summary>The edits that make up a state, oldest first.</summary>
    public IReadOnlyList<HistoryStep> ActiveEdits(int content)
    {
        var edits = Active(content, []).Where(s => s.Entry is EditEntry).ToList();
        edits.Reverse();
        return edits;
    }

    /// <summary>The line that leaves out another in the newest state; null where none does.</summary>
    internal HistoryStep? LeftOutBy(int revision) => Active(Head.Content, []).FirstOrDefault(s => s.Entry is LeaveOutEntry l && l.Revision == revision);

    /// <summary>Whether a line is part of the newest state.</summary>
    internal bool IsActive(int revision) => Active(Head.Content, []).Any(s => s.Revision == revision);

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
            // What another window has done is not this one's to bring back.
            if (!step.IsForeign)
            {
                _newestChild[from] = step.Revision;
            }
        }
        else if (Find(from) is { IsForeign: false } left && left.Parent == step.Content)
        {
            // Undo, then redo, must come back the same way, whichever branch was newest.
            _newestChild[step.Content] = from;
        }
    }

    private void Restore(int revision, RestoreEntry entry, bool isForeign, CancellationToken cancel)
    {
        var target = entry.Revision;
        var step = Find(target) ?? throw new Refusal($"There is no state {target} to go back to: choose one from the history.");
        var content = Find(step.Content)!;
        Add(new(revision, content.Revision, content.Parent, content.Label, entry, isForeign), StateAt(target, cancel));
    }

    /// <summary>The steps that lead to a state, newest first, without those that are left out.</summary>
    private IEnumerable<HistoryStep> Active(int content, HashSet<int> leftOut)
    {
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
            yield return step;
        }
    }

    /// <summary>The newest state as it would be had a line never been, with all others that lead to it.</summary>
    private Shot Without(int revision, CancellationToken cancel)
    {
        if (!IsActive(revision))
        {
            throw new Refusal($"The change {revision} is not part of this state, so it cannot be taken back: choose a state from the history.");
        }
        return Made(Head.Content, revision, cancel);
    }

    /// <summary>A state, made in one pass forwards from the newest one at hand that begins with the same edits.</summary>
    /// <param name="content">Whose state.</param>
    /// <param name="without">A line to leave out besides; null for none.</param>
    private Shot Made(int content, int? without, CancellationToken cancel)
    {
        // Back along the way, until a state at hand has all edits as they are to be: none before it is left out or brought back after it.
        var first = without is { } left ? EditOf(left) : int.MaxValue;
        var step = Find(content)!;
        while (!(_states.ContainsKey(step.Revision) && first > step.Revision))
        {
            if (step.Entry is LeaveOutEntry leaveOut)
            {
                first = Math.Min(first, EditOf(leaveOut.Revision));
            }
            step = Find(step.Parent)!;
        }
        var path = new Stack<HistoryStep>(Active(content, without is { } line ? [line] : []).TakeWhile(s => s.Revision > step.Revision));
        var shot = _states[step.Revision];
        while (path.TryPop(out var next))
        {
            cancel.ThrowIfCancellationRequested();
            try
            {
                shot = next.Entry is EditEntry { Edit: var edit } ? edit.Apply(shot, cancel) : shot;
            }
            catch (Refusal refusal)
            {
                throw new Refusal($"This cannot be taken back by itself, since “{next.Label}” builds on it: {refusal.Message}", refusal);
            }
        }
        return shot;
    }

    /// <summary>The edit that a line, or what it leaves out, is about.</summary>
    private int EditOf(int revision)
    {
        while (Find(revision)?.Entry is LeaveOutEntry brought)
        {
            revision = brought.Revision;
        }
        return revision;
    }
}
