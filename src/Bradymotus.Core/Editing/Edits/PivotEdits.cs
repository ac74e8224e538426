using Bradymotus.Core.Curves;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>A new pivot of a node, in its own space.</summary>
public readonly record struct NewPivot(string Id, double X, double Y, double Z);

/// <summary>Puts a map between a node and what hangs directly below it, as when the node itself no longer turns or stretches that.</summary>
public sealed record KeepBelow(string Id, Affine Map) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => Map.IsWithin(CurveRules.MostValue)
        ? shot.WithAll(shot.Children(shot.Node(Id).Id).Select(child => child with { Offset = Map * (child.Offset ?? Affine.Identity) }))
        : throw new Refusal("What is below cannot be kept: the map to keep it by holds numbers that are none, or too large.");

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Keep what is below {before.FindNode(Id)?.Name}";
}

/// <summary>
/// Moves the pivots of nodes while they stay where they are on a frame: the position, with all its keys, is shifted by what the pivot takes. Where
/// rotation and scale are not keyed they stay on every frame; else they turn about the new pivot from this frame on and before it.
/// </summary>
/// <param name="Frame">The frame on which the place is kept.</param>
public sealed record MovePivots(IReadOnlyList<NewPivot> Pivots, double Frame) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(Frame);
        var builder = new ShotBuilder(shot);
        foreach (var pivot in Pivots.DistinctBy(p => p.Id))
        {
            var node = shot.Node(pivot.Id);
            double Now(string path) => CompiledShot.ValueOf(shot, new(node.Id, path), Frame);
            Double3 Three(string path) => new(Now(path + ".x"), Now(path + ".y"), Now(path + ".z"));
            if ("xyz".Any(c => shot.Channel(new(node.Id, $"transform.pivot.{c}")).Curve is not null))
            {
                throw new Refusal($"The pivot of “{node.Name}” is keyed: remove its keys first.");
            }
            var (old, to) = (Three("transform.pivot"), new Double3(pivot.X, pivot.Y, pivot.Z));
            // T + P + L·(x − P) stays when the pivot goes from P to Q and T is shifted by P − Q + L·(Q − P).
            var local = CompiledShot.LocalOf(shot, node, Frame);
            var shift = old - to + local.Vector(to - old);
            // Below layers, what all of them together shall be is something else.
            double Below(string path, double value) => LayerPosing.Solve(shot, [new(new(node.Id, path), value)], Frame, null)[0].Own[0].Value;
            foreach (var (axis, move, value) in new[] { ("x", shift.X, to.X), ("y", shift.Y, to.Y), ("z", shift.Z, to.Z) })
            {
                builder.Set(new(node.Id, $"transform.pivot.{axis}"), builder.Channel(new(node.Id, $"transform.pivot.{axis}")) with { Value = Below($"transform.pivot.{axis}", value) });
                var address = new ChannelAddress(node.Id, $"transform.translate.{axis}");
                var place = shot.Channel(address);
                var by = move == 0 ? 0 : shot.Layers.IsEmpty ? move : Below(address.Path, Now(address.Path) + move) - place.Evaluate(Frame);
                if (by != 0)
                {
                    builder.Set(address, place with { Value = place.Value + by, Curve = place.Curve?.WithKeys([.. place.Curve.Keys.Select(k => k with { Value = k.Value + by })]) });
                }
            }
        }
        return builder.ToShot();
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => Pivots.Count == 1 ? $"Move the pivot of {before.FindNode(Pivots[0].Id)?.Name}" : $"Move {Pivots.Count} pivots";
}
