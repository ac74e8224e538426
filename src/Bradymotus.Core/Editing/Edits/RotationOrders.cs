using System.Collections.Immutable;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>From the numbers of one rotation order to those of another.</summary>
public static class RotationOrders
{
    private static readonly string[] Angles = ["transform.rotate.x", "transform.rotate.y", "transform.rotate.z"];
    private static readonly string[] Components = ["transform.quaternion.x", "transform.quaternion.y", "transform.quaternion.z", "transform.quaternion.w"];

    /// <summary>The channels of a rotation.</summary>
    public static string[] Paths(RotationOrder order) => order == RotationOrder.Quaternion ? Components : Angles;

    /// <summary>The rotation of numbers of <see cref="Paths"/>.</summary>
    public static Affine ToAffine(RotationOrder order, ReadOnlySpan<double> v) =>
        order == RotationOrder.Quaternion ? new Quaternion(v[0], v[1], v[2], v[3]).ToAffine() : Affine.Rotation(new(v[0], v[1], v[2]), order);

    /// <summary>The numbers of <see cref="Paths"/> for a rotation, nearest to others.</summary>
    internal static double[] From(in Affine rotation, RotationOrder order, ReadOnlySpan<double> near)
    {
        if (order == RotationOrder.Quaternion)
        {
            var q = Quaternion.From(rotation, new(near[0], near[1], near[2], near[3]));
            return [q.X, q.Y, q.Z, q.W];
        }
        var angles = Euler.From(rotation, order, new(near[0], near[1], near[2]));
        return [angles.X, angles.Y, angles.Z];
    }

    /// <summary>
    /// The node with angles for the order that it has now. Where a rotation is keyed, all three get keys on every frame on which one of
    /// them had one, and the object stands on these as it did; between them it takes the way of the new order.
    /// </summary>
    /// <param name="node">With its new order and its old angles.</param>
    /// <param name="from">The order that the angles are for.</param>
    internal static Node Convert(Node node, RotationOrder from)
    {
        if (!Enum.IsDefined(node.RotationOrder))
        {
            throw new Refusal($"The rotation order of “{node.Name}” is not known: use one of {string.Join(", ", Enum.GetNames<RotationOrder>()).ToLowerInvariant()}.");
        }
        var channels = node.Channels ?? ImmutableSortedDictionary<string, Channel>.Empty;
        foreach (var layer in channels.Keys.Select(p => new ChannelAddress(node.Id, p).Layer).Distinct().ToList())
        {
            // What a layer adds, or puts in the place of the rest, is a rotation of its own.
            string In(string path) => new ChannelAddress(node.Id, path).In(layer).Path;
            var own = channels.Where(c => new ChannelAddress(node.Id, c.Key).Layer == layer).ToList();
            var made = Convert(node, from, own.ToImmutableSortedDictionary(c => new ChannelAddress(node.Id, c.Key).Base.Path, c => c.Value));
            channels = channels.RemoveRange(own.Select(c => c.Key)).AddRange(made.Select(c => KeyValuePair.Create(In(c.Key), c.Value)));
        }
        return channels.Count > 0 ? node with { Channels = channels } : node;
    }

    private static ImmutableSortedDictionary<string, Channel> Convert(Node node, RotationOrder from, ImmutableSortedDictionary<string, Channel> channels)
    {
        var (before, after) = (Paths(from), Paths(node.RotationOrder));
        var isMode = before != after;
        Channel Old(string path) => channels.GetValueOrDefault(path) ?? new Channel(path == Components[3] ? 1 : 0);
        var old = before.Select(Old).ToArray();
        var rest = isMode ? channels.RemoveRange(before) : channels;
        var curves = old.Select(c => c.Curve).OfType<Curve>().ToList();
        if (curves.Count == 0 && !before.Any(channels.ContainsKey))
        {
            return channels;
        }
        // On a key, between keys and beyond them: what the object does with its old numbers.
        var owner = new CompiledOwner(node.Id, ChannelCatalog.For(node with { RotationOrder = from }), channels, null, node, []);
        Span<double> values = stackalloc double[CompiledNode.MostPlaceChannels];
        double[] At(double frame, double[]? near, Span<double> values)
        {
            owner.Evaluate(frame, values[..owner.List.PlaceChannels]);
            var now = values.Slice(CompiledOwner.FirstOfRotation, before.Length);
            return From(ToAffine(from, now), node.RotationOrder, near ?? (isMode ? [0, 0, 0, 1] : now.ToArray()));
        }
        if (curves.Count == 0)
        {
            return rest.SetItems(At(0, null, values).Zip(after, (v, p) => KeyValuePair.Create(p, new Channel(v))));
        }
        var frames = new List<double>();
        foreach (var frame in curves.SelectMany(c => c.Keys).Select(k => k.Frame).Order())
        {
            if (frames.Count == 0 || frame - frames[^1] >= Curve.LeastGap)
            {
                frames.Add(frame);
            }
        }
        var keys = after.Select(_ => ImmutableArray.CreateBuilder<Key>(frames.Count)).ToArray();
        double[]? near = null;
        foreach (var frame in frames)
        {
            near = At(frame, near, values);
            var like = curves.Select(c => c.KeyAt(frame)).OfType<Key>().First();
            for (var i = 0; i < near.Length; i++)
            {
                keys[i].Add(new Key(frame, near[i], like.Segment));
            }
        }
        return rest.SetItems(keys.Zip(after, (k, p) =>
            KeyValuePair.Create(p, new Channel(k[^1].Value, new Curve(k.MoveToImmutable(), curves[0].Before, curves[0].After)))));
    }
}
