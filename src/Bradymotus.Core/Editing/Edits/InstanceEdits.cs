using System.Collections.Immutable;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Puts an instance of each of some nodes beside it, where it stands and with its keys; what is below is shared.</summary>
/// <param name="Prefix">The ids of the instances are this, a hyphen, and a number, in the order of <paramref name="Ids"/>.</param>
public sealed record AddInstances(IReadOnlyList<string> Ids, string Prefix) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        return Instances.Put(shot, Ids, Prefix, n => (n, Instances.Place(n.Channels), n is InstanceNode ? n.Follows : null), cancel);
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => Ids.Count == 1 ? $"Add an instance of {before.FindNode(Ids[0])?.Name}" : $"Add {Plural(Ids.Count, "instance")}";
}

/// <summary>Puts instances of a node where others stand: at the position and rotation of each, with their keys, in the size of the node itself.</summary>
/// <param name="Of">What is drawn.</param>
/// <param name="On">The nodes that they are put on. Each instance hangs beside its own.</param>
/// <param name="Prefix">The ids of the instances are this, a hyphen, and a number, in the order of <paramref name="On"/>.</param>
public sealed record PlaceInstances(string Of, IReadOnlyList<string> On, string Prefix) : Edit
{
    /// <inheritdoc/>
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

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Put {Plural(On.Count, "instance")} of {before.FindNode(Of)?.Name}";
}

/// <summary>Hangs instances of a node below others, at a place of each: they go wherever these go.</summary>
/// <param name="Of">What is drawn.</param>
/// <param name="Places">Where, of each (<see cref="InstancePlaces"/>).</param>
/// <param name="Prefix">The ids of the instances are this, a hyphen, and a number, in the order of <paramref name="Places"/>.</param>
public sealed record HangInstances(string Of, IReadOnlyList<InstancePlace> Places, string Prefix) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var of = shot.Node(Of);
        var places = Places.DistinctBy(p => p.On).ToDictionary(p => p.On);
        return Instances.Put(shot, [.. places.Keys], Prefix, n =>
        {
            var place = places[n.Id];
            var channels = Channels("translate", new(place.X, place.Y, place.Z), 0).Concat(Channels("scale", new(place.ScaleX, place.ScaleY, place.ScaleZ), 1)).ToImmutableSortedDictionary();
            return (of, Instances.OrNone(channels), null);
        }, cancel, isBelow: true);
    }

    private static IEnumerable<KeyValuePair<string, Channel>> Channels(string name, Double3 value, double usual) =>
        new[] { ("x", value.X), ("y", value.Y), ("z", value.Z) }.Where(v => v.Item2 != usual).Select(v => KeyValuePair.Create($"transform.{name}.{v.Item1}", new Channel(v.Item2)));

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Put {Plural(Places.Count, "instance")} of {before.FindNode(Of)?.Name} on objects";
}

/// <summary>Makes instances and repeaters into what they draw: copies of their own, with keys and all, that share nothing but materials.</summary>
/// <remarks>
/// The copies of a repeater hang one in another, each with the channels of the step, which says the same for every count and with every curve. A count
/// that is keyed and a step taken from another node are what they are on a frame; a time shift moves the keys of each copy.
/// </remarks>
/// <param name="Frame">The frame for what cannot stay keyed.</param>
public sealed record MakeReal(IReadOnlyList<string> Ids, string Prefix, double Frame) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(Frame);
        var copies = new RealCopies(shot, Prefix, Frame);
        foreach (var id in Ids.Distinct())
        {
            cancel.ThrowIfCancellationRequested();
            copies.Add(id);
        }
        return copies.Shot;
    }

    /// <summary>A shot in which nothing is drawn once more and nothing follows anything: what other formats can hold. How many objects were made real is told.</summary>
    /// <exception cref="Refusal">That would be more objects than a shot can have.</exception>
    public static (Shot Shot, int Made) Everywhere(Shot shot, double frame, CancellationToken cancel = default)
    {
        var copies = new RealCopies(shot, "copy", frame);
        var made = copies.AddAll(cancel);
        shot = copies.Shot;
        return (shot.Nodes.All(n => n.Follows is null) ? shot
            : shot with { Nodes = [.. shot.Nodes.Select(n => n with { Channels = Instances.OrNone(shot.ChannelsWithFollowed(n)), Follows = null })] }, made);
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => Ids.Count == 1 ? $"Make {before.FindNode(Ids[0])?.Name} a copy of its own" : $"Make copies of {Plural(Ids.Count, "object")}";
}

/// <summary>Gives nodes that follow others the channels that they follow as their own, keys and all.</summary>
public sealed record Unfollow(IReadOnlyList<string> Ids) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) =>
        shot.WithAll(Ids.Distinct().Select(shot.Node).Select(node => node.Follows is null ? node : node with { Channels = Instances.OrNone(shot.ChannelsWithFollowed(node)), Follows = null }));

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Let {(Ids.Count == 1 ? before.FindNode(Ids[0])?.Name : Plural(Ids.Count, "object"))} move by itself";
}

/// <summary>What edits of instances share.</summary>
internal static class Instances
{
    internal static readonly string[] Scale = ["transform.scale.x", "transform.scale.y", "transform.scale.z"];

    internal static readonly string[] Pivot = ["transform.pivot.x", "transform.pivot.y", "transform.pivot.z"];

    /// <summary>The channels that say where a node stands.</summary>
    internal static ImmutableSortedDictionary<string, Channel>? Place(ImmutableSortedDictionary<string, Channel>? channels) =>
        OrNone(channels?.RemoveRange(channels.Keys.Where(p => !p.StartsWith("transform.", StringComparison.Ordinal))));

    internal static ImmutableSortedDictionary<string, Channel>? OrNone(ImmutableSortedDictionary<string, Channel>? channels) => channels is { IsEmpty: false } ? channels : null;

    /// <summary>Puts an instance beside each of some nodes, or below it.</summary>
    /// <param name="like">For each: what is drawn, the channels of the instance, and what it follows.</param>
    internal static Shot Put(Shot shot, IReadOnlyList<string> beside, string prefix, Func<Node,
        (Node Of, ImmutableSortedDictionary<string, Channel>? Channels, string? Follows)> like, CancellationToken cancel, bool isBelow = false)
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
                Name = names.Take(isBelow ? node.Id : node.Parent, of.Name),
                // An instance of an instance would be one step further from what is drawn.
                Of = of is InstanceNode instance ? instance.Of : of.Id,
                Parent = isBelow ? node.Id : node.Parent,
                Offset = isBelow ? null : node.Offset,
                RotationOrder = isBelow ? of.RotationOrder : node.RotationOrder,
                Follows = follows,
                Channels = channels,
            });
        }
        return shot with { Nodes = nodes.DrainToImmutable() };
    }
}
