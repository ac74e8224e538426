using System.Text.Json.Serialization;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>One line of a shot's journal.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(EditEntry), "edit")]
[JsonDerivedType(typeof(RestoreEntry), "restore")]
public abstract record JournalEntry;

/// <summary>A change.</summary>
public sealed record EditEntry(Edit Edit) : JournalEntry;

/// <summary>Back to the state after an earlier revision; undo and redo are such steps. What came between stays in the journal.</summary>
public sealed record RestoreEntry(int Revision) : JournalEntry;

/// <summary>A state of the shot.</summary>
/// <param name="Revision">Counts every line of the journal from 1; 0 is the start.</param>
/// <param name="Content">The revision whose state this is: its own, or the one it went back to.</param>
/// <param name="Parent">The content before this one; −1 at the start.</param>
/// <param name="Label">For people.</param>
/// <param name="Shot">The state.</param>
public sealed record HistoryStep(int Revision, int Content, int Parent, string Label, Shot Shot);

/// <summary>
/// Every state that a shot has had. Nothing is thrown away: undo goes back along the parents, redo to the newest child,
/// and a new change after an undo starts a branch beside the old one. States share what they have in common.
/// </summary>
public sealed class History
{
    private readonly List<HistoryStep> _steps = [];
    private readonly Dictionary<int, int> _newestChild = [];
    private readonly Func<int, Shot>? _earlier;

    /// <param name="start">The state to start from.</param>
    /// <param name="revision">Its revision.</param>
    /// <param name="earlier">Fetches states before it; null where they are not to be had.</param>
    public History(Shot start, int revision = 0, Func<int, Shot>? earlier = null)
    {
        _earlier = earlier;
        _steps.Add(new(revision, revision, -1, "Start", start));
    }

    private History(History other)
    {
        _earlier = other._earlier;
        _steps = [.. other._steps];
        _newestChild = new(other._newestChild);
    }

    /// <summary>The same history, to try something on.</summary>
    public History Fork() => new(this);

    public HistoryStep Head => _steps[^1];

    public Shot Current => Head.Shot;

    public int Revision => Head.Revision;

    /// <summary>All steps that are at hand, oldest first.</summary>
    public IReadOnlyList<HistoryStep> Steps => _steps;

    /// <summary>The revision that undo goes back to, or null at the start.</summary>
    public int? UndoTarget => Find(Head.Content) is { Parent: >= 0 } step ? step.Parent : null;

    /// <summary>What undo takes back, for a tooltip.</summary>
    public string? UndoLabel => UndoTarget is null ? null : Find(Head.Content)!.Label;

    /// <summary>The revision that redo goes to, or null.</summary>
    public int? RedoTarget => _newestChild.TryGetValue(Head.Content, out var child) ? child : null;

    /// <summary>What redo brings back, for a tooltip.</summary>
    public string? RedoLabel => RedoTarget is { } target ? Find(target)?.Label : null;

    /// <summary>Applies a line of the journal.</summary>
    /// <returns>The new head.</returns>
    /// <exception cref="Refusal">The change cannot be made; nothing has happened.</exception>
    public HistoryStep Append(JournalEntry entry)
    {
        var revision = Revision + 1;
        switch (entry)
        {
            case EditEntry { Edit: { } edit }:
                var label = edit.Describe(Current);
                var after = edit.Apply(Current);
                _newestChild[Head.Content] = revision;
                _steps.Add(new(revision, revision, Head.Content, label, after));
                break;
            case RestoreEntry restore:
                _steps.Add(Restored(revision, restore.Revision));
                break;
            default:
                throw new Refusal("The journal entry is empty: send an edit or a restore.");
        }
        return Head;
    }

    private HistoryStep Restored(int revision, int target)
    {
        if (Find(target) is { } step)
        {
            // Undo, then redo, must come back the same way, whichever branch was newest.
            if (Find(Head.Content) is { } from && from.Parent == step.Content)
            {
                _newestChild[step.Content] = from.Content;
            }
            return new(revision, step.Content, step.Parent, step.Label, step.Shot);
        }
        if (target < 0 || target > Revision || _earlier is null)
        {
            throw new Refusal($"There is no state {target} to go back to: choose one from the history.");
        }
        return new(revision, revision, Head.Content, $"Back to state {target}", _earlier(target));
    }

    /// <summary>The step that made a state; revisions follow each other, so its place is known.</summary>
    public HistoryStep? Find(int revision)
    {
        var i = revision - _steps[0].Revision;
        return i >= 0 && i < _steps.Count ? _steps[i] : null;
    }
}
