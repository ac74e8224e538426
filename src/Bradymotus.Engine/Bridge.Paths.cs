using System.Runtime.InteropServices.JavaScript;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Wire;

namespace Bradymotus.Engine;

/// <summary>Motion paths: of pivots, and of points of a surface.</summary>
internal static partial class Bridge
{
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
}
