using System.Collections.Immutable;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Says which vertices of a mesh have their motion path drawn.</summary>
/// <param name="Node">The id of the mesh.</param>
/// <param name="Vertices">By their place in the mesh, from 0; empty for none.</param>
public sealed record TraceVertices(string Node, ImmutableArray<int> Vertices) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => shot.Node(Node) is MeshNode mesh
        ? shot.With(mesh with { Traced = Vertices })
        : throw new Refusal($"“{shot.Node(Node).Name}” has no surface, so no point of it can be traced: choose a mesh. Its own motion path is drawn while it is selected.");

    /// <inheritdoc/>
    public override string Describe(Shot before)
    {
        var name = before.FindNode(Node)?.Name;
        return Vertices.IsDefaultOrEmpty ? $"Trace no point of {name}" : $"Trace {Plural(Vertices.Length, "point")} of {name}";
    }
}
