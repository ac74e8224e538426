using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Editing;

/// <summary>Where a new object stands: near what one looks at, on the ground there, and not in what is there already.</summary>
public static class FreePlace
{
    // It is looked for in so many rings round the place that was asked for.
    private const int Rings = 12;
    // As much air as this is left between neighbours, in metres.
    private const double Air = 0.2;

    /// <summary>
    /// The free place nearest to a point, in whole tenths of a metre, its height that of the ground. Ground is what is locked, or more than four times
    /// as wide as what comes, both ways; where there is none, it is at height 0. Where there is no room for a long way, it is the point itself.
    /// </summary>
    /// <param name="near">What one looks at, in the world. Ground more than two metres above it is a roof, and not stood on.</param>
    /// <param name="radius">Half the width of what comes, in metres.</param>
    /// <param name="height">How high what comes is, in metres.</param>
    public static Double3 Find(FrameState state, Double3 near, double radius, double height)
    {
        if (!(Math.Abs(near.X) < 1e9 && Math.Abs(near.Y) < 1e9 && Math.Abs(near.Z) < 1e9))
        {
            near = Double3.Zero;
        }
        radius = Math.Clamp(radius, 0.01, 1000);
        height = Math.Clamp(height, 0.01, 1000);
        var (boxes, grounds) = Boxes(state, radius);
        var ground = new Surface(state, grounds.Contains);
        double FloorAt(double x, double z) => ground.HeightAt(x, z, Math.Max(0, near.Y) + 2, highest: true) is var y && double.IsFinite(y) ? Math.Round(y, 3) : 0;
        // Vertices are of single precision: what touches the air by less than a tenth of a millimetre is not in it.
        var reach = radius + Air - 1e-4;
        bool IsFree(double x, double z, double floor)
        {
            foreach (var (min, max) in boxes)
            {
                if (max.X > x - reach && min.X < x + reach && max.Z > z - reach && min.Z < z + reach && max.Y > floor + 0.02 && min.Y < floor + height)
                {
                    return false;
                }
            }
            return true;
        }
        var step = 2 * radius + Air;
        var (middleX, middleZ) = (Math.Round(near.X, 1), Math.Round(near.Z, 1));
        foreach (var (across, along) in Around())
        {
            var (x, z) = (Math.Round(middleX + across * step, 1), Math.Round(middleZ + along * step, 1));
            var floor = FloorAt(x, z);
            if (IsFree(x, z, floor))
            {
                return new(x, floor, z);
            }
        }
        return new(middleX, FloorAt(middleX, middleZ), middleZ);
    }

    /// <summary>Whole steps away from a middle, the nearest first; of those as near, what is to the right comes first.</summary>
    private static IEnumerable<(int Across, int Along)> Around() =>
        from across in Enumerable.Range(-Rings, 2 * Rings + 1)
        from along in Enumerable.Range(-Rings, 2 * Rings + 1)
        orderby across * across + along * along, -across, along
        select (across, along);

    /// <summary>The box round a mesh: of one that nothing bends round the corners of its own box, so that a large scene is not gone through by its vertices.</summary>
    private static Bounds? BoxOf(MeshState mesh, in Affine world)
    {
        if (mesh.IsBent || mesh.Positions.Length == 0)
        {
            return Bounds.Around(mesh.Positions, world, null);
        }
        var (a, b) = mesh.Rest.Bounds();
        Span<float> corners = stackalloc float[24];
        for (var i = 0; i < 8; i++)
        {
            corners[3 * i] = (float)((i & 1) == 0 ? a.X : b.X);
            corners[3 * i + 1] = (float)((i & 2) == 0 ? a.Y : b.Y);
            corners[3 * i + 2] = (float)((i & 4) == 0 ? a.Z : b.Z);
        }
        return Bounds.Around(corners, world, null);
    }

    /// <summary>The boxes of what can be seen and is no ground, and the places of what is.</summary>
    private static (List<Bounds> Boxes, HashSet<int> Grounds) Boxes(FrameState state, double radius)
    {
        var (boxes, grounds) = (new List<Bounds>(), new HashSet<int>());
        var locked = new HashSet<string>();
        for (var i = 0; i < state.Compiled.NodeCount; i++)
        {
            var node = state.Compiled.NodeAt(i);
            // Those above come before those below.
            if (node.Locked || (node.Parent is { } parent && locked.Contains(parent)))
            {
                locked.Add(node.Id);
            }
            if (!state.Visible[i] || state.Mesh(i) is not { } mesh || BoxOf(mesh, state.World[i]) is not { } box)
            {
                continue;
            }
            var size = box.Max - box.Min;
            if (locked.Contains(node.Id) || Math.Min(size.X, size.Z) > 8 * radius)
            {
                grounds.Add(i);
            }
            else
            {
                boxes.Add(box);
            }
        }
        foreach (var copy in state.Copies)
        {
            if (copy.State.Mesh(copy.Node) is { } mesh && BoxOf(mesh, copy.World) is { } box)
            {
                boxes.Add(box);
            }
        }
        return (boxes, grounds);
    }
}
