using System.Text.Json.Serialization;

namespace Bradymotus.Core.Editing;

/// <summary>One line of a shot's journal.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(EditEntry), "edit")]
[JsonDerivedType(typeof(RestoreEntry), "restore")]
[JsonDerivedType(typeof(LeaveOutEntry), "leaveOut")]
public abstract record JournalEntry
{
    /// <summary>
    /// Given by who made it, a UUID; the same line sent twice is taken once. Null where the maker does not care.
    /// </summary>
    public string? Id { get; init; }
}

/// <summary>A change.</summary>
public sealed record EditEntry(Edit Edit) : JournalEntry;

/// <summary>Back to the state after an earlier revision; undo and redo are such steps. What came between stays in the journal.</summary>
public sealed record RestoreEntry(int Revision) : JournalEntry;

/// <summary>
/// Takes one earlier line back and keeps what was done after it, as undo does when others have changed the shot in between.
/// Leaving out a line that leaves out brings its line back.
/// </summary>
public sealed record LeaveOutEntry(int Revision) : JournalEntry;
