using System.Collections.Immutable;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>From the angles of one rotation order to those of another.</summary>
internal static class RotationOrders
{
    private static readonly string[] Paths = ["transform.rotate.x", "transform.rotate.y", "transform.rotate.z"];

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
        var old = Paths.Select(p => channels.GetValueOrDefault(p) ?? new Channel(0)).ToArray();
        Double3 At(double frame, Double3 near) => Euler.From(
            Affine.Rotation(new(old[0].Evaluate(frame), old[1].Evaluate(frame), old[2].Evaluate(frame)), from), node.RotationOrder, near);

        var curves = old.Select(c => c.Curve).OfType<Curve>().ToList();
        if (curves.Count == 0)
        {
            if (old.All(c => c.Value == 0))
            {
                return node;
            }
            var angles = At(0, new(old[0].Value, old[1].Value, old[2].Value));
            return node with { Channels = channels.SetItems(Three(angles).Zip(Paths, (v, p) => KeyValuePair.Create(p, new Channel(v)))) };
        }
        var frames = new List<double>();
        foreach (var frame in curves.SelectMany(c => c.Keys).Select(k => k.Frame).Order())
        {
            if (frames.Count == 0 || frame - frames[^1] >= Curve.LeastGap)
            {
                frames.Add(frame);
            }
        }
        var keys = Paths.Select(_ => ImmutableArray.CreateBuilder<Key>(frames.Count)).ToArray();
        var near = new Double3(old[0].Evaluate(frames[0]), old[1].Evaluate(frames[0]), old[2].Evaluate(frames[0]));
        foreach (var frame in frames)
        {
            near = At(frame, near);
            var like = curves.Select(c => c.KeyAt(frame)).OfType<Key>().First();
            for (var i = 0; i < 3; i++)
            {
                keys[i].Add(new Key(frame, Three(near)[i], like.Segment));
            }
        }
        return node with
        {
            Channels = channels.SetItems(keys.Zip(Paths, (k, p) =>
                KeyValuePair.Create(p, new Channel(k[^1].Value, new Curve(k.MoveToImmutable(), curves[0].Before, curves[0].After))))),
        };
    }

    private static double[] Three(Double3 v) => [v.X, v.Y, v.Z];
}
