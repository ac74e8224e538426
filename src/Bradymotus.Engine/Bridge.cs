using System.Diagnostics.CodeAnalysis;
using System.Runtime.InteropServices.JavaScript;
using Bradymotus.Core;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;
using Bradymotus.Wire;

namespace Bradymotus.Engine;

/// <summary>
/// What the page can call. What is said goes over as <see cref="Packed"/> bytes, numbers of a frame as views of this memory, without a copy.
/// Nothing is thrown across the border: a refusal comes back as text, and a question that has no answer gives an empty one.
/// </summary>
internal static partial class Bridge
{
    private static Session? _session;
    private static Session Open => _session ?? throw new InvalidOperationException("No shot is open.");

    /// <summary>Opens a shot.</summary>
    /// <param name="shot">The state to start from.</param>
    /// <param name="revision">Its revision.</param>
    /// <param name="entries">The journal after it, an array.</param>
    /// <returns>An <see cref="Outcome"/>.</returns>
    [JSExport]
    internal static byte[] OpenShot(byte[] shot, int revision, byte[] entries) => Answer(() =>
    {
        // The server has checked the shot against the rules; checking again here would only cost time at start.
        var history = new Core.Editing.History(Packed.ReadShot(shot, "shot"), revision);
        foreach (var entry in ReadEntries(entries))
        {
            history.Append(entry);
        }
        _session = new Session(history);
        return new Outcome();
    });

    /// <summary>Takes up lines again that this window, or an earlier one, has made and not seen acknowledged.</summary>
    /// <param name="after">The revision that they were made after.</param>
    /// <param name="entries">The lines, an array.</param>
    /// <returns>A <see cref="Merged"/>.</returns>
    [JSExport]
    internal static byte[] Resume(int after, byte[] entries) => AnswerMerged(() => Open.Resume(after, ReadEntries(entries)));

    /// <summary>Puts lines of others where they belong, before this window's newest ones.</summary>
    /// <param name="confirmed">The newest revision that is surely stored.</param>
    /// <param name="missed">What has been stored after it, an array.</param>
    /// <returns>A <see cref="Merged"/>.</returns>
    [JSExport]
    internal static byte[] Merge(int confirmed, byte[] missed) => AnswerMerged(() => Open.Merge(confirmed, ReadEntries(missed)));

    /// <summary>Takes back lines that the server has refused.</summary>
    /// <param name="confirmed">The newest revision that is surely stored.</param>
    [JSExport]
    internal static byte[] Drop(int confirmed) => Answer(() =>
    {
        Open.Drop(confirmed);
        return new Outcome();
    });

    /// <summary>Makes a change. Its journal entry comes back.</summary>
    /// <param name="id">The id of the entry.</param>
    [JSExport]
    internal static byte[] Commit(byte[] edit, string id) => Answer(() => Made(new EditEntry(ReadEdit(edit)) { Id = id }));

    /// <summary>Takes over an entry that was made elsewhere.</summary>
    [JSExport]
    internal static byte[] Append(byte[] entry) => Answer(() =>
    {
        Open.Append(Packed.ReadJournalEntry(entry, "journal entry"), isForeign: true);
        return new Outcome();
    });

    /// <summary>Shows a change without making it; nothing shows the shot as it is.</summary>
    [JSExport]
    internal static byte[] Try(byte[] edit) => Answer(() =>
    {
        Open.Try(edit.Length == 0 ? null : ReadEdit(edit));
        return new Outcome();
    });

    [JSExport]
    internal static byte[] Restore(int revision, string id) => Answer(() => Made(new RestoreEntry(revision) { Id = id }));

    /// <summary>Takes back the newest change of this window that still counts.</summary>
    [JSExport]
    internal static byte[] Undo(string id) => Answer(() => Open.History.Undo is { } undo ? Made(undo.Entry with { Id = id }) : new Outcome("There is nothing to undo."));

    /// <summary>Brings back what was taken back last.</summary>
    [JSExport]
    internal static byte[] Redo(string id) => Answer(() => Open.History.Redo is { } redo ? Made(redo.Entry with { Id = id }) : new Outcome("There is nothing to redo."));

    /// <summary>A <see cref="SceneView"/>.</summary>
    [JSExport]
    internal static byte[] Scene() => Safely<byte[]>(() => Packed.Write(SceneView.Of(Open.Compiled)), []);

    /// <summary>A <see cref="ChangesView"/>.</summary>
    [JSExport]
    internal static byte[] Changes() => Safely<byte[]>(() => Packed.Write(Open.TakeChanges(_changedFrames)), []);

    private static readonly List<double> _changedFrames = [];

    /// <summary>The frames of the keys of the curves that <see cref="Changes"/> has named last.</summary>
    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static Span<byte> ChangedFrames() => System.Runtime.InteropServices.MemoryMarshal.AsBytes(System.Runtime.InteropServices.CollectionsMarshal.AsSpan(_changedFrames));

    /// <summary>A <see cref="HistoryView"/>.</summary>
    /// <param name="after">Only the steps after this revision.</param>
    [JSExport]
    internal static byte[] History(int after) => Safely<byte[]>(() =>
    {
        var h = Open.History;
        var steps = h.Steps.Skip(Math.Max(0, after - h.Start + 1)).Select(s => new StepView(s.Revision, s.Content, s.Label)).ToArray();
        return Packed.Write(new HistoryView(h.Revision, h.Head.Content, h.Undo?.Label, h.Redo?.Label, steps));
    }, []);

    private static Outcome Made(JournalEntry entry)
    {
        Open.Append(entry, isForeign: false);
        return new Outcome(Entry: entry);
    }

    private static JournalEntry[] ReadEntries(byte[] bytes) => Packed.ReadJournalEntries(bytes, "journal");

    private static IReadOnlyList<ChannelAddress> Addresses(byte[] bytes) =>
        [.. Packed.ReadTexts(bytes, "channels").Select(ChannelAddress.Parse)];

    private static Edit ReadEdit(ReadOnlySpan<byte> bytes) => Packed.ReadEdit(bytes, "edit");

    private static byte[] AnswerMerged(Func<(IReadOnlyList<JournalEntry> Pending, int Dropped)> make)
    {
        Merged merged = new(null, [], 0);
        var outcome = Try(() =>
        {
            var (pending, dropped) = make();
            merged = new(null, pending, dropped);
            return new Outcome();
        });
        return Packed.Write(merged with { Refusal = outcome.Refusal });
    }

    private static byte[] Answer(Func<Outcome> make) => Packed.Write(Try(make));

    [SuppressMessage("Design", "CA1031", Justification = "Nothing may be thrown across the border.")]
    private static Outcome Try(Func<Outcome> make)
    {
        try
        {
            return make();
        }
        catch (Refusal e)
        {
            return new Outcome(e.Message);
        }
        catch (Exception e)
        {
            return new Outcome($"Something went wrong ({e.GetType().Name}: {e.Message}); nothing was changed.");
        }
    }

    [SuppressMessage("Design", "CA1031", Justification = "Nothing may be thrown across the border.")]
    private static T Safely<T>(Func<T> ask, T otherwise)
    {
        try
        {
            return ask();
        }
        catch (Refusal)
        {
            // The page says in its own words that there is none.
            return otherwise;
        }
        catch (Exception e)
        {
            Console.Error.WriteLine(e.Message);
            return otherwise;
        }
    }
}
