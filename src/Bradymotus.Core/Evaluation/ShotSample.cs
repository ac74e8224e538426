namespace Bradymotus.Core.Evaluation;

/// <summary>One frame written out, for other programs and for tests.</summary>
public sealed record ShotSample(double Frame, IReadOnlyList<SampledNode> Nodes, IReadOnlyList<SampledMesh>? Meshes = null)
{
    /// <param name="withMeshes">Adds the vertices of visible meshes in world space.</param>
    public static ShotSample Of(FrameState state, bool withMeshes = false)
    {
        var compiled = state.Compiled;
        var nodes = new List<SampledNode>();
        var meshes = new List<SampledMesh>();
        foreach (var node in compiled.Shot.Nodes)
        {
            var i = compiled.IndexOfNode(node.Id);
            var world = new double[16];
            state.World[i].CopyTo(world);
            var path = compiled.Shot.PathOf(node);
            nodes.Add(new(path, node.Name, state.Rendered[i], world));
            if (withMeshes && state.Rendered[i] && state.Mesh(i) is { } mesh)
            {
                meshes.Add(new(path, Placed(mesh, state.World[i]), mesh.Indices));
            }
        }
        foreach (var copy in withMeshes ? state.Copies : [])
        {
            if (copy.Rendered && copy.State.Mesh(copy.Node) is { } mesh)
            {
                meshes.Add(new(compiled.Shot.PathOf(compiled.NodeAt(copy.Owner)), Placed(mesh, copy.World), mesh.Indices));
            }
        }
        return new(state.Frame, nodes, withMeshes ? meshes : null);
    }

    private static double[] Placed(MeshState mesh, in Numerics.Affine world)
    {
        var positions = new double[mesh.Positions.Length];
        for (var v = 0; v < positions.Length; v += 3)
        {
            var p = world.Point(new(mesh.Positions[v], mesh.Positions[v + 1], mesh.Positions[v + 2]));
            (positions[v], positions[v + 1], positions[v + 2]) = (p.X, p.Y, p.Z);
        }
        return positions;
    }
}

/// <param name="Path">Names from the root down.</param>
/// <param name="World">Sixteen numbers, column-major.</param>
public sealed record SampledNode(string Path, string Name, bool Visible, double[] World);

/// <param name="Node">The path of its node, or of the instance or repeater that draws it.</param>
/// <param name="Positions">x, y, z for each vertex, world space.</param>
/// <param name="Indices">Three a triangle.</param>
public sealed record SampledMesh(string Node, double[] Positions, int[] Indices);
