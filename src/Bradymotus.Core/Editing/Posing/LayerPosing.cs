using Bradymotus.Core.Curves;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>What was asked for, and the numbers of a layer that it comes of; a rotation is asked for and given whole.</summary>
internal sealed record LayeredValues(IReadOnlyList<ChannelValue> Asked, IReadOnlyList<ChannelValue> Own);

/// <summary>From the values that shall be seen to those that a layer, or the channel below all layers, has to have for it.</summary>
internal static class LayerPosing
{
    private const double Tolerance = 1e-9;

    /// <param name="values">By the addresses of channels below all layers: what shall come of all layers together.</param>
    /// <param name="layer">The layer that is to be changed; null is what lies below all of them.</param>
    /// <exception cref="Refusal">The layer has no say on the frame, or another above it hides it.</exception>
    internal static List<LayeredValues> Solve(Shot shot, IReadOnlyList<ChannelValue> values, double frame, string? layer)
    {
        if (layer is not null && shot.FindLayer(layer) is null)
        {
            layer = null;
        }
        if (shot.Layers.IsEmpty)
        {
            return [.. values.Select(v => new LayeredValues([v], [v]))];
        }
        var solver = new Solver(shot, frame, layer);
        var solved = new List<LayeredValues>();
        foreach (var owner in values.GroupBy(v => v.Address.Owner))
        {
            if (shot.FindLayer(owner.Key) is not null)
            {
                // A weight is in no layer.
                solved.AddRange(owner.Select(v => new LayeredValues([v], [v])));
                continue;
            }
            var node = shot.FindNode(owner.Key);
            var paths = node is null ? [] : RotationOrders.Paths(node.RotationOrder);
            var asked = owner.Where(v => paths.Contains(v.Address.Path)).ToList();
            var isTurn = asked.Count > 0 && solver.IsTurned(node!, paths);
            solved.AddRange(owner.Where(v => !isTurn || !paths.Contains(v.Address.Path)).Select(solver.One));
            if (isTurn)
            {
                solved.Add(solver.Turn(node!, paths, asked));
            }
        }
        return solved;
    }

    private sealed class Solver
    {
        private readonly Shot _shot;
        private readonly double _frame;
        private readonly string? _layer;
        private readonly List<(string Id, double Weight, bool IsOverride)> _below = [], _above = [];
        private readonly (string Id, double Weight, bool IsOverride) _own;

        internal Solver(Shot shot, double frame, string? layer)
        {
            (_shot, _frame, _layer) = (shot, frame, layer);
            var isAbove = layer is null;
            foreach (var active in CompiledLayer.Of(shot.Layers, []))
            {
                var entry = (active.Layer.Id, active.WeightAt(frame), active.IsOverride);
                if (active.Layer.Id == layer)
                {
                    (_own, isAbove) = (entry, true);
                }
                else
                {
                    (isAbove ? _above : _below).Add(entry);
                }
            }
        }

        /// <summary>Something is to be posed in the layer. Weights can be set whatever the layer has itself.</summary>
        private void NeedsWeight()
        {
            if (_layer is null || _own.Weight > 0)
            {
                return;
            }
            var name = _shot.Layer(_layer).Name;
            throw new Refusal(_own.Id is null
                ? $"The layer “{name}” is not active, so nothing can be posed in it: take away its mute, or the solo of others, or choose another layer."
                : $"The layer “{name}” has no weight on frame {CurveRules.Number(_frame)}, so nothing can be posed in it: raise its weight, or choose another layer.");
        }

        private bool IsSet(ChannelAddress address, string layer) => _shot.SetChannels(address.Owner)?.ContainsKey(address.In(layer).Path) == true;

        private double At(ChannelAddress address, string layer) => _shot.Channel(address.In(layer)).Evaluate(_frame);

        /// <summary>Whether the numbers of a rotation have to be worked out together.</summary>
        internal bool IsTurned(Node node, string[] paths) => node.RotationOrder == RotationOrder.Quaternion
            || (_layer is not null && !_own.IsOverride)
            || _below.Concat(_above).Any(l => !l.IsOverride && paths.Any(p => IsSet(new(node.Id, p), l.Id)));

        internal LayeredValues One(ChannelValue asked)
        {
            NeedsWeight();
            var address = asked.Address;
            var wanted = asked.Value;
            foreach (var (id, weight, isOverride) in Enumerable.Reverse(_above).Where(l => IsSet(address, l.Id)))
            {
                wanted = Layering.Below(wanted, At(address, id), weight, isOverride);
            }
            if (_layer is not null)
            {
                var below = _shot.Channel(address).Evaluate(_frame);
                foreach (var (id, weight, isOverride) in _below.Where(l => IsSet(address, l.Id)))
                {
                    below = Layering.Lay(below, At(address, id), weight, isOverride);
                }
                wanted = Layering.Own(wanted, below, _own.Weight, _own.IsOverride);
            }
            return new([asked], [new(address.In(_layer), Reached(address, wanted))]);
        }

        internal LayeredValues Turn(Node node, string[] paths, List<ChannelValue> asked)
        {
            NeedsWeight();
            var addresses = paths.Select(p => new ChannelAddress(node.Id, p)).ToArray();
            var wanted = addresses.Select(a => asked.Find(v => v.Address == a) is { Address.Owner: not null } v ? v.Value : CompiledShot.ValueOf(_shot, a, _frame)).ToArray();
            // A layer that has one number of a quaternion has them all.
            var isQuaternion = node.RotationOrder == RotationOrder.Quaternion;
            double[] Own(string id) => [.. addresses.Select(a => isQuaternion && !IsSet(a, id) ? Layer.Nothing(a.Path) : At(a, id))];
            foreach (var (id, weight, isOverride) in Enumerable.Reverse(_above).Where(l => l.Weight > 0 && addresses.Any(a => IsSet(a, l.Id))))
            {
                wanted = isQuaternion || Array.TrueForAll(addresses, a => !isOverride || IsSet(a, id)) ? Below(node.RotationOrder, wanted, Own(id), weight, isOverride)
                    : [.. wanted.Select((w, i) => IsSet(addresses[i], id) ? Layering.Below(w, At(addresses[i], id), weight, true) : w)];
            }
            double[]? under = null;
            if (_layer is not null)
            {
                var below = under = addresses.Select(a => _shot.Channel(a).Evaluate(_frame)).ToArray();
                var sum = new TurnSum(node.RotationOrder, below);
                foreach (var (id, weight, isOverride) in _below)
                {
                    var isSet = 0;
                    for (var i = 0; i < addresses.Length; i++)
                    {
                        isSet |= IsSet(addresses[i], id) ? 1 << i : 0;
                    }
                    if (isSet != 0)
                    {
                        sum.Lay(Own(id), isSet, weight, isOverride);
                    }
                }
                sum.Finish();
                wanted = Above(node.RotationOrder, wanted, below, Own(_layer));
            }
            var own = new List<ChannelValue>();
            for (var i = 0; i < addresses.Length; i++)
            {
                var at = addresses[i].In(_layer);
                // What takes no place yet is as what lies below it.
                var now = _own.IsOverride && !IsSet(addresses[i], _layer!) ? under![i] : _shot.Channel(at).Evaluate(_frame);
                var value = Reached(addresses[i], wanted[i]);
                // A quaternion is keyed whole.
                if (addresses.Length == 4 || Math.Abs(value - now) > 1e-6 || asked.Exists(v => v.Address == addresses[i]))
                {
                    own.Add(new(at, Math.Abs(value - now) > Tolerance * Math.Max(1, Math.Abs(now)) ? value : now));
                }
            }
            if (_above.Exists(l => l.IsOverride && addresses.Any(a => IsSet(a, l.Id))))
            {
                // One that takes the place by a part goes by angles, and the same rotation may come with others.
                var made = own.Aggregate(_shot, (s, v) => s.With(v.Address, new Channel(v.Value)));
                _ = addresses.All(a => asked.Find(v => v.Address == a) is not { Address.Owner: not null } v || Math.Abs(CompiledShot.ValueOf(made, a, _frame) - v.Value) < 1e-4)
                    ? 0 : Reached(addresses[0], double.NaN);
            }
            return new(asked, own);
        }

        /// <summary>The rotation below one that this comes of.</summary>
        private double[] Below(RotationOrder order, double[] wanted, double[] own, double weight, bool isOverride)
        {
            if (order == RotationOrder.Quaternion)
            {
                var (q, x) = (Of(wanted), Of(own));
                return Of(isOverride
                    ? (weight < 1 ? Beyond(x, q, 1 / (1 - weight)) : new(double.NaN, 0, 0, 0))
                    : q * Quaternion.Slerp(Quaternion.Identity, x, weight).Conjugate);
            }
            if (isOverride)
            {
                return [.. wanted.Select((w, i) => Layering.Below(w, own[i], weight, true))];
            }
            var by = new Double3(weight * own[0], weight * own[1], weight * own[2]);
            if (IsOneAxis(wanted, [by.X, by.Y, by.Z]))
            {
                return [wanted[0] - by.X, wanted[1] - by.Y, wanted[2] - by.Z];
            }
            Affine.Rotation(by, order).TryInvert(out var back);
            var angles = Euler.From(Affine.Rotation(new(wanted[0], wanted[1], wanted[2]), order) * back, order, new Double3(wanted[0], wanted[1], wanted[2]) - by);
            return [angles.X, angles.Y, angles.Z];
        }

        /// <summary>What this layer has to have on top of a rotation.</summary>
        /// <param name="now">What it has, which the new angles shall be nearest to.</param>
        private double[] Above(RotationOrder order, double[] wanted, double[] below, double[] now)
        {
            var weight = _own.Weight;
            if (order == RotationOrder.Quaternion)
            {
                var (q, b) = (Of(wanted), Of(below).Normalized());
                return Of(_own.IsOverride ? Beyond(b, q, 1 / weight) : Beyond(Quaternion.Identity, b.Conjugate * q.Normalized(), 1 / weight));
            }
            if (_own.IsOverride)
            {
                return [.. wanted.Select((w, i) => Layering.Own(w, below[i], weight, true))];
            }
            if (IsOneAxis(wanted, below))
            {
                return [.. wanted.Select((w, i) => (w - below[i]) / weight)];
            }
            Affine.Rotation(new(below[0], below[1], below[2]), order).TryInvert(out var back);
            var by = back * Affine.Rotation(new(wanted[0], wanted[1], wanted[2]), order);
            double[] Near(double x, double y, double z) => Euler.From(by, order, new(x, y, z)) is var a ? [a.X / weight, a.Y / weight, a.Z / weight] : [];
            var nearest = Near(now[0] * weight, now[1] * weight, now[2] * weight);
            // The same rotation comes with several angles; an override above, and who reads them, would see others.
            return new[] { nearest, Near(wanted[0] - below[0], wanted[1] - below[1], wanted[2] - below[2]) }.FirstOrDefault(o => Comes(order, below, o, wanted)) ?? nearest;
        }

        /// <summary>Whether just these angles come of what lies below and what the layer has.</summary>
        private bool Comes(RotationOrder order, double[] below, double[] own, double[] wanted)
        {
            Span<double> values = [below[0], below[1], below[2]];
            var sum = new TurnSum(order, values);
            sum.Lay(own, 7, _own.Weight, false);
            sum.Finish();
            return Math.Abs(values[0] - wanted[0]) < 1e-3 && Math.Abs(values[1] - wanted[1]) < 1e-3 && Math.Abs(values[2] - wanted[2]) < 1e-3;
        }

        /// <summary>Further on the way from one rotation to another. Beyond half a turn a quaternion would come from the other side.</summary>
        private Quaternion Beyond(in Quaternion from, in Quaternion to, double t)
        {
            var cos = Math.Min(1, Math.Abs(Quaternion.Dot(from.Normalized(), to.Normalized())));
            return 2 * Math.Acos(cos) * t <= Math.PI + 1e-9 ? Quaternion.Slerp(from, to, t) : throw new Refusal(
                $"A quaternion turns half a turn at most, which is not enough on frame {CurveRules.Number(_frame)} with the weight that the layer has there: raise its weight, or choose another layer.");
        }

        private static bool IsOneAxis(double[] a, double[] b) => a.Where((v, i) => v == 0 && b[i] == 0).Count() >= 2;

        private static Quaternion Of(double[] v) => new(v[0], v[1], v[2], v[3]);

        private static double[] Of(Quaternion q) => [q.X, q.Y, q.Z, q.W];

        private double Reached(ChannelAddress address, double value) => Math.Abs(value) <= CurveRules.MostValue ? value : throw new Refusal(
            $"{Names.Of(_shot, address)} cannot be changed here: a layer above takes its place on frame {CurveRules.Number(_frame)}. Choose that layer, or mute it.");
    }
}
