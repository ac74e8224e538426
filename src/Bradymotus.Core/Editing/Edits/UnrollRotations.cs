using Bradymotus.Core.Curves;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>
/// Gives every key of the rotations of nodes the angles that are nearest to those of the key before, with the same orientation: what
/// lies between two keys then takes the shorter way.
/// </summary>
/// <param name="Layer">The layer whose angles they are; null is the channels themselves.</param>
public sealed record UnrollRotations(IReadOnlyList<string> Nodes, string? Layer = null) : CurveEdit
{
    private static readonly string[] Paths = ["transform.rotate.x", "transform.rotate.y", "transform.rotate.z"];

    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var builder = new ShotBuilder(shot);
        foreach (var id in Nodes.Distinct())
        {
            cancel.ThrowIfCancellationRequested();
            Unroll(builder, shot, shot.Node(id), Layer);
        }
        return builder.ToShot();
    }

    /// <summary>Why the angles of a node cannot be unrolled; null where they can.</summary>
    internal static string? WhyNot(Shot shot, Node node, string? layer)
    {
        if (node.RotationOrder == RotationOrder.Quaternion)
        {
            return $"“{node.Name}” turns by a quaternion, which has no angles to unroll.";
        }
        if (layer is null)
        {
            return null;
        }
        // Other angles that give the same rotation give another one once they are weighed, or mixed with those below.
        var (name, weight) = (shot.Layer(layer).Name, shot.Channel(new(layer, Scene.Layer.Weight)));
        return weight.ActiveCurve is not null || weight.Value != 1
            ? $"The layer “{name}” does not count whole all the time, so other angles in it would be another rotation: set its weight to 1, without keys, first."
            : shot.Layer(layer).Mode == LayerMode.Override && Paths.Any(p => node.Channels?.ContainsKey(new ChannelAddress(node.Id, p).In(layer).Path) != true)
                ? $"The layer “{name}” does not have all three angles of “{node.Name}”, so other angles in it would be another rotation: key all three in it first."
            : null;
    }

    private static void Unroll(ShotBuilder builder, Shot shot, Node node, string? layer)
    {
        if (WhyNot(shot, node, layer) is { } why)
        {
            throw new Refusal(why);
        }
        ChannelAddress[] addresses = [.. Paths.Select(p => new ChannelAddress(node.Id, p).In(layer))];
        Curve?[] curves = [.. addresses.Select(a => shot.Channel(a).Curve)];
        var frames = curves.OfType<Curve>().SelectMany(c => c.Keys).Select(k => k.Frame).Order().Distinct().ToList();
        if (frames.Count == 0)
        {
            throw new Refusal($"The rotation of “{node.Name}” has no keys to unroll{(layer is null ? "" : $" in the layer “{shot.Layer(layer).Name}”")}: key it first.");
        }
        Double3 At(double frame)
        {
            double Of(int i) => shot.Channel(addresses[i]).Evaluate(frame);
            return new(Of(0), Of(1), Of(2));
        }
        var near = At(frames[0]);
        var values = new double[3][];
        for (var i = 0; i < 3; i++)
        {
            values[i] = new double[frames.Count];
        }
        for (var f = 0; f < frames.Count; f++)
        {
            near = Euler.From(Affine.Rotation(At(frames[f]), node.RotationOrder), node.RotationOrder, near);
            (values[0][f], values[1][f], values[2][f]) = (near.X, near.Y, near.Z);
        }
        for (var i = 0; i < 3; i++)
        {
            // An axis without keys needs some only where its angle is not always the same.
            var isOther = values[i].Any(v => Math.Abs(v - values[i][0]) > 1e-9);
            var channel = builder.Channel(addresses[i]);
            var made = curves[i];
            if (made is not null)
            {
                var row = values[i];
                made = made.WithKeys([.. made.Keys.Select(k => k with { Value = Exact(k.Value, row[frames.BinarySearch(k.Frame)]) })]);
            }
            if (isOther)
            {
                for (var f = 0; f < frames.Count; f++)
                {
                    if (made?.KeyAt(frames[f]) is null)
                    {
                        made = CurveEdits.SetKey(made, frames[f], values[i][f]);
                    }
                }
            }
            if (made is not null && !made.Equals(curves[i]))
            {
                Unlocked(shot, addresses[i], channel);
                builder.Set(addresses[i], channel with { Curve = made });
            }
        }
    }

    /// <summary>What is the same but for rounding stays as it was typed; whole turns are taken off exactly.</summary>
    private static double Exact(double was, double now)
    {
        var turns = was + 360 * Math.Round((now - was) / 360);
        return Math.Abs(turns - now) < 1e-6 ? turns : now;
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Remove rotation flips of {(Nodes.Count == 1 ? before.FindNode(Nodes[0])?.Name : Plural(Nodes.Count, "object"))}";
}
