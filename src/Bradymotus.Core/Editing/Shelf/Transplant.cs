using System.Collections.Immutable;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Core.Shaping;

namespace Bradymotus.Core.Editing;

/// <summary>Objects that are taken from one shot and put into another, with their motion, their materials and their layers.</summary>
public static class Transplant
{
    /// <summary>Objects with all that hangs below them as a shot of their own, standing where they stand in the world.</summary>
    /// <param name="ids">What hangs below another one of them comes with that.</param>
    /// <param name="frame">Where what carries them stands.</param>
    /// <exception cref="Refusal">One of them is made of something that does not come along.</exception>
    public static Shot Take(Shot shot, IReadOnlyList<string> ids, double frame)
    {
        var all = shot.Descendants([.. ids.Select(id => shot.Node(id).Id)]);
        var nodes = shot.Nodes.Where(n => all.Contains(n.Id)).Select(Taken).ToImmutableArray();
        var used = nodes.OfType<MeshNode>().SelectMany(m => m.PartMaterials.Append(m.Material)).ToHashSet();
        var materials = shot.Materials.RemoveAll(m => !used.Contains(m.Id));
        var layers = nodes.Select(n => n.Channels).Concat(materials.Select(m => m.Channels)).SelectMany(c => c?.Keys ?? []).Select(p => new ChannelAddress("", p).Layer).OfType<string>().ToHashSet();
        return Shot.Empty("Copied") with { Rate = shot.Rate, Nodes = nodes, Materials = materials, Layers = [.. shot.Layers.Where(l => layers.Contains(l.Id))] };

        Node Taken(Node node)
        {
            if (Outside(node) is { } other)
            {
                throw new Refusal($"“{node.Name}” cannot be copied without “{shot.FindNode(other)?.Name ?? other}”, which it is made of: select both.");
            }
            if (node.Follows is { } leader && !all.Contains(leader))
            {
                node = node with { Channels = Instances.OrNone(shot.ChannelsWithFollowed(node)), Follows = null };
            }
            if (node.Parent is null || all.Contains(node.Parent))
            {
                return node;
            }
            var above = CompiledShot.WorldOf(shot, node.Parent, frame);
            var offset = node.Offset is { } own ? above * own : above;
            return node with { Parent = null, Offset = offset == Affine.Identity ? null : offset };
        }

        string? Outside(Node node)
        {
            string?[] made = node switch
            {
                InstanceNode instance => [instance.Of],
                RepeatNode repeat => [repeat.Step],
                MeshNode mesh => [.. mesh.Deformers.OfType<SkinDeformer>().SelectMany(s => s.Joints)],
                _ => [],
            };
            return made.FirstOrDefault(id => id is not null && !all.Contains(id));
        }
    }

    /// <summary>The change that puts them into a shot. A layer of the same name and mode takes what is in one of theirs; a material that is there already is shared.</summary>
    /// <param name="taken">As <see cref="Take"/> gives it.</param>
    /// <param name="prefix">The ids of what comes are this, a hyphen, and what they were.</param>
    public static Batch Put(Shot shot, Shot taken, string prefix)
    {
        if (taken.Nodes.IsEmpty)
        {
            throw new Refusal("There is nothing to put in: copy some objects first.");
        }
        string New(string id) => $"{prefix}-{id}";
        var layers = taken.Layers.ToDictionary(l => l.Id, l => shot.Layers.FirstOrDefault(o => o.Name == l.Name && o.Mode == l.Mode)?.Id);
        var materials = taken.Materials.ToDictionary(m => m.Id, m => Bare(m) is var bare ? shot.Materials.FirstOrDefault(o => Bare(o) == bare)?.Id : null);
        var ids = taken.Nodes.ToDictionary(n => n.Id, n => New(n.Id));
        string? Material(string? id) => string.IsNullOrEmpty(id) ? id : materials.GetValueOrDefault(id) ?? New(id);
        Node Moved(Node node)
        {
            node = References.Mapped(node, ids);
            if (node is MeshNode mesh)
            {
                node = mesh with { Material = Material(mesh.Material), PartMaterials = [.. mesh.PartMaterials.Select(m => Material(m)!)] };
            }
            return node with { Id = ids[node.Id], Parent = node.Parent is null ? null : ids[node.Parent], Channels = InLayers(node.Channels) };
        }
        ImmutableSortedDictionary<string, Channel>? InLayers(ImmutableSortedDictionary<string, Channel>? channels) => channels is null || layers.Count == 0 ? channels
            : channels.ToImmutableSortedDictionary(c => new ChannelAddress("", c.Key) is { Layer: { } layer } a ? a.In(layers.GetValueOrDefault(layer) ?? New(layer)).Path
                : c.Key, c => c.Value, channels.KeyComparer);
        ImmutableArray<Node> nodes = [.. taken.Nodes.Select(Moved)];
        ImmutableArray<Material> came = [.. taken.Materials.Where(m => materials[m.Id] is null).Select(m => m with { Id = New(m.Id), Channels = InLayers(m.Channels) })];
        var roots = taken.Nodes.Where(n => n.Parent is null).ToList();
        return new Batch($"Paste {(roots.Count == 1 ? roots[0].Name : $"{roots.Count} objects")}",
            [.. taken.Layers.Where(l => layers[l.Id] is null).Select(l => new AddLayer(l with { Id = New(l.Id) })), new AddNodes(nodes, came)]);
    }

    private static string Bare(Material material) => ShotJson.Write(material with { Id = "" });
}
