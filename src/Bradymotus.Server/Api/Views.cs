using System.Runtime.InteropServices;
using System.Text.Json;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Server.Rendering;
using Bradymotus.Server.Store;

namespace Bradymotus.Server.Api;

/// <summary>A shot in the library.</summary>
public sealed record ShotView(string Id, string Name, DateTime Created, DateTime Changed, int Revision)
{
    public static ShotView Of(ShotRow row) => new(row.Id, row.Name, row.Created, row.Changed, row.Revision);
}

/// <summary>A shot, opened: a state and the journal after it.</summary>
/// <param name="Notice">Something that a person should read; null for nothing.</param>
public sealed record DocumentView(string Id, int BaseRevision, JsonElement Base, IReadOnlyList<EntryView> Entries, int Revision, string? Notice)
{
    public static DocumentView Of(Document d) =>
        new(d.Id, d.BaseRevision, Json.Element(d.BaseJson), [.. d.Entries.Select(EntryView.Of)], d.Revision, d.Notice);
}

/// <summary>What a page shows while its own engine is still starting: the structure of a shot and its first frame.</summary>
/// <param name="Revision">The revision that it shows.</param>
/// <param name="Matrices">World matrices, sixteen 32-bit floats a node; all numbers are little-endian.</param>
/// <param name="Seen">One byte a node.</param>
/// <param name="Values">64-bit floats, one a channel.</param>
public sealed record OpeningView(int Revision, SceneView Scene, double Frame, byte[] Matrices, byte[] Seen, byte[] Values, IReadOnlyList<OpeningMesh> Meshes)
{
    // What is larger comes to the page once it can hold it, and not as text.
    private const int MostVertices = 200_000;

    public static OpeningView Of(Shot shot, int revision, ShotAssets assets)
    {
        var state = new FrameState(new CompiledShot(shot), assets);
        state.Evaluate(shot.Playing.First);
        var buffers = new FrameBuffers();
        buffers.Fill(state);
        var left = MostVertices;
        var meshes = Enumerable.Range(0, state.Compiled.NodeCount).Where(i => state.Visible[i] && state.Mesh(i) is { } mesh && (left -= mesh.Rest.VertexCount) >= 0)
            .Select(i => OpeningMesh.Of(i, state.Mesh(i)!)).ToList();
        return new(revision, SceneView.Of(state.Compiled), state.Frame, Bytes(buffers.Matrices), buffers.Seen, Bytes(state.Values), meshes);
    }

    internal static byte[] Bytes<T>(T[] numbers)
        where T : unmanaged => MemoryMarshal.AsBytes(numbers.AsSpan()).ToArray();
}

/// <summary>The shape of one node: 32-bit floats and integers.</summary>
/// <param name="Node">Its place in the buffers.</param>
/// <param name="Parts">The triangle where each part begins.</param>
public sealed record OpeningMesh(int Node, byte[] Positions, byte[] Normals, byte[] Indices, byte[] Parts)
{
    internal static OpeningMesh Of(int node, MeshState mesh) =>
        new(node, OpeningView.Bytes(mesh.Positions), OpeningView.Bytes(mesh.Normals), OpeningView.Bytes(mesh.Indices), OpeningView.Bytes(mesh.Rest.Parts));
}

/// <summary>A line of the journal.</summary>
public sealed record EntryView(int Revision, string Label, DateTime Time, JsonElement Entry)
{
    public static EntryView Of(JournalRow row) => new(row.Revision, row.Label, row.Time, Json.Element(row.Unreadable ? "null" : row.Json));
}

/// <summary>Entries to append after a revision. Each may have an <c>id</c>, a UUID; one that is in the journal already is not taken again.</summary>
public sealed record AppendRequest(int Revision, JsonElement[] Entries);

/// <summary>The newest revision.</summary>
public sealed record Appended(int Revision);

/// <summary>Why nothing was appended: what the sender has missed.</summary>
public sealed record Missed(int Revision, IReadOnlyList<EntryView> Entries);

/// <summary>A name.</summary>
public sealed record NameRequest(string Name);

/// <summary>How often a film repeats its sequence, and what it is: mp4, webm, gif or apng.</summary>
public sealed record FilmRequest(int Times = 1, string Format = "mp4");

/// <summary>Whether a sequence is to be kept.</summary>
public sealed record KeepRequest(bool Kept);

/// <summary>A rendered sequence. Of two views of one, that with the larger <paramref name="Version"/> was read later and knows more.</summary>
/// <param name="Frames">The frames that it shall have, as <c>0-90/2</c>.</param>
/// <param name="FrameCount">So many are these.</param>
/// <param name="Done">So many of them are done.</param>
/// <param name="DoneRanges">Which: all that it shall have between a first and a last.</param>
public sealed record RenderView(
    string Id, long Version, string ShotId, string ShotName, int ShotRevision, string Frames, int Width, int Height, string Quality, string? Camera,
    string FileName, double FramesPerSecond, DateTime Created, string State, string? Message, bool Kept, bool Removed,
    int FrameCount, int Done, IReadOnlyList<FrameSpan> DoneRanges, double MillisecondsPerFrame, double? SecondsLeft)
{
    public static RenderView Of(RenderSummary summary, long version)
    {
        var (r, steps, done, ranges, each) = summary;
        var left = r.State is RenderState.Queued or RenderState.Running && done > 0 ? each * (steps.Count - done) / 1000 : (double?)null;
        return new(r.Id, version, r.ShotId, r.ShotName, r.ShotRevision, r.Frames, r.Width, r.Height, Json.Camel(r.Quality), r.Camera,
            r.FileName, r.FramesPerSecond, r.Created, Json.Camel(r.State.ToString()), r.Message, r.Kept, r.Deleted is not null, steps.Count, done,
                [.. ranges.Select(f => new FrameSpan(f.First, f.Last))], Math.Round(each, 1), left);
    }
}

/// <summary>Frames from one to another, both included.</summary>
public sealed record FrameSpan(int First, int Last);

/// <summary>Members by their names; numbers, which would be taken whatever they are, are refused.</summary>
public sealed class NamedEnumConverter<T>() : System.Text.Json.Serialization.JsonStringEnumConverter<T>(allowIntegerValues: false)
    where T : struct, Enum;

internal static class Json
{
    internal static JsonElement Element(string json) => JsonElement.Parse(json);

    internal static string Camel(string name) => char.ToLowerInvariant(name[0]) + name[1..];
}
