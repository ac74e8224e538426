using System.Collections.Immutable;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Time;

namespace Bradymotus.Core.Editing;

/// <summary>Adds nodes, with the materials they need.</summary>
/// <param name="Index">Where in the list; null is at the end.</param>
public sealed record AddNodes(ImmutableArray<Node> Nodes, ImmutableArray<Material>? Materials = null, int? Index = null) : Edit
{
    public override Shot Apply(Shot shot)
    {
        var at = Math.Clamp(Index ?? shot.Nodes.Length, 0, shot.Nodes.Length);
        var after = shot with
        {
            Nodes = shot.Nodes.InsertRange(at, Nodes.IsDefault ? [] : Nodes),
            Materials = shot.Materials.AddRange(Materials ?? []),
        };
        ShotRules.Validate(after);
        return after;
    }

    public override string Describe(Shot before) => Nodes.Length == 1 ? $"Add {Nodes[0].Name}" : $"Add {Plural(Nodes.Length, "object")}";
}

/// <summary>
/// Copies nodes with all that hangs below them, keys and all, beside the originals. Materials are shared.
/// </summary>
/// <param name="Ids">The nodes. What hangs below another one of them is copied with that.</param>
/// <param name="Prefix">The ids of the copies are this, a hyphen, and a number: the copy of the first of <paramref name="Ids"/> is 0, and so on; then come the others.</param>
public sealed record DuplicateNodes(IReadOnlyList<string> Ids, string Prefix) : Edit
{
    public override Shot Apply(Shot shot)
    {
        var ids = Ids.Select(id => shot.Node(id).Id).Distinct().ToList();
        var all = shot.Descendants(ids);
        var copies = ids.Concat(shot.Nodes.Select(n => n.Id).Where(id => all.Contains(id) && !ids.Contains(id)))
            .Select((id, i) => (id, copy: $"{Prefix}-{i}")).ToDictionary(p => p.id, p => p.copy);
        var after = shot;
        foreach (var node in shot.Nodes.Where(n => all.Contains(n.Id)))
        {
            var parent = node.Parent is not null && copies.TryGetValue(node.Parent, out var copied) ? copied : node.Parent;
            var siblings = after.Nodes.Where(n => n.Parent == parent).Select(n => n.Name).ToHashSet();
            after = after with { Nodes = after.Nodes.Add(node with { Id = copies[node.Id], Name = Names.Free(node.Name, siblings.Contains), Parent = parent }) };
        }
        ShotRules.Validate(after);
        return after;
    }

    public override string Describe(Shot before) =>
        Ids.Count == 1 ? $"Duplicate {before.FindNode(Ids[0])?.Name}" : $"Duplicate {Plural(Ids.Count, "object")}";
}

/// <summary>Removes nodes and all that hangs below them.</summary>
public sealed record RemoveNodes(IReadOnlyList<string> Ids) : Edit
{
    public override Shot Apply(Shot shot)
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

    public override string Describe(Shot before) => Ids.Count == 1 ? $"Remove {before.FindNode(Ids[0])?.Name}" : $"Remove {Plural(Ids.Count, "object")}";
}

/// <summary>Renames a node or a material.</summary>
public sealed record Rename(string Id, string Name) : Edit
{
    public override Shot Apply(Shot shot)
    {
        var name = Name?.Trim();
        ShotRules.ValidateName(name, "object");
        if (shot.FindMaterial(Id) is { } material)
        {
            return shot with { Materials = shot.Materials.Replace(material, material with { Name = name! }) };
        }
        var node = shot.Node(Id);
        Names.RefuseTaken(shot, node.Parent, name!, except: Id);
        return shot.With(node with { Name = name! });
    }

    public override string Describe(Shot before) => $"Rename to {Name}";
}

/// <summary>Hangs nodes under another one (or under none), with their place in the world kept as it is on a frame.</summary>
/// <param name="Frame">The frame on which the place is kept. Keys move along by the same amount.</param>
/// <param name="Parent">Null for the top.</param>
/// <param name="Before">The sibling that they come before; null is last.</param>
public sealed record Reparent(IReadOnlyList<string> Ids, double Frame, string? Parent = null, string? Before = null) : Edit
{
    public override Shot Apply(Shot shot)
    {
        var moving = Ids.Select(shot.Node).ToList();
        if (Parent is not null)
        {
            var parent = shot.Node(Parent);
            if (shot.Descendants(Ids).Contains(Parent))
            {
                throw new Refusal($"“{parent.Name}” hangs below what is being moved: choose another place.");
            }
        }
        var compiled = new CompiledShot(shot);
        var parentWorld = Parent is null ? Numerics.Affine.Identity : compiled.WorldAt(Parent, Frame);
        var after = shot;
        foreach (var node in moving)
        {
            if (node.Parent != Parent)
            {
                Names.RefuseTaken(after, Parent, node.Name, except: node.Id);
                var pose = Posing.ToLocal(shot, node, parentWorld, compiled.WorldAt(node.Id, Frame), Frame);
                after = pose.Aggregate(after, (s, change) => Shift(s, change, Frame));
            }
        }
        var ids = Ids.ToHashSet();
        var moved = after.Nodes.Where(n => ids.Contains(n.Id)).Select(n => n with { Parent = Parent });
        var rest = after.Nodes.RemoveAll(n => ids.Contains(n.Id));
        var at = Before is null ? rest.Length : rest.TakeWhile(n => n.Id != Before).Count();
        return after with { Nodes = rest.InsertRange(at, moved) };
    }

    public override string Describe(Shot before) => Parent is null
        ? $"Move {Plural(Ids.Count, "object")} to the top"
        : $"Hang {Plural(Ids.Count, "object")} under {before.FindNode(Parent)?.Name}";

    private static Shot Shift(Shot shot, ChannelValue change, double frame)
    {
        var channel = shot.Channel(change.Address);
        if (channel.Curve is null)
        {
            return shot.With(change.Address, channel with { Value = change.Value });
        }
        var old = channel.Curve.Evaluate(frame);
        var by = change.Address.Path.StartsWith("transform.scale", StringComparison.Ordinal) && old != 0
            ? new Curves.KeyTransform(ValueScale: change.Value / old)
            : new Curves.KeyTransform(Value: change.Value - old);
        var all = channel.Curve.Keys.Select(k => k.Frame).ToHashSet();
        return shot.With(change.Address, channel with { Curve = Curves.CurveEdits.Transform(channel.Curve, all, by) });
    }
}

/// <summary>Replaces what a node is (shape, material, deformers, order of turns, lock), with its id, name, parent and channels as they are.</summary>
public sealed record ReplaceNode(Node Node) : Edit
{
    public override Shot Apply(Shot shot)
    {
        var old = shot.Node(Node.Id);
        if (old.GetType() != Node.GetType())
        {
            throw new Refusal($"“{old.Name}” cannot become another kind of object: add a new one.");
        }
        var replaced = Node with { Name = old.Name, Parent = old.Parent, Channels = old.Channels };
        // Channels of deformers that are gone go with them.
        var specs = ChannelCatalog.For(replaced).Select(s => s.Path).ToHashSet();
        if (replaced.Channels is { } channels && !channels.Keys.All(specs.Contains))
        {
            replaced = replaced with { Channels = channels.RemoveRange(channels.Keys.Where(p => !specs.Contains(p)).ToList()) };
        }
        ShotRules.Validate(shot, replaced);
        return shot.With(replaced);
    }

    public override string Describe(Shot before) => $"Change {before.FindNode(Node.Id)?.Name}";
}

/// <summary>Adds a material.</summary>
/// <param name="Like">The id of a material to look like: its channels are taken over, keys and all. Null starts from what is given.</param>
public sealed record AddMaterial(Material Material, string? Like = null) : Edit
{
    public override Shot Apply(Shot shot)
    {
        var added = Like is null ? Material : Material with { Channels = shot.Material(Like).Channels };
        var after = shot with { Materials = shot.Materials.Add(added) };
        ShotRules.Validate(after);
        return after;
    }

    public override string Describe(Shot before) => $"Add material {Material.Name}";
}

/// <summary>Removes a material that no object uses.</summary>
public sealed record RemoveMaterial(string Id) : Edit
{
    public override Shot Apply(Shot shot)
    {
        var material = shot.Material(Id);
        if (shot.Nodes.OfType<MeshNode>().FirstOrDefault(m => m.Material == Id) is { } user)
        {
            throw new Refusal($"The material “{material.Name}” is used by “{user.Name}”: give that another one first.");
        }
        return shot with { Materials = shot.Materials.Remove(material) };
    }

    public override string Describe(Shot before) => $"Remove material {before.FindMaterial(Id)?.Name}";
}

/// <summary>Changes what belongs to the shot as a whole. What is null stays.</summary>
/// <param name="Camera">The id of the camera that renders.</param>
/// <param name="WholeRange">True lets the whole range play again.</param>
public sealed record SetShot(
    string? Name = null, FrameRate? Rate = null, FrameRange? Range = null, FrameRange? PlayRange = null,
    PictureSize? Size = null, string? Camera = null, bool WholeRange = false) : Edit
{
    public override Shot Apply(Shot shot)
    {
        var after = shot with
        {
            Name = Name?.Trim() ?? shot.Name,
            Rate = Rate ?? shot.Rate,
            Range = Range ?? shot.Range,
            PlayRange = WholeRange ? null : PlayRange ?? shot.PlayRange,
            Size = Size ?? shot.Size,
            Camera = Camera ?? shot.Camera,
        };
        ShotRules.Validate(after);
        return after;
    }

    public override string Describe(Shot before) =>
        Name is not null ? $"Name the shot {Name}"
        : Rate is not null ? $"Set the rate to {Rate}"
        : Range is not null ? $"Set the range to {Range}"
        : PlayRange is not null || WholeRange ? "Set the play range"
        : Size is not null ? $"Set the size to {Size}"
        : Camera is not null ? $"Render through {before.FindNode(Camera)?.Name}"
        : "Change the shot";
}

/// <summary>Puts another shot in the place of this one, as importing and going back to an old state do.</summary>
public sealed record ReplaceShot(Shot Shot, string Label) : Edit
{
    public override Shot Apply(Shot shot)
    {
        ShotRules.Validate(Shot);
        return Shot;
    }

    public override string Describe(Shot before) => Label;
}
