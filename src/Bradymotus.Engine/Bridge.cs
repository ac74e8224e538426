using System.Diagnostics.CodeAnalysis;
using System.Runtime.InteropServices;
using System.Runtime.InteropServices.JavaScript;
using Bradymotus.Core;
using Bradymotus.Core.Curves;
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

    /// <summary>Holds a long list of keys, so that a hand that drags them need not send it at every step.</summary>
    /// <param name="keys">An edit with the keys.</param>
    /// <returns>Its number, or −1 where it cannot be read.</returns>
    [JSExport]
    internal static int HoldKeys(byte[] keys) => Safely(() => ReadEdit(keys) is TransformKeys edit ? Open.HoldKeys(edit.Keys) : -1, -1);

    /// <summary>Holds none of them any longer.</summary>
    [JSExport]
    internal static void DropKeys() => Safely(() =>
    {
        Open.DropKeys();
        return true;
    }, false);

    /// <summary>As <see cref="Try"/>, with lists of keys that are held.</summary>
    /// <param name="held">For each edit that moves keys, in order, the number of its list; −1 where it brings its own.</param>
    [JSExport]
    internal static byte[] TryHeld(byte[] edit, int[] held) => Answer(() =>
    {
        Open.Try(Open.WithHeld(ReadEdit(edit), new Queue<int>(held)));
        return new Outcome();
    });

    /// <summary>As <see cref="Commit"/>, with lists of keys that are held. The entry comes back with the edit as it was sent, without them.</summary>
    /// <param name="held">As of <see cref="TryHeld"/>.</param>
    [JSExport]
    internal static byte[] CommitHeld(byte[] edit, int[] held, string id) => Answer(() =>
    {
        var sent = ReadEdit(edit);
        var made = Made(new EditEntry(Open.WithHeld(sent, new Queue<int>(held))) { Id = id });
        return made.Entry is EditEntry entry ? made with { Entry = entry with { Edit = sent } } : made;
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
    /// <param name="values">A list of <see cref="ChannelValue"/>.</param>
    /// <param name="commit">False only shows it.</param>
    [JSExport]
    internal static byte[] Pose(byte[] values, bool autoKey, bool commit, string id) =>
        Answer(() => Posed(Packed.ReadChannelValues(values, "values"), autoKey, commit, id));

    /// <summary>Puts nodes somewhere in the world, as <see cref="Pose"/>.</summary>
    /// <param name="ids">Their ids.</param>
    /// <param name="worlds">Sixteen numbers each, column-major.</param>
    [JSExport]
    internal static byte[] Place(byte[] ids, double[] worlds, bool autoKey, bool commit, string id) => Answer(() =>
        Posed(Open.Place(Packed.ReadTexts(ids, "ids"), worlds), autoKey, commit, id));

    /// <summary>Puts objects in order on the evaluated frame; see <see cref="Arranging"/>.</summary>
    /// <param name="how">align, distribute or drop.</param>
    /// <param name="axis">0, 1, 2 for x, y, z of the world.</param>
    /// <param name="side">For align: −1 the low sides, 0 the middles, 1 the high sides.</param>
    [JSExport]
    internal static byte[] Arrange(byte[] ids, string how, int axis, int side, bool autoKey, string id) => Answer(() =>
        Posed(Open.Arrange(Packed.ReadTexts(ids, "ids"), how, axis, side), autoKey, true, id));

    /// <summary>Moves pivots, the objects staying where they are: to their centre, base, the world's origin, or another object's pivot.</summary>
    /// <param name="where">centre, base, origin, or the id of the other object.</param>
    [JSExport]
    internal static byte[] PivotTo(byte[] ids, string where, string id) => Answer(() => Made(new EditEntry(Open.PivotTo(Packed.ReadTexts(ids, "ids"), where)) { Id = id }));

    /// <summary>The box round objects with all below them: least and most x, y, z; nothing where there is no shape.</summary>
    /// <param name="within">In the space of this node; nothing is the world.</param>
    [JSExport]
    internal static double[] BoundsOf(byte[] ids, string within) => Safely(() => Open.BoundsOf(Packed.ReadTexts(ids, "ids"), within), []);

    /// <summary>How many vertices and triangles objects have: two numbers for each.</summary>
    [JSExport]
    internal static int[] CountsOf(byte[] ids) => Safely(() => Open.CountsOf(Packed.ReadTexts(ids, "ids")), []);

    /// <summary>Position, rotation (XYZ) and scale of a place in the world: nine numbers.</summary>
    [JSExport]
    internal static double[] TransformAt(double[] world) => Safely(() => Session.TransformAt(world), []);

    /// <summary>How far from a camera the pivot of an object is, along its axis, in metres; 0 where it cannot be said.</summary>
    [JSExport]
    internal static double DepthOf(string camera, string id) => Safely(() => Open.DepthOf(camera, id), 0);

    /// <summary>How flat objects lie in the space of the first: six numbers for each; nothing where that has no extent.</summary>
    [JSExport]
    internal static double[] FlatMapsOf(byte[] ids) => Safely(() => Open.FlatMapsOf(Packed.ReadTexts(ids, "ids")), []);

    /// <summary>Holds the pose before until the evaluated frame; where no key comes before it, keys channels as they are now.</summary>
    /// <param name="channels">An array of addresses.</param>
    [JSExport]
    internal static byte[] Hold(byte[] channels, string id) => Answer(() => Made(new EditEntry(Open.Hold(Addresses(channels))) { Id = id }));

    /// <summary>Begins to check the motion of the shot as it is now.</summary>
    [JSExport]
    internal static void BeginChecks() => Safely(() =>
    {
        Open.BeginChecks();
        return true;
    }, false);

    /// <summary>Goes on with the checks for about so many milliseconds.</summary>
    /// <returns>Whether they are done.</returns>
    [JSExport]
    internal static bool Check(double milliseconds) => Safely(() => Open.Check(milliseconds), true);

    /// <summary>What the checks have found: a list of <see cref="Core.Checks.Finding"/>.</summary>
    [JSExport]
    internal static byte[] Findings() => Safely<byte[]>(() => Packed.Write(Open.Findings.ToArray()), []);

    /// <summary>Mends findings, as one step.</summary>
    /// <param name="findings">Their places in the list.</param>
    [JSExport]
    internal static byte[] Mend(int[] findings, string id) => Answer(() => Made(new EditEntry(Open.Mend(findings)) { Id = id }));

    /// <summary>A pose between the one before and the one after the evaluated frame; see <see cref="Session.Between"/>.</summary>
    /// <param name="channels">An array of addresses.</param>
    /// <param name="commit">False only shows it.</param>
    [JSExport]
    internal static byte[] Between(byte[] channels, double share, bool commit, string id) => Answer(() =>
    {
        var edit = Open.Between(Addresses(channels), share);
        if (commit)
        {
            return Made(new EditEntry(edit) { Id = id });
        }
        Open.Try(edit);
        return new Outcome();
    });

    /// <summary>Gives segments the shape of an easing that is written as style sheets write it.</summary>
    /// <param name="keys">A remove edit that names the keys that the segments leave.</param>
    [JSExport]
    internal static byte[] ShapeSegments(byte[] keys, string easing, string id) => Answer(() =>
        Made(new EditEntry(new ShapeSegments(((RemoveKeys)ReadEdit(keys)).Keys, Core.Curves.CssEasing.Parse(easing))) { Id = id }));

    /// <summary>The segment that leaves a key, as style sheets write easings; nothing where there is none.</summary>
    [JSExport]
    internal static string EasingOf(string channel, double frame) => Safely(() =>
        Open.Shown.Channel(ChannelAddress.Parse(channel)).Curve is { } curve ? Core.Curves.CssEasing.Format(curve, curve.IndexOf(frame)) : "", "");

    /// <summary>An easing that is written as style sheets write it, drawn small: evenly spaced values; none where it is no easing.</summary>
    [JSExport]
    internal static double[] EasingPicture(string easing) => Safely(() =>
    {
        var values = new double[41];
        Core.Curves.CssEasing.Parse(easing).Compile().Sample(0, 1.0 / (values.Length - 1), values);
        return values;
    }, []);

    /// <summary>Keys channels as they are now.</summary>
    /// <param name="channels">An array of addresses.</param>
    [JSExport]
    internal static byte[] KeyNow(byte[] channels, string id) => Answer(() => Made(new EditEntry(Open.KeyNow(Addresses(channels))) { Id = id }));

    /// <summary>What channels have to be keyed with so that what is seen now is kept, one number each.</summary>
    [JSExport]
    internal static double[] ValuesNow(byte[] channels) => Safely(() => Open.ValuesOf(Addresses(channels)), []);

    /// <summary>The addresses of the channels that were changed and wait to be keyed.</summary>
    [JSExport]
    internal static byte[] Waiting() =>
        Safely(() => Packed.Write(Open.Waiting.Select(a => a.ToString()).ToArray()), Packed.Write(Array.Empty<string>()));

    /// <summary>A <see cref="LeftView"/> of the values that waited on the frame that was left, or nothing.</summary>
    [JSExport]
    internal static byte[] Left() => Safely<byte[]>(() => Open.Left is { } left ? Packed.Write(left) : [], []);

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

    /// <summary>Another number whenever other frames are kept.</summary>
    [JSExport]
    internal static int KeptVersion() => _session?.Kept.Version ?? -1;

    /// <summary>The frames of a range that are evaluated and kept: the first and the last of each run.</summary>
    [JSExport]
    internal static int[] KeptRuns(int first, int last) => [.. _session?.Kept.Runs(first, last) ?? []];

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

    /// <summary>What is drawn once more, four numbers each; see <see cref="Core.Evaluation.FrameBuffers.CopyNodes"/>. Only what is seen.</summary>
    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static ArraySegment<int> CopyNodes(bool aside) =>
        _session?.Frame(aside).Buffers is { } buffers ? new(buffers.CopyNodes, 0, 4 * buffers.CopyCount) : [];

    /// <summary>Where it stands, as bytes of 32-bit floats, sixteen numbers each.</summary>
    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static Span<byte> CopyMatrices(bool aside) =>
        _session?.Frame(aside).Buffers is { } buffers ? MemoryMarshal.AsBytes(buffers.CopyMatrices.AsSpan(0, 16 * buffers.CopyCount)) : [];

    /// <summary>Another number whenever the copies are others.</summary>
    [JSExport]
    internal static int CopyVersion(bool aside) => _session?.Frame(aside).Buffers.CopyVersion ?? 0;

    /// <summary>The daylight sky of the evaluated frame as bytes of 32-bit floats, 128 × 64 pixels of three; nothing where the sky is painted.</summary>
    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static Span<byte> SkyPicture(bool aside)
    {
        if (_session?.Frame(aside).State is not { } state || PhysicalSky.Of(state) is not { } sky)
        {
            return [];
        }
        double Of(string path) => Math.Max(0, state.Value(new(Core.Scene.Shot.WorldOwner, path)));
        return MemoryMarshal.AsBytes(sky.Picture(128, 64, new(Of("sky.ground.r"), Of("sky.ground.g"), Of("sky.ground.b"))).AsSpan());
    }

    /// <summary>Where the sun stands: the rotation of a sun (XYZ), and its altitude; a sentence where there is no such place or time.</summary>
    [JSExport]
    internal static double[] SunAt(double latitude, double longitude, int year, int month, int day, double hours)
    {
        var sun = Core.Numerics.SunPosition.At(latitude, longitude, year, month, day, hours);
        var r = sun.Rotation;
        return [r.X, r.Y, r.Z, sun.Altitude];
    }

    /// <summary>The colour of what glows by its heat: linear red, green, blue of luminance 1.</summary>
    [JSExport]
    internal static double[] BlackBody(double kelvin)
    {
        var c = Core.Numerics.BlackBody.Linear(kelvin);
        return [c.X, c.Y, c.Z];
    }

    /// <summary>The value of a channel of what is copied, as the copy has it: it may be shifted in time.</summary>
    [JSExport]
    internal static double CopyValue(int copy, string path, bool aside) =>
        _session?.Frame(aside).State.Copies is { } copies && copy >= 0 && copy < copies.Count
            ? Safely(() => copies[copy].State.Value(new(copies[copy].State.Compiled.NodeAt(copies[copy].Node).Id, path)), 0)
            : 0;

    /// <summary>The vertices of a copy that is bent in another way than what it is of, as bytes of 32-bit floats.</summary>
    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static Span<byte> CopyPositions(int copy, bool aside) => MemoryMarshal.AsBytes((MeshOfCopy(copy, aside)?.Positions ?? []).AsSpan());

    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static Span<byte> CopyNormals(int copy, bool aside) => MemoryMarshal.AsBytes((MeshOfCopy(copy, aside)?.Normals ?? []).AsSpan());

    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static ArraySegment<int> CopyIndices(int copy, bool aside) => MeshOfCopy(copy, aside)?.Indices ?? [];

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

    /// <summary>The number of the mesh whose triangles a node has: its version where the vertices are those too, so that equal shapes are sent once.</summary>
    [JSExport]
    internal static int Rest(int node, bool aside) => MeshOf(node, aside)?.Rest.Id ?? 0;

    /// <summary>The texture coordinates of a node, as bytes of 32-bit floats; none where it has none.</summary>
    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static Span<byte> TexCoords(int node, bool aside) => MemoryMarshal.AsBytes((MeshOf(node, aside)?.Coordinates ?? []).AsSpan());

    /// <summary>The colours of the vertices of a node, four numbers each, as bytes of 32-bit floats; none where it has none.</summary>
    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static Span<byte> Colors(int node, bool aside) => MemoryMarshal.AsBytes((MeshOf(node, aside)?.Rest.Colors ?? []).AsSpan());

    /// <summary>The vertices of a node before anything bends them, as bytes of 32-bit floats.</summary>
    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static Span<byte> Undeformed(int node, bool aside) => MemoryMarshal.AsBytes((MeshOf(node, aside)?.Undeformed ?? []).AsSpan());

    /// <summary>The triangle where each part of a mesh begins that can have a material of its own.</summary>
    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static ArraySegment<int> Parts(int node, bool aside) => MeshOf(node, aside)?.Rest.Parts ?? [];

    /// <summary>The names of the meshes that the open shot refers to and that have not come yet.</summary>
    [JSExport]
    internal static byte[] MissingMeshes() => Safely(() => Packed.Write(Open.Frame(false).State.MissingAssets().ToArray()), Packed.Write(Array.Empty<string>()));

    /// <summary>Takes up a mesh.</summary>
    [JSExport]
    internal static byte[] PutMesh(string name, byte[] mesh) => Answer(() =>
    {
        Session.Meshes.Put(name, Packed.ReadMesh(mesh, "mesh"));
        Open.ReloadAssets();
        return new Outcome();
    });

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

    private static double[] _curveNumbers = [];

    /// <summary>The numbers of the keys of the curve that was asked for last; see <see cref="CurveView.NumbersOfKey"/>.</summary>
    [JSExport]
    [return: JSMarshalAs<JSType.MemoryView>]
    internal static Span<byte> CurveNumbers() => System.Runtime.InteropServices.MemoryMarshal.AsBytes(_curveNumbers.AsSpan());

    /// <summary>A <see cref="CurveView"/>, or nothing.</summary>
    [JSExport]
    internal static byte[] Curve(string channel) => Safely<byte[]>(() =>
        Open.CurveOf(ChannelAddress.Parse(channel), out _curveNumbers) is { } view ? Packed.Write(view) : [], []);

    /// <summary>Values of a channel at evenly spaced frames.</summary>
    [JSExport]
    internal static double[] Sample(string channel, double first, double step, int count) =>
        Safely(() => Open.Sample(ChannelAddress.Parse(channel), first, step, Math.Clamp(count, 0, 100_000)), []);

    /// <summary>Values of a channel with all layers at evenly spaced frames.</summary>
    [JSExport]
    internal static double[] SampleSum(string channel, double first, double step, int count) =>
        Safely(() => Open.SampleSum(ChannelAddress.Parse(channel), first, step, Math.Clamp(count, 0, 100_000)), []);

    /// <summary>Says which layer takes what is posed from now on.</summary>
    /// <param name="layer">Its id; nothing is below all layers.</param>
    [JSExport]
    internal static void SetLayer(string layer) => Safely(() => Open.Layer = Open.Shown.FindLayer(layer)?.Id, null);

    /// <summary>How fast a channel changes at evenly spaced frames, in value per frame; or its acceleration.</summary>
    [JSExport]
    internal static double[] Slopes(string channel, double first, double step, int count, bool acceleration) =>
        Safely(() => Open.Slopes(ChannelAddress.Parse(channel), first, step, Math.Clamp(count, 0, 100_000), acceleration), []);

    /// <summary>A segment from 0 to 1, drawn small: evenly spaced values.</summary>
    [JSExport]
    internal static double[] EasePicture(byte[] segment) => Safely(() =>
    {
        var values = new double[41];
        new Core.Curves.Curve([new(0, 0, Packed.ReadSegment(segment, "segment")), new(1, 1)]).Compile().Sample(0, 1.0 / (values.Length - 1), values);
        return values;
    }, []);

    // So many frames of a motion path are drawn at the most.
    private const int MostOfPath = 5000;

    /// <summary>The motion path of a node's pivot: x, y, z for each whole frame.</summary>
    [JSExport]
    internal static double[] Path(string node, int first, int last) =>
        Safely(() => Open.Paths.Of(Open.Compiled, node, first, Math.Min(last, first + MostOfPath)).Points, []);

    /// <summary>Another number whenever the motion path of a node is another.</summary>
    [JSExport]
    internal static int PathVersion(string node, int first, int last) =>
        Safely(() => Open.Paths.Of(Open.Compiled, node, first, Math.Min(last, first + MostOfPath)).Version, 0);

    /// <summary>Goes on with the motion paths of chosen vertices for about so many milliseconds, from a frame outwards.</summary>
    /// <returns>Whether they are done.</returns>
    [JSExport]
    internal static bool Trace(int first, int last, double near, double milliseconds) =>
        Safely(() => Open.Trace(first, Math.Min(last, first + MostOfPath), near, milliseconds), true);

    /// <summary>The meshes with traced vertices: a list of <see cref="TraceView"/>.</summary>
    [JSExport]
    internal static byte[] Traces() => Safely<byte[]>(() => Packed.Write(Open.Traces.Meshes.Select(m => new TraceView(m.Node, m.Version, m.First, [.. m.Vertices], [.. m.Keys])).ToArray()), []);

    /// <summary>The motion path of a traced vertex: x, y, z for each whole frame, not-a-number where it is not known yet.</summary>
    /// <param name="vertex">Its place among the traced ones of the mesh.</param>
    [JSExport]
    internal static double[] TracePoints(string node, int vertex) =>
        Safely(() => Open.Traces.Meshes.FirstOrDefault(m => m.Node == node) is { } mesh && vertex < mesh.Points.Count ? mesh.Points[vertex] : [], []);

    /// <summary>Where the handles of a key on a motion path end in the world: three numbers for the way in, and three for the way out; not-a-number where there is none.</summary>
    [JSExport]
    internal static double[] PathHandles(string node, double frame) => Safely(() =>
    {
        var path = new PathPosing(Open.Shown, node, Open.Layer);
        return new[] { KeySide.In, KeySide.Out }.SelectMany(s => path.HandleEnd(frame, s) is { } p ? new[] { p.X, p.Y, p.Z } : [double.NaN, double.NaN, double.NaN]).ToArray();
    }, []);

    /// <summary>Moves a key of a motion path, one of its handles, or a frame between two keys; see <see cref="PathPosing"/>.</summary>
    /// <param name="what">key, in, out or tick.</param>
    /// <param name="x">In the world; for a tick the frame whose place it gets.</param>
    /// <param name="commit">False only shows it.</param>
    [JSExport]
    internal static byte[] MoveOnPath(string what, string node, double frame, double x, double y, double z, bool commit, string id) => Answer(() =>
    {
        var path = new PathPosing(Open.History.Current, node, Open.Layer);
        var edit = what switch
        {
            "key" => path.MoveKey(frame, new(x, y, z)),
            "tick" => path.MoveTick(frame, x),
            _ => path.MoveHandle(frame, what == "in" ? KeySide.In : KeySide.Out, new(x, y, z)),
        };
        if (commit)
        {
            return Made(new EditEntry(edit) { Id = id });
        }
        Open.Try(edit);
        return new Outcome();
    });

    /// <summary>A <see cref="HistoryView"/>.</summary>
    /// <param name="after">Only the steps after this revision.</param>
    [JSExport]
    internal static byte[] History(int after) => Safely<byte[]>(() =>
    {
        var h = Open.History;
        var steps = h.Steps.Skip(Math.Max(0, after - h.Start + 1)).Select(s => new StepView(s.Revision, s.Content, s.Label)).ToArray();
        return Packed.Write(new HistoryView(h.Revision, h.Head.Content, h.Undo?.Label, h.Redo?.Label, steps));
    }, []);

    /// <summary>Whole keys, for the clipboard; nothing where they are not there.</summary>
    /// <param name="keys">A remove edit that names them.</param>
    [JSExport]
    internal static byte[] CopyKeys(byte[] keys) => Safely<byte[]>(() =>
        Packed.Write(new PutKeys(Open.Copy(((RemoveKeys)ReadEdit(keys)).Keys)) as Edit), []);

    /// <summary>The time that a range gets of its own, drawn small: the frame that is shown at evenly spaced frames.</summary>
    /// <param name="edit">A <see cref="Retime"/>.</param>
    [JSExport]
    internal static double[] RetimePicture(byte[] edit) => Safely(() =>
    {
        var map = ((Retime)ReadEdit(edit)).Map;
        var values = new double[65];
        map.Compile().Sample(map.Keys[0].Frame, map.Period / (values.Length - 1), values);
        values[^1] = map.Keys[^1].Value;
        return values;
    }, []);

    /// <summary>The animation of objects: a <see cref="Saved"/>; nothing where they have none.</summary>
    /// <param name="ids">The objects, with what hangs below them.</param>
    /// <param name="first">Keys before this frame are left out.</param>
    /// <param name="last">Keys after this frame are left out.</param>
    [JSExport]
    internal static byte[] CopyMotion(byte[] ids, double first, double last) =>
        Safely<byte[]>(() => Packed.Write(Saved.MotionOf(Open.Shown, Packed.ReadTexts(ids, "ids"), Open.Layer, first, last) as Saved), []);

    /// <summary>Objects as a shot of their own; see <see cref="Core.Editing.Transplant"/>. A sentence where they cannot go alone.</summary>
    /// <param name="ids">Their ids.</param>
    [JSExport]
    internal static byte[] CopyObjects(byte[] ids, double frame) => Packed.Write(Core.Editing.Transplant.Take(Open.Shown, Packed.ReadTexts(ids, "ids"), frame));

    /// <summary>Puts objects of another shot in.</summary>
    /// <param name="objects">What <see cref="CopyObjects"/> gave.</param>
    /// <param name="prefix">Of their new ids.</param>
    [JSExport]
    internal static byte[] PutObjects(byte[] objects, string prefix, string id) =>
        Answer(() => Made(new EditEntry(Core.Editing.Transplant.Put(Open.History.Current, Packed.ReadShot(objects, "objects"), prefix)) { Id = id }));

    /// <summary>What objects have on the evaluated frame, with what hangs below them: a <see cref="Saved"/>; nothing where there are none.</summary>
    [JSExport]
    internal static byte[] CopyPose(byte[] ids) => Safely<byte[]>(() => Packed.Write(Saved.PoseOf(Open.Frame(false).State, Packed.ReadTexts(ids, "ids")) as Saved), []);

    /// <summary>Begins to put a pose onto objects; <see cref="PutPose"/> then says how much of it.</summary>
    /// <param name="pose">A <see cref="Saved"/>.</param>
    /// <param name="targets">The ids of the objects; none is all of the shot.</param>
    /// <param name="mirror">Left for right.</param>
    /// <returns>An <see cref="Outcome"/>, whose refusal says that nothing fits.</returns>
    [JSExport]
    internal static byte[] BeginPose(byte[] pose, byte[] targets, bool mirror) => Answer(() =>
    {
        _report = Open.BeginPut((SavedPose)Packed.ReadSaved(pose, "pose"), Packed.ReadTexts(targets, "ids"), mirror);
        return new Outcome();
    });

    private static IReadOnlyList<string> _report = [];

    /// <summary>What of the pose fits that was begun with last, and what does not, a sentence each.</summary>
    [JSExport]
    internal static byte[] PoseReport() => Packed.Write(_report.ToArray());

    /// <summary>Puts the pose, whole or in part, as <see cref="Pose"/>.</summary>
    /// <param name="share">0 is how it was, 1 is the pose; it may go past both.</param>
    [JSExport]
    internal static byte[] PutPose(double share, bool autoKey, bool commit, string id) => Answer(() => Posed(Open.Put(share), autoKey, commit, id));

    /// <summary>What of an animation fits and what does not, a sentence each.</summary>
    /// <param name="edit">A <see cref="PutMotion"/>.</param>
    [JSExport]
    internal static byte[] MotionReport(byte[] edit) => Safely(() => Packed.Write(((PutMotion)ReadEdit(edit)).Report(Open.History.Current).ToArray()), Packed.Write(Array.Empty<string>()));

    private static MeshState? MeshOfCopy(int copy, bool aside) =>
        _session?.Frame(aside).State.Copies is { } copies && copy >= 0 && copy < copies.Count ? copies[copy].State.Mesh(copies[copy].Node) : null;

    private static MeshState? MeshOf(int node, bool aside) =>
        _session?.Frame(aside).State is { } state && node >= 0 && node < state.Compiled.NodeCount ? state.Mesh(node) : null;

    private static Outcome Posed(IReadOnlyList<ChannelValue> values, bool autoKey, bool commit, string id)
    {
        var (edit, waiting) = Open.Pose(values, autoKey);
        if (!commit || edit is null)
        {
            Open.Try(edit);
        }
        Open.Wait(values.Select(v => v with { Address = v.Address.Base }), waiting);
        return commit && edit is not null ? Made(new EditEntry(edit) { Id = id }) : new Outcome();
    }

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
