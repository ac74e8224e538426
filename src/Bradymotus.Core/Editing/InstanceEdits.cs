using System.Collections.Immutable;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Shaping;

namespace Bradymotus.Core.Editing;

/// <summary>Puts an instance of each of some nodes beside it, where it stands and with its keys; what is below is shared.</summary>
/// <param name="Prefix">The ids of the instances are this, a hyphen, and a number, in the order of <paramref name="Ids"/>.</param>
public sealed record AddInstances(IReadOnlyList<string> Ids, string Prefix) : Edit
{
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        return Instances.Put(shot, Ids, Prefix, n => (n, Instances.Place(n.Channels), n is InstanceNode ? n.Follows : null), cancel);
    }

    public override string Describe(Shot before) => Ids.Count == 1 ? $"Add an instance of {before.FindNode(Ids[0])?.Name}" : $"Add {Plural(Ids.Count, "instance")}";
}

/// <summary>Puts instances of a node where others stand: at the position and rotation of each, with their keys, in the size of the node itself.</summary>
/// <param name="Of">What is drawn.</param>
/// <param name="On">The nodes that they are put on. Each instance hangs beside its own.</param>
/// <param name="Prefix">The ids of the instances are this, a hyphen, and a number, in the order of <paramref name="On"/>.</param>
public sealed record PlaceInstances(string Of, IReadOnlyList<string> On, string Prefix) : Edit
{
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var of = shot.Node(Of);
        var scale = of.Channels?.Where(c => Instances.Scale.Contains(c.Key)).ToList() ?? [];
        return Instances.Put(shot, On, Prefix, n =>
        {
            var place = Instances.Place(n.Channels)?.RemoveRange(Instances.Scale).RemoveRange(Instances.Pivot) ?? ImmutableSortedDictionary<string, Channel>.Empty;
            return (of, Instances.OrNone(place.SetItems(scale)), null);
        }, cancel);
    }

    public override string Describe(Shot before) => $"Put {Plural(On.Count, "instance")} of {before.FindNode(Of)?.Name}";
}

/// <summary>Makes instances and repeaters into what they draw: copies of their own, with keys and all, that share nothing but materials.</summary>
/// <remarks>
/// The copies of a repeater hang one in another, each with the channels of the step, which says the same for every count and with every curve. A count
/// that is keyed and a step taken from another node are what they are on a frame; a time shift moves the keys of each copy.
/// </remarks>
/// <param name="Frame">The frame for what cannot stay keyed.</param>
public sealed record MakeReal(IReadOnlyList<string> Ids, string Prefix, double Frame) : Edit
{
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(Frame);
        var made = new Instances(Prefix, Frame);
        foreach (var id in Ids.Distinct())
        {
            cancel.ThrowIfCancellationRequested();
            shot = made.Real(shot, shot.Node(id));
        }
        return shot;
    }

    /// <summary>A shot in which nothing is drawn once more and nothing follows anything: what other formats can hold. How many objects were made real is told.</summary>
    /// <exception cref="Refusal">That would be more objects than a shot can have.</exception>
    public static (Shot Shot, int Made) Everywhere(Shot shot, double frame, CancellationToken cancel = default)
    {
        var made = 0;
        var instances = new Instances("copy", frame);
        while (shot.Nodes.FirstOrDefault(n => n is InstanceNode or RepeatNode) is { } next)
        {
            cancel.ThrowIfCancellationRequested();
            made++;
            shot = instances.Real(shot, next);
            if (shot.Nodes.Length > ShotRules.MostNodes)
            {
                throw new Refusal($"With all instances and repeats as objects of their own the shot would have more than {ShotRules.MostNodes}: export fewer.");
            }
        }
        return (shot.Nodes.All(n => n.Follows is null) ? shot : shot with { Nodes = [.. shot.Nodes.Select(n => n with { Channels = Instances.OrNone(shot.ChannelsWithFollowed(n)), Follows = null })] }, made);
    }

    public override string Describe(Shot before) => Ids.Count == 1 ? $"Make {before.FindNode(Ids[0])?.Name} a copy of its own" : $"Make copies of {Plural(Ids.Count, "object")}";
}

/// <summary>Gives nodes that follow others the channels that they follow as their own, keys and all.</summary>
public sealed record Unfollow(IReadOnlyList<string> Ids) : Edit
{
    protected override Shot Make(Shot shot, CancellationToken cancel) =>
        shot.WithAll(Ids.Distinct().Select(shot.Node).Select(node => node.Follows is null ? node : node with { Channels = Instances.OrNone(shot.ChannelsWithFollowed(node)), Follows = null }));

    public override string Describe(Shot before) => $"Let {(Ids.Count == 1 ? before.FindNode(Ids[0])?.Name : Plural(Ids.Count, "object"))} move by itself";
}

/// <summary>Turns what is drawn once more into nodes.</summary>
internal sealed class Instances(string prefix, double frame)
{
    private int _count;

    internal static readonly string[] Scale = ["transform.scale.x", "transform.scale.y", "transform.scale.z"];

    internal static readonly string[] Pivot = ["transform.pivot.x", "transform.pivot.y", "transform.pivot.z"];

    /// <summary>The channels that say where a node stands.</summary>
    internal static ImmutableSortedDictionary<string, Channel>? Place(ImmutableSortedDictionary<string, Channel>? channels) =>
        OrNone(channels?.RemoveRange(channels.Keys.Where(p => !p.StartsWith("transform.", StringComparison.Ordinal))));

    internal static ImmutableSortedDictionary<string, Channel>? OrNone(ImmutableSortedDictionary<string, Channel>? channels) => channels is { IsEmpty: false } ? channels : null;

    /// <summary>Puts an instance beside each of some nodes.</summary>
    /// <param name="like">For each: what is drawn, the channels of the instance, and what it follows.</param>
    internal static Shot Put(Shot shot, IReadOnlyList<string> beside, string prefix, Func<Node, (Node Of, ImmutableSortedDictionary<string, Channel>? Channels, string? Follows)> like, CancellationToken cancel)
    {
        var names = new Names.Siblings(shot);
        var nodes = shot.Nodes.ToBuilder();
        var count = 0;
        foreach (var node in beside.Distinct().Select(shot.Node))
        {
            cancel.ThrowIfCancellationRequested();
            var (of, channels, follows) = like(node);
            nodes.Add(new InstanceNode
            {
                Id = $"{prefix}-{count++}",
                Name = names.Take(node.Parent, of.Name),
                // An instance of an instance would be one step further from what is drawn.
                Of = of is InstanceNode instance ? instance.Of : of.Id,
                Parent = node.Parent,
                Offset = node.Offset,
                RotationOrder = node.RotationOrder,
                Follows = follows,
                Channels = channels,
            });
        }
        return shot with { Nodes = nodes.DrainToImmutable() };
    }

    /// <summary>The shot with one instance or repeater in the form of what it draws; any other node stays.</summary>
    internal Shot Real(Shot shot, Node node) => node switch
    {
        InstanceNode instance => OfInstance(shot, instance),
        RepeatNode repeat => OfRepeat(shot, repeat),
        _ => shot,
    };

    private Shot OfInstance(Shot shot, InstanceNode instance)
    {
        var of = shot.Node(instance.Of);
        var channels = (shot.ChannelsWithFollowed(of) ?? ImmutableSortedDictionary<string, Channel>.Empty).RemoveRange(Place(of.Channels)?.Keys ?? [])
            .RemoveRange(["visible", "visible.stage", "visible.renders"]);
        var own = shot.ChannelsWithFollowed(instance) ?? ImmutableSortedDictionary<string, Channel>.Empty;
        var all = shot.Descendants([of.Id]);
        all.Remove(of.Id);
        var ids = all.ToDictionary(id => id, _ => NextId(shot));
        ids[of.Id] = instance.Id;
        var nodes = shot.Nodes.ToBuilder();
        var place = shot.IndexOfNode(instance.Id);
        nodes[place] = References.Mapped(of, ids) with
        {
            Id = instance.Id,
            Name = instance.Name,
            Parent = instance.Parent,
            Offset = instance.Offset,
            RotationOrder = instance.RotationOrder,
            Locked = instance.Locked,
            Follows = null,
            Channels = OrNone(channels.SetItems(own)),
        };
        nodes.AddRange(shot.Nodes.Where(n => all.Contains(n.Id)).Select(n => References.Mapped(n, ids) with { Id = ids[n.Id], Parent = ids[n.Parent!] }));
        return shot with { Nodes = nodes.DrainToImmutable() };
    }

    private Shot OfRepeat(Shot shot, RepeatNode repeat)
    {
        Channel Of(string path) => shot.Channel(new(repeat.Id, $"repeat.{path}"));
        var count = (int)Math.Round(Math.Clamp(Of("count").Evaluate(frame), 1, RepeatNode.MostCopies), MidpointRounding.AwayFromZero);
        var shift = Of("shift").Evaluate(frame);
        Affine? step = null;
        if (repeat.Step is { } other && CompiledShot.WorldOf(shot, repeat.Id, frame).TryInvert(out var toOwn))
        {
            step = toOwn * CompiledShot.WorldOf(shot, other, frame);
        }
        var stepChannels = step is not null ? null : ImmutableSortedDictionary.CreateRange(StringComparer.Ordinal,
            new[] { "translate", "rotate", "scale" }.SelectMany(k => "xyz".Select(c => KeyValuePair.Create($"transform.{k}.{c}", Of($"{k}.{c}") with { Locked = false }))));
        var below = shot.Descendants([repeat.Id]);
        below.Remove(repeat.Id);
        var originals = shot.Nodes.Where(n => below.Contains(n.Id)).ToList();
        if ((long)count * (originals.Count + 1) > ShotRules.MostNodes)
        {
            throw new Refusal($"“{repeat.Name}” would become {(long)count * (originals.Count + 1)} objects, more than the {ShotRules.MostNodes} that a shot can have: give it fewer copies.");
        }
        var nodes = shot.Nodes.ToBuilder();
        nodes[shot.IndexOfNode(repeat.Id)] = new GroupNode
        {
            Id = repeat.Id,
            Name = repeat.Name,
            Parent = repeat.Parent,
            Offset = repeat.Offset,
            RotationOrder = repeat.RotationOrder,
            Locked = repeat.Locked,
            Follows = repeat.Follows,
            Channels = OrNone(repeat.Channels?.RemoveRange(repeat.Channels.Keys.Where(p => p.StartsWith("repeat.", StringComparison.Ordinal)))),
        };
        var parent = repeat.Id;
        for (var k = 1; k < count; k++)
        {
            var group = NextId(shot);
            nodes.Add(new GroupNode { Id = group, Name = $"Copy {k + 1}", Parent = parent, Offset = step, Channels = stepChannels });
            var ids = originals.ToDictionary(n => n.Id, _ => NextId(shot));
            nodes.AddRange(originals.Select(n => Later(References.Mapped(n, ids), k * shift) with { Id = ids[n.Id], Parent = n.Parent == repeat.Id ? group : ids[n.Parent!] }));
            parent = group;
        }
        return shot with { Nodes = nodes.DrainToImmutable() };
    }

    private static Node Later(Node node, double frames) => frames == 0 || node.Channels is null ? node : node with
    {
        Channels = node.Channels.SetItems(node.Channels.Where(c => c.Value.Curve is not null).Select(c => KeyValuePair.Create(c.Key,
            c.Value with { Curve = c.Value.Curve!.WithKeys([.. c.Value.Curve.Keys.Select(k => k with { Frame = k.Frame + frames })]).UntilAt(f => f + frames) })).ToList()),
    };

    private string NextId(Shot shot)
    {
        string id;
        do
        {
            id = $"{prefix}-{_count++}";
        }
        while (shot.FindNode(id) is not null || shot.FindMaterial(id) is not null);
        return id;
    }
}

/// <summary>The ids that nodes refer to, beside their parents.</summary>
public static class References
{
    /// <summary>A node that refers to others by their new ids, where there are new ones.</summary>
    public static Node Mapped(Node node, IReadOnlyDictionary<string, string> ids)
    {
        string To(string id) => ids.GetValueOrDefault(id, id);
        node = node.Follows is { } leader && ids.ContainsKey(leader) ? node with { Follows = To(leader) } : node;
        return node switch
        {
            InstanceNode instance when ids.ContainsKey(instance.Of) => instance with { Of = To(instance.Of) },
            RepeatNode { Step: { } step } repeat when ids.ContainsKey(step) => repeat with { Step = To(step) },
            MeshNode mesh when mesh.Deformers.OfType<SkinDeformer>().Any(s => s.Joints.Any(ids.ContainsKey)) => mesh with
            {
                Deformers = [.. mesh.Deformers.Select(d => d is SkinDeformer skin ? skin with { Joints = [.. skin.Joints.Select(To)] } : d)],
            },
            _ => node,
        };
    }
}
