using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Where objects stand when they are put in order: each with its new place in the world.</summary>
public static class Arranging
{
    /// <summary>The objects among some that do not hang below another of them: these are what is moved.</summary>
    public static IReadOnlyList<string> Topmost(Shot shot, IReadOnlyList<string> ids)
    {
        var all = ids.ToHashSet();
        bool HangsBelow(string id)
        {
            for (var node = shot.FindNode(shot.Node(id).Parent); node is not null; node = shot.FindNode(node.Parent))
            {
                if (all.Contains(node.Id))
                {
                    return true;
                }
            }
            return false;
        }
        return [.. ids.Distinct().Where(id => !HangsBelow(id))];
    }

    /// <summary>Brings objects to the last of them along an axis: their sides, or their middles.</summary>
    /// <param name="axis">0, 1, 2 for x, y, z of the world.</param>
    /// <param name="side">−1 aligns the low sides, 0 the middles, 1 the high sides.</param>
    /// <exception cref="Refusal">There are fewer than two objects.</exception>
    public static IReadOnlyList<(string Id, Affine World)> Align(FrameState state, IReadOnlyList<string> ids, int axis, int side)
    {
        var boxes = Boxes(state, ids, 2, "align");
        double At(Bounds box) => side < 0 ? Part(box.Min, axis) : side > 0 ? Part(box.Max, axis) : Part(box.Centre, axis);
        var to = At(boxes[^1].Box);
        return [.. boxes.SkipLast(1).Select(b => Moved(state, b.Id, axis, to - At(b.Box)))];
    }

    /// <summary>Spaces the middles of objects evenly along an axis: the outermost stay where they are.</summary>
    /// <param name="axis">0, 1, 2 for x, y, z of the world.</param>
    /// <exception cref="Refusal">There are fewer than three objects.</exception>
    public static IReadOnlyList<(string Id, Affine World)> Distribute(FrameState state, IReadOnlyList<string> ids, int axis)
    {
        var boxes = Boxes(state, ids, 3, "distribute").OrderBy(b => Part(b.Box.Centre, axis)).ToList();
        var (first, last) = (Part(boxes[0].Box.Centre, axis), Part(boxes[^1].Box.Centre, axis));
        return [.. boxes.Select((b, i) => (b, To: first + (last - first) * i / (boxes.Count - 1))).Skip(1).SkipLast(1)
            .Select(p => Moved(state, p.b.Id, axis, p.To - Part(p.b.Box.Centre, axis)))];
    }

    /// <summary>
    /// Lets objects down, or up, until they stand on what is below them: each on its own, straight along Y, on the first surface that one
    /// of its vertices meets, or one of whose vertices meets it; on height 0 where there is nothing.
    /// </summary>
    public static IReadOnlyList<(string Id, Affine World)> Drop(FrameState state, IReadOnlyList<string> ids)
    {
        var boxes = Boxes(state, ids, 1, "let down");
        var moving = state.Compiled.Shot.Descendants(boxes.Select(b => b.Id));
        var ground = new Surface(state, i => !moving.Contains(state.Compiled.NodeAt(i).Id) && state.Visible[i]);
        return [.. boxes.Select(b =>
        {
            var own = state.Compiled.Shot.Descendants([b.Id]);
            var body = new Surface(state, i => own.Contains(state.Compiled.NodeAt(i).Id));
            var gap = Math.Min(body.GapAbove(ground), ground.GapBelow(body));
            return Moved(state, b.Id, 1, double.IsPositiveInfinity(gap) ? -b.Box.Min.Y : -gap);
        })];
    }

    private static double Part(Double3 v, int axis) => axis switch { 0 => v.X, 1 => v.Y, _ => v.Z };

    private static List<(string Id, Bounds Box)> Boxes(FrameState state, IReadOnlyList<string> ids, int least, string what)
    {
        var boxes = new List<(string, Bounds)>();
        foreach (var id in Topmost(state.Compiled.Shot, ids))
        {
            // What has no vertices counts as the point where it stands.
            var origin = state.World[state.Compiled.IndexOfNode(id)].Origin;
            boxes.Add((id, Bounds.Of(state, [id]) ?? new(origin, origin)));
        }
        return boxes.Count >= least ? boxes
            : throw new Refusal($"To {what} objects, select {(least == 1 ? "at least one" : least == 2 ? "two or more" : "three or more")} that do not hang below each other.");
    }

    private static (string, Affine) Moved(FrameState state, string id, int axis, double by)
    {
        var world = state.World[state.Compiled.IndexOfNode(id)];
        var shift = new Double3(axis == 0 ? by : 0, axis == 1 ? by : 0, axis == 2 ? by : 0);
        return (id, world with { Origin = world.Origin + shift });
    }
}
