using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>The meshes of a shot that can strike something, what moves each of them, and what it depends on.</summary>
internal sealed class Bodies(CheckedShot shot)
{
    /// <summary>More copies than this are not looked at either.</summary>
    private const int MostCopies = 256;

    /// <summary>There are instances or repeaters.</summary>
    internal bool HaveCopies => shot.Shot.Nodes.Any(n => n is InstanceNode or RepeatNode);

    /// <summary>All of them: those of nodes, and what instances and repeaters draw.</summary>
    /// <param name="first">The first frame, evaluated; null where there are no copies.</param>
    internal List<Body> All(FrameState? first)
    {
        var compiled = shot.Compiled;
        var bodies = new List<Body>();
        for (var i = 0; i < compiled.NodeCount; i++)
        {
            if (compiled.NodeAt(i) is MeshNode { Id: var id, Name: var name } mesh && !IsPassable(mesh))
            {
                bodies.Add(new(i, id, id, name));
            }
        }
        bodies.AddRange(first is null ? [] : CopiesOf(first));
        return bodies;
    }

    /// <summary>Smoke, light, and the surface of water: what is hardly there, and a sheet of what lets light through, is nothing that one would strike.</summary>
    private bool IsPassable(MeshNode mesh)
    {
        if (mesh.Material is not { } material)
        {
            return false;
        }
        double Of(string path) => shot.Shot.Channel(new ChannelAddress(material, path)) is { ActiveCurve: null } still ? still.Value : path == "look.opacity" ? 1 : 0;
        return Of("look.opacity") < 0.5 || (Of("look.glass") >= 0.5 && mesh.Shape is PlaneShape);
    }

    /// <summary>What instances and repeaters draw on the first frame; none where it is a crowd.</summary>
    private List<Body> CopiesOf(FrameState state)
    {
        var bodies = new List<Body>();
        if (state.Copies.Count > MostCopies)
        {
            return bodies;
        }
        var runs = new CopyRuns();
        foreach (var (owner, (start, count)) in runs.On(state))
        {
            var node = shot.Compiled.NodeAt(owner);
            var parts = Enumerable.Range(start, count).Select(i => state.Copies[i].Source).Distinct().Count();
            for (var k = 0; k < count; k++)
            {
                var source = state.Copies[start + k].Source;
                if (source >= 0 && shot.Compiled.NodeAt(source) is MeshNode mesh && !IsPassable(mesh))
                {
                    var part = parts > 1 ? $" ({mesh.Name})" : "";
                    // What is repeated is the first itself.
                    var which = node is RepeatNode ? $", no. {k / parts + 2}" : "";
                    bodies.Add(new CopyBody(source, node.Id, $"{node.Id}#{k}", node.Name + which + part, owner, k, runs));
                }
            }
        }
        return bodies;
    }

    /// <summary>The nearest node that moves, of this and those that it hangs under; −1 where none does.</summary>
    internal int Mover(int node)
    {
        for (var i = node; i >= 0; i = shot.Compiled.Nodes[i].Parent)
        {
            if (shot.Compiled.Owners[shot.Compiled.Nodes[i].Owner].IsMoved)
            {
                return i;
            }
        }
        return -1;
    }

    /// <summary>What carries a mesh; for one whose parts or steps move by themselves a number of its own.</summary>
    internal int Mover(Body body)
    {
        if (body is not CopyBody copy)
        {
            return Mover(body.Node);
        }
        var compiled = shot.Compiled;
        var owner = compiled.Owners[compiled.Nodes[copy.Owner].Owner];
        var top = TopOf(copy);
        var moves = top < 0;
        if (compiled.NodeAt(copy.Owner) is RepeatNode repeat)
        {
            var step = repeat.Step is null ? -1 : compiled.IndexOfNode(repeat.Step);
            moves |= owner.Animated.Any(c => c >= owner.List.PlaceChannels) || (step >= 0 && Mover(step) >= 0);
        }
        for (var i = copy.Node; i != top && i >= 0; i = compiled.Nodes[i].Parent)
        {
            moves |= compiled.Owners[compiled.Nodes[i].Owner].IsMoved;
        }
        return moves ? compiled.NodeCount * (copy.Owner + 1) + copy.Ordinal : Mover(copy.Owner);
    }

    /// <summary>The node of which a copy is, and whose own place does not count; −1 where it is a copy within a copy.</summary>
    private int TopOf(CopyBody copy)
    {
        var top = shot.Compiled.NodeAt(copy.Owner) is InstanceNode instance ? shot.Compiled.IndexOfNode(instance.Of) : copy.Owner;
        return top >= 0 && copy.Node >= top && copy.Node < shot.Compiled.Nodes[top].End ? top : -1;
    }

    internal bool AreLoose(Body a, Body b) => Mover(a) != Mover(b) || IsSkinned(a.Node) || IsSkinned(b.Node);

    private bool IsSkinned(int node) => shot.Compiled.NodeAt(node) is MeshNode mesh && mesh.Deformers.OfType<Shaping.SkinDeformer>().Any();

    /// <summary>Copies of one repeater, and what it repeats, stand as they are put.</summary>
    internal bool AreOfOneRow(Body a, Body b)
    {
        static int Owner(Body body) => body is CopyBody copy ? copy.Owner : -1;
        bool Holds(int owner, Body body) => owner >= 0 && !body.IsCopy && body.Node > owner && body.Node < shot.Compiled.Nodes[owner].End;
        return (a.IsCopy && Owner(a) == Owner(b)) || Holds(Owner(a), b) || Holds(Owner(b), a);
    }

    internal bool IsBent(int node)
    {
        var owner = shot.Compiled.Owners[shot.Compiled.Nodes[node].Owner];
        return owner.Animated.Any(c => c >= owner.List.PlaceChannels) || IsSkinned(node);
    }

    /// <summary>All records that say where a mesh stands and what shape it has.</summary>
    internal IEnumerable<object> DependsOn(Body body)
    {
        if (body is not CopyBody copy)
        {
            return DependsOn(body.Node);
        }
        // Of a copy within a copy everything may be what it depends on.
        IEnumerable<object> step = shot.Compiled.NodeAt(copy.Owner) is RepeatNode { Step: { } id } && shot.Compiled.IndexOfNode(id) is >= 0 and var at ? DependsOn(at) : [];
        return [.. DependsOn(copy.Owner), .. DependsOn(copy.Node), .. step, .. TopOf(copy) < 0 ? (object[])[shot.Shot] : []];
    }

    internal IEnumerable<object> DependsOn(int node)
    {
        for (var i = node; i >= 0; i = shot.Compiled.Nodes[i].Parent)
        {
            var record = shot.Compiled.NodeAt(i);
            yield return record;
            foreach (var leader in shot.Leaders(record))
            {
                yield return leader;
            }
        }
        if (IsSkinned(node))
        {
            yield return shot.Shot;
        }
    }
}
