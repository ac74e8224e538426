using System.Diagnostics.CodeAnalysis;
using System.Runtime.InteropServices;
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
/// Nothing is thrown across the border: a refusal comes back as text, and a question that has no answer gives an empty one.
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
        // The server has checked the shot against the rules; checking again here would only cost time at start.
        var history = new Core.Editing.History(ShotJson.Read<Shot>(shotJson, "shot"), revision);
        foreach (var entry in ReadEntries(entriesJson))
        {
            history.Append(entry);
        }
        _session = new Session(history);
        return new Outcome();
    });

    /// <summary>Takes up lines again that this window, or an earlier one, has made and not seen acknowledged.</summary>
    /// <param name="after">The revision that they were made after.</param>
    /// <param name="entriesJson">The lines, an array.</param>
    /// <returns>A <see cref="Merged"/>.</returns>
    [JSExport]
    internal static byte[] Resume(int after, byte[] entriesJson) => AnswerMerged(() => Open.Resume(after, ReadEntries(entriesJson)));

    /// <summary>Puts lines of others where they belong, before this window's newest ones.</summary>
    /// <param name="confirmed">The newest revision that is surely stored.</param>
    /// <param name="missedJson">What has been stored after it, an array.</param>
    /// <returns>A <see cref="Merged"/>.</returns>
    [JSExport]
    internal static byte[] Merge(int confirmed, byte[] missedJson) => AnswerMerged(() => Open.Merge(confirmed, ReadEntries(missedJson)));

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
    internal static byte[] Commit(byte[] editJson, string id) => Answer(() => Made(new EditEntry(ReadEdit(editJson)) { Id = id }));

    /// <summary>Prepares what the first change would otherwise wait for. Changes nothing.</summary>
    [JSExport]
    internal static void Warm() => Safely(() =>
    {
        ShotJson.WriteBytes(ReadEdit("""{"kind":"batch","label":"","edits":[{"kind":"transformKeys","keys":[],"by":{}},{"kind":"setKeys","frame":0,"values":[]}]}"""u8));
        return ShotJson.WriteBytes(new EditEntry(new SetValues([])) as JournalEntry);
    }, []);

    /// <summary>Takes over an entry that was made elsewhere.</summary>
    [JSExport]
    internal static byte[] Append(byte[] entryJson) => Answer(() =>
    {
        Open.Append(ShotJson.Read<JournalEntry>(entryJson, "journal entry"), isForeign: true);
        return new Outcome();
    });

    /// <summary>Shows a change without making it; an empty text shows the shot as it is.</summary>
    [JSExport]
    internal static byte[] Try(byte[] editJson) => Answer(() =>
    {
        Open.Try(editJson.Length == 0 ? null : ReadEdit(editJson));
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

    /// <summary>
    /// Sets channels by hand: keys, static values, or values that wait to be keyed.
    /// </summary>
    /// <param name="valuesJson">An array of <see cref="ChannelValue"/>.</param>
    /// <param name="commit">False only shows it.</param>
    [JSExport]
    internal static byte[] Pose(byte[] valuesJson, bool autoKey, bool commit, string id) =>
        Answer(() => Posed(JsonSerializer.Deserialize(valuesJson, EngineJsonContext.Default.ChannelValueArray)!, autoKey, commit, id));

    /// <summary>Puts nodes somewhere in the world, as <see cref="Pose"/>.</summary>
    /// <param name="idsJson">Their ids.</param>
    /// <param name="worlds">Sixteen numbers each, column-major.</param>
    [JSExport]
    internal static byte[] Place(byte[] idsJson, double[] worlds, bool autoKey, bool commit, string id) => Answer(() =>
        Posed(Open.Place(JsonSerializer.Deserialize(idsJson, EngineJsonContext.Default.StringArray)!, worlds), autoKey, commit, id));

    /// <summary>Holds the pose before until the evaluated frame; where no key comes before it, keys channels as they are now.</summary>
    /// <param name="channelsJson">An array of addresses.</param>
    [JSExport]
    internal static byte[] Hold(byte[] channelsJson, string id) => Answer(() => Made(new EditEntry(Open.Hold(Addresses(channelsJson))) { Id = id }));

    /// <summary>Keys channels as they are now.</summary>
    /// <param name="channelsJson">An array of addresses.</param>
    [JSExport]
    internal static byte[] KeyNow(byte[] channelsJson, string id) => Answer(() => Made(new EditEntry(Open.KeyNow(Addresses(channelsJson))) { Id = id }));

    /// <summary>The addresses of the channels that were changed and wait to be keyed.</summary>
    [JSExport]
    internal static byte[] Waiting() =>
        Safely(() => JsonSerializer.SerializeToUtf8Bytes([.. Open.Waiting.Select(a => a.ToString())], EngineJsonContext.Default.StringArray), "[]"u8.ToArray());

    /// <summary>A <see cref="LeftView"/> of the values that waited on the frame that was left, or empty text.</summary>
    [JSExport]
    internal static byte[] Left() => Safely<byte[]>(() => Open.Left is { } left ? JsonSerializer.SerializeToUtf8Bytes(left, EngineJsonContext.Default.LeftView) : [], []);

    /// <summary>Lets the values wait again that were left behind. Their frame has to be evaluated before.</summary>
    [JSExport]
    internal static byte[] BringBack() => Answer(() =>
    {
        Open.BringBack();
        return new Outcome();
    });

    /// <summary>Evaluates a frame into the buffers below.</summary>
    /// <param name="stepped">Shows the last pose instead of what lies between two.</param>
    [JSExport]
    internal static void Evaluate(double frame, bool stepped) => Safely(() =>
    {
        Open.Evaluate(stepped ? Open.Compiled.PoseAt(frame) : frame);
        return true;
    }, false);

    /// <summary>Evaluates a frame into the buffers beside, for small pictures; what is shown stays as it is.</summary>
    [JSExport]
    internal static void EvaluateAside(double frame) => Safely(() =>
    {
        Open.EvaluateAside(frame);
        return true;
    }, false);

    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static Span<byte> Matrices(bool aside) => MemoryMarshal.AsBytes((_session?.Frame(aside).Buffers.Matrices ?? []).AsSpan());

    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static ArraySegment<byte> Seen(bool aside) => _session?.Frame(aside).Buffers.Seen ?? [];

    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static ArraySegment<double> Values(bool aside) => _session?.Frame(aside).State.Values ?? [];

    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static ArraySegment<int> MeshVersions(bool aside) => _session?.Frame(aside).Buffers.MeshVersions ?? [];

    /// <summary>The vertices of a node on the evaluated frame, as bytes of 32-bit floats.</summary>
    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static Span<byte> Positions(int node, bool aside) => MemoryMarshal.AsBytes((MeshOf(node, aside)?.Positions ?? []).AsSpan());

    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static Span<byte> Normals(int node, bool aside) => MemoryMarshal.AsBytes((MeshOf(node, aside)?.Normals ?? []).AsSpan());

    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static ArraySegment<int> Indices(int node, bool aside) => MeshOf(node, aside)?.Indices ?? [];

    /// <summary>A <see cref="SceneView"/>.</summary>
    [JSExport]
    internal static byte[] Scene() => Safely<byte[]>(() => JsonSerializer.SerializeToUtf8Bytes(SceneView.Of(Open.Compiled), EngineJsonContext.Default.SceneView), []);

    /// <summary>A <see cref="ChangesView"/>.</summary>
    [JSExport]
    internal static byte[] Changes() => Safely<byte[]>(() => JsonSerializer.SerializeToUtf8Bytes(Open.TakeChanges(), EngineJsonContext.Default.ChangesView), []);

    /// <summary>A <see cref="CurveView"/>, or empty text.</summary>
    [JSExport]
    internal static byte[] Curve(string channel) => Safely<byte[]>(() =>
        Open.CurveOf(ChannelAddress.Parse(channel)) is { } view ? JsonSerializer.SerializeToUtf8Bytes(view, EngineJsonContext.Default.CurveView) : [], []);

    /// <summary>Values of a channel at evenly spaced frames.</summary>
    [JSExport]
    internal static double[] Sample(string channel, double first, double step, int count) =>
        Safely(() => Open.Sample(ChannelAddress.Parse(channel), first, step, Math.Clamp(count, 0, 100_000)), []);

    /// <summary>A segment from 0 to 1, drawn small: evenly spaced values.</summary>
    [JSExport]
    internal static double[] EasePicture(byte[] segmentJson) => Safely(() =>
    {
        var values = new double[41];
        var segment = ShotJson.Read<Core.Curves.Segment>(segmentJson, "segment");
        new Core.Curves.Curve([new(0, 0, segment), new(1, 1)]).Compile().Sample(0, 1.0 / (values.Length - 1), values);
        return values;
    }, []);

    /// <summary>The motion path of a node's pivot: x, y, z for each whole frame.</summary>
    [JSExport]
    internal static double[] Path(string node, int first, int last) =>
        Safely(() => [.. Open.Compiled.MotionPath(node, first, Math.Min(last, first + 5000)).SelectMany(p => new[] { p.X, p.Y, p.Z })], Array.Empty<double>());

    /// <summary>A <see cref="HistoryView"/>.</summary>
    /// <param name="after">Only the steps after this revision.</param>
    [JSExport]
    internal static byte[] History(int after) => Safely<byte[]>(() =>
    {
        var h = Open.History;
        var steps = h.Steps.Skip(Math.Max(0, after - h.Start + 1)).Select(s => new StepView(s.Revision, s.Content, s.Label)).ToArray();
        return JsonSerializer.SerializeToUtf8Bytes(new HistoryView(h.Revision, h.Head.Content, h.Undo?.Label, h.Redo?.Label, steps), EngineJsonContext.Default.HistoryView);
    }, []);

    /// <summary>Whole keys as JSON, for the clipboard; empty text where they are not there.</summary>
    /// <param name="keysJson">A remove edit that names them.</param>
    [JSExport]
    internal static byte[] CopyKeys(byte[] keysJson) => Safely<byte[]>(() =>
        ShotJson.WriteBytes(new PutKeys(Open.Copy(((RemoveKeys)ReadEdit(keysJson)).Keys)) as Edit), []);

    private static MeshState? MeshOf(int node, bool aside) =>
        _session?.Frame(aside).State is { } state && node >= 0 && node < state.Compiled.NodeCount ? state.Mesh(node) : null;

    private static Outcome Posed(IReadOnlyList<ChannelValue> values, bool autoKey, bool commit, string id)
    {
        var (edit, waiting) = Open.Pose(values, autoKey);
        if (!commit || edit is null)
        {
            Open.Try(edit);
        }
        Open.Wait(values, waiting);
        return commit && edit is not null ? Made(new EditEntry(edit) { Id = id }) : new Outcome();
    }

    private static Outcome Made(JournalEntry entry)
    {
        Open.Append(entry, isForeign: false);
        return new Outcome(Entry: JsonElement.Parse(ShotJson.WriteBytes(entry)));
    }

    private static JournalEntry[] ReadEntries(byte[] json) => json.Length <= 2 ? [] : ShotJson.Read<JournalEntry[]>(json, "journal");

    private static IReadOnlyList<ChannelAddress> Addresses(byte[] json) =>
        [.. JsonSerializer.Deserialize(json, EngineJsonContext.Default.StringArray)!.Select(ChannelAddress.Parse)];

    private static Edit ReadEdit(ReadOnlySpan<byte> json) => ShotJson.Read<Edit>(json, "edit");

    private static byte[] AnswerMerged(Func<(IReadOnlyList<JournalEntry> Pending, int Dropped)> make)
    {
        Merged merged = new(null, JsonElement.Parse("[]"u8), 0);
        var outcome = Try(() =>
        {
            var (pending, dropped) = make();
            merged = new(null, JsonElement.Parse(ShotJson.WriteBytes<JournalEntry[]>([.. pending])), dropped);
            return new Outcome();
        });
        return JsonSerializer.SerializeToUtf8Bytes(merged with { Refusal = outcome.Refusal }, EngineJsonContext.Default.Merged);
    }

    private static byte[] Answer(Func<Outcome> make) => JsonSerializer.SerializeToUtf8Bytes(Try(make), EngineJsonContext.Default.Outcome);

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
        catch (Exception e)
        {
            Console.Error.WriteLine(e.Message);
            return otherwise;
        }
    }
}
