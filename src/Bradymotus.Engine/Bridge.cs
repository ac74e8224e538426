using System.Diagnostics.CodeAnalysis;
using System.Runtime.InteropServices.JavaScript;
using System.Text.Json;
using Bradymotus.Core;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;

namespace Bradymotus.Engine;

/// <summary>
/// What the page can call. Text goes over as JSON in UTF-8, numbers of a frame as views of this memory, without a copy.
/// A refusal comes back as text and is never thrown across the border.
/// </summary>
internal static partial class Bridge
{
    private static Session? _session;

    private static Session Open => _session ?? throw new InvalidOperationException("No shot is open.");

    /// <summary>Opens a shot.</summary>
    /// <param name="shotJson">The state to start from.</param>
    /// <param name="revision">Its revision.</param>
    /// <param name="entriesJson">The journal after it, an array.</param>
    /// <returns>An <see cref="Outcome"/>.</returns>
    [JSExport]
    internal static byte[] OpenShot(byte[] shotJson, int revision, byte[] entriesJson) => Answer(() =>
    {
        var history = Replay(shotJson, revision, entriesJson);
        _session = new Session(history.Current, history.Revision);
        _session.Rebase(history);
        return new Outcome();
    });

    /// <summary>Replaces the history and shows its newest state; selection and frame stay with the page.</summary>
    [JSExport]
    internal static byte[] Rebase(byte[] shotJson, int revision, byte[] entriesJson) => Answer(() =>
    {
        Open.Rebase(Replay(shotJson, revision, entriesJson));
        return new Outcome();
    });

    /// <summary>Makes a change. Its journal entry comes back.</summary>
    [JSExport]
    internal static byte[] Commit(byte[] editJson) => Answer(() => Made(new EditEntry(ReadEdit(editJson))));

    /// <summary>Prepares what the first change would otherwise wait for. Changes nothing.</summary>
    [JSExport]
    internal static void Warm()
    {
        ShotJson.WriteBytes(ReadEdit("""{"kind":"batch","label":"","edits":[{"kind":"transformKeys","keys":[],"by":{}},{"kind":"setKeys","frame":0,"values":[]}]}"""u8));
        ShotJson.WriteBytes(new EditEntry(new SetValues([])) as JournalEntry);
    }

    /// <summary>Takes over an entry that was made elsewhere.</summary>
    [JSExport]
    internal static byte[] Append(byte[] entryJson) => Answer(() => Made(ShotJson.Read<JournalEntry>(entryJson, "journal entry")));

    /// <summary>Shows a change without making it; an empty text shows the shot as it is.</summary>
    [JSExport]
    internal static byte[] Try(byte[] editJson) => Answer(() =>
    {
        Open.Try(editJson.Length == 0 ? null : ReadEdit(editJson));
        return new Outcome();
    });

    [JSExport]
    internal static byte[] Restore(int revision) => Answer(() => Made(new RestoreEntry(revision)));

    /// <summary>
    /// Sets channels by hand: keys, static values, or values that wait to be keyed.
    /// </summary>
    /// <param name="valuesJson">An array of <see cref="ChannelValue"/>.</param>
    /// <param name="commit">False only shows it.</param>
    [JSExport]
    internal static byte[] Pose(byte[] valuesJson, bool autoKey, bool commit) =>
        Answer(() => Posed(JsonSerializer.Deserialize(valuesJson, EngineJsonContext.Default.ChannelValueArray)!, autoKey, commit));

    /// <summary>Puts nodes somewhere in the world, as <see cref="Pose"/>.</summary>
    /// <param name="idsJson">Their ids.</param>
    /// <param name="worlds">Sixteen numbers each, column-major.</param>
    [JSExport]
    internal static byte[] Place(byte[] idsJson, double[] worlds, bool autoKey, bool commit) => Answer(() =>
    {
        Open.Try(null);
        var ids = JsonSerializer.Deserialize(idsJson, EngineJsonContext.Default.StringArray)!;
        return Posed(Open.Place(ids, worlds), autoKey, commit);
    });

    /// <summary>Holds the pose before until the evaluated frame; where no key comes before it, keys channels as they are now.</summary>
    /// <param name="channelsJson">An array of addresses.</param>
    [JSExport]
    internal static byte[] Hold(byte[] channelsJson) => Answer(() => Made(new EditEntry(Open.Hold(Addresses(channelsJson)))));

    /// <summary>Keys channels as they are now.</summary>
    /// <param name="channelsJson">An array of addresses.</param>
    [JSExport]
    internal static byte[] KeyNow(byte[] channelsJson) => Answer(() => Made(new EditEntry(Open.KeyNow(Addresses(channelsJson)))));

    /// <summary>The addresses of the channels that were changed and wait to be keyed.</summary>
    [JSExport]
    internal static byte[] Waiting() =>
        JsonSerializer.SerializeToUtf8Bytes([.. Open.Waiting.Select(a => a.ToString())], EngineJsonContext.Default.StringArray);

    /// <summary>Evaluates a frame into the buffers below.</summary>
    /// <param name="stepped">Shows the last pose instead of what lies between two.</param>
    [JSExport]
    internal static void Evaluate(double frame, bool stepped) => Open.Evaluate(stepped ? Open.Compiled.PoseAt(frame) : frame);

    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static Span<byte> Matrices() => System.Runtime.InteropServices.MemoryMarshal.AsBytes(Open.Buffers.Matrices.AsSpan());

    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static ArraySegment<byte> Seen() => Open.Buffers.Seen;

    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static ArraySegment<double> Values() => Open.State.Values;

    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static ArraySegment<int> MeshVersions() => Open.Buffers.MeshVersions;

    /// <summary>The vertices of a node on the evaluated frame, as bytes of 32-bit floats.</summary>
    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static Span<byte> Positions(int node) => System.Runtime.InteropServices.MemoryMarshal.AsBytes(Open.State.Mesh(node)!.Positions.AsSpan());

    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static Span<byte> Normals(int node) => System.Runtime.InteropServices.MemoryMarshal.AsBytes(Open.State.Mesh(node)!.Normals.AsSpan());

    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static ArraySegment<int> Indices(int node) => Open.State.Mesh(node)!.Indices;

    /// <summary>A <see cref="SceneView"/>.</summary>
    [JSExport]
    internal static byte[] Scene() => JsonSerializer.SerializeToUtf8Bytes(SceneView.Of(Open.Compiled), EngineJsonContext.Default.SceneView);

    /// <summary>A <see cref="ChangesView"/>.</summary>
    [JSExport]
    internal static byte[] Changes() => JsonSerializer.SerializeToUtf8Bytes(Open.TakeChanges(), EngineJsonContext.Default.ChangesView);

    /// <summary>A <see cref="CurveView"/>, or empty text.</summary>
    [JSExport]
    internal static byte[] Curve(string channel) =>
        Open.CurveOf(ChannelAddress.Parse(channel)) is { } view ? JsonSerializer.SerializeToUtf8Bytes(view, EngineJsonContext.Default.CurveView) : [];

    /// <summary>Values of a channel at evenly spaced frames.</summary>
    [JSExport]
    internal static double[] Sample(string channel, double first, double step, int count)
    {
        var values = new double[Math.Clamp(count, 0, 100_000)];
        var found = Open.Shown.Channel(ChannelAddress.Parse(channel));
        for (var i = 0; i < values.Length; i++)
        {
            values[i] = found.Evaluate(first + i * step);
        }
        return values;
    }

    /// <summary>A segment from 0 to 1, drawn small: evenly spaced values.</summary>
    [JSExport]
    internal static double[] EasePicture(byte[] segmentJson)
    {
        var values = new double[41];
        var segment = ShotJson.Read<Core.Curves.Segment>(segmentJson, "segment");
        new Core.Curves.Curve([new(0, 0, segment), new(1, 1)]).Compiled().Sample(0, 1.0 / (values.Length - 1), values);
        return values;
    }

    /// <summary>The way of a node's pivot: x, y, z for each whole frame.</summary>
    [JSExport]
    internal static double[] Path(string node, int first, int last) => [.. Open.Path(node, first, Math.Min(last, first + 5000)).Select(f => (double)f)];

    /// <summary>A <see cref="HistoryView"/>.</summary>
    [JSExport]
    internal static byte[] History()
    {
        var h = Open.History;
        var steps = h.Steps.Select(s => new StepView(s.Revision, s.Content, s.Label)).ToArray();
        return JsonSerializer.SerializeToUtf8Bytes(new HistoryView(h.Revision, h.Head.Content, h.UndoTarget, h.UndoLabel, h.RedoTarget, h.RedoLabel, steps),
            EngineJsonContext.Default.HistoryView);
    }

    /// <summary>Whole keys as JSON, for the clipboard.</summary>
    /// <param name="keysJson">A remove edit that names them.</param>
    [JSExport]
    internal static byte[] CopyKeys(byte[] keysJson) =>
        ShotJson.WriteBytes(new PutKeys(Open.Copy(((RemoveKeys)ReadEdit(keysJson)).Keys)) as Edit);

    private static Core.Editing.History Replay(byte[] shotJson, int revision, byte[] entriesJson)
    {
        // The server has checked the shot against the rules; checking again here would only cost time at start.
        var history = new Core.Editing.History(ShotJson.Read<Shot>(shotJson, "shot"), revision);
        foreach (var entry in entriesJson.Length <= 2 ? [] : ShotJson.Read<JournalEntry[]>(entriesJson, "journal"))
        {
            history.Append(entry);
        }
        return history;
    }

    private static Outcome Posed(IReadOnlyList<ChannelValue> values, bool autoKey, bool commit)
    {
        var (edit, waiting) = Open.Pose(values, autoKey);
        if (!commit || edit is null)
        {
            Open.Try(edit);
        }
        Open.Wait(waiting);
        return commit && edit is not null ? Made(new EditEntry(edit)) : new Outcome();
    }

    private static Outcome Made(JournalEntry entry)
    {
        Open.Append(entry);
        return new Outcome(Entry: JsonElement.Parse(ShotJson.WriteBytes(entry)));
    }

    private static IReadOnlyList<ChannelAddress> Addresses(byte[] json) =>
        [.. JsonSerializer.Deserialize(json, EngineJsonContext.Default.StringArray)!.Select(ChannelAddress.Parse)];

    private static Edit ReadEdit(ReadOnlySpan<byte> json) => ShotJson.Read<Edit>(json, "edit");

    [SuppressMessage("Design", "CA1031", Justification = "Nothing may be thrown across the border.")]
    private static byte[] Answer(Func<Outcome> make)
    {
        Outcome outcome;
        try
        {
            outcome = make();
        }
        catch (Refusal e)
        {
            outcome = new Outcome(e.Message);
        }
        catch (Exception e)
        {
            outcome = new Outcome($"Something went wrong ({e.GetType().Name}: {e.Message}); nothing was changed.");
        }
        return JsonSerializer.SerializeToUtf8Bytes(outcome, EngineJsonContext.Default.Outcome);
    }
}
