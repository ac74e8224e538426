using System.Runtime.CompilerServices;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;

namespace Bradymotus.Render.Rays;

/// <summary>The trees of meshes, kept from frame to frame.</summary>
internal static class MeshTrees
{
    // A mesh's tree lives as long as its vertices: shapes that are not bent keep theirs from frame to frame.
    private static readonly ConditionalWeakTable<Mesh, TriangleMesh> Trees = [];

    // Bent shapes keep the tree of the shape at rest and lay its boxes anew when they change.
    private static readonly ConditionalWeakTable<MeshState, BentTree> BentTrees = [];

    /// <summary>The tree of a mesh as it is on this frame.</summary>
    internal static TriangleMesh Of(MeshState mesh) =>
        mesh.IsBent ? BentTrees.GetValue(mesh, m => new BentTree(m)).Current() : RestTree(mesh.Rest);

    private static TriangleMesh RestTree(Mesh rest) => Trees.GetValue(rest, m => new TriangleMesh(m.Positions, m.Indices));

    private sealed class BentTree(MeshState mesh)
    {
        private TriangleMesh? _tree;
        private Mesh? _rest;
        private int _version;

        public TriangleMesh Current()
        {
            if (_version == mesh.Version)
            {
                return _tree!;
            }
            _version = mesh.Version;
            if (mesh.IsRebuilt)
            {
                // Which frame its triangles were made on first must make no difference.
                _tree = new TriangleMesh(mesh.Positions, mesh.Indices);
            }
            else if (ReferenceEquals(_rest, mesh.Rest))
            {
                _tree!.Refit(mesh.Positions);
            }
            else
            {
                (_rest, _tree) = (mesh.Rest, new TriangleMesh(RestTree(mesh.Rest), mesh.Positions));
            }
            return _tree;
        }
    }
}
