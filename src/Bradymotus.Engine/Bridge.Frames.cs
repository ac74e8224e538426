using System.Runtime.InteropServices;
using System.Runtime.InteropServices.JavaScript;
using Bradymotus.Core.Evaluation;
using Bradymotus.Wire;

namespace Bradymotus.Engine;

/// <summary>The evaluated frame: numbers, places, meshes, copies, the sky.</summary>
internal static partial class Bridge
{
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

    private static MeshState? MeshOfCopy(int copy, bool aside) =>
        _session?.Frame(aside).State.Copies is { } copies && copy >= 0 && copy < copies.Count ? copies[copy].State.Mesh(copies[copy].Node) : null;

    private static MeshState? MeshOf(int node, bool aside) =>
        _session?.Frame(aside).State is { } state && node >= 0 && node < state.Compiled.NodeCount ? state.Mesh(node) : null;
}
