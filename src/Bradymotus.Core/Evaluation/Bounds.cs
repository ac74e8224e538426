using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Evaluation;

/// <summary>The axis-aligned box round objects as they stand and are bent on the evaluated frame.</summary>
public readonly record struct Bounds(Double3 Min, Double3 Max)
{
    /// <summary>The middle of the box.</summary>
    public Double3 Centre => (Min + Max) * 0.5;

    /// <summary>The box round some objects and all that hangs below them, whether they are seen or not, and what instances and repeaters among them draw.</summary>
    /// <param name="into">From the world to the space in which the box lies; null is the world itself.</param>
    /// <returns>Null where there is no vertex.</returns>
    public static Bounds? Of(FrameState state, IEnumerable<string> ids, Affine? into = null)
    {
        var compiled = state.Compiled;
        Bounds? box = null;
        foreach (var id in ids)
        {
            if (compiled.IndexOfNode(id) is not (>= 0 and var first))
            {
                continue;
            }
            for (var i = first; i < compiled.Nodes[first].End; i++)
            {
                if (state.Mesh(i) is { } mesh && state.World[i].IsWithin(1e15))
                {
                    box = Around(mesh.Positions, into is { } map ? map * state.World[i] : state.World[i], box);
                }
            }
            foreach (var copy in state.Copies)
            {
                if (copy.Owner >= first && copy.Owner < compiled.Nodes[first].End && copy.State.Mesh(copy.Node) is { } mesh)
                {
                    box = Around(mesh.Positions, into is { } map ? map * copy.World : copy.World, box);
                }
            }
        }
        return box;
    }

    /// <summary>The box round points laid by a map, and round a box.</summary>
    internal static Bounds? Around(ReadOnlySpan<float> positions, in Affine map, Bounds? box)
    {
        for (var v = 0; v < positions.Length; v += 3)
        {
            var p = map.Point(new(positions[v], positions[v + 1], positions[v + 2]));
            box = box is { } b
                ? new(new(Math.Min(b.Min.X, p.X), Math.Min(b.Min.Y, p.Y), Math.Min(b.Min.Z, p.Z)), new(Math.Max(b.Max.X, p.X), Math.Max(b.Max.Y, p.Y), Math.Max(b.Max.Z, p.Z)))
                : new(p, p);
        }
        return box;
    }
}
