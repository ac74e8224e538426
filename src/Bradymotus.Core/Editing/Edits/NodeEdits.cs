using System.Collections.Immutable;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Adds nodes, with the materials they need. One that comes beside another of its name is numbered.</summary>
/// <param name="Index">Where in the list; null is at the end.</param>
public sealed record AddNodes(ImmutableArray<Node> Nodes, ImmutableArray<Material>? Materials = null, int? Index = null) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var at = Math.Clamp(Index ?? shot.Nodes.Length, 0, shot.Nodes.Length);
        ImmutableArray<Node> comers = Nodes.IsDefault ? [] : Nodes;
        var ids = comers.Select(n => n?.Id).ToHashSet();
        var names = new Names.Siblings(shot);
        return shot with
        {
            Nodes = shot.Nodes.InsertRange(at, comers.Select(n => n is null || ids.Contains(n.Parent) || string.IsNullOrEmpty(n.Name) ? n! : n with { Name = names.Take(n.Parent, n.Name) })),
            Materials = shot.Materials.AddRange(Materials is { IsDefault: false } added ? added : []),
        };
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => Nodes.IsDefault ? "Add nothing" : Nodes.Length == 1 ? $"Add {Nodes[0].Name}" : $"Add {Plural(Nodes.Length, "object")}";
}

/// <summary>
/// Copies nodes with all that hangs below them, keys and all, beside the originals. Materials are shared.
/// </summary>
/// <param name="Ids">The nodes. What hangs below another one of them is copied with that.</param>
/// <param name="Prefix">The ids of the copies are this, a hyphen, and a number: the copy of the first of <paramref name="Ids"/> is 0, and so on; then come the others.</param>
/// <param name="Follow">The copies have no channels of their own but follow those of the originals, see <see cref="Node.Follows"/>.</param>
public sealed record DuplicateNodes(IReadOnlyList<string> Ids, string Prefix, bool Follow = false) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var ids = Ids.Select(id => shot.Node(id).Id).Distinct().ToList();
        var all = shot.Descendants(ids);
        var copies = new Dictionary<string, string>(all.Count);
        foreach (var id in ids)
        {
            copies.Add(id, $"{Prefix}-{copies.Count}");
        }
        foreach (var node in shot.Nodes)
        {
            if (all.Contains(node.Id) && !copies.ContainsKey(node.Id))
            {
                copies.Add(node.Id, $"{Prefix}-{copies.Count}");
            }
        }
        var names = new Names.Siblings(shot);
        var nodes = shot.Nodes.ToBuilder();
        foreach (var node in shot.Nodes)
        {
            if (copies.TryGetValue(node.Id, out var copy))
            {
                cancel.ThrowIfCancellationRequested();
                // Below a copy the names are those of the originals; beside an original they have to be free.
                var isInside = node.Parent is not null && copies.ContainsKey(node.Parent);
                var parent = isInside ? copies[node.Parent!] : node.Parent;
                var made = References.Mapped(node, copies) with { Id = copy, Name = isInside ? node.Name : names.Take(parent, node.Name), Parent = parent };
                nodes.Add(Follow ? made with { Follows = node.Id, Channels = null } : made);
            }
        }
        return shot with { Nodes = nodes.DrainToImmutable() };
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) =>
        Ids.Count == 1 ? $"Duplicate {before.FindNode(Ids[0])?.Name}" : $"Duplicate {Plural(Ids.Count, "object")}";
}

/// <summary>Removes nodes and all that hangs below them.</summary>
public sealed record RemoveNodes(IReadOnlyList<string> Ids) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        foreach (var id in Ids)
        {
            shot.Node(id);
        }
        var gone = shot.Descendants(Ids);
        return shot with
        {
            Nodes = shot.Nodes.RemoveAll(n => gone.Contains(n.Id)),
            Camera = shot.Camera is not null && gone.Contains(shot.Camera) ? null : shot.Camera,
        };
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => Ids.Count == 1 ? $"Remove {before.FindNode(Ids[0])?.Name}" : $"Remove {Plural(Ids.Count, "object")}";
}

/// <summary>Renames a node or a material.</summary>
public sealed record Rename(string Id, string Name) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var name = Name?.Trim();
        ShotRules.ValidateName(name, "object");
        if (shot.FindMaterial(Id) is { } material)
        {
            return shot with { Materials = shot.Materials.Replace(material, material with { Name = name! }) };
        }
        var node = shot.Node(Id);
        if (shot.Children(node.Parent).Any(n => n.Name == name && n.Id != Id))
        {
            throw new Refusal($"There is already an object named “{name}” there: choose another name.");
        }
        return shot.With(node with { Name = name! });
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Rename to {Name}";
}

/// <summary>
/// Gives nodes another parent, or none. Their place in the world stays as it is: what lies between the new parent and the
/// nodes' own channels becomes their <see cref="Node.Offset"/>. Under parents that do not move it stays on every frame; else it stays
/// on the frame given. One that comes beside another of its name is numbered.
/// </summary>
/// <param name="Frame">The frame on which the place is kept.</param>
/// <param name="Parent">Null for the top.</param>
/// <param name="Before">The sibling that they come before; null is last.</param>
/// <param name="Keep">False keeps the numbers of the channels instead of the place: what hangs elsewhere goes along to where those numbers say.</param>
public sealed record Reparent(IReadOnlyList<string> Ids, double Frame, string? Parent = null, string? Before = null, bool Keep = true) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        Curves.CurveRules.Finite(Frame);
        var moving = Ids.Distinct().Select(shot.Node).ToList();
        if (Parent is not null)
        {
            var parent = shot.Node(Parent);
            if (shot.Descendants(Ids).Contains(Parent))
            {
                throw new Refusal($"“{parent.Name}” lies below what is being moved: choose another parent.");
            }
        }
        Affine World(string? id) => CompiledShot.WorldOf(shot, id, Frame);
        var toParent = Affine.Identity;
        // Beside the same siblings nothing of its place is asked.
        if (Keep && moving.Any(n => n.Parent != Parent) && !World(Parent).TryInvert(out toParent))
        {
            throw new Refusal($"“{shot.Node(Parent).Name}” is scaled to nothing on frame {Curves.CurveRules.Number(Frame)}: give it a scale first, or choose another parent.");
        }
        var ids = Ids.ToHashSet();
        var names = new Names.Siblings(shot);
        var moved = moving.Select(n => n.Parent == Parent
            ? n
            : n with { Parent = Parent, Name = names.Take(Parent, n.Name), Offset = Keep ? Tidied(toParent * World(n.Parent) * (n.Offset ?? Affine.Identity)) : null }).ToDictionary(n => n.Id);
        var rest = shot.Nodes.RemoveAll(n => ids.Contains(n.Id));
        var at = Before is null ? rest.Length : rest.TakeWhile(n => n.Id != Before).Count();
        return shot with { Nodes = rest.InsertRange(at, shot.Nodes.Where(n => ids.Contains(n.Id)).Select(n => moved[n.Id])) };
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => Ids.All(id => before.FindNode(id)?.Parent == Parent)
        ? $"Reorder {(Ids.Count == 1 ? before.FindNode(Ids[0])?.Name : Plural(Ids.Count, "object"))}"
        : Parent is null
        ? $"Unparent {Plural(Ids.Count, "object")}"
        : $"Parent {Plural(Ids.Count, "object")} to {before.FindNode(Parent)?.Name}";

    /// <summary>Nothing where nothing is left but rounding, as after going to another parent and back.</summary>
    private static Affine? Tidied(in Affine offset)
    {
        static double Of(in Double3 a, in Double3 b) => (a - b).Length;
        var rest = Of(offset.X, Double3.UnitX) + Of(offset.Y, Double3.UnitY) + Of(offset.Z, Double3.UnitZ) + offset.Origin.Length;
        return rest < 1e-12 ? null : offset;
    }
}

/// <summary>Replaces what a node is (shape, material, deformers, rotation order, lock), with its id, name, parent, offset and channels as they are.</summary>
/// <remarks>With another rotation order the angles become others too, so that the object stands as it did; see <see cref="SetRotationOrder"/>.</remarks>
public sealed record ReplaceNode(Node Node) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var old = shot.Node(Node.Id);
        if (old.GetType() != Node.GetType())
        {
            throw new Refusal($"“{old.Name}” cannot become another kind of object: add a new one.");
        }
        var replaced = Node with { Name = old.Name, Parent = old.Parent, Offset = old.Offset, Channels = old.Channels };
        if (replaced is MeshNode mesh)
        {
            // Before anything asks for its channels, whose names have to be different.
            ShotRules.ValidateDeformers(mesh);
        }
        if (old.RotationOrder != replaced.RotationOrder)
        {
            replaced = RotationOrders.Convert(replaced, old.RotationOrder);
        }
        // Channels of deformers that are gone go with them.
        var list = ChannelCatalog.For(replaced);
        if (replaced.Channels is { } channels && !channels.Keys.All(list.Has))
        {
            replaced = replaced with { Channels = Instances.OrNone(channels.RemoveRange(channels.Keys.Where(p => !list.Has(p)).ToList())) };
        }
        return shot.With(replaced);
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Change {before.FindNode(Node.Id)?.Name}";
}

/// <summary>Sets the order in which the rotations of nodes are applied. On every key, and without keys always, they stand as before.</summary>
public sealed record SetRotationOrder(IReadOnlyList<string> Ids, RotationOrder Order) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => shot.WithAll(Ids.Distinct().Select(id =>
    {
        cancel.ThrowIfCancellationRequested();
        var node = shot.Node(id);
        return node.RotationOrder == Order ? node : RotationOrders.Convert(node with { RotationOrder = Order }, node.RotationOrder);
    }));

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Set the rotation order of {Plural(Ids.Count, "object")}";
}
